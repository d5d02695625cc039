package jobs_test

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"cleverniche/core/links"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// TestAMistakeOfOursEndsItsItemAlone, with its stack in the log; an item in whose middle the program ended twice is
// left out; and one that was cancelled does not go on.
func TestAMistakeOfOursEndsItsItemAlone(t *testing.T) {
	st, err := store.Open(filepath.Join(t.TempDir(), "d.db"), time.Now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	keeper := niches.New(st, links.NewSuffixes())
	n, err := keeper.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	var log bytes.Buffer
	r := jobs.New(st, keeper, jobs.Options{Currency: "USD", Log: slog.New(slog.NewTextHandler(&log, nil)),
		Forward: time.Now})
	r.Add(jobs.Kind{Name: "test", Workers: 1,
		Do: func(ctx context.Context, _ niches.Niche, payload string) (int, error) {
			switch payload {
			case "panics":
				panic("a mistake of ours")
			}
			return 1, ctx.Err()
		}})
	j, err := r.Start(ctx, n, "test", "Three", []string{"a", "panics", "b", "deadly"})
	if err != nil {
		t.Fatal(err)
	}
	if err := r.Wait(ctx, j.ID); err != nil {
		t.Fatal(err)
	}
	v, err := r.Get(ctx, n.ID, j.ID)
	if err != nil || v.Failed != 1 || v.Done != 3 || !strings.Contains(v.Failures[0].Error, "a mistake in this program") {
		t.Fatalf("%+v, %v", v, err)
	}
	r.Close()
	if !strings.Contains(log.String(), "panics_test.go") {
		t.Errorf("the log says %s", log.String())
	}
	row := store.Job{NicheID: n.ID, Kind: "test", Title: "Dead", State: store.Running, Params: "{}"}
	if err := st.CreateJob(ctx, &row, []string{"deadly", "other"}); err != nil {
		t.Fatal(err)
	}
	items, _ := st.OpenItems(ctx, row.ID)
	for range 2 { // two programs ended while they did it
		if err := st.BeginItem(ctx, items[0]); err != nil {
			t.Fatal(err)
		}
	}
	r = jobs.New(st, keeper, jobs.Options{Currency: "USD", Log: slog.New(slog.DiscardHandler), Forward: time.Now})
	defer r.Close()
	done := 0
	r.Add(jobs.Kind{Name: "test", Workers: 1, Do: func(context.Context, niches.Niche, string) (int, error) {
		done++
		return 1, nil
	}})
	if err := r.Wait(ctx, row.ID); err != nil {
		t.Fatal(err)
	}
	v, err = r.Get(ctx, n.ID, row.ID)
	if err != nil || v.Failed != 1 || v.Done != 1 || done != 1 ||
		!strings.Contains(v.Failures[0].Error, "stopped 2 times") {
		t.Errorf("%+v, done %d, %v", v, done, err)
	}
	if err := r.Resume(ctx, n.ID, row.ID); err != nil { // the user's word
		t.Fatal(err)
	}
	if err := r.Wait(ctx, row.ID); err != nil {
		t.Fatal(err)
	}
	if v, _ = r.Get(ctx, n.ID, row.ID); v.Failed != 0 || done != 2 {
		t.Errorf("tried again: %+v, done %d", v, done)
	}
	over, err := r.Start(ctx, n, "test", "Over", []string{"x"})
	if err == nil {
		err = errors.Join(r.Wait(ctx, over.ID), st.SetJob(ctx, over.ID, store.Cancelled, ""))
	}
	if err != nil {
		t.Fatal(err)
	}
	var wrong *input.Error
	if err := r.Resume(ctx, n.ID, over.ID); !errors.As(err, &wrong) {
		t.Errorf("a cancelled one goes on: %v", err)
	}
}
