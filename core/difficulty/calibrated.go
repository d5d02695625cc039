package difficulty

// Calibrated is a placeholder until cmd/calibrate writes it.
var Calibrated = Model{Name: "none", Weights: Weights{Page: 0.2, Site: 0.36, Fit: 0.44}, Tau: 5.9,
	Steps: []Step{{1, 5}, {20, -32}}}
