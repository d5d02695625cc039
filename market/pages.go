package market

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/temoto/robotstxt"
	"golang.org/x/sync/singleflight"
	"golang.org/x/time/rate"
)

// Fetched is a page as its server gave it.
type Fetched struct {
	URL         string // after redirects
	ContentType string
	Body        []byte
	Took        time.Duration `json:",omitempty"` // until all of it was there, without what was waited to be polite
}

// PageOptions say how pages are fetched.
type PageOptions struct {
	Timeout   time.Duration // of one try; 0 means 10 s
	PerHost   float64       // requests a second to one host; 0 means 2
	MaxBytes  int64         // of a page; 0 means 3 MiB
	Redirects int           // at most; 0 means 5
	// Clock tells how long pages take; nil does not.
	Clock func() time.Time
	// Reach maps host suffixes (".example") to an address that serves them
	// ("127.0.0.1:8571"). Hosts under them are the only ones that may be on a
	// private address: the operator has listed them.
	Reach map[string]string
}

// Pages fetches web pages. It keeps to robots.txt (RFC 9309), waits between
// requests to one host, and refuses private, loopback and link-local addresses,
// checked on the address dialled, so after name resolution and on each redirect.
type Pages struct {
	options PageOptions
	client  *http.Client
	mu      sync.Mutex
	limits  map[string]*rate.Limiter
	robots  map[string]rulesOf
	asking  singleflight.Group
}

// rulesOf is what a host's robots.txt says: the group that holds for us, nil where all is allowed, and its sitemaps.
type rulesOf struct {
	group    *robotstxt.Group
	sitemaps []string
}

// ErrRobots is why a page that its site does not want fetched is not.
var ErrRobots = errors.New("its robots.txt asks not to fetch it")

// ErrPrivate is why a private address is not asked.
var ErrPrivate = errors.New("its address is private")

// NewPages returns a fetcher.
func NewPages(o PageOptions) *Pages {
	if o.Timeout <= 0 {
		o.Timeout = 10 * time.Second
	}
	if o.PerHost <= 0 {
		o.PerHost = 2
	}
	if o.MaxBytes <= 0 {
		o.MaxBytes = 3 << 20
	}
	if o.Redirects <= 0 {
		o.Redirects = 5
	}
	p := &Pages{options: o, limits: map[string]*rate.Limiter{}, robots: map[string]rulesOf{}}
	p.client = &http.Client{
		Timeout: o.Timeout,
		Transport: &http.Transport{DialContext: p.dial, MaxIdleConns: 64, MaxIdleConnsPerHost: 2,
			IdleConnTimeout: 20 * time.Second, TLSHandshakeTimeout: 5 * time.Second},
		CheckRedirect: func(req *http.Request, via []*http.Request) error {
			if len(via) > o.Redirects {
				return fmt.Errorf("it redirects more than %d times", o.Redirects)
			}
			if req.URL.Scheme != "http" && req.URL.Scheme != "https" {
				return fmt.Errorf("it redirects to a %q address", req.URL.Scheme)
			}
			return nil
		},
	}
	return p
}

// dial connects to a listed host's address, or to a public address.
func (p *Pages) dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	for suffix, listed := range p.options.Reach {
		if strings.HasSuffix(strings.ToLower(host), suffix) {
			return (&net.Dialer{Timeout: 3 * time.Second}).DialContext(ctx, network, listed)
		}
	}
	d := net.Dialer{Timeout: 5 * time.Second, Control: func(_, resolved string, _ syscall.RawConn) error {
		return checkPublic(resolved)
	}}
	return d.DialContext(ctx, network, address)
}

var reserved = func() []netip.Prefix {
	var out []netip.Prefix
	// IANA special-purpose address registries: what is not on the public internet.
	for _, s := range strings.Fields("0.0.0.0/8 100.64.0.0/10 192.0.0.0/24 192.0.2.0/24 198.18.0.0/15 " +
		"198.51.100.0/24 203.0.113.0/24 240.0.0.0/4 64:ff9b::/96 64:ff9b:1::/48 100::/64 2001::/23 2001:db8::/32 2002::/16") {
		out = append(out, netip.MustParsePrefix(s))
	}
	return out
}()

// Public reports whether an address may be asked: not loopback, private,
// link-local, multicast, unspecified or reserved, also when an IPv4 address is
// written inside an IPv6 one.
func Public(a netip.Addr) bool {
	a = a.Unmap()
	if !a.IsGlobalUnicast() || a.IsPrivate() || a.IsLoopback() || a.IsLinkLocalUnicast() {
		return false
	}
	for _, r := range reserved {
		if r.Contains(a) {
			return false
		}
	}
	return true
}

// Fetch implements Fetcher. The error of a page that cannot be had is an *Error
// whose source is the page's host.
func (p *Pages) Fetch(ctx context.Context, address string) (Fetched, error) {
	out, err := p.fetch(ctx, address, func(kind string) bool {
		return strings.HasPrefix(kind, "text/html") || strings.HasPrefix(kind, "application/xhtml")
	})
	if err != nil {
		return Fetched{}, err
	}
	if err := out.Whole(); err != nil {
		return Fetched{}, &Error{Source: hostOf(address), Trouble: Malformed, Err: err}
	}
	return out, nil
}

// hostOf is the host of an address that was asked.
func hostOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return u.Host
}

// Sitemap fetches and reads a sitemap (Sitemaps 0.9): XML, plain text, or either packed by gzip.
func (p *Pages) Sitemap(ctx context.Context, address string) (Sitemap, error) {
	f, err := p.fetch(ctx, address, func(kind string) bool {
		return strings.Contains(kind, "xml") && !strings.Contains(kind, "html") || strings.Contains(kind, "gzip") ||
			strings.HasPrefix(kind, "text/plain") || strings.HasPrefix(kind, "application/octet-stream")
	})
	if err != nil {
		return Sitemap{}, err
	}
	s, err := ReadSitemap(f)
	if err != nil {
		err = &Error{Source: hostOf(address), Trouble: Malformed, Err: err}
	}
	return s, err
}

// fetch fetches what is of a kind that is wanted: of its media type, in small letters.
func (p *Pages) fetch(ctx context.Context, address string, wanted func(kind string) bool) (Fetched, error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return Fetched{}, refusal("the page", fmt.Errorf("%q is no web address", shorten(address, 80)))
	}
	rules, err := p.rules(ctx, u)
	if err != nil {
		var e *Error
		if errors.As(err, &e) { // the page itself was not asked for
			err = &Error{e.Source, e.Trouble, e.Err, Free}
		}
		return Fetched{}, err
	}
	if rules.group != nil && !rules.group.Test(u.RequestURI()) {
		return Fetched{}, refusal(u.Host, ErrRobots)
	}
	if err := p.limiter(u.Host).Wait(ctx); err != nil {
		return Fetched{}, err
	}
	asked := p.now()
	a, err := p.once(ctx, http.MethodGet, u.String(), u.Host, p.options.MaxBytes)
	took := p.now().Sub(asked)
	if err != nil {
		return Fetched{}, err
	}
	if t := strings.ToLower(a.contentType); t != "" && !wanted(t) {
		return Fetched{}, &Error{Source: u.Host, Trouble: Malformed,
			Err: fmt.Errorf("it is no web page but %q", shorten(a.contentType, 60))}
	}
	return Fetched{a.url, a.contentType, a.body, took}, nil
}

// now is the clock's time, or always the same.
func (p *Pages) now() time.Time {
	if p.options.Clock == nil {
		return time.Time{}
	}
	return p.options.Clock()
}

func refusal(source string, err error) error {
	return &Error{Source: source, Trouble: Refused, Err: err}
}

func (p *Pages) get(ctx context.Context, address, host string, most int64) (answer, error) {
	if err := p.limiter(host).Wait(ctx); err != nil {
		return answer{}, err
	}
	return p.once(ctx, http.MethodGet, address, host, most)
}

func (p *Pages) once(ctx context.Context, method, address, host string, most int64) (answer, error) {
	c := caller{source: Source{Name: host, MaxBytes: most}, client: singleTry(p.client)}
	return c.once(ctx, method, address, nil, "text/html, application/xhtml+xml;q=0.9, */*;q=0.1")
}

// Leads reports whether an address leads to something: gone is true where its server says that nothing is there (404
// Not Found and 410 Gone, RFC 9110 §15.5). It is asked for the head alone, and for all of it where a server refuses
// that. Of what robots.txt keeps away, and of servers that do not answer, nothing is told: that is an error.
func (p *Pages) Leads(ctx context.Context, address string) (gone bool, err error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return false, refusal("the page", fmt.Errorf("%q is no web address", shorten(address, 80)))
	}
	rules, err := p.rules(ctx, u)
	if err != nil {
		return false, err
	}
	if rules.group != nil && !rules.group.Test(u.RequestURI()) {
		return false, refusal(u.Host, ErrRobots)
	}
	for _, method := range []string{http.MethodHead, http.MethodGet} {
		if err := p.limiter(u.Host).Wait(ctx); err != nil {
			return false, err
		}
		if _, err = p.once(ctx, method, address, u.Host, p.options.MaxBytes); err == nil || Gone(err) {
			return Gone(err), nil
		}
	}
	return false, err
}

// SitemapsOf are the sitemaps that a site's robots.txt names, or the usual address of one.
func (p *Pages) SitemapsOf(ctx context.Context, origin string) ([]string, error) {
	u, err := url.Parse(origin)
	if err != nil || u.Host == "" {
		return nil, refusal("the site", fmt.Errorf("%q is no web address", shorten(origin, 80)))
	}
	rules, err := p.rules(ctx, u)
	if err != nil {
		return nil, err
	}
	if len(rules.sitemaps) > 0 {
		return rules.sitemaps[:min(mostNamedSitemaps, len(rules.sitemaps))], nil
	}
	return []string{u.Scheme + "://" + u.Host + "/sitemap.xml"}, nil
}

// mostNamedSitemaps is how many sitemaps of a robots.txt are taken.
const mostNamedSitemaps = 50

func (p *Pages) limiter(host string) *rate.Limiter {
	p.mu.Lock()
	defer p.mu.Unlock()
	l := p.limits[host]
	if l == nil {
		l = rate.NewLimiter(rate.Limit(p.options.PerHost), max(1, int(p.options.PerHost)))
		p.limits[host] = l
	}
	return l
}

// rules returns the robots.txt group that holds for us on a host: nil when all
// is allowed. By RFC 9309 §2.3.1.3 a 4xx allows everything; §2.3.1.4 says that
// an unreachable file forbids everything, which here is that error.
func (p *Pages) rules(ctx context.Context, u *url.URL) (rulesOf, error) {
	origin := u.Scheme + "://" + u.Host
	p.mu.Lock()
	rules, known := p.robots[origin]
	p.mu.Unlock()
	if known {
		return rules, nil
	}
	_, err, _ := p.asking.Do(origin, func() (any, error) {
		a, err := p.get(ctx, origin+"/robots.txt", u.Host, 512<<10) // RFC 9309 §2.5: at least 500 KiB
		var e *Error
		switch {
		case errors.As(err, &e) && e.Trouble == Refused:
		case err != nil:
			return nil, err
		default:
			data, err := robotstxt.FromBytes(a.body)
			if err == nil {
				rules = rulesOf{data.FindGroup(UserAgent), data.Sitemaps}
			}
		}
		p.mu.Lock()
		p.robots[origin] = rules
		p.mu.Unlock()
		return nil, nil
	})
	if err != nil {
		return rulesOf{}, err
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.robots[origin], nil
}

// checkPublic refuses an address, with its port, that is not on the public internet.
func checkPublic(resolved string) error {
	ap, err := netip.ParseAddrPort(resolved)
	if err == nil && !Public(ap.Addr()) {
		err = ErrPrivate
	}
	return err
}
