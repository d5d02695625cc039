// Package store keeps everything in one file: niches, ideas and where
// they came from, every answer of the outside world, evidence, decisions, jobs.
package store

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"cleverniche/core/sieve"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// What the data file holds: each table as it is in Go, then its statements.

// Niche is the workspace: one subject, one country and language, one own site.
// Revision grows with every change to its ideas.
type Niche struct {
	ID           uint
	Name         string  `holds:"t80"`
	Country      string  `holds:"t2"`     // ISO 3166-1 alpha-2
	Language     string  `holds:"t3"`     // ISO 639-1
	Currency     string  `holds:"t3"`     // ISO 4217
	OwnSite      string  `holds:"t255"`   // registrable domain; may be empty
	PlannedLinks int     `holds:"0..200"` // solid links planned to a new page
	LinkStanding float64 `holds:"0..100"`
	Fit          float64 `holds:"0..100"` // of a well-made page
	Calibration  string  `holds:"t100"`   // name of the model that its ideas were judged with
	UsualSieve   uint    // that its list begins with; 0 is none
	Endings      string  `holds:"t400"`   // of names to ask for, separated by blanks
	VisitMicros  int64   `holds:"0..1e9"` // what a visit brings, in millionths of the currency; 0 is not said
	Columns      string  `holds:"t2000"`  // of its list: keys of figures, each with its width if it has one
	Revision     int64
	Removals     int64 // the revision at which ideas last left it, or came back

	WeekHours      int    `holds:"0..168"`      // for writing; 0 is not said
	KindHours      string `holds:"t1000"`       // hours that an article takes, by kind, as JSON; "" the usual ones
	LeadDays       int    `holds:"0..180"`      // from publishing to the place
	WeekStart      int    `holds:"0..6"`        // first day of the week, 0 is Sunday
	Scope          string `holds:"t40"`         // which ideas are grouped
	Shared         int    `holds:"0..100"`      // pages that two ideas share at least to be one article
	TopicsRevision int64  `gorm:"column:plans"` // grows with every change to its topics

	OpenedAt   time.Time
	CreatedAt  time.Time
	Staged     bool       // it is being read from a file: nobody sees it yet
	ArchivedAt *time.Time // put out of sight
	DeletedAt  *time.Time // to be erased some time after
}

// Idea is one search phrase in one niche, with the figures that lists are made of.
// Pointers are nil while a figure is not known. A field's figure tag is the key of the
// figure that it feeds, in core/sieve; the others have a feed of their own in ideatable. Its fills tag says what
// fills it.
type Idea struct {
	ID         uint `figure:"found"`
	NicheID    uint
	Phrase     string `figure:"idea" holds:"t400"` // normal form
	Words      int    `figure:"words" holds:"0..200"`
	VariantKey string `holds:"t800"`
	Decision   int8   `figure:"decision" holds:"0..2"`
	DecidedAt  *time.Time
	FoundIn    int `figure:"sources" fills:"found" holds:"0..65535"` // a bit for each of sieve.FoundIn's names
	Revision   int64
	CreatedAt  time.Time
	RemovedAt  *time.Time // taken out of the niche; it is nowhere but in the undo

	DemandAt     *time.Time `fills:"demand found"`
	DemandSource string     `figure:"source" fills:"demand found" holds:"t300"`
	DemandError  string     `fills:"demand found" holds:"t2000"`
	Searches     *int       `fills:"demand found" holds:"0..1e12"`
	Under        bool       `figure:"under" fills:"demand found"`
	// Range is what a list gave instead of a number, "1000-10000"; Searches is its middle then.
	Range       string   `gorm:"column:searches_range" figure:"range" fills:"demand found" holds:"t60"`
	Months      string   `fills:"demand" holds:"t4000"` // see EncodeMonths
	Season      string   `figure:"season" fills:"demand lasting" holds:"t40"`
	Lasting     string   `figure:"trend" fills:"demand lasting" holds:"t40"`
	CPCMicros   *int64   `fills:"cost found" holds:"0..1e12"`
	Currency    string   `figure:"currency" fills:"cost found" holds:"t3"`
	Competition *float64 `figure:"ads" fills:"demand" holds:"0..1"`
	PhraseMatch int      `fills:"demand" holds:"0..1e12"`
	BroadMatch  int      `fills:"demand" holds:"0..1e12"`

	JudgedAt   *time.Time `figure:"judged" fills:"ten"`
	JudgeError string     `fills:"ten" holds:"t2000"`
	Difficulty float64    `figure:"difficulty" fills:"ten forecast" holds:"0..1000"`
	Reach      float64    `figure:"reach" fills:"ten forecast" holds:"0..1000"`
	PageOne    float64    `figure:"chance" fills:"ten forecast" holds:"0..1"`
	TopFive    float64    `figure:"top-five" fills:"ten forecast" holds:"0..1"`
	// The least and the most that the chances may be; both 0 where that was not reckoned.
	PageOneLow  float64 `figure:"chance-low" fills:"ten forecast" holds:"0..1"`
	PageOneHigh float64 `figure:"chance-high" fills:"ten forecast" holds:"0..1"`
	TopFiveLow  float64 `figure:"top-five-low" fills:"ten forecast" holds:"0..1"`
	TopFiveHigh float64 `figure:"top-five-high" fills:"ten forecast" holds:"0..1"`
	Expected    float64 `fills:"ten forecast" holds:"0..1000"`
	Footholds   int     `figure:"footholds" fills:"ten" holds:"0..100"`
	Weakest     float64 `figure:"weakest" fills:"ten" holds:"-1..1000"`
	// LinksNeeded is the solid links for even odds of the goal.
	LinksNeeded int  `fills:"ten forecast" holds:"0..1000"`
	Locked      bool `figure:"locked" fills:"ten forecast"`

	ExactPages *int       `figure:"exact" fills:"pages" holds:"0..1e15"`
	TitlePages *int       `figure:"titles" fills:"pages" holds:"0..1e15"`
	PagesAt    *time.Time `fills:"pages"`
	NameFree   *bool      `figure:"free" fills:"names"`
	FreeNames  string     `fills:"names" holds:"t2000"` // those of core/naming that are, separated by blanks
	NamesAt    *time.Time `fills:"names"`
	CountError string     `fills:"pages names" holds:"t2000"` // why one of them is not known

	Labels string `figure:"labels" holds:"t500"` // of the user's, with sieve.LabelMark between them
	// Lists are the names of the user's own lists that it stood in, the same way.
	Lists string `figure:"lists" fills:"found" holds:"t4000"`
	Note  string `figure:"note" holds:"t2000"`

	// Clicks is the share of its searches that my page gets, by the chances of the places; −1 where
	// that was not reckoned.
	ClickShare     float64 `gorm:"column:clicks" fills:"ten forecast" holds:"-1..1"` // the mean
	ClickShareLow  float64 `gorm:"column:clicks_low" fills:"ten forecast" holds:"-1..1"`
	ClickShareHigh float64 `gorm:"column:clicks_high" fills:"ten forecast" holds:"-1..1"`
	Article        string  `figure:"article" fills:"ten" holds:"t40"` // the kind of article that fits
	// Unread is how many of the results' pages could not be read: it was judged without them.
	Unread int `figure:"unread" fills:"ten" holds:"0..100"`

	Intent int8 `gorm:"column:want" figure:"wants" fills:"ten" holds:"0..4"`
	Mixed  bool `figure:"mixed" fills:"ten"`

	// What I could put there for this idea, where it differs from the niche.
	MyStanding *float64 `fills:"supposed" holds:"0..100"`
	MyLinks    *int     `fills:"supposed" holds:"0..200"`
	MyFit      *float64 `fills:"supposed" holds:"0..100"`
}

// What fills columns of an idea; a column's fills tag names those that fill it.
const (
	byDemand   = "demand"   // a demand source's answer; the cost apart, which a source may not know
	byCost     = "cost"     // the same, where it knows the cost
	byTop      = "ten"      // the lookup of the top ten; the other lookups have keys of their own
	byForecast = "forecast" // of these, what a forecast gives
	byMonths   = "lasting"  // what is reckoned from monthly searches
	bySupposed = "supposed" // what a user supposes for one idea
	byFind     = "found"    // being found again
)

// columns are those of an idea that something fills, and its revision.
func columns(by ...string) []string {
	var out []string
	for _, key := range by {
		out = append(out, filled()[key]...)
	}
	return append(out, "Revision")
}

// filled are the columns of an idea by what fills them.
var filled = sync.OnceValue(func() map[string][]string {
	out := map[string][]string{}
	for _, f := range reflect.VisibleFields(reflect.TypeFor[Idea]()) {
		for _, key := range strings.Fields(f.Tag.Get("fills")) {
			out[key] = append(out[key], f.Name)
		}
	}
	return out
})

// rare is the condition of an idea that something was asked for, or that bears labels. It is
// the ideas_rare index's, word for word.
const rare = `judged_at IS NOT NULL OR pages_at IS NOT NULL OR names_at IS NOT NULL OR labels <> ''`

// fill takes over what the idea does not know yet, figure by figure, and reports
// whether that was something.
func (i *Idea) fill(from Idea) (changed bool) {
	if more := i.FoundIn | from.FoundIn; more != i.FoundIn {
		i.FoundIn, changed = more, true
	}
	if both := withLists(i.Lists, from.Lists); both != i.Lists {
		i.Lists, changed = both, true
	}
	if i.Searches == nil && from.Searches != nil {
		i.DemandAt, i.DemandSource, i.DemandError = from.DemandAt, from.DemandSource, ""
		i.Searches, i.Under, i.Range, changed = from.Searches, from.Under, from.Range, true
	}
	if i.CPCMicros == nil && from.CPCMicros != nil {
		i.CPCMicros, i.Currency, changed = from.CPCMicros, from.Currency, true
	}
	return changed
}

// mostLists is how many of somebody's own lists an idea remembers.
const mostLists = 20

// withLists adds a set of names to another; what does not fit any more stays out.
func withLists(to, names string) string {
	if names == "" {
		return to
	}
	var all []string
	if to != "" {
		all = strings.Split(to, sieve.LabelMark)
	}
	for _, name := range strings.Split(names, sieve.LabelMark) {
		if len(all) < mostLists && !slices.Contains(all, name) {
			all = append(all, name)
		}
	}
	return strings.Join(all, sieve.LabelMark)
}

// Sieve is one that was saved: core/sieve's, as JSON.
type Sieve struct {
	ID        uint
	Name      string
	Body      string
	CreatedAt time.Time
	ChangedAt time.Time
}

// Origin is one way an idea was found.
type Origin struct {
	IdeaID    uint
	Kind      string `holds:"t40"`   // one of sieve.FoundIn's names
	Query     string `holds:"t1000"` // what was asked, or the list it stood in
	Seed      string `holds:"t1000"`
	CreatedAt time.Time
}

// Seed is a phrase that ideas are grown from. FromIdea is the idea it was dug
// from, if it was.
type Seed struct {
	ID        uint
	NicheID   uint
	Phrase    string `holds:"t400"`
	FromIdea  *uint
	CreatedAt time.Time
}

// Evidence is what an idea was judged on: a document of a version. Body is kept
// compressed from version 2 on.
type Evidence struct {
	IdeaID  uint `gorm:"primaryKey"`
	Version int
	Body    []byte
}

// Answer is one answer of an outside source, kept with its source and time.
type Answer struct {
	Kind       string `gorm:"primaryKey"`
	Key        string `gorm:"primaryKey"`
	Source     string
	Body       []byte // compressed
	AskedAt    time.Time
	TookMS     int64
	CostMicros int64
}

// Decision is one keep, drop or neither, for undoing, or a change of labels or of a note:
// Labels or Note are then what was there. Those of one Batch were made at once.
type Decision struct {
	ID        uint
	NicheID   uint
	IdeaID    uint
	Batch     string
	Was       int8
	Became    int8
	Labels    *string
	Note      *string
	Moved     int8    // whether the idea left or came, too: see MovedOut and MovedIn
	Filled    *string // what an import filled was before, as JSON
	Person    string  // whose it is
	CreatedAt time.Time
}

// What a decision did with an idea besides.
const (
	MovedOut int8 = 1 // it was taken out of the niche
	MovedIn  int8 = 2 // an import put it in
)

// Job is a piece of long work.
type Job struct {
	ID         uint
	NicheID    uint
	Kind       string
	Title      string
	Params     string // JSON, the job kind's own
	State      string
	Message    string
	Found      int // new ideas, or ideas judged
	Lookups    int
	CostMicros int64  // from before there was a ledger
	Person     string // who started it
	Owner      string // the program that works on it
	Heartbeat  int64  `gorm:"column:beat"` // grows while the owner works on it
	CreatedAt  time.Time
	FinishedAt *time.Time
}

// States of a job.
const (
	Running   = "running"
	Stopped   = "stopped"   // by a source that does not answer; can go on
	Paused    = "paused"    // by the user; can go on
	Cancelled = "cancelled" // by the user, for good
	Done      = "done"
)

// JobItem is one step of a job.
type JobItem struct {
	ID      uint
	JobID   uint
	Seq     int
	Payload string
	State   string // "", done, failed
	Error   string
	Begun   int // how often it was begun and not ended, as far as nobody said that it was
}

// schema is the first state of the data file. Later ones are further migrations:
// a statement that has shipped is never edited.
var schema = []string{
	`CREATE TABLE niches (id INTEGER PRIMARY KEY, name TEXT NOT NULL, country TEXT NOT NULL, language TEXT NOT NULL,
		currency TEXT NOT NULL, own_site TEXT NOT NULL DEFAULT '', planned_links INTEGER NOT NULL DEFAULT 0,
		link_standing REAL NOT NULL, fit REAL NOT NULL, revision INTEGER NOT NULL DEFAULT 1,
		opened_at DATETIME NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE TABLE ideas (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, words INTEGER NOT NULL, variant_key TEXT NOT NULL, decision INTEGER NOT NULL DEFAULT 0,
		decided_at DATETIME, revision INTEGER NOT NULL, created_at DATETIME NOT NULL,
		demand_at DATETIME, demand_source TEXT NOT NULL DEFAULT '', demand_error TEXT NOT NULL DEFAULT '',
		searches INTEGER, under NUMERIC NOT NULL DEFAULT 0, months TEXT NOT NULL DEFAULT '', cpc_micros INTEGER,
		currency TEXT NOT NULL DEFAULT '', competition REAL, phrase_match INTEGER NOT NULL DEFAULT 0,
		broad_match INTEGER NOT NULL DEFAULT 0,
		judged_at DATETIME, judge_error TEXT NOT NULL DEFAULT '', difficulty REAL NOT NULL DEFAULT 0,
		reach REAL NOT NULL DEFAULT 0, page_one REAL NOT NULL DEFAULT 0, top_five REAL NOT NULL DEFAULT 0,
		expected REAL NOT NULL DEFAULT 0, footholds INTEGER NOT NULL DEFAULT 0, weakest REAL NOT NULL DEFAULT 0,
		want INTEGER NOT NULL DEFAULT 0, mixed NUMERIC NOT NULL DEFAULT 0)`,
	`CREATE UNIQUE INDEX ideas_phrase ON ideas (niche_id, phrase)`,
	`CREATE INDEX ideas_revision ON ideas (niche_id, revision)`,
	`CREATE TABLE origins (idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, kind TEXT NOT NULL,
		query TEXT NOT NULL, seed TEXT NOT NULL, created_at DATETIME NOT NULL,
		PRIMARY KEY (idea_id, kind, query))` + withoutRowID,
	`CREATE TABLE seeds (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, from_idea INTEGER REFERENCES ideas(id), created_at DATETIME NOT NULL)`,
	`CREATE UNIQUE INDEX seeds_phrase ON seeds (niche_id, phrase)`,
	`CREATE TABLE evidences (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, body BLOB NOT NULL)`,
	`CREATE TABLE answers (kind TEXT NOT NULL, key TEXT NOT NULL, source TEXT NOT NULL, body BLOB NOT NULL,
		asked_at DATETIME NOT NULL, took_ms INTEGER NOT NULL, cost_micros INTEGER NOT NULL, PRIMARY KEY (kind, key))`,
	`CREATE INDEX answers_asked ON answers (asked_at)`,
	`CREATE TABLE decisions (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, batch TEXT NOT NULL, was INTEGER NOT NULL,
		became INTEGER NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE INDEX decisions_niche ON decisions (niche_id, id)`,
	`CREATE TABLE jobs (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		kind TEXT NOT NULL, title TEXT NOT NULL, params TEXT NOT NULL, state TEXT NOT NULL, message TEXT NOT NULL DEFAULT '',
		found INTEGER NOT NULL DEFAULT 0, lookups INTEGER NOT NULL DEFAULT 0, cost_micros INTEGER NOT NULL DEFAULT 0,
		owner TEXT NOT NULL DEFAULT '', lease_until DATETIME NOT NULL, created_at DATETIME NOT NULL, finished_at DATETIME)`,
	`CREATE TABLE job_items (id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE,
		seq INTEGER NOT NULL, payload TEXT NOT NULL, state TEXT NOT NULL DEFAULT '', error TEXT NOT NULL DEFAULT '')`,
	`CREATE INDEX job_items_open ON job_items (job_id, state, seq)`,
	`CREATE TABLE tokens (key TEXT PRIMARY KEY, value BLOB NOT NULL, expires_at DATETIME)`,
}

const firstStep = "1-first"

// steps are what came after it, in order.
var steps = []struct {
	name       string
	statements []string
}{
	{"2-calibration", []string{`ALTER TABLE niches ADD COLUMN calibration TEXT NOT NULL DEFAULT ''`}},
	{"3-reach", []string{
		`ALTER TABLE ideas ADD COLUMN links_needed INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN locked NUMERIC NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN my_standing REAL`,
		`ALTER TABLE ideas ADD COLUMN my_links INTEGER`,
		`ALTER TABLE ideas ADD COLUMN my_fit REAL`,
		`UPDATE niches SET calibration = ''`, // so that the new columns are filled from the evidence
	}},
	{"4-columns", []string{
		`ALTER TABLE ideas ADD COLUMN season TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN lasting TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN found_in INTEGER NOT NULL DEFAULT 0`,
		// The bits are those of sieve.FoundIn as they were then.
		`UPDATE ideas SET found_in = (SELECT coalesce(sum(DISTINCT CASE kind WHEN 'seed' THEN 1
			WHEN 'completion' THEN 2 WHEN 'letter' THEN 4 WHEN 'question' THEN 8 WHEN 'list' THEN 16 ELSE 0 END), 0)
			FROM origins WHERE idea_id = ideas.id)`,
		`CREATE INDEX ideas_undemanded ON ideas (niche_id) WHERE demand_at IS NULL AND demand_error = ''`,
		`CREATE INDEX ideas_judged ON ideas (niche_id) WHERE judged_at IS NOT NULL`,
		`ALTER TABLE evidences ADD COLUMN version INTEGER NOT NULL DEFAULT 1`,
		`UPDATE niches SET calibration = ''`, // so that seasons are reckoned from the months
	}},
	{"5-ranges", []string{
		`ALTER TABLE ideas ADD COLUMN page_one_low REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN page_one_high REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN top_five_low REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN top_five_high REAL NOT NULL DEFAULT 0`,
		`UPDATE niches SET calibration = ''`, // so that the new columns are filled from the evidence
	}},
	{"6-sieves", []string{
		`CREATE TABLE sieves (id INTEGER PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE UNIQUE, body TEXT NOT NULL,
			created_at DATETIME NOT NULL, changed_at DATETIME NOT NULL)`,
		`ALTER TABLE niches ADD COLUMN usual_sieve INTEGER NOT NULL DEFAULT 0`,
	}},
	{"7-counts", []string{
		`ALTER TABLE ideas ADD COLUMN exact_pages INTEGER`,
		`ALTER TABLE ideas ADD COLUMN title_pages INTEGER`,
		`ALTER TABLE ideas ADD COLUMN pages_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN name_free NUMERIC`,
		`ALTER TABLE ideas ADD COLUMN free_names TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN names_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN count_error TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE niches ADD COLUMN endings TEXT NOT NULL DEFAULT 'com net org'`,
		`ALTER TABLE niches ADD COLUMN columns TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN labels TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN note TEXT NOT NULL DEFAULT ''`,
		`CREATE INDEX ideas_labelled ON ideas (niche_id, labels) WHERE labels <> ''`,
		`CREATE INDEX ideas_rare ON ideas (niche_id) WHERE judged_at IS NOT NULL OR pages_at IS NOT NULL OR
			names_at IS NOT NULL OR labels <> ''`,
	}},
	{"8-undo", []string{
		`ALTER TABLE decisions ADD COLUMN labels TEXT`,
		`ALTER TABLE decisions ADD COLUMN note TEXT`,
	}},
	{"9-ledger", []string{
		`CREATE TABLE ledger (id INTEGER PRIMARY KEY, call TEXT NOT NULL, event TEXT NOT NULL, question TEXT NOT NULL,
			key TEXT NOT NULL, micros INTEGER NOT NULL, job_id INTEGER NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX ledger_at ON ledger (at)`,
		`CREATE INDEX ledger_call ON ledger (call)`,
		`CREATE INDEX ledger_key ON ledger (question, key)`,
		`CREATE INDEX ledger_job ON ledger (job_id)`,
		addedToOnly("ledger")[0], addedToOnly("ledger")[1],
		`INSERT INTO ledger (call, event, question, key, micros, job_id, at)
			SELECT 'before ' || rowid, 'paid', kind, key, cost_micros, 0, asked_at FROM answers WHERE cost_micros > 0`,
		`DROP INDEX ideas_undemanded`,
		`CREATE INDEX ideas_unasked ON ideas (niche_id) WHERE demand_at IS NULL`,
		`ALTER TABLE jobs DROP COLUMN lease_until`,
		`ALTER TABLE jobs ADD COLUMN beat INTEGER NOT NULL DEFAULT 0`,
	}},
	{"10-long", []string{
		`CREATE TABLE longs (key TEXT PRIMARY KEY, body TEXT NOT NULL, used_at DATETIME NOT NULL)`,
		`CREATE INDEX longs_used ON longs (used_at)`,
		`DELETE FROM tokens`, // pages' tokens show by themselves now that they are ours
	}},
	{"11-unread", []string{
		`ALTER TABLE ideas ADD COLUMN unread INTEGER NOT NULL DEFAULT 0`,
		`UPDATE niches SET calibration = ''`, // so that it is filled from the evidence
	}},
	{"12-worth", []string{
		`ALTER TABLE ideas ADD COLUMN clicks REAL NOT NULL DEFAULT -1`,
		`ALTER TABLE niches ADD COLUMN visit_micros INTEGER NOT NULL DEFAULT 0`,
	}},
	{"13-topics", topicSteps},
	{"14-whose", []string{
		`ALTER TABLE decisions ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE jobs ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE ledger ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE topic_changes ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
	}},
	{"15-safe", []string{
		`CREATE TABLE acknowledged (id INTEGER PRIMARY KEY CHECK (id = 1), changes INTEGER NOT NULL)`,
		`INSERT INTO acknowledged (id, changes) VALUES (1, 0)`,
		`ALTER TABLE job_items ADD COLUMN begun INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE niches ADD COLUMN staged NUMERIC NOT NULL DEFAULT 0`,
		`ALTER TABLE niches ADD COLUMN archived_at DATETIME`,
		`ALTER TABLE niches ADD COLUMN deleted_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN removed_at DATETIME`,
		`ALTER TABLE niches ADD COLUMN removals INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE decisions ADD COLUMN moved INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE decisions ADD COLUMN filled TEXT`,
		`CREATE INDEX decisions_batch ON decisions (niche_id, batch)`,
		`ALTER TABLE ledger ADD COLUMN program INTEGER NOT NULL DEFAULT 0`,
		`CREATE TABLE sents (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, uid TEXT NOT NULL,
			says TEXT NOT NULL, sequence INTEGER NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (niche_id, uid))` + withoutRowID,
	}},
	{"16-leanings", []string{
		`CREATE TABLE fronts (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, engine TEXT NOT NULL,
			body BLOB NOT NULL)`,
		`CREATE TABLE leanings (niche_id INTEGER PRIMARY KEY REFERENCES niches(id) ON DELETE CASCADE, engine TEXT NOT NULL,
			model TEXT NOT NULL, pages INTEGER NOT NULL, body BLOB NOT NULL, at DATETIME NOT NULL)`,
		`UPDATE niches SET calibration = ''`, // so that what stands in front is taken from the evidence
	}},
	{"17-lists", []string{
		`ALTER TABLE ideas ADD COLUMN lists TEXT NOT NULL DEFAULT ''`,
		`UPDATE ideas SET lists = coalesce((SELECT group_concat(substr(query, 1, 190), char(31)) FROM (SELECT query
			FROM origins WHERE idea_id = ideas.id AND kind = 'list' ORDER BY created_at LIMIT 20)), '')
			WHERE found_in & 16 <> 0`,
	}},
	{"18-imports", []string{
		`CREATE TABLE imports (batch TEXT PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			name TEXT NOT NULL, added INTEGER NOT NULL, changed INTEGER NOT NULL, person TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX imports_niche ON imports (niche_id, at)`,
		`INSERT INTO imports (batch, niche_id, name, added, changed, person, at)
			SELECT batch, niche_id, substr(batch, instr(batch, ' ') + 1), count(*) FILTER (WHERE moved = 2),
			count(*) FILTER (WHERE moved <> 2), max(person), max(created_at) FROM decisions
			WHERE moved = 2 OR filled IS NOT NULL GROUP BY niche_id, batch`,
		`ALTER TABLE ideas ADD COLUMN searches_range TEXT NOT NULL DEFAULT ''`,
		`CREATE TABLE mappings (key TEXT PRIMARY KEY, body TEXT NOT NULL, at DATETIME NOT NULL)`,
	}},
	{"19-drawn", []string{`ALTER TABLE topics ADD COLUMN drawn TEXT NOT NULL DEFAULT ''`}},
}

// topicSteps are what topics brought.
var topicSteps = []string{
	`ALTER TABLE niches ADD COLUMN week_hours INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE niches ADD COLUMN kind_hours TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE niches ADD COLUMN lead_days INTEGER NOT NULL DEFAULT 90`,
	`ALTER TABLE niches ADD COLUMN week_start INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE niches ADD COLUMN scope TEXT NOT NULL DEFAULT 'kept'`,
	`ALTER TABLE niches ADD COLUMN shared INTEGER NOT NULL DEFAULT 3`,
	`ALTER TABLE niches ADD COLUMN plans INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE ideas ADD COLUMN clicks_low REAL NOT NULL DEFAULT -1`,
	`ALTER TABLE ideas ADD COLUMN clicks_high REAL NOT NULL DEFAULT -1`,
	`ALTER TABLE ideas ADD COLUMN article TEXT NOT NULL DEFAULT ''`,
	`CREATE TABLE founds (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, pages TEXT NOT NULL,
		stems TEXT NOT NULL, said TEXT NOT NULL)`,
	`CREATE TABLE topics (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		name TEXT NOT NULL DEFAULT '', lead_id INTEGER NOT NULL DEFAULT 0, phrase TEXT NOT NULL DEFAULT '',
		hub TEXT NOT NULL DEFAULT '', state TEXT NOT NULL DEFAULT '', place REAL NOT NULL DEFAULT 0,
		hours INTEGER NOT NULL DEFAULT 0, start TEXT NOT NULL DEFAULT '', deadline TEXT NOT NULL DEFAULT '',
		address TEXT NOT NULL DEFAULT '', published TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '',
		brief TEXT NOT NULL DEFAULT '', created_at DATETIME NOT NULL,
		changed_at DATETIME NOT NULL)`,
	`CREATE INDEX topics_niche ON topics (niche_id)`,
	`CREATE TABLE placements (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		topic_id INTEGER NOT NULL REFERENCES topics(id) ON DELETE CASCADE)`,
	`CREATE INDEX placements_niche ON placements (niche_id)`,
	`CREATE INDEX placements_topic ON placements (topic_id)`,
	`CREATE TABLE topic_changes (id INTEGER PRIMARY KEY,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, says TEXT NOT NULL, before TEXT NOT NULL,
		created_at DATETIME NOT NULL)`,
	`CREATE INDEX topic_changes_niche ON topic_changes (niche_id, id)`,
	`CREATE TABLE own_pages (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, url TEXT NOT NULL,
		title TEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (niche_id, url))` + withoutRowID,
	`CREATE TABLE actions (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, done TEXT NOT NULL, at DATETIME NOT NULL)`,
	`UPDATE niches SET calibration = ''`, // so that what was found is taken from the evidence
}

// migrate brings the file to the present schema; of one that was there a copy is kept.
func (s *Store) migrate(there bool) error {
	if there {
		if err := s.keepBefore(); err != nil {
			return err
		}
	}
	list := []*gormigrate.Migration{migration(firstStep, schema)}
	for _, step := range steps {
		list = append(list, migration(step.name, step.statements))
	}
	err := gormigrate.New(s.db, &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 64,
		UseTransaction: true, ValidateUnknownMigrations: true}, list).Migrate()
	if errors.Is(err, gormigrate.ErrUnknownPastMigration) {
		return &Trouble{Says: "the data file was written by a newer version of this program",
			Do: "use that one, or bring back the copy that it kept from before", Err: err}
	}
	return TroubleIn(err)
}

func migration(name string, statements []string) *gormigrate.Migration {
	return &gormigrate.Migration{ID: name, Migrate: func(tx *gorm.DB) error {
		for _, statement := range statements {
			if err := tx.Exec(statement).Error; err != nil {
				return fmt.Errorf("%.60s…: %w", statement, err)
			}
		}
		return nil
	}}
}
