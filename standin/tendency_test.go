package standin

import "testing"

// TestTendencies: the demo's world is middling; the others differ from it and from each
// other, and their draws reach both sides of the middle by a good deal.
func TestTendencies(t *testing.T) {
	if got := tendencyOf(middling); got != (tendency{1, 1, 1, 1, 1, 1, 1, 1}) {
		t.Errorf("world %d has %+v", middling, got)
	}
	least, most := tendencyOf(2), tendencyOf(2)
	for number := 3; number < 60; number++ {
		d := tendencyOf(number)
		least.links, most.links = min(least.links, d.links), max(most.links, d.links)
		least.height, most.height = min(least.height, d.height), max(most.height, d.height)
		least.big, most.big = min(least.big, d.big), max(most.big, d.big)
	}
	if least.links > 0.65 || most.links < 1.5 || least.height > 0.5 || most.height < 2 ||
		least.big > 0.65 || most.big < 1.5 {
		t.Errorf("of 58 worlds the draws go from %+v to %+v", least, most)
	}
	bent := tendency{links: 2, text: 0.5, answers: 1, kind: 1, fresh: 3, breadth: 1, big: 2, height: 1}
	if got := bent.of(taste{page: 10, site: 5, title: 8, fresh: 1}); got.page != 20 || got.site != 10 || got.title != 4 ||
		got.fresh != 3 {
		t.Errorf("a taste is bent to %+v", got)
	}
	if bent.many(publisher, 9) != 18 || bent.many(nicheSite, 9) != 9 || bent.many(publisher, 0) != 0 {
		t.Error("there are more big sites, and only of them")
	}
}
