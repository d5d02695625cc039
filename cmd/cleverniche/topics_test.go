package main

import (
	"context"
	"net/http/httptest"
	"testing"

	"cleverniche/core/topic"
	"cleverniche/market"
	"cleverniche/standin"
)

// topicsFloor is what grouping has to reach with the default.
const topicsFloor = 0.9

// TestTopicsAgainstTheTruth groups the phrases of a world that nothing was tuned on by
// their results, and compares with the hidden needs: all wordings of some needs.
func TestTopicsAgainstTheTruth(t *testing.T) {
	onWorlds(t)
	s := httptest.NewServer(unseen().Handler(standin.Options{}))
	defer s.Close()
	client := market.NewResultsService(market.Source{Name: "results", Base: s.URL + "/search"}, "lantern")
	numbers := topic.Numbers{}
	var ideas []topic.Idea
	var needs []int
	for _, q := range unseen().Truth().Queries {
		if q.Need%37 != 5 {
			continue
		}
		page, err := client.Search(context.Background(), q.Text, market.Locale{Country: "US", Language: "en"}, 10)
		if err != nil {
			t.Fatal(err)
		}
		var urls, titles []string
		for _, o := range page.Organic {
			urls, titles = append(urls, o.URL), append(titles, o.Title)
		}
		ideas, needs = append(ideas, numbers.Found(q.Text, "en", q.Searches, urls, titles)), append(needs, q.Need)
	}
	for shared := topic.FewestShared; shared <= topic.MostShared; shared++ {
		found := make([]int, len(ideas))
		topics := topic.ByResults(ideas, shared)
		for i, one := range topics {
			for _, m := range one.Members {
				found[m.Idea] = i
			}
		}
		ari := topic.AdjustedRand(found, needs)
		t.Logf("%d shared pages: %d phrases in %d topics, adjusted Rand %.3f", shared, len(ideas), len(topics), ari)
		if shared == topic.Shared && ari < topicsFloor {
			t.Errorf("adjusted Rand %.3f", ari)
		}
	}
}
