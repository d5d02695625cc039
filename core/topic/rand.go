package topic

// AdjustedRand compares two groupings of the same things, given as the group of each:
// 1 for the same grouping, about 0 for one by chance (Hubert & Arabie 1985,
// "Comparing partitions"). Two groupings with everything apart, or everything
// together, are the same. The lists must be equally long.
func AdjustedRand(a, b []int) float64 {
	type cell struct{ a, b int }
	both, rows, columns := map[cell]float64{}, map[int]float64{}, map[int]float64{}
	for i := range a {
		both[cell{a[i], b[i]}]++
		rows[a[i]]++
		columns[b[i]]++
	}
	pairs := func(n float64) float64 { return n * (n - 1) / 2 }
	var index, inRows, inColumns float64
	for _, n := range both {
		index += pairs(n)
	}
	for _, n := range rows {
		inRows += pairs(n)
	}
	for _, n := range columns {
		inColumns += pairs(n)
	}
	all := pairs(float64(len(a)))
	if all == 0 {
		return 1
	}
	expected, most := inRows*inColumns/all, (inRows+inColumns)/2
	if most == expected {
		return 1
	}
	return (index - expected) / (most - expected)
}
