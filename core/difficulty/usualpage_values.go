package difficulty

// Written by go run ./cmd/calibrate unlinked --write; see docs/unlinked.md.

// usualPage is what the pages of a site of some standing have in the mean, as they stand in results.
var usualPage = []struct{ site, page float64 }{
	{0, 0.9},
	{5, 5.6},
	{10, 10.6},
	{20, 14.5},
	{30, 18.4},
	{40, 23.7},
	{50, 32.2},
	{60, 43.1},
	{70, 57.6},
	{80, 65.4},
	{90, 73.4},
	{100, 81.0},
}
