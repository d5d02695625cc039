package main

import (
	"context"
	"hash/fnv"
	"net/http/httptest"
	"testing"

	"cleverniche/core/phrase"
	"cleverniche/core/topic"
	"cleverniche/market"
	"cleverniche/standin"
)

// topicsFloor is what grouping has to reach with the default.
const topicsFloor = 0.9

// TestTopicsAgainstTheTruth groups the phrases of a world that nothing was tuned on by
// their results, and compares with the hidden needs: all wordings of some needs.
func TestTopicsAgainstTheTruth(t *testing.T) {
	s := httptest.NewServer(unseen().Handler(standin.Options{}))
	defer s.Close()
	client := market.NewResultsService(market.Source{Name: "results", Base: s.URL + "/search"}, "lantern")
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
		idea := topic.Idea{Phrase: q.Text, Searches: q.Searches, Variant: phrase.VariantKey(q.Text, "en")}
		var titles []string
		for _, o := range page.Organic {
			idea.Results = append(idea.Results, hashed(o.URL))
			titles = append(titles, o.Title)
		}
		for _, s := range phrase.ContentStems(phrase.AsRead(q.Text, titles, "en"), "en") {
			idea.Stems = append(idea.Stems, hashed(s))
		}
		for _, s := range phrase.Said(titles, "en") {
			idea.Said = append(idea.Said, hashed(s))
		}
		ideas, needs = append(ideas, idea), append(needs, q.Need)
	}
	for shared := topic.FewestShared; shared <= topic.MostShared; shared++ {
		found := make([]int, len(ideas))
		topics := topic.Group(ideas, shared)
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

func hashed(s string) uint32 {
	h := fnv.New32a()
	h.Write([]byte(s))
	return h.Sum32()
}
