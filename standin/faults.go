package standin

import (
	"bytes"
	"cmp"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"fmt"
	"math/big"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Fault is something that goes wrong on purpose.
type Fault struct {
	ID int `json:"id"`
	// Where is a protocol (suggest, demand, search, links, rdap), "pages" for every
	// site, or the host of one site.
	Where string `json:"where"`
	Kind  string `json:"kind"`
	// Share of the requests that it befalls; 0 means all. The requests are counted,
	// not drawn: of a share of 0.25 it is every fourth.
	Share float64 `json:"share,omitempty"`
	// Times is how often it happens at most; 0 means until it is taken back.
	Times int `json:"times,omitempty"`
	// Seconds is how long "slow" waits, and what Retry-After says; 0 means 2.
	Seconds float64 `json:"seconds,omitempty"`
	// Hits counts the requests that it befell.
	Hits int `json:"hits"`
	seen int
}

// FaultKinds are the faults there are.
var FaultKinds = map[string]string{
	"slow":        "the answer comes late",
	"too-many":    "429 with Retry-After",
	"error":       "500",
	"hangup":      "the connection closes without an answer",
	"cut":         "the connection closes half way",
	"stall":       "half of the answer, and then nothing more",
	"truncated":   "half of the body, as if it were all",
	"malformed":   "a body that no reader can read",
	"type":        "the wrong content type",
	"empty":       "an answer without a body",
	"endless":     "a body that never ends",
	"loop":        "redirects to itself for ever",
	"certificate": "redirects to https, where the certificate is nobody's",
	"stray":       "redirects to where nothing is known of what was asked",
}

// faults are those that are switched on.
type faults struct {
	mu   sync.Mutex
	next int
	list []*Fault
}

var protocols = []string{"suggest", "demand", "search", "links", "rdap"}

func (f *faults) add(one Fault, isHost func(string) bool) (Fault, error) {
	if FaultKinds[one.Kind] == "" {
		kinds := []string{}
		for k := range FaultKinds {
			kinds = append(kinds, k)
		}
		slices.Sort(kinds)
		return one, fmt.Errorf("there is no fault %q; there are %s", one.Kind, strings.Join(kinds, ", "))
	}
	if one.Where != "pages" && !slices.Contains(protocols, one.Where) && !isHost(one.Where) {
		return one, fmt.Errorf("where is %q: neither %s, pages nor the host of a site", one.Where,
			strings.Join(protocols, ", "))
	}
	if one.Share < 0 || one.Share > 1 || one.Times < 0 || one.Seconds < 0 || one.Seconds > 3600 {
		return one, fmt.Errorf("share is between 0 and 1, times and seconds are not negative")
	}
	one.Share, one.Seconds = cmp.Or(one.Share, 1), cmp.Or(one.Seconds, 2)
	f.mu.Lock()
	defer f.mu.Unlock()
	f.next++
	one.ID, one.Hits, one.seen = f.next, 0, 0
	f.list = append(f.list, &one)
	return one, nil
}

func (f *faults) all() []Fault {
	f.mu.Lock()
	defer f.mu.Unlock()
	out := []Fault{}
	for _, one := range f.list {
		out = append(out, *one)
	}
	return out
}

// remove takes back the fault of that number, or all when it is 0.
func (f *faults) remove(id int) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	before := len(f.list)
	f.list = slices.DeleteFunc(f.list, func(one *Fault) bool { return id == 0 || one.ID == id })
	return id == 0 || len(f.list) < before
}

// befalling returns the first fault that befalls a request, or nil.
func (f *faults) befalling(where ...string) *Fault {
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, one := range f.list {
		if !slices.Contains(where, one.Where) || one.Times > 0 && one.Hits >= one.Times {
			continue
		}
		one.seen++
		if int(float64(one.seen)*one.Share) > int(float64(one.seen-1)*one.Share) {
			one.Hits++
			got := *one
			return &got
		}
	}
	return nil
}

// answer is a whole answer, before it is sent.
type answer struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func (a *answer) Header() http.Header         { return a.header }
func (a *answer) WriteHeader(status int)      { a.status = cmp.Or(a.status, status) }
func (a *answer) Write(b []byte) (int, error) { return a.body.Write(b) }

func (a *answer) send(rw http.ResponseWriter) {
	for k, v := range a.header {
		rw.Header()[k] = v
	}
	rw.Header().Set("Content-Length", strconv.Itoa(a.body.Len()))
	rw.WriteHeader(cmp.Or(a.status, http.StatusOK))
	rw.Write(a.body.Bytes())
}

// before does what a fault does instead of answering; done is false when the
// answer shall be made after all.
func (f *Fault) before(rw http.ResponseWriter, r *http.Request) (done bool) {
	switch f.Kind {
	case "slow":
		pause(r, time.Duration(f.Seconds*float64(time.Second)))
		return r.Context().Err() != nil
	case "too-many":
		rw.Header().Set("Retry-After", strconv.Itoa(int(f.Seconds+0.999)))
		problem(rw, http.StatusTooManyRequests, "too many requests; this is a rehearsal")
	case "error":
		problem(rw, http.StatusInternalServerError, "out of order; this is a rehearsal")
	case "hangup":
		panic(http.ErrAbortHandler)
	case "loop":
		n, _ := strconv.Atoi(r.URL.Query().Get("again"))
		http.Redirect(rw, r, fmt.Sprintf("%s?again=%d", r.URL.Path, n+1), http.StatusFound)
	case "certificate":
		http.Redirect(rw, r, "https://"+r.Host+r.URL.RequestURI(), http.StatusFound)
	case "stray":
		if r.URL.RawQuery == "" || r.URL.Query().Has("stray") {
			return false
		}
		http.Redirect(rw, r, r.URL.Path+"?stray=yes&q=stray&url=http://nightporch.example/", http.StatusFound)
	default:
		return false
	}
	return true
}

// spoil sends an answer with its fault.
func (f *Fault) spoil(rw http.ResponseWriter, r *http.Request, a *answer) {
	body := bytes.Clone(a.body.Bytes())
	switch f.Kind {
	case "truncated":
		a.body.Truncate(len(body) / 2)
	case "malformed":
		a.body.Reset()
		a.body.WriteString("<{\x00\xff not what was promised ]")
		a.body.Write(body[len(body)/2:])
	case "type":
		a.header.Set("Content-Type", "application/octet-stream")
	case "empty":
		a.body.Reset()
	case "cut", "stall", "endless":
		for k, v := range a.header {
			rw.Header()[k] = v
		}
		if f.Kind != "endless" {
			rw.Header().Set("Content-Length", strconv.Itoa(len(body)))
		}
		rw.WriteHeader(cmp.Or(a.status, http.StatusOK))
		rw.Write(body[:len(body)/2])
		http.NewResponseController(rw).Flush()
		if f.Kind == "stall" {
			pause(r, 10*time.Minute)
		}
		for f.Kind == "endless" && r.Context().Err() == nil {
			if _, err := rw.Write(bytes.Repeat([]byte(" more"), 4096)); err != nil {
				break
			}
			pause(r, 5*time.Millisecond)
		}
		panic(http.ErrAbortHandler)
	}
	a.send(rw)
}

func pause(r *http.Request, d time.Duration) {
	select {
	case <-time.After(d):
	case <-r.Context().Done():
	}
}

// EitherWay returns a listener that speaks TLS with those who begin with it, with
// a certificate that nobody has signed, and plainly with all others.
func EitherWay(l net.Listener) (net.Listener, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, err
	}
	about := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "nobody.invalid"},
		NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().AddDate(1, 0, 0), DNSNames: []string{"nobody.invalid"}}
	der, err := x509.CreateCertificate(rand.Reader, about, about, &key.PublicKey, key)
	if err != nil {
		return nil, err
	}
	config := &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}}
	return eitherWay{l, config}, nil
}

type eitherWay struct {
	net.Listener
	config *tls.Config
}

func (l eitherWay) Accept() (net.Conn, error) {
	c, err := l.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return &sniffed{Conn: c, config: l.config}, nil
}

// sniffed decides at its first byte what it speaks.
type sniffed struct {
	net.Conn
	config *tls.Config
	begun  sync.Once
	speaks net.Conn
	err    error
}

// tlsHandshake is the first byte of a TLS record that opens a connection
// (RFC 8446 §5.1).
const tlsHandshake = 22

func (c *sniffed) begin() {
	c.begun.Do(func() {
		var first [1]byte
		if _, c.err = c.Conn.Read(first[:]); c.err != nil {
			return
		}
		back := &unread{Conn: c.Conn, first: first[:]}
		if c.speaks = back; first[0] == tlsHandshake {
			c.speaks = tls.Server(back, c.config)
		}
	})
}

func (c *sniffed) Read(b []byte) (int, error) {
	if c.begin(); c.err != nil {
		return 0, c.err
	}
	return c.speaks.Read(b)
}

func (c *sniffed) Write(b []byte) (int, error) {
	if c.begin(); c.err != nil {
		return 0, c.err
	}
	return c.speaks.Write(b)
}

// unread is a connection whose first byte was put back.
type unread struct {
	net.Conn
	first []byte
}

func (c *unread) Read(b []byte) (int, error) {
	if len(c.first) > 0 && len(b) > 0 {
		n := copy(b, c.first)
		c.first = c.first[n:]
		return n, nil
	}
	return c.Conn.Read(b)
}
