package main

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/stat"
)

// forecast is a chance that was given, and whether it came true.
type forecast struct {
	chance float64
	came   bool
}

// auc is the area under the receiver operating characteristic: the chance that one
// that came true had the higher forecast than one that did not (Hanley & McNeil
// 1982). NaN when all came out alike.
func auc(list []forecast) float64 {
	values := make([]float64, len(list))
	for i, f := range list {
		values[i] = f.chance
	}
	r := ranks(values)
	sum, yes := 0.0, 0.0
	for i, f := range list {
		if f.came {
			sum += r[i]
			yes++
		}
	}
	no := float64(len(list)) - yes
	if yes == 0 || no == 0 {
		return math.NaN()
	}
	return (sum - yes*(yes+1)/2) / (yes * no)
}

// ranks are 1 for the smallest; ties share their mean.
func ranks(values []float64) []float64 {
	order := make([]int, len(values))
	for i := range order {
		order[i] = i
	}
	sort.Slice(order, func(i, j int) bool { return values[order[i]] < values[order[j]] })
	out := make([]float64, len(values))
	for i := 0; i < len(order); {
		j := i
		for j < len(order) && values[order[j]] == values[order[i]] {
			j++
		}
		for k := i; k < j; k++ {
			out[order[k]] = float64(i+j+1) / 2
		}
		i = j
	}
	return out
}

// bins is into how many of equal width forecasts are put for calibrationError.
const bins = 10

// calibrationError is the expected calibration error: the mean distance, over bins,
// between what was forecast and what came (Naeini, Cooper & Hauskrecht 2015).
func calibrationError(list []forecast) float64 {
	sum := 0.0
	for _, b := range reliability(list) {
		sum += float64(b.n) / float64(len(list)) * math.Abs(b.forecast-b.came)
	}
	return sum
}

// bin is the forecasts of one range: how many, their mean, and the share that came.
type bin struct {
	n              int
	forecast, came float64
}

func reliability(list []forecast) []bin {
	out := make([]bin, bins)
	for _, f := range list {
		b := &out[min(bins-1, int(f.chance*bins))]
		b.n++
		b.forecast += f.chance
		if f.came {
			b.came++
		}
	}
	for i := range out {
		if n := float64(out[i].n); n > 0 {
			out[i].forecast /= n
			out[i].came /= n
		}
	}
	return slices.DeleteFunc(out, func(b bin) bool { return b.n == 0 })
}

// logLoss is the mean negative log-likelihood of what came.
func logLoss(list []forecast) float64 {
	sum := 0.0
	for _, f := range list {
		c := math.Min(math.Max(f.chance, 1e-9), 1-1e-9)
		if !f.came {
			c = 1 - c
		}
		sum -= math.Log(c) / float64(len(list))
	}
	return sum
}

// brier is the mean squared error of the chances (Brier 1950).
func brier(list []forecast) float64 {
	sum := 0.0
	for _, f := range list {
		e := f.chance
		if f.came {
			e--
		}
		sum += e * e / float64(len(list))
	}
	return sum
}

// spearman is the rank correlation.
func spearman(x, y []float64) float64 { return stat.Correlation(ranks(x), ranks(y), nil) }
