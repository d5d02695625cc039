package list

import (
	"fmt"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/results"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
)

// Parts of the map that its table tells of: up to so much difficulty, and from so many
// searches a month on.
var (
	mapColumns = []float64{10, 20, 35, 50, 100}
	mapRows    = []float64{5000, 1000, 500, 100, 10, 0}
)

// mapCell is a part of the map: how many ideas are there, and the list of them; "" where no
// filter asks for them.
type mapCell struct{ Count, Href string }

// mapRow is the parts of so many searches.
type mapRow struct {
	Name  string
	Cells []mapCell
}

// mapView is the map, and the table for who cannot see it.
type mapView struct {
	Points  string // where its points come from
	Columns []string
	Rows    []mapRow
}

// mapOf is the map of what a sieve leaves.
func mapOf(r *frame.Request, b ideas.Table, asked filters.Asked) *mapView {
	by, stage, path := asked.By, asked.Stage, r.Path(asked.Stage.Path)
	v := &mapView{Points: r.Path("points?stage=" + stage.Path + "&" + asked.Query(by))}
	from := 0.0
	for _, to := range mapColumns {
		v.Columns = append(v.Columns, fmt.Sprintf("%g–%g", from, to))
		from = to + 1
	}
	v.Columns = append(v.Columns, "not looked up")
	most := 0.0
	for _, least := range mapRows {
		row := mapRow{Name: r.Speak().Count(int(least)) + " and more"}
		if most > 0 {
			row.Name = fmt.Sprintf("%s–%s", r.Speak().Count(int(least)), r.Speak().Count(int(most-1)))
		}
		band := by
		if least > 0 {
			band = band.With(sieve.At(sieve.ByLeastSearches, least))
		}
		if most > 0 {
			band = band.With(sieve.Filter{By: sieve.ByMostSearches, Number: most - 1})
		}
		from := 0.0
		for _, to := range mapColumns {
			part := band.With(sieve.Filter{By: sieve.ByMostDifficulty, Number: to})
			if from > 0 {
				part = part.With(sieve.At(sieve.ByLeastDifficulty, from))
			}
			row.Cells = append(row.Cells, mapCell{r.Speak().Count(b.Pass(part).Count),
				path + "?" + filters.Query(part, stage.First)})
			from = to + 1
		}
		row.Cells = append(row.Cells, mapCell{Count: r.Speak().Count(results.Top().Lacking(b.Pass(band)).Count)})
		v.Rows = append(v.Rows, row)
		most = least
	}
	return v
}

// points are those of the map, as JSON.
func points(r *frame.Request) error {
	by, _, b, err := filters.Sifting(r)
	if err != nil {
		return err
	}
	m, err := r.Study.Niches.Model(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	return r.JSON(r.Study.Ideas.Points(r.Context(), r.Niche, m, b, by))
}
