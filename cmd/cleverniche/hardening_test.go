package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"cleverniche/standin"
	"cleverniche/store"
)

// What the application bears, tried on the program itself: `make hardening`, within ten minutes.
// Figures are told, since machines differ; what must never happen fails.

// hard skips what takes long unless it is asked for, and returns the program.
func hard(t *testing.T) string {
	if os.Getenv("HARDENING") == "" {
		t.Skip("make hardening")
	}
	bin, err := filepath.Abs("../../bin/cleverniche")
	if err != nil {
		t.Fatal(err)
	}
	return bin
}

// market is the stand-in web, with the questions that it answered counted by protocol.
type counted struct {
	base     string
	mu       sync.Mutex
	answered map[string]int
	slow     atomic.Int64
}

func countedWorld(t *testing.T) *counted {
	c := &counted{answered: map[string]int{}}
	behind := httptest.NewServer(world().Handler(standin.Options{}))
	t.Cleanup(behind.Close)
	at, _ := url.Parse(behind.URL)
	proxy := httputil.NewSingleHostReverseProxy(at)
	proxy.ErrorLog = log.New(io.Discard, "", 0) // who is killed breaks off
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		time.Sleep(time.Duration(c.slow.Load()))
		if r.URL.Query().Has("q") || strings.HasPrefix(r.URL.Path, "/links/v1/page") || strings.HasPrefix(r.URL.Path,
			"/demand") {
			c.mu.Lock()
			c.answered[strings.Split(r.URL.Path, "/")[1]]++
			c.mu.Unlock()
		}
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(front.Close)
	c.base = front.URL
	return c
}

// program is the application as a process of its own.
type program struct {
	t             *testing.T
	bin, data, at string
	flags         []string
	cmd           *exec.Cmd
	client        *http.Client
	token         string
}

func start(t *testing.T, bin, data string, c *counted, more ...string) *program {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	at := l.Addr().String()
	l.Close()
	p := &program{t: t, bin: bin, data: data, at: at}
	p.flags = []string{"--data", data, "--config", "/dev/null", "--copies", "none"}
	if c != nil {
		p.flags = append(p.flags, "--suggestions", c.base+"/suggest", "--demand", c.base+"/demand", "--results",
			c.base+"/search", "--links", c.base+"/links", "--reach", ".example="+strings.TrimPrefix(c.base, "http://"),
			"--engine", "lantern", "--per-second", "1000", "--pages-per-host", "1000")
	}
	p.flags = append(p.flags, more...)
	p.begin()
	t.Cleanup(p.kill)
	return p
}

func (p *program) begin(env ...string) {
	p.t.Helper()
	p.cmd = exec.Command(p.bin, append([]string{"serve", "--listen", p.at}, p.flags...)...)
	p.cmd.Env = append(os.Environ(), env...)
	p.cmd.Stderr = io.Discard
	if err := p.cmd.Start(); err != nil {
		p.t.Fatal(err)
	}
	for range 400 {
		if res, err := http.Get("http://" + p.at + "/readyz"); err == nil {
			res.Body.Close()
			if res.StatusCode == 200 {
				return
			}
		}
		time.Sleep(25 * time.Millisecond)
	}
	p.t.Fatal("the program does not answer")
}

func (p *program) kill() {
	p.cmd.Process.Kill()
	p.cmd.Wait()
}

// visit opens a page as a browser would, and keeps its token.
func (p *program) visit(path string) string {
	if p.client == nil {
		jar, _ := cookiejar.New(nil)
		p.client = &http.Client{Jar: jar, Timeout: 60 * time.Second}
	}
	res, err := p.client.Get("http://" + p.at + path)
	if err != nil {
		return ""
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	if m := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindSubmatch(body); m != nil {
		p.token = string(m[1])
	}
	return string(body)
}

// post sends a form, and returns the status; 0 when nobody answered.
func (p *program) post(path string, values url.Values) (int, string) {
	req, _ := http.NewRequest("POST", "http://"+p.at+path, strings.NewReader(values.Encode()))
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Csrf-Token", p.token)
	req.Header.Set("HX-Request", "true")
	res, err := p.client.Do(req)
	if err != nil {
		return 0, ""
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, ""
	}
	return res.StatusCode, string(body)
}

// command runs a command of the program on the same data.
func (p *program) command(args ...string) string {
	p.t.Helper()
	out, err := exec.Command(p.bin, append(args, p.flags...)...).CombinedOutput()
	if err != nil {
		p.t.Fatalf("%v: %v, %s", args, err, out)
	}
	return string(out)
}

func decisions(t *testing.T, path string) map[uint]int8 {
	t.Helper()
	st, err := store.Open(path, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	out := map[uint]int8{}
	ids := make([]uint, 3000)
	for i := range ids {
		ids[i] = uint(i + 1)
	}
	rows, err := st.Ideas(context.Background(), 1, ids)
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		out[row.ID] = row.Decision
	}
	return out
}

func phrases(n int) string {
	var list strings.Builder
	for i := range n {
		fmt.Fprintf(&list, "moon map number %d\n", i)
	}
	return list.String()
}

func listFile(t *testing.T, n int) string {
	path := filepath.Join(t.TempDir(), "list.txt")
	os.WriteFile(path, []byte(phrases(n)), 0o600)
	return path
}

// TestHardeningKills: what was acknowledged is there after the program was killed at any moment.
func TestHardeningKills(t *testing.T) {
	data := filepath.Join(t.TempDir(), "d.db")
	p := start(t, hard(t), data, nil)
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 2000))
	const kills = 40
	acknowledged, lost := map[uint]int8{}, 0
	writes := 0
	for round := range kills {
		p.visit("/niches/1/sift")
		end := time.After(time.Duration(100+rand.IntN(300)) * time.Millisecond)
	working:
		for {
			select {
			case <-end:
				break working
			default:
			}
			id, d := uint(1+rand.IntN(2000)), 1+rand.IntN(2)
			delete(acknowledged, id) // until it is acknowledged again it may be either
			status, _ := p.post("/niches/1/decide", url.Values{"id": {fmt.Sprint(id)}, "stage": {"sift"},
				"decision": {[]string{"", "keep", "drop"}[d]}})
			if status == 200 {
				acknowledged[id] = int8(d)
				writes++
			}
		}
		p.kill()
		if round%5 == 4 || round == kills-1 {
			there := decisions(t, data)
			for id, d := range acknowledged {
				if there[id] != d {
					lost++
				}
			}
		}
		p.begin()
	}
	t.Logf("%d kills, %d acknowledged writes, %d lost", kills, writes, lost)
	if lost > 0 || writes < kills {
		t.Error("acknowledged is not kept")
	}
}

// preload counts the program's syncs, and keeps each file as it was when it was synced.
const preload = `#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>
static void keep(int fd) {
	char link[64], path[4096], to[5000], buf[65536];
	snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
	ssize_t n = readlink(link, path, sizeof path - 1);
	if (n <= 0 || !getenv("SYNCED")) return;
	path[n] = 0;
	char *base = strrchr(path, '/');
	snprintf(to, sizeof to, "%s%s", getenv("SYNCED"), base ? base : "/x");
	int out = open(to, O_CREAT | O_TRUNC | O_WRONLY, 0600), in = open(path, O_RDONLY);
	if (out < 0 || in < 0) return;
	while ((n = read(in, buf, sizeof buf)) > 0) if (write(out, buf, n) < 0) break;
	close(in); close(out);
	snprintf(to, sizeof to, "%s/count", getenv("SYNCED"));
	out = open(to, O_CREAT | O_APPEND | O_WRONLY, 0600);
	if (write(out, ".", 1) < 0) {}
	close(out);
}
int fsync(int fd) { int (*real)(int) = dlsym(RTLD_NEXT, "fsync"); int r = real(fd); keep(fd); return r; }
int fdatasync(int fd) { int (*real)(int) = dlsym(RTLD_NEXT, "fdatasync"); int r = real(fd); keep(fd); return r; }
`

// TestHardeningPowerCut: of the disk as it was synced, nothing acknowledged is missing.
func TestHardeningPowerCut(t *testing.T) {
	bin := hard(t)
	folder := t.TempDir()
	source, shim, synced := filepath.Join(folder, "s.c"), filepath.Join(folder, "s.so"), filepath.Join(folder, "synced")
	os.WriteFile(source, []byte(preload), 0o600)
	os.Mkdir(synced, 0o700)
	if out, err := exec.Command("gcc", "-shared", "-fPIC", "-o", shim, source, "-ldl").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	p := start(t, bin, filepath.Join(folder, "d.db"), nil)
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 200))
	p.kill()
	p.begin("LD_PRELOAD="+shim, "SYNCED="+synced)
	p.visit("/niches/1/sift")
	syncs := func() int { at, _ := os.ReadFile(filepath.Join(synced, "count")); return len(at) }
	before := syncs()
	const writes = 40
	for id := 1; id <= writes; id++ {
		if status, _ := p.post("/niches/1/decide", url.Values{"id": {fmt.Sprint(id)}, "stage": {"sift"},
			"decision": {"keep"}}); status != 200 {
			t.Fatal(status)
		}
	}
	after := syncs()
	p.kill()
	// The data file was never synced before the log of writes was: then it is as it was.
	for _, tail := range []string{"", "-wal"} {
		if _, err := os.Stat(filepath.Join(synced, "d.db"+tail)); err != nil && tail == "" {
			copied, _ := os.ReadFile(p.data)
			os.WriteFile(filepath.Join(synced, "d.db"), copied, 0o600)
		}
	}
	kept := 0
	for _, d := range decisions(t, filepath.Join(synced, "d.db")) {
		kept += int(d)
	}
	t.Logf("%d syncs for %d acknowledged writes; after a power cut %d are there", after-before, writes, kept)
	if after-before < writes || kept != writes {
		t.Error("acknowledged is not on the disk")
	}
}

// TestHardeningCancelElsewhere: a job of the command line heeds the browser.
func TestHardeningCancelElsewhere(t *testing.T) {
	c := countedWorld(t)
	p := start(t, hard(t), filepath.Join(t.TempDir(), "d.db"), c, "--price-results", "0.002", "--price-links", "0.001")
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 300))
	c.slow.Store(int64(20 * time.Millisecond))
	cli := exec.Command(p.bin, append([]string{"judge", "--all-left", "--most", "300"}, p.flags...)...)
	if err := cli.Start(); err != nil {
		t.Fatal(err)
	}
	defer func() { cli.Process.Kill(); cli.Wait() }()
	calls := func() (n int) {
		c.mu.Lock()
		defer c.mu.Unlock()
		for _, k := range c.answered {
			n += k
		}
		return n
	}
	for calls() < 50 {
		time.Sleep(20 * time.Millisecond)
	}
	p.visit("/niches/1/gather")
	begun := time.Now()
	if status, body := p.post("/niches/1/jobs/1/cancel", nil); status != 200 || !strings.Contains(body, "cancelled") {
		t.Fatal(status, body)
	}
	at := calls()
	time.Sleep(1500 * time.Millisecond)
	after := calls() - at
	time.Sleep(time.Second)
	body := p.visit("/niches/1/jobs/1")
	t.Logf("cancelled in %v; %d calls after that (those under way), then %d", time.Since(begun)-2500*time.Millisecond,
		after, calls()-at-after)
	if calls()-at != after || after > 60 || !strings.Contains(body, "cancelled") {
		t.Error("it goes on spending, or is not cancelled")
	}
}

// TestHardeningBudget: what the services were paid is what the ledger says, and within the budget,
// though everything is asked again and the program is killed in the middle.
func TestHardeningBudget(t *testing.T) {
	c := countedWorld(t)
	const budget = 300 // thousandths
	p := start(t, hard(t), filepath.Join(t.TempDir(), "d.db"), c, "--price-results", "0.002", "--price-links", "0.001",
		"--budget", "0.3")
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 40))
	c.slow.Store(int64(5 * time.Millisecond))
	for round := range 12 {
		p.visit("/niches/1/judge")
		p.post("/niches/1/lookup", url.Values{"all": {"left"}, "stage": {"sift"}, "again": {"yes"}})
		time.Sleep(time.Duration(200+rand.IntN(400)) * time.Millisecond)
		p.kill()
		p.begin()
		p.visit("/niches/1/gather")
		p.post("/niches/1/jobs/"+fmt.Sprint(round+1)+"/cancel", nil)
	}
	p.kill()
	st, err := store.Open(p.data, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	ledger, err := st.SpentSince(context.Background(), time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	c.mu.Lock()
	paid := 2*c.answered["search"] + c.answered["links"]
	c.mu.Unlock()
	t.Logf("12 kills: the services answered for $%.3f, the ledger says $%.3f, the budget was $%.3f", float64(paid)/1000,
		float64(ledger)/1e6, float64(budget)/1000)
	if paid > budget || int64(paid)*1000 > ledger || ledger > budget*1000 {
		t.Error("more was paid than the ledger says, or than the budget allows")
	}
}

func memory(p *program) (mb float64) {
	text, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.cmd.Process.Pid))
	m := regexp.MustCompile(`VmRSS:\s+(\d+)`).FindSubmatch(text)
	if m != nil {
		kb, _ := strconv.Atoi(string(m[1]))
		mb = float64(kb) / 1024
	}
	return mb
}

// TestHardeningBounds: large and bad bodies, long addresses, and decisions while a list goes in.
func TestHardeningBounds(t *testing.T) {
	p := start(t, hard(t), filepath.Join(t.TempDir(), "d.db"), nil)
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 10))
	p.visit("/niches/1/gather")
	before := memory(p)
	var group sync.WaitGroup
	refused := atomic.Int64{}
	for range 15 {
		group.Go(func() {
			var body bytes.Buffer
			w := multipart.NewWriter(&body)
			f, _ := w.CreateFormFile("file", "x.txt")
			f.Write(bytes.Repeat([]byte("0123456789 abcdef\n"), 30<<20/18))
			w.Close()
			res, err := http.Post("http://"+p.at+"/niches/1/import", w.FormDataContentType(), &body)
			if err != nil || res.StatusCode == 403 {
				refused.Add(1) // closed while it is still being sent, or told
			}
		})
	}
	group.Wait()
	t.Logf("15 uploads of 30 MB without a token: %d refused, memory from %.0f to %.0f MB", refused.Load(), before,
		memory(p))
	if refused.Load() != 15 || memory(p) > before+100 {
		t.Error("they are taken")
	}
	begun := time.Now()
	_, body := p.post("/niches/1/import", url.Values{"list": {strings.Repeat("!!\n", 90_000)}})
	t.Logf("90,000 bad lines: a page of %d kB in %v", len(body)/1000, time.Since(begun).Round(time.Millisecond))
	if len(body) > 300_000 {
		t.Error("the page has no bound")
	}
	var list strings.Builder
	for i := range 99_000 {
		fmt.Fprintf(&list, "phrase %d\n", i)
	}
	done := make(chan int, 1)
	begun = time.Now()
	go func() {
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		f, _ := w.CreateFormFile("file", "x.txt")
		io.WriteString(f, list.String())
		w.Close()
		req, _ := http.NewRequest("POST", "http://"+p.at+"/niches/1/import", &form)
		req.Header.Set("Content-Type", w.FormDataContentType())
		req.Header.Set("X-Csrf-Token", p.token)
		res, err := p.client.Do(req)
		if err != nil {
			done <- 0
			return
		}
		done <- res.StatusCode
	}()
	var took []time.Duration
	for status := -1; status < 0; {
		select {
		case status = <-done:
			if status != 200 {
				t.Errorf("the import answers %d", status)
			}
		default:
			at := time.Now()
			p.post("/niches/1/decide", url.Values{"id": {"1"}, "stage": {"sift"}, "decision": {[]string{"keep",
				"drop"}[len(took)%2]}})
			took = append(took, time.Since(at))
			time.Sleep(20 * time.Millisecond)
		}
	}
	slices.Sort(took)
	t.Logf("99,000 ideas in %v, at most %.0f MB; %d decisions meanwhile: median %v, p95 %v, slowest %v",
		time.Since(begun).Round(time.Millisecond), memory(p), len(took), took[len(took)/2].Round(time.Millisecond),
		took[len(took)*95/100].Round(time.Millisecond), took[len(took)-1].Round(time.Millisecond))
	var words []string
	for i := range 900 {
		words = append(words, "word"+strconv.Itoa(i))
	}
	p.visit("/niches/1/sift?" + url.Values{"lacks": {strings.Join(words, ",")}}.Encode())
	if status, _ := p.post("/niches/1/decide", url.Values{"id": {"1"}, "stage": {"sift"},
		"decision": {"keep"}}); status != 200 {
		t.Errorf("after an address of 8 kB a page answers %d", status)
	}
	p.visit("/niches/1/sift?" + strings.Repeat("x", 300<<10))
	if status, _ := p.post("/niches/1/decide", url.Values{"id": {"1"}, "stage": {"sift"},
		"decision": {"drop"}}); status != 200 {
		t.Errorf("after an address of 300 kB a page answers %d", status)
	}
}

// TestHardeningHostile: requests that nobody in his right mind makes bring no error of the program.
func TestHardeningHostile(t *testing.T) {
	p := start(t, hard(t), filepath.Join(t.TempDir(), "d.db"), nil)
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 50))
	p.visit("/niches/1/sift")
	rng := rand.New(rand.NewPCG(16, 16))
	values := []string{"", "-1", "0", "1", "99999999999999999999", "NaN", "Inf", "1e999", "\x00", "\xff\xfe",
		"<script>", "' OR 1=1 --",
		"../../etc/passwd", strings.Repeat("a", 5000), "%", "🔭", "שמים", "1,900", "−5", "null", "{}", "[]",
		"=1+1", "a\r\nb"}
	keys := []string{"idea", "id", "all", "but", "rows", "begin", "end", "long", "words", "difficulty",
		"searches-from", "lacks",
		"holds", "starts", "ends", "sort", "then", "order", "fold", "view", "stage", "label", "note", "decision", "name",
		"country",
		"language", "site", "links", "fit", "standing", "endings", "seeds", "list", "phrase", "column", "what", "sieve",
		"file", "text",
		"usual", "again", "ready", "shape", "rank", "near-free", "unread", "scope", "shared", "target",
		"hub", "hours", "start",
		"deadline", "published", "address", "state", "before", "weeks", "in", "out", "months", "section", "done",
		"with", "without", "place-to",
		"searches-to", "difficulty-to", "most", "heading", "depth", "scene", "follow", "do", "subject",
		"page", "place", "word",
		"other-engines", "other-countries", "other-languages", "tilt", "new", "of", "from", "lack"}
	gets := []string{"/", "/niches/new", "/niches/1/gather", "/niches/1/sift", "/niches/1/judge", "/niches/1/plan",
		"/niches/1/group", "/niches/1/topics/1", "/niches/1/topics/1/drawer", "/niches/1/plan/calendar",
		"/niches/1/plan/choice", "/niches/1/plan/actions", "/niches/1/plan/sheet.csv", "/niches/1/plan/plan.xlsx",
		"/niches/1/plan/plan.ics", "/niches/1/plan/plan.json", "/niches/1/briefs/1", "/niches/1/briefs/1/brief.docx",
		"/niches/1/feed/x",
		"/niches/1/why",
		"/niches/1/export.csv", "/niches/1/export.json", "/niches/1/points", "/niches/1/chips", "/niches/1/ids",
		"/niches/1/sieves",
		"/niches/1/sieves.json", "/niches/1/ideas/1", "/niches/1/ideas/2/drawer", "/niches/1/settings",
		"/niches/1/jobs/1", "/scale",
		"/niches/1/rivals", "/niches/1/rivals/openings", "/niches/1/rivals/links", "/niches/1/sites",
		"/niches/1/sites/a.example", "/niches/1/sites/%2e%2e%2fx", "/niches/1/ideas/1/ranks",
		"/niches/1/scale", "/niches/9/sift", "/niches/x/sift", "/static/x/y", "/metrics"}
	posts := []string{"/niches", "/niches/1/settings", "/niches/1/gather", "/niches/1/gather/estimate", "/niches/1/import",
		"/niches/1/decide", "/niches/1/undo", "/niches/1/columns", "/niches/1/bulk", "/niches/1/bulk/copy",
		"/niches/1/bulk/label",
		"/niches/1/lookup", "/niches/1/lookup/estimate", "/niches/1/ideas/1/note", "/niches/1/ideas/1/suppose",
		"/niches/1/sieves",
		"/niches/1/sieves/import", "/niches/1/jobs/1/cancel", "/niches/1/jobs/1/x", "/niches/1/ideas/1/dig",
		"/niches/1/group/by", "/niches/1/aside", "/niches/1/topics/1/split", "/niches/1/topics/1/join",
		"/niches/1/topics/1/move", "/niches/1/topics/1/name", "/niches/1/topics/1/hub", "/niches/1/topics/1/lead",
		"/niches/1/topics/1/release", "/niches/1/plan/articles/1", "/niches/1/plan/lay-out", "/niches/1/plan/choice",
		"/niches/1/plan/feed", "/niches/1/plan/actions/1", "/niches/1/briefs/1",
		"/niches/1/rivals/follow", "/niches/1/rivals/openings", "/niches/1/sites/a.example/ranks",
		"/niches/1/sites/a.example/take", "/niches/1/sites/a.example/forget", "/niches/1/ideas/1/headings",
		"/niches/1/ideas/1/elsewhere", "/niches/1/ideas/1/ranks/take"}
	statuses := map[int]int{}
	const tries = 4000
	for i := range tries {
		q := url.Values{}
		for range rng.IntN(5) {
			q.Add(keys[rng.IntN(len(keys))], values[rng.IntN(len(values))])
		}
		var status int
		var what string
		if i%2 == 0 {
			what = gets[rng.IntN(len(gets))] + "?" + q.Encode()
			req, _ := http.NewRequest("GET", "http://"+p.at+what, nil)
			if rng.IntN(2) == 0 {
				req.Header.Set("HX-Request", "true")
			}
			res, err := p.client.Do(req)
			if err != nil {
				t.Fatalf("%s: %v", what, err)
			}
			body, _ := io.ReadAll(res.Body)
			res.Body.Close()
			if status = res.StatusCode; status >= 500 {
				what += " → " + string(body[:min(len(body), 300)])
			}
		} else {
			what = posts[rng.IntN(len(posts))]
			status, _ = p.post(what, q)
			what += " " + q.Encode()
		}
		statuses[status]++
		if status == 0 || status >= 500 {
			t.Errorf("%d: %.600s", status, what)
		}
	}
	text, _ := json.Marshal(statuses)
	t.Logf("%d hostile requests; statuses: %s", tries, text)
}

// TestHardeningLoad: fifty people, who each think for a second, for half a minute: on their own, and while a job looks
// ideas up at the rates that it has unless it is told others.
func TestHardeningLoad(t *testing.T) {
	c := countedWorld(t)
	p := start(t, hard(t), filepath.Join(t.TempDir(), "d.db"), c, "--metrics", "yes", "--per-second", "10",
		"--pages-per-host", "2")
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 2000))
	p.visit("/niches/1/sift")
	paths := []string{"/niches/1/sift?words=3", "/niches/1/judge", "/niches/1/ideas/7/drawer",
		"/niches/1/sift?sort=idea&rows=600",
		"/niches/1/gather"}
	once := func(client *http.Client, path string) (time.Duration, error) {
		begun := time.Now()
		res, err := client.Get("http://" + p.at + path)
		if err != nil {
			return 0, err
		}
		defer res.Body.Close()
		if _, err := io.Copy(io.Discard, res.Body); err != nil || res.StatusCode != 200 {
			return 0, fmt.Errorf("%s: %d, %v", path, res.StatusCode, err)
		}
		return time.Since(begun), nil
	}
	measure := func(people int, span time.Duration) (took []time.Duration, failed int) {
		var mu sync.Mutex
		var group sync.WaitGroup
		end := time.Now().Add(span)
		for k := range people {
			group.Go(func() {
				client := &http.Client{Timeout: 30 * time.Second, Transport: &http.Transport{}}
				defer client.CloseIdleConnections()
				for i := k; time.Now().Before(end); i++ {
					d, err := once(client, paths[i%len(paths)])
					mu.Lock()
					if err != nil {
						failed++
					} else {
						took = append(took, d)
					}
					mu.Unlock()
					time.Sleep(time.Second) // somebody thinks
				}
			})
		}
		group.Wait()
		slices.Sort(took)
		return took, failed
	}
	figure := func(name string) string {
		m := regexp.MustCompile(`(?m)^` + name + ` (\S+)`).FindStringSubmatch(p.visit("/metrics"))
		if m == nil {
			return "?"
		}
		return m[1]
	}
	alone, _ := measure(1, 10*time.Second)
	single := alone[len(alone)/2]
	crowd := func(what string) {
		begun, routines := memory(p), figure("go_goroutines")
		many, failed := measure(50, 30*time.Second)
		p50, p95 := many[len(many)/2], many[len(many)*95/100]
		t.Logf("%s: one person: median %v; 50 people: %d answers, p50 %v, p95 %v (%.1f × the median of one), %d errors; "+
			"memory %.0f → %.0f MB, goroutines %s → %s", what, single.Round(time.Millisecond), len(many),
			p50.Round(time.Millisecond), p95.Round(time.Millisecond), float64(p95)/float64(single), failed, begun,
			memory(p), routines, figure("go_goroutines"))
		if failed > 0 {
			t.Error("there were errors")
		}
	}
	crowd("quiet")
	p.post("/niches/1/lookup", url.Values{"all": {"left"}, "stage": {"sift"}})
	crowd("beside a look-up job")
	p.visit("/niches/1/gather")
	p.post("/niches/1/jobs/1/cancel", nil)
}

// TestHardeningMistakes: what people do to the file while the program works.
func TestHardeningMistakes(t *testing.T) {
	bin := hard(t)
	folder := t.TempDir()
	p := start(t, bin, filepath.Join(folder, "d.db"), nil)
	p.command("niche", "Sky")
	p.command("import", "--yes", listFile(t, 20))
	p.visit("/niches/1/sift")
	out, err := exec.Command(bin, "demo", "--reset", "--data", p.data, "--config", "/dev/null").CombinedOutput()
	if err == nil || !strings.Contains(string(out), "in use by another program") {
		t.Errorf("reset under a program that works: %v, %s", err, out)
	}
	if out, err := exec.Command(bin, append([]string{"serve", "--listen", "0.0.0.0:0"},
		p.flags...)...).CombinedOutput(); err == nil ||
		!strings.Contains(string(out), "passwords in the clear") {
		t.Errorf("listening to everybody: %v, %s", err, out)
	}
	for id := 1; id <= 5; id++ {
		p.post("/niches/1/decide", url.Values{"id": {fmt.Sprint(id)}, "stage": {"sift"}, "decision": {"keep"}})
	}
	time.Sleep(2500 * time.Millisecond)
	copied, _ := os.ReadFile(p.data)
	alone := filepath.Join(folder, "copied.db")
	os.WriteFile(alone, copied, 0o600)
	kept := 0
	for _, d := range decisions(t, alone) {
		kept += int(d)
	}
	t.Logf("a plain copy of the live file, after 2.5 s of rest: %d of 5 decisions", kept)
	if kept != 5 {
		t.Error("a plain copy misses decisions")
	}
	backup := filepath.Join(folder, "b.db")
	p.command("backup", backup)
	p.kill()
	p.command("restore", backup)
	p.begin()
	if n := strings.Count(p.visit("/niches/1/sift"), `class="kept"`); n != 5 {
		t.Errorf("restored: %d kept", n)
	}
	p.kill()
	os.Chmod(p.data, 0o400)
	if syscall.Getuid() == 0 {
		t.Log("a file that may not be written is not tried: root may write everything")
		return
	}
	if out, err := exec.Command(bin, append([]string{"serve"}, p.flags...)...).CombinedOutput(); err == nil ||
		!strings.Contains(string(out), "cannot be written to") {
		t.Errorf("a file that may not be written: %v, %s", err, out)
	}
}
