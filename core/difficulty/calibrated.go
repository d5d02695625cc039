package difficulty

// WellMade is the fit of a well-made page: the middle of those that were made with care.
const WellMade = 96.0

// Calibrated is provisional.
var Calibrated = Model{Name: "provisional", Gain: 0.5, Curve: 0.5, WellMade: WellMade, Made: Made{97, 90, 100},
	Unlinked: 0.25, Offset: 0.2, Temper: 0.35, TenShow: 0.67,
	Deep: Form{Slope: 2.05, Front: 0.5, All: 1.6, Spread: 0.5, Steps: []Step{{1, 3.1}, {2, 2.2}, {3, 1.6}, {5, 0.8}, {7,
		0.3},
		{10, -0.3}, {15, -1.1}, {20, -1.7}}},
	Shallow: Form{Slope: 2.0, Front: 1.9, Spread: 0.7, Steps: []Step{{1, 3.1}, {2, 2.2}, {3, 1.6}, {5, 0.8}, {7, 0.3},
		{10, -0.3}, {15, -1.1}, {20, -1.7}}},
	Prior: Leaning{Mean: [Traits]float64{1.19, 2.94, 1.59, 4.16, 1.09}, Cov: [Traits][Traits]float64{{.19}, {0, .69},
		{0, 0, .18}, {0, 0, 0, .49}, {0, 0, 0, 0, .08}}}}.Unlearnt()
