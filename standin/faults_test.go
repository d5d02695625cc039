package standin

import (
	"context"
	"errors"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"
)

// up serves a world as the command does, and returns its address.
func up(t *testing.T, w *World) string {
	t.Helper()
	plain, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	listener, err := EitherWay(plain)
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewUnstartedServer(w.Handler(Options{}))
	s.Listener.Close()
	s.Listener = listener
	s.Start()
	t.Cleanup(s.Close)
	return "http://" + plain.Addr().String()
}

// TestFaults switches each fault on and looks at what a plain client meets.
func TestFaults(t *testing.T) {
	t.Parallel()
	base := up(t, grown())
	client := &http.Client{Timeout: 20 * time.Second, CheckRedirect: func(_ *http.Request, via []*http.Request) error {
		if len(via) > 6 {
			return errors.New("it goes round in circles")
		}
		return nil
	}}
	fetch := func(path string, patience time.Duration) (status int, header http.Header, body string, err error) {
		ctx, cancel := context.WithTimeout(context.Background(), patience)
		defer cancel()
		req, err := http.NewRequestWithContext(ctx, "GET", base+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := client.Do(req)
		if err != nil {
			return 0, nil, "", err
		}
		defer res.Body.Close()
		data, err := io.ReadAll(res.Body)
		return res.StatusCode, res.Header, string(data), err
	}
	switching := func(method, path, text string, want int) {
		t.Helper()
		req, _ := http.NewRequest(method, base+path, strings.NewReader(text))
		res, err := client.Do(req)
		if err != nil || res.StatusCode != want {
			t.Fatalf("%s %s: %v, %v", method, path, res, err)
		}
		res.Body.Close()
	}
	const asked = "/search?q=telescope"
	_, _, whole, err := fetch(asked, 5*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	type met struct {
		status int
		header http.Header
		body   string
		err    error
		took   time.Duration
	}
	for kind, as := range map[string]func(m met) bool{
		"slow":     func(m met) bool { return m.err == nil && m.body == whole && m.took > 250*time.Millisecond },
		"too-many": func(m met) bool { return m.status == 429 && m.header.Get("Retry-After") == "1" },
		"error":    func(m met) bool { return m.status == 500 },
		"hangup":   func(m met) bool { return m.err != nil && m.status == 0 },
		"cut":      func(m met) bool { return errors.Is(m.err, io.ErrUnexpectedEOF) && m.status == 200 },
		"stall":    func(m met) bool { return errors.Is(m.err, context.DeadlineExceeded) },
		"endless":  func(m met) bool { return errors.Is(m.err, context.DeadlineExceeded) && len(m.body) > 3*len(whole) },
		"truncated": func(m met) bool {
			return m.err == nil && strings.HasPrefix(whole, m.body) && len(m.body) == len(whole)/2
		},
		"malformed": func(m met) bool { return m.err == nil && !strings.HasPrefix(m.body, "<?xml") },
		"type": func(m met) bool {
			return m.body == whole &&
				m.header.Get("Content-Type") == "application/octet-stream"
		},
		"empty":       func(m met) bool { return m.err == nil && m.status == 200 && m.body == "" },
		"loop":        func(m met) bool { return m.err != nil && strings.Contains(m.err.Error(), "circles") },
		"certificate": func(m met) bool { return m.err != nil && strings.Contains(m.err.Error(), "certificate") },
		"stray":       func(m met) bool { return m.status == 200 && m.body != whole },
	} {
		t.Run(kind, func(t *testing.T) {
			switching("POST", "/lab/faults", `{"where":"search","kind":"`+kind+`","seconds":0.3}`, 201)
			begun := time.Now()
			var m met
			m.status, m.header, m.body, m.err = fetch(asked, 900*time.Millisecond)
			if m.took = time.Since(begun); !as(m) {
				t.Errorf("status %d, %v, %d bytes, %v in %v", m.status, m.header, len(m.body), m.err, m.took)
			}
			if status, _, _, err := fetch("/suggest?q=tele", 5*time.Second); status != 200 || err != nil {
				t.Errorf("another protocol answers %d, %v", status, err)
			}
			switching("DELETE", "/lab/faults", "", 204)
			if _, _, again, err := fetch(asked, 5*time.Second); again != whole || err != nil {
				t.Errorf("taken back, it answers %d bytes, %v", len(again), err)
			}
		})
	}
	if len(FaultKinds) != 14 {
		t.Errorf("there are %d kinds of faults, and 14 are tried", len(FaultKinds))
	}
}

// TestFaultsBefallSomeRequests: a share of them, so many times, on one host alone.
func TestFaultsBefallSomeRequests(t *testing.T) {
	t.Parallel()
	w := grown()
	h := w.Handler(Options{})
	count := func(host string, n int) (failed int) {
		for range n {
			r := httptest.NewRequest("GET", "/robots.txt", nil)
			r.Host = host
			rec := httptest.NewRecorder()
			if h.ServeHTTP(rec, r); rec.Code == 500 {
				failed++
			}
		}
		return failed
	}
	other := w.siteList[0].domain
	ask(t, h, "POST", "/lab/faults", `{"where":"nightporch.example","kind":"error","share":0.25}`, nil)
	if a, b := count("nightporch.example", 40), count(other, 40); a != 10 || b != 0 {
		t.Errorf("of 40 requests %d fail there and %d elsewhere", a, b)
	}
	ask(t, h, "DELETE", "/lab/faults/1", "", nil)
	ask(t, h, "POST", "/lab/faults", `{"where":"pages","kind":"error","times":3}`, nil)
	if a, b := count("nightporch.example", 2), count(other, 40); a != 2 || b != 1 {
		t.Errorf("three times: %d there, %d elsewhere", a, b)
	}
	var list struct{ Faults []Fault }
	if ask(t, h, "GET", "/lab/faults", "", &list); len(list.Faults) != 1 || list.Faults[0].Hits != 3 {
		t.Errorf("the list says %+v", list)
	}
}
