package main

import (
	"context"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"
	"time"

	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// listed is a table of so many phrases with twelve months each, and how many columns there are.
func listed(rows int) string {
	rng := random()
	words := strings.Fields("moon star map chart lens filter mount scope tripod case guide best cheap red green blue " +
		"small " +
		"large night sky kit eye ring orbit dome field focus tube mirror stand light box cover clip bolt rail gear")
	var b strings.Builder
	b.WriteString("Keyword,Avg. monthly searches,Competition,CPC (USD)")
	for m := range 12 {
		fmt.Fprintf(&b, ",Searches: 2025-%02d", m+1)
	}
	b.WriteByte('\n')
	for i := range rows {
		n := 10 + rng.IntN(5000)
		for range 4 {
			b.WriteString(words[rng.IntN(len(words))] + " ")
		}
		fmt.Fprintf(&b, "%d,%d,LOW,%.2f", i, n, rng.Float64()*3)
		for range 12 {
			fmt.Fprintf(&b, ",%d", n/2+rng.IntN(n))
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// importing takes a table of so many phrases in, from the file to the last idea, in a data file of its own each time.
func importing(rows int) func() {
	list := listed(rows)
	return func() {
		dir, err := os.MkdirTemp("", "bench")
		must(err)
		defer os.RemoveAll(dir)
		st, err := store.Open(filepath.Join(dir, "d.db"), time.Now)
		must(err)
		defer st.Close()
		s := study.New(st, ask.Market{}, study.Options{})
		defer s.Close()
		ctx := context.Background()
		n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
		must(err)
		u, err := s.Imports.Receive(ctx, n, "list", "list.csv", strings.NewReader(list))
		must(err)
		job, err := s.Imports.Confirm(ctx, n, u.Token)
		must(err)
		must(s.Jobs.Wait(ctx, job.ID))
		if found, err := s.Ideas.Undemanded(ctx, n.ID); err != nil || found != 0 {
			log.Fatalf("%d ideas are without searches, %v", found, err)
		}
	}
}

func must(err error) {
	if err != nil {
		log.Fatal(err)
	}
}

// sqliteImport is the sqlite3 shell's .import of the same table into one with the same indexes.
func sqliteImport(rows int) func(dir string) (string, []string, []byte) {
	return func(dir string) (string, []string, []byte) {
		path := filepath.Join(dir, "list.csv")
		must(os.WriteFile(path, []byte(listed(rows)), 0o600))
		columns := "phrase, searches, competition, cpc"
		for m := range 12 {
			columns += fmt.Sprintf(", m%d", m+1)
		}
		return "sqlite3", []string{filepath.Join(dir, "list.db")}, []byte("PRAGMA journal_mode = wal;\n" +
			"CREATE TABLE ideas (" + columns + ");\n" +
			"CREATE UNIQUE INDEX a ON ideas (phrase); CREATE INDEX b ON ideas (searches);\n" +
			".mode csv\n.import --skip 1 " + path + " ideas\n")
	}
}
