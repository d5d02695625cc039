package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"sync"
	"time"

	"cleverniche/study"
)

// rehearsal is the demo's simulated web as far as it can be moved on: the clock of the data file goes with it. What was
// done is kept in the data file, and done again when the demo starts again, since the simulated web forgets.
type rehearsal struct {
	host string
	base func() time.Time // the real one
	mu   sync.Mutex
	log  rehearsed
	s    *study.Study
}

// rehearsed is what was done.
type rehearsed struct {
	Days  int             `json:"days"` // that the clock is ahead
	Pages []rehearsedPage `json:"pages"`
}

type rehearsedPage struct {
	Site   string `json:"site"`
	Phrase string `json:"phrase"`
	Date   string `json:"date"`
	URL    string `json:"url"`
}

// madeWell is how well the pages of a rehearsal are made, of 100.
const madeWell = 85

// rehearsalKey is under which it is kept.
const rehearsalKey = "rehearsal"

// now is the clock of the demo's data file.
func (r *rehearsal) now() time.Time {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.base().AddDate(0, 0, r.log.Days)
}

// resume does again what was done before the demo was last ended.
func (r *rehearsal) resume(ctx context.Context, s *study.Study) error {
	r.s = s
	body, err := s.Secret(ctx, rehearsalKey)
	if err != nil || len(body) == 0 {
		return err
	}
	var was rehearsed
	if err := json.Unmarshal(body, &was); err != nil {
		return nil //nolint:nilerr // a rehearsal that cannot be read begins anew
	}
	r.mu.Lock()
	r.log = was
	r.mu.Unlock()
	for _, p := range was.Pages {
		if _, err := r.put(ctx, p); err != nil {
			fmt.Fprintf(os.Stderr, "A page of the rehearsal is not there any more: %s: %v\n", p.Phrase, err)
		}
	}
	return r.move(ctx)
}

func (r *rehearsal) keep(ctx context.Context) error {
	r.mu.Lock()
	body, err := json.Marshal(r.log)
	r.mu.Unlock()
	if err != nil {
		return err
	}
	return r.s.KeepSecret(ctx, rehearsalKey, body, 0)
}

// GoOn implements watch.Stage.
func (r *rehearsal) GoOn(ctx context.Context, days int) error {
	r.mu.Lock()
	r.log.Days += days
	r.mu.Unlock()
	err := r.move(ctx)
	if err == nil {
		return r.keep(ctx)
	}
	r.mu.Lock()
	r.log.Days -= days
	r.mu.Unlock()
	return err
}

// move sets the clock of the simulated web.
func (r *rehearsal) move(ctx context.Context) error {
	return r.post(ctx, "/lab/clock", map[string]any{"to": r.now().UTC().Format(time.DateOnly)}, nil)
}

// Publish implements watch.Stage.
func (r *rehearsal) Publish(ctx context.Context, site, phrase string) (string, error) {
	p := rehearsedPage{Site: site, Phrase: phrase, Date: r.now().UTC().Format(time.DateOnly)}
	url, err := r.put(ctx, p)
	if err != nil {
		return "", err
	}
	p.URL = url
	r.mu.Lock()
	r.log.Pages = append(r.log.Pages, p)
	r.mu.Unlock()
	return url, r.keep(ctx)
}

func (r *rehearsal) put(ctx context.Context, p rehearsedPage) (string, error) {
	var at struct {
		URL string `json:"url"`
	}
	err := r.post(ctx, "/lab/pages", map[string]any{"site": p.Site, "phrase": p.Phrase, "fit": madeWell, "date": p.Date},
		&at)
	return at.URL, err
}

func (r *rehearsal) post(ctx context.Context, path string, ask, answer any) error {
	body, err := json.Marshal(ask)
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, "http://"+r.host+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := (&http.Client{Timeout: time.Minute}).Do(req)
	if err != nil {
		return fmt.Errorf("the simulated web does not answer: %w", err)
	}
	defer res.Body.Close()
	said, err := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	if err != nil {
		return err
	}
	if res.StatusCode >= 300 {
		var why struct{ Detail string }
		if json.Unmarshal(said, &why) != nil || why.Detail == "" {
			why.Detail = res.Status
		}
		return fmt.Errorf("the simulated web refuses: %s", why.Detail)
	}
	if answer == nil {
		return nil
	}
	return json.Unmarshal(said, answer)
}
