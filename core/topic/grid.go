package topic

import (
	"cmp"
	"slices"
)

// Grid is ideas against the pages that stand for them: why they are one article, or two.
type Grid struct {
	Pages []uint32 // the columns
	// Places has a row for each idea: where each page stands for it, from 1; 0 where it does not.
	Places [][]int
}

// GridOf lays ideas out, which come in blocks, a topic each. The pages come in blocks as well: each
// with the first block that has most of it, there by how many ideas they stand for and how high.
// At most so many pages are shown: those that stand for most ideas. Ideas without results have
// empty rows.
func GridOf(blocks [][]Idea, most int) Grid {
	type column struct {
		page         uint32
		ideas, block int
		places       float64 // sum within the block
		inBlock      int
	}
	count := map[uint32][]int{} // by page, by block
	places := map[uint32][]float64{}
	var pages []uint32
	for b, block := range blocks {
		for _, idea := range block {
			for k, page := range idea.Results {
				if slices.Contains(idea.Results[:k], page) {
					continue
				}
				if count[page] == nil {
					count[page], places[page] = make([]int, len(blocks)), make([]float64, len(blocks))
					pages = append(pages, page)
				}
				count[page][b]++
				places[page][b] += float64(k)
			}
		}
	}
	columns := make([]column, len(pages))
	for i, page := range pages {
		c := column{page: page}
		for b, n := range count[page] {
			c.ideas += n
			if n > c.inBlock {
				c.block, c.inBlock = b, n
			}
		}
		c.places = places[page][c.block] / float64(c.inBlock)
		columns[i] = c
	}
	slices.SortStableFunc(columns, func(a, b column) int {
		return cmp.Or(cmp.Compare(b.ideas, a.ideas), cmp.Compare(a.block, b.block), cmp.Compare(a.places, b.places))
	})
	columns = columns[:min(most, len(columns))]
	slices.SortStableFunc(columns, func(a, b column) int {
		return cmp.Or(cmp.Compare(a.block, b.block), cmp.Compare(b.inBlock, a.inBlock), cmp.Compare(a.places, b.places))
	})
	var g Grid
	at := map[uint32]int{}
	for i, c := range columns {
		g.Pages = append(g.Pages, c.page)
		at[c.page] = i
	}
	for _, block := range blocks {
		for _, idea := range block {
			row := make([]int, len(g.Pages))
			for k, page := range idea.Results {
				if i, shown := at[page]; shown && row[i] == 0 {
					row[i] = k + 1
				}
			}
			g.Places = append(g.Places, row)
		}
	}
	return g
}
