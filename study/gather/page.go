package gather

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"cleverniche/core/about"
	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Bounds of pages that are read for what they are about (ours).
const (
	MostPages    = 200 // of a site
	UsualPages   = 30
	MostAddress  = 2000 // characters
	mostSitemaps = 20   // of a site
	mostTerms    = 80
	leadingTerms = 5  // of a text, which tell whether it is about its title
	fewWords     = 40 // a page with less has hardly a text
)

// Source is a page, or the site that it is of by its sitemap, up to so many pages.
type Source struct {
	Address string
	Site    bool
	Most    int
}

// ReadSource reads an address as it was typed; without a scheme it is one of https.
func ReadSource(text string, site bool, most int) (Source, error) {
	text = strings.TrimSpace(text)
	if !strings.Contains(text, "://") {
		text = "https://" + text
	}
	u, err := url.Parse(text)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || !strings.Contains(u.Host, ".") ||
		len(text) > MostAddress {
		return Source{}, input.Bad("at", "“%s” is no web address. Try https://nightporch.example/star-charts.",
			input.Clip(strings.TrimPrefix(text, "https://"), 60))
	}
	if site && (most < 1 || most > MostPages) {
		return Source{}, input.Bad("most", "Pages are 1 to %d.", MostPages)
	}
	u.Fragment = ""
	return Source{u.String(), site, most}, nil
}

// sitemap is where a site's sitemap is looked for: the address itself where it is one's.
func (s Source) sitemap() string {
	u, err := url.Parse(s.Address)
	if err != nil {
		return s.Address
	}
	for _, ending := range []string{".xml", ".xml.gz", ".txt"} {
		if strings.HasSuffix(u.Path, ending) {
			return s.Address
		}
	}
	return u.Scheme + "://" + u.Host + "/sitemap.xml"
}

// readJob is the kind of job that reads pages, and reading one of its steps.
const readJob = "read pages"

type reading struct {
	URL     string `json:"url"`
	Sitemap bool   `json:"sitemap,omitempty"`
	Most    int    `json:"most,omitempty"`
}

func (s *Gatherer) readKind() jobs.Kind {
	return jobs.Kind{Name: readJob, Workers: gatherWorkers, Brings: "pages read", Do: s.read,
		Waits: func(payload string) bool { return strings.Contains(payload, `"sitemap":true`) }}
}

// EstimatePages says what reading would ask at most.
func (s *Gatherer) EstimatePages(ctx context.Context, of Source) (e ask.Estimate, err error) {
	pages := 1
	if of.Site {
		pages = of.Most + 1
	}
	return e, s.asker.EstimateOpen(ctx, &e, ask.Page, pages, 0, gatherWorkers)
}

// Read starts to read a page, or a site's pages.
func (s *Gatherer) Read(ctx context.Context, n niches.Niche, of Source) (jobs.Job, error) {
	first := reading{URL: of.Address}
	if of.Site {
		first = reading{URL: of.sitemap(), Sitemap: true, Most: of.Most}
	}
	return s.runner.Start(ctx, n, readJob, "Read "+input.Clip(of.Address, 70), jobs.Encode([]reading{first}))
}

func (s *Gatherer) read(ctx context.Context, _ niches.Niche, payload string) (int, error) {
	var it reading
	if err := json.Unmarshal([]byte(payload), &it); err != nil {
		return 0, err
	}
	if !it.Sitemap {
		_, err := eitherScheme(it.URL, func(at string) (ask.Asked[market.Fetched], error) { return s.asker.Page(ctx, at) })
		if err != nil {
			return 0, err
		}
		return 1, nil
	}
	pages, err := pagesOf(it.URL, it.Most, func(at string) (market.Sitemap, error) {
		got, err := s.asker.Sitemap(ctx, at)
		return got.Value, err
	})
	if err != nil {
		return 0, err
	}
	items := make([]reading, len(pages))
	for i, p := range pages {
		items[i] = reading{URL: p}
	}
	return 0, s.store.AddItems(ctx, ask.RequestOf(ctx).Job, payload, jobs.Encode(items), nil)
}

// eitherScheme asks under https, and where that fails under http.
func eitherScheme[T any](at string, get func(at string) (T, error)) (T, error) {
	got, err := get(at)
	if rest, secure := strings.CutPrefix(at, "https://"); err != nil && secure {
		if plain, err := get("http://" + rest); err == nil {
			return plain, nil
		}
	}
	return got, err
}

// pagesOf lists the pages of a site by its sitemap, and by those that it names. One that names itself, or others
// that do, is read once.
func pagesOf(sitemap string, most int, get func(at string) (market.Sitemap, error)) (pages []string, err error) {
	bare := func(at string) string { _, rest, _ := strings.Cut(at, "://"); return rest } // whatever its scheme
	open, seen := []string{sitemap}, map[string]bool{bare(sitemap): true}
	var failed error
	for read := 0; len(open) > 0 && read < mostSitemaps && len(pages) < most; read++ {
		at := open[0]
		open = open[1:]
		said, err := eitherScheme(at, get)
		failed = cmp.Or(failed, err)
		for _, p := range said.Pages {
			if !seen[bare(p)] {
				seen[bare(p)], pages = true, append(pages, p)
			}
		}
		for _, more := range said.More {
			if !seen[bare(more)] {
				seen[bare(more)], open = true, append(open, more)
			}
		}
	}
	if len(pages) == 0 {
		return nil, cmp.Or(failed, errors.New("its sitemap names no page of it"))
	}
	return pages[:min(len(pages), most)], nil
}

// About is what a page, or a site, seems to be about.
type About struct {
	Source
	Terms    []about.Term
	Read     int      // pages that are at hand
	Of       int      // pages that there are, up to as many as were asked for; 0 is not known
	Findings []string // whole sentences
	Title    string   // of one page
}

// About tells what a page or a site seems to be about, by what of it is at hand.
func (s *Gatherer) About(ctx context.Context, n niches.Niche, of Source) (a About, err error) {
	a.Source = of
	urls := []string{of.Address}
	if of.Site {
		urls, err = pagesOf(of.sitemap(), of.Most, func(at string) (market.Sitemap, error) {
			kept, ok, err := ask.Recall[market.Sitemap](ctx, s.asker, ask.Page, ask.SitemapKey(at))
			if err == nil && !ok {
				err = errNotRead
			}
			return kept.Value, err
		})
		if err != nil { // it is not read yet, or what was read is none
			return a, nil
		}
	}
	a.Of = len(urls)
	var pages []about.Page
	var read []*serp.Page
	for _, u := range urls {
		kept, err := eitherScheme(u, func(at string) (market.Fetched, error) {
			kept, ok, err := ask.Recall[market.Fetched](ctx, s.asker, ask.Page, at)
			if err == nil && !ok {
				err = errNotRead
			}
			return kept.Value, err
		})
		if err != nil {
			continue
		}
		p, err := market.ReadPage(kept)
		if err != nil {
			a.Findings = append(a.Findings, input.Sentence(err.Error()))
			continue
		}
		read = append(read, p)
		if of.Site && p.Words < fewWords { // the little that is there would weigh as much as a whole page
			continue
		}
		pages = append(pages, about.Page{Title: p.Title, H1: p.H1, Headings: p.Headings, Anchors: p.Anchors, Text: p.Text})
	}
	a.Read = len(read)
	a.Terms = about.Terms(pages, n.Language, mostTerms)
	if len(read) == 1 && !of.Site {
		a.Title = read[0].Title
	}
	a.Findings = append(a.Findings, s.findings(n, read, a)...)
	return a, nil
}

var errNotRead = errors.New("it is not read yet")

// findings are what is to be said of pages beside their phrases.
func (s *Gatherer) findings(n niches.Niche, read []*serp.Page, a About) (out []string) {
	thin, locked, foreign, missed := 0, 0, 0, 0
	lang := ""
	for _, p := range read {
		switch said, _, _ := strings.Cut(strings.ToLower(p.Lang), "-"); {
		case p.Words < fewWords && p.SignsIn:
			locked++
		case p.Words < fewWords:
			thin++
		case said != "" && said != n.Language:
			foreign, lang = foreign+1, said
		case s.niches.IsOwn(n, a.Address) && !a.Site && !about.Meant(cmp.Or(slices.Concat(p.H1, []string{p.Title})...),
			about.Terms([]about.Page{{Text: p.Text}}, n.Language, leadingTerms), n.Language):
			missed++
		}
	}
	say := func(times int, one, several string) {
		switch {
		case times == 0:
		case a.Site:
			out = append(out, fmt.Sprintf(several, times))
		default:
			out = append(out, one)
		}
	}
	say(locked, "It asks to sign in: what stands behind that is not read.", "Pages that ask to sign in: %d.")
	say(thin, "It has hardly any text. What scripts write is not read.", "Pages with hardly any text: %d.")
	say(foreign, "It says that its language is “"+lang+"”, and this niche's is “"+n.Language+"”.",
		"Pages that say that they are in another language: %d.")
	say(missed, "This is your page, and what its text says most is not what its title says. Is that what you meant?", "")
	return out
}

// AddFrom adds phrases of a page as ideas. It returns how many are new.
func (s *Gatherer) AddFrom(ctx context.Context, n niches.Niche, of Source, phrases []string) (int, error) {
	return s.add(ctx, n, store.Origin{Kind: ideas.FromPage, Query: of.Address, Seed: of.Address}, phrases)
}

// AddRelated adds questions as ideas that results of a phrase show beside. It returns how many are new.
func (s *Gatherer) AddRelated(ctx context.Context, n niches.Niche, of string, questions []string) (int, error) {
	return s.add(ctx, n, store.Origin{Kind: ideas.FromRelated, Query: of, Seed: of}, questions)
}

// AddRanked adds phrases as ideas that a page or a site ranks for. It returns how many are new.
func (s *Gatherer) AddRanked(ctx context.Context, n niches.Niche, of string, phrases []string) (int, error) {
	return s.add(ctx, n, store.Origin{Kind: ideas.FromRanking, Query: of, Seed: of}, phrases)
}

// add adds phrases of one origin; what is no phrase stays out.
func (s *Gatherer) add(ctx context.Context, n niches.Niche, from store.Origin, phrases []string) (int, error) {
	var finds []store.Find
	for _, text := range phrases {
		if p, err := phrase.Parse(text); err == nil {
			finds = append(finds, s.ideas.Find(n, p, from))
		}
	}
	if len(finds) == 0 {
		return 0, input.Bad("seeds", "Tick at least one.")
	}
	return s.store.AddIdeas(ctx, n.ID, finds)
}
