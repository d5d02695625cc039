package difficulty

// UsualPage is the standing that a page usually has whose site has some standing, where nobody knows who links to it:
// forecasts by it are nearly as good as by what is known (docs/unlinked.md).
func UsualPage(site float64) float64 {
	var sites, pages []float64
	for _, u := range usualPage {
		sites, pages = append(sites, u.site), append(pages, u.page)
	}
	return Between(sites, pages, site)
}

// Between draws straight lines between points, x rising, and reads them at one; beyond the ends the end's value holds.
func Between(x, y []float64, at float64) float64 {
	for i := 1; i < len(x); i++ {
		if at <= x[i] {
			share := (max(at, x[i-1]) - x[i-1]) / (x[i] - x[i-1])
			return y[i-1] + share*(y[i]-y[i-1])
		}
	}
	if len(y) == 0 {
		return 0
	}
	return y[len(y)-1]
}
