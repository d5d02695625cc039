package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"cleverniche/study/people"
	"cleverniche/web"
	"cleverniche/web/webtest"

	"github.com/gofiber/fiber/v3"
)

// team is the application where people sign in, and a browser of each role.
func team(t *testing.T) (map[people.Role]*webtest.Site, *webtest.Site) {
	t.Helper()
	s := webtest.Asked(t)
	app, err := web.New(web.Options{Study: s.Study, SignIn: true})
	if err != nil {
		t.Fatal(err)
	}
	out := map[people.Role]*webtest.Site{}
	for _, role := range []people.Role{people.Owner, people.Editor, people.Reader, people.Writer} {
		link, err := s.Study.People.Invite(context.Background(), "A "+string(role), role, "test")
		if err != nil {
			t.Fatal(err)
		}
		one := &webtest.Site{T: t, App: app, Study: s.Study, Store: s.Store, Niche: s.Niche}
		one.Get("/join/" + link)
		status, _, body := one.Post("/join/"+link, url.Values{"password": {"four words in a row"},
			"again": {"four words in a row"}}, false)
		if status != 303 {
			t.Fatalf("%s joins: %d, %.300s", role, status, body)
		}
		one.Get("/you")
		out[role] = one
	}
	return out, &webtest.Site{T: t, App: app, Study: s.Study, Store: s.Store, Niche: s.Niche}
}

// needs is what each route is meant to need, where that is not to see for what is read and to work for what is sent. It
// is said here once more, by routes, so that neither list is right by itself.
var needs = map[string]people.Right{
	"POST /sign-out": people.ToWrite, "GET /you": people.ToWrite, "POST /you/password": people.ToWrite,
	"POST /you/end": people.ToWrite, "POST /you/passkeys": people.ToWrite,
	"POST /you/passkeys/ask": people.ToWrite, "POST /you/passkeys/remove": people.ToWrite, "GET /here": people.ToWrite,
	"GET /people": people.ToOwn, "POST /people": people.ToOwn, "POST /people/withdraw": people.ToOwn,
	"POST /people/:member": people.ToOwn, "POST /people/:member/link": people.ToOwn,
	"POST /people/:member/remove": people.ToOwn, "GET /audit": people.ToOwn, "GET /audit.csv": people.ToOwn,
	"GET /": people.ToWrite, "GET /briefs": people.ToWrite, "GET /guide": people.ToWrite, "GET /guide/": people.ToWrite,
	"GET /guide/pictures/:name": people.ToWrite, "GET /scale": people.ToWrite, "GET /glossary": people.ToWrite,
	"GET /niches/:niche/glossary": people.ToWrite, "GET /niches/:niche/briefs/:idea": people.ToWrite,
	"POST /niches/:niche/written": people.ToWrite,
	"POST /niches/:niche/delete":  people.ToOwn, "POST /niches/:niche/archive": people.ToOwn, "POST /asked": people.ToOwn,
	"POST /niches/back/:id": people.ToOwn, "GET /niches/new": people.ToWork, "GET /start": people.ToWork,
	"GET /niches/:niche/whole.zip": people.ToWork, "GET /niches/:niche/settings": people.ToWork,
}

// open are the routes that nobody signs in for.
var open = []string{"/sign-in", "/sign-in/passkey", "/sign-in/passkey/ask", "/join/:secret",
	"/niches/:niche/feed/:secret", "/niches/:niche/digest/:secret"}

func neededBy(method, path string) people.Right {
	if method == "HEAD" {
		method = "GET"
	}
	if right, said := needs[method+" "+path]; said {
		return right
	}
	switch {
	case strings.HasPrefix(path, "/guide/"), strings.HasPrefix(path, "/niches/:niche/briefs/:idea/brief.") &&
		method == "GET":
		return people.ToWrite
	case method == "GET":
		return people.ToSee
	}
	return people.ToWork
}

// TestEveryRouteEveryRole: each route of the application, asked by each role and by nobody, answers as it is meant to;
// also written otherwise, as the router would take it.
func TestEveryRouteEveryRole(t *testing.T) {
	roles, nobody := team(t)
	asked := 0
	for _, route := range nobody.App.GetRoutes(true) {
		if strings.HasPrefix(route.Path, "/static") || strings.HasPrefix(route.Path, "/healthz") ||
			strings.HasPrefix(route.Path, "/readyz") || slices.Contains([]string{"CONNECT", "TRACE"}, route.Method) ||
			route.Path == "/sign-out" || route.Path == "/you/end" {
			continue
		}
		path := regexp.MustCompile(`:\w+`).ReplaceAllString(route.Path, "77") // a niche that there is not
		for _, written := range []string{path, strings.ToUpper(path), strings.TrimSuffix(path, "/") + "/"} {
			ask := func(s *webtest.Site) int {
				r := httptest.NewRequest(route.Method, written, nil)
				r.Header.Set("X-Csrf-Token", s.Token)
				status, _, _ := s.Do(r)
				asked++
				return status
			}
			isOpen := slices.Contains(open, route.Path)
			for role, s := range roles {
				status := ask(s)
				want := isOpen || role.May(neededBy(route.Method, route.Path))
				if (status != fiber.StatusForbidden) != want || status == fiber.StatusUnauthorized {
					t.Errorf("%s %s as %s: %d", route.Method, written, role, status)
				}
			}
			if nobody.Token == "" {
				nobody.Get("/sign-in")
			}
			status := ask(nobody)
			in := status == fiber.StatusSeeOther || status == fiber.StatusUnauthorized
			if in == isOpen {
				t.Errorf("%s %s as nobody: %d", route.Method, written, status)
			}
		}
	}
	if asked < 2000 {
		t.Errorf("%d requests", asked)
	}
}

// TestSignedIn: what is done is somebody's, and recorded; sessions end; strangers see no names; a stranger's address is
// not led to.
func TestSignedIn(t *testing.T) {
	roles, nobody := team(t)
	editor, owner := roles[people.Editor], roles[people.Owner]
	if status, _, body := editor.Post("/niches/1/watch/add", url.Values{"phrases": {"moon map"}}, false); status != 303 {
		t.Fatalf("%d, %.300s", status, body)
	}
	if status, _, _ := editor.Do(httptest.NewRequest("GET", "/niches/1/export.csv", nil)); status != 200 {
		t.Errorf("an export: %d", status)
	}
	webtest.Holds(t, owner.Get("/audit"), "A editor", "watch, add", "took away: export", "signed in")
	webtest.Holds(t, owner.Get("/audit.csv"), "when,who,niche", "POST /niches/:niche/watch/add")
	page := nobody.Get("/sign-in")
	webtest.Lacks(t, page, "Sky", "A editor")
	status, head, _ := nobody.Do(httptest.NewRequest("GET", "/niches/1/sift?words=3", nil))
	if status != 303 || head.Get("Location") != "/sign-in?to=%2Fniches%2F1%2Fsift%3Fwords%3D3" {
		t.Errorf("%d to %s", status, head.Get("Location"))
	}
	in := func(s *webtest.Site, to, password string) (int, string) {
		status, head, _ := s.Post("/sign-in", url.Values{"name": {"a editor"}, "password": {password}, "to": {to}}, false)
		return status, head.Get("Location")
	}
	for _, to := range []string{"https://evil.example/", "//evil.example/x", `/\evil.example`, "javascript:alert(1)",
		"x"} {
		fresh := &webtest.Site{T: t, App: nobody.App}
		fresh.Get("/sign-in")
		if status, at := in(fresh, to, "four words in a row"); status != 303 || at != "/" {
			t.Errorf("%q leads to %q (%d)", to, at, status)
		}
	}
	if status, _ := in(nobody, "/", "wrong words in a row"); status != 422 {
		t.Errorf("a wrong password: %d", status)
	}
	webtest.Holds(t, owner.Get("/audit"), "sign-in failed")
	if status, at := in(nobody, "/niches/1/sift?words=3", "four words in a row"); status != 303 ||
		at != "/niches/1/sift?words=3" {
		t.Errorf("%d to %q", status, at)
	}
	webtest.Holds(t, nobody.Get("/you"), "this one", "A editor")
	if status, _, _ := nobody.Post("/sign-out", url.Values{}, false); status != 303 {
		t.Errorf("signing out: %d", status)
	}
	if status, _, _ := nobody.Do(httptest.NewRequest("GET", "/you", nil)); status != 303 {
		t.Errorf("signed out, and in: %d", status)
	}
	// A session that somebody fixed before is not the one that is begun.
	fixed := &webtest.Site{T: t, App: nobody.App, Cookie: "cn_session=" + strings.Repeat("A", 26)}
	fixed.Get("/sign-in")
	if in(fixed, "/", "four words in a row"); strings.Contains(fixed.Cookie, strings.Repeat("A", 26)) {
		t.Error("a session is taken from who asks")
	}
	// The owner changes a role: it holds at once; and takes somebody out.
	list, err := owner.Study.People.List(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	id := list[slices.IndexFunc(list, func(p people.Person) bool { return p.Name == "A editor" })].ID
	owner.Get("/people")
	if status, _, body := owner.Post(fmt.Sprintf("/people/%d", id), url.Values{"role": {"reader"}, "budget": {"0.50"}},
		false); status != 303 {
		t.Fatalf("%d, %.300s", status, body)
	}
	if status, _, _ := editor.Post("/niches/1/watch/add", url.Values{"phrases": {"venus"}}, false); status != 403 {
		t.Errorf("a reader adds: %d", status)
	}
	webtest.Holds(t, editor.Get("/niches/1/sift"), `may-read`)
	if status, _, _ := owner.Post(fmt.Sprintf("/people/%d/remove", id), url.Values{}, false); status != 303 {
		t.Error("nobody is removed")
	}
	if status, _, _ := editor.Do(httptest.NewRequest("GET", "/niches/1/sift", nil)); status != 303 {
		t.Errorf("removed, and in: %d", status)
	}
}

// TestWithoutSignIn: on one's own machine there is none of it.
func TestWithoutSignIn(t *testing.T) {
	s := webtest.Open(t)
	webtest.Lacks(t, s.Get("/niches/1/sift"), "Sign out", "may-read")
	for _, path := range []string{"/sign-in", "/people", "/audit", "/you"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
}

// TestSecure: behind a secure connection cookies are bound to the host, and browsers are told to stay.
func TestSecure(t *testing.T) {
	s := webtest.Open(t)
	app, err := web.New(web.Options{Study: s.Study, SignIn: true, Secure: true})
	if err != nil {
		t.Fatal(err)
	}
	resp, err := app.Test(localRequest("/sign-in"))
	if err != nil {
		t.Fatal(err)
	}
	found := false
	for _, c := range resp.Cookies() {
		found = true
		if !strings.HasPrefix(c.Name, "__Host-") || !c.Secure || !c.HttpOnly || c.Path != "/" || c.Domain != "" {
			t.Errorf("%+v", c)
		}
	}
	if !found {
		t.Error("no cookie")
	}
}

func localRequest(path string) *http.Request {
	r := httptest.NewRequest("GET", path, nil)
	r.Host = "localhost"
	return r
}
