package market

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"mime"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/hashicorp/go-retryablehttp"
	"github.com/sony/gobreaker/v2"
	"golang.org/x/time/rate"
)

// Source is where one kind of question is asked, and how politely.
type Source struct {
	Name      string        // as shown in errors and beside figures
	Base      string        // base address, without a trailing slash
	Timeout   time.Duration // of one try; 0 means 15 s
	PerSecond float64       // requests; 0 means no limit
	Retries   int           // after the first try; negative means none, 0 means 3
	MaxBytes  int64         // of a body; 0 means 8 MiB
	Key       string        // sent as a bearer token when set
}

// Trouble says what kind of failure an Error is.
type Trouble int

// The troubles.
const (
	Unreachable Trouble = iota // no answer, or one that says try later: worth asking again
	Refused                    // the source understood and declined
	Malformed                  // the answer is not what the protocol says
)

// Error is a question that was not answered.
type Error struct {
	Source  string
	Trouble Trouble
	Err     error
	Charge  Charge // of what is Unreachable
}

// statusError is an answer by which a server declined.
type statusError struct {
	code int
	says string
}

func (e *statusError) Error() string { return e.says }

// Gone reports whether a question failed since its server says that nothing is there: 404 Not Found or 410 Gone (RFC
// 9110 §15.5).
func Gone(err error) bool {
	var e *statusError
	return errors.As(err, &e) && (e.code == http.StatusNotFound || e.code == http.StatusGone)
}

func (e *Error) Error() string {
	switch e.Trouble {
	case Unreachable:
		return fmt.Sprintf("%s cannot be reached: %v", e.Source, e.Err)
	case Malformed:
		return fmt.Sprintf("%s sent an answer that cannot be read: %v", e.Source, e.Err)
	}
	return fmt.Sprintf("%s refused: %v", e.Source, e.Err)
}

func (e *Error) Unwrap() error { return e.Err }

// IsUnreachable reports whether err means that a source does not answer at all,
// so that asking it other questions now is of no use.
func IsUnreachable(err error) bool {
	var e *Error
	return errors.As(err, &e) && e.Trouble == Unreachable
}

// caller makes the requests to one source.
type caller struct {
	source  Source
	client  *retryablehttp.Client
	limit   *rate.Limiter
	breaker *gobreaker.CircuitBreaker[answer]
	missing bool // that something is not there is an answer
}

// headersKey is the key of a context's headers, in place of those that clients send.
type headersKey struct{}

// Teller is told what was asked and what came.
type Teller func(asked, kind string, body []byte)

type tellerKey struct{}

// WithTeller is a context under which somebody is told of each request, without its secret.
func WithTeller(ctx context.Context, tell Teller) context.Context {
	return context.WithValue(ctx, tellerKey{}, tell)
}

func tellerOf(ctx context.Context) Teller {
	tell, _ := ctx.Value(tellerKey{}).(Teller)
	return tell
}

// answer is one whole response.
type answer struct {
	missing     bool // it is not there
	body        []byte
	contentType string
	url         string // after redirects
}

// Limits of every caller.
const (
	defaultTimeout  = 15 * time.Second
	defaultRetries  = 3
	defaultMaxBytes = 8 << 20
	breakAfter      = 5 // failures in a row
	breakFor        = 10 * time.Second
	longestBackoff  = 20 * time.Second
)

func newCaller(s Source, transport http.RoundTripper) *caller {
	s.Base = strings.TrimSuffix(s.Base, "/")
	if s.Timeout <= 0 {
		s.Timeout = defaultTimeout
	}
	if s.MaxBytes <= 0 {
		s.MaxBytes = defaultMaxBytes
	}
	if s.Retries == 0 {
		s.Retries = defaultRetries
	}
	if transport == nil {
		transport = &http.Transport{MaxIdleConnsPerHost: 16, IdleConnTimeout: 30 * time.Second,
			DialContext: (&net.Dialer{Timeout: 5 * time.Second}).DialContext, ForceAttemptHTTP2: true,
			Proxy: http.ProxyFromEnvironment}
	}
	client := retryablehttp.NewClient()
	client.HTTPClient = &http.Client{Transport: transport, Timeout: s.Timeout}
	client.Logger = nil
	client.RetryMax = max(0, s.Retries)
	client.RetryWaitMin, client.RetryWaitMax = 200*time.Millisecond, longestBackoff
	client.Backoff = jittered
	client.CheckRetry = metered
	client.RequestLogHook = func(_ retryablehttp.Logger, req *http.Request, try int) {
		if m := meterOf(req.Context()); m != nil && try > 0 {
			m.Again() // the one before cost nothing, or there were no other
		}
	}
	client.ErrorHandler = retryablehttp.PassthroughErrorHandler
	limit := rate.NewLimiter(rate.Inf, 1)
	if s.PerSecond > 0 {
		limit = rate.NewLimiter(rate.Limit(s.PerSecond), max(1, int(s.PerSecond)))
	}
	return &caller{source: s, client: client, limit: limit,
		breaker: gobreaker.NewCircuitBreaker[answer](gobreaker.Settings{Name: s.Name, Timeout: breakFor,
			ReadyToTrip:  func(c gobreaker.Counts) bool { return c.ConsecutiveFailures >= breakAfter },
			IsSuccessful: func(err error) bool { return err == nil || !IsUnreachable(err) },
		})}
}

// metered tries again what is worth it: of a question that costs money, what was not paid for
// surely, if another try can be afforded.
func metered(ctx context.Context, resp *http.Response, err error) (bool, error) {
	again, why := retryablehttp.DefaultRetryPolicy(ctx, resp, err)
	m := meterOf(ctx)
	if !again || m == nil {
		return again, why
	}
	if chargeOfTry(resp, err) != Free {
		return false, why
	}
	return m.May(), why
}

// singleTry makes a client that asks once: a page that fails is noted and asked
// again with the idea, not now.
func singleTry(client *http.Client) *retryablehttp.Client {
	c := retryablehttp.NewClient()
	c.HTTPClient, c.Logger, c.RetryMax = client, nil, 0
	c.ErrorHandler = retryablehttp.PassthroughErrorHandler
	return c
}

// jittered is exponential backoff that honours Retry-After, bounded, with up to
// half as much again at random, so that many clients do not return at once.
func jittered(low, high time.Duration, attempt int, resp *http.Response) time.Duration {
	wait := min(retryablehttp.DefaultBackoff(low, high, attempt, resp), high)
	return wait + time.Duration(rand.Int64N(int64(wait)/2+1))
}

func (c *caller) fail(trouble Trouble, err error) error {
	return &Error{Source: c.source.Name, Trouble: trouble, Err: err}
}

// unreached is a failure of a source that was not heard, with what it cost.
func (c *caller) unreached(charge Charge, err error) error {
	return &Error{c.source.Name, Unreachable, err, charge}
}

// get asks for a path under the source's base with a query.
func (c *caller) get(ctx context.Context, path string, query url.Values, accept string) (answer, error) {
	address := c.source.Base + path
	if len(query) > 0 {
		address += "?" + query.Encode()
	}
	return c.do(ctx, http.MethodGet, address, nil, accept)
}

type turnKey struct{}

// Turn waits until the source may be asked, and returns a context under which one question is put
// without waiting again: what is entered as about to be asked is asked at once.
func (c *caller) Turn(ctx context.Context) (context.Context, error) {
	return context.WithValue(ctx, turnKey{}, c), c.limit.Wait(ctx)
}

func (c *caller) do(ctx context.Context, method, address string, body []byte, accept string) (answer, error) {
	if ctx.Value(turnKey{}) != c {
		if err := c.limit.Wait(ctx); err != nil {
			return answer{}, err
		}
	}
	a, err := c.breaker.Execute(func() (answer, error) { return c.once(ctx, method, address, body, accept) })
	if tell := tellerOf(ctx); tell != nil {
		tell(strings.TrimSpace(fmt.Sprintf("%s %s\n%s", method, address, body)), a.contentType, a.body)
	}
	if errors.Is(err, gobreaker.ErrOpenState) || errors.Is(err, gobreaker.ErrTooManyRequests) {
		return a, c.unreached(Free, fmt.Errorf("it failed %d times in a row and is left alone for %s", breakAfter,
			breakFor))
	}
	return a, err
}

func (c *caller) once(ctx context.Context, method, address string, body []byte, accept string) (answer, error) {
	var payload any
	if body != nil {
		payload = body
	}
	req, err := retryablehttp.NewRequestWithContext(ctx, method, address, payload)
	if err != nil {
		return answer{}, c.fail(Refused, err)
	}
	req.Header.Set("User-Agent", UserAgent)
	req.Header.Set("Accept", accept)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	if c.source.Key != "" {
		req.Header.Set("Authorization", "Bearer "+c.source.Key)
	}
	if own, is := ctx.Value(headersKey{}).(map[string]string); is {
		for name, value := range own {
			req.Header.Set(name, value)
		}
	}
	resp, err := c.client.Do(req)
	if err != nil {
		if ctx.Err() != nil {
			return answer{}, ctx.Err()
		}
		return answer{}, c.unreached(chargeOfBreak(err), plain(err))
	}
	defer resp.Body.Close()
	data, err := io.ReadAll(io.LimitReader(resp.Body, c.source.MaxBytes+1))
	switch {
	case ctx.Err() != nil:
		return answer{}, ctx.Err()
	case err != nil:
		return answer{}, c.fail(Unreachable, fmt.Errorf("the answer broke off: %w", plain(err)))
	case int64(len(data)) > c.source.MaxBytes:
		return answer{}, c.fail(Malformed, fmt.Errorf("the answer is longer than %d bytes", c.source.MaxBytes))
	case resp.StatusCode == http.StatusTooManyRequests || resp.StatusCode >= 500:
		return answer{}, c.unreached(Free, fmt.Errorf("it answered %s", resp.Status))
	case resp.StatusCode == http.StatusNotFound && c.missing:
		return answer{missing: true, contentType: resp.Header.Get("Content-Type")}, nil
	case resp.StatusCode >= 400:
		return answer{}, c.fail(Refused, &statusError{resp.StatusCode, resp.Status + detail(data)})
	}
	return answer{body: data, contentType: resp.Header.Get("Content-Type"), url: resp.Request.URL.String()}, nil
}

// plain strips the method and address that net/http puts before its errors: the
// reader knows what was asked, and an address may hold a key.
func plain(err error) error {
	var u *url.Error
	if errors.As(err, &u) {
		if u.Timeout() {
			return errors.New("no answer in time")
		}
		err = u.Err
	}
	var op *net.OpError
	var name *net.DNSError
	switch {
	case errors.Is(err, ErrPrivate):
		return ErrPrivate
	case errors.As(err, &name):
		return errors.New("its host name is unknown")
	case errors.As(err, &op) && op.Op == "dial":
		return errors.New("nothing is running at its address")
	}
	return err
}

// detail picks the explanation out of a problem answer (RFC 9457), shortened.
func detail(body []byte) string {
	s := string(body)
	if i := strings.Index(s, `"detail":"`); i >= 0 {
		s = s[i+len(`"detail":"`):]
		if j := strings.IndexByte(s, '"'); j >= 0 {
			s = s[:j]
		}
		return ": " + shorten(s, 200)
	}
	return ""
}

func shorten(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n]) + "…"
	}
	return s
}

// echoes fails unless what a source says it was asked is what it was asked.
func (c *caller) echoes(said, asked string) error {
	if strings.Join(strings.Fields(said), " ") == strings.Join(strings.Fields(asked), " ") {
		return nil
	}
	return c.fail(Malformed, fmt.Errorf("it answers another question: “%s”", shorten(said, 60)))
}

// strayed reports whether a redirect led to an address that does not ask what was asked.
func (a answer) strayed(parameter, asked string) bool {
	u, err := url.Parse(a.url)
	return a.url != "" && (err != nil || u.Query().Get(parameter) != asked)
}

// wantType fails unless the answer's media type is one of those.
func (c *caller) wantType(a answer, types ...string) error {
	media, _, err := mime.ParseMediaType(a.contentType)
	if err == nil {
		for _, t := range types {
			if media == t {
				return nil
			}
		}
	}
	return c.fail(Malformed, fmt.Errorf("it is %q, not %s", a.contentType, types[0]))
}
