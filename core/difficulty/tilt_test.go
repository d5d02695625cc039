package difficulty

import (
	"math"
	"testing"
)

// TestTilted: an engine tilted to content lets a page of a weak site with good text further up, one tilted to
// links less far; 0 changes nothing, and the model stays one that can be reckoned with.
func TestTilted(t *testing.T) {
	m := Calibrated.Unlearnt()
	f := Field{}
	for range 10 {
		f.Rivals = append(f.Rivals, Signals{Page: 40, Site: 60, Title: 50, Text: 50, Kind: 80})
	}
	mine := Mine{SiteStanding: 5, Fit: 95}
	as := m.Judge(f, mine).PageOne.Mean
	content, links := m.Tilted(1).Judge(f, mine).PageOne.Mean, m.Tilted(-1).Judge(f, mine).PageOne.Mean
	if !(links < as && as < content) || m.Tilted(0).Judge(f, mine).PageOne != m.Judge(f, mine).PageOne {
		t.Errorf("%v, %v, %v", links, as, content)
	}
	for _, by := range []float64{-9, 9, math.NaN()} {
		if x := m.Tilted(by); !x.Leans.Sound() || x.Draws() != m.Draws() {
			t.Errorf("tilted by %v it is no model", by)
		}
	}
}
