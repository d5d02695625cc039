// Package store keeps everything in one file: niches, ideas and where
// they came from, every answer of the outside world, evidence, decisions, jobs.
package store

import (
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"cleverniche/core/sieve"
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
	Unwanted     string  `holds:"t2000"`  // words and phrases that no gathered idea may hold, between commas
	Pen          string  `holds:"t20000"` // what was written down for each prompt, as JSON; "" nothing
	VisitMicros  int64   `holds:"0..1e9"` // what a visit brings, in millionths of the currency; 0 is not said
	Earning      string  `holds:"t400"`   // how visits become money, as JSON; "" the usual way
	Columns      string  `holds:"t2000"`  // of its list: keys of figures, each with its width if it has one
	TenColumns   string  `holds:"t400"`   // of the top ten of an idea; "" the usual ones
	Depth        int     `holds:"0..100"` // results looked up; 0 as the settings say
	Elsewhere    string  `holds:"t1000"`  // other engines, countries and languages that are looked at, as JSON; "" none
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
	ListOf     uint       // it is a list that is checked, apart from the niche of that ID; 0 none
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
	FoundIn    int  `figure:"sources" fills:"found" holds:"0..65535"` // a bit for each of sieve.FoundIn's names
	BranchID   uint // by which it came first; 0 none
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

	// How steady its results are, over the snapshots that are kept, and how many those are.
	Steadiness *float64 `figure:"steadiness" fills:"weeks" holds:"0..1"`
	Weeks      int      `fills:"weeks" holds:"0..1000"`
	WeekError  string   `fills:"weeks" holds:"t2000"` // why past weeks are not known
	// Youngest is the age in years, when it was looked at, of the youngest site among the ten of which that is known.
	Youngest *float64   `figure:"youngest" fills:"ages" holds:"0..100"`
	AgesAt   *time.Time `fills:"ages"`
	AgeError string     `fills:"ages" holds:"t2000"`
	// Alike is the share of the top ten that stands in those of other engines and countries, too.
	Alike          *float64   `figure:"alike" fills:"elsewhere" holds:"0..1"`
	ElsewhereAt    *time.Time `fills:"elsewhere"`
	ElsewhereError string     `fills:"elsewhere" holds:"t2000"`

	Labels string `figure:"labels" holds:"t500"` // of the user's, with sieve.LabelMark between them
	// Lists are the names of the user's own lists that it stood in, the same way.
	Lists string `figure:"lists" fills:"found" holds:"t4000"`
	Note  string `figure:"note" holds:"t2000"`

	// What the latest search report said of my pages: the mean place, clicks, times shown, and which page.
	MyPlace  *float64 `figure:"your-place" fills:"found" holds:"0..10000"`
	MyClicks *int     `figure:"your-clicks" fills:"found" holds:"0..1e12"`
	MyShown  *int     `figure:"times-shown" fills:"found" holds:"0..1e12"`
	MyPage   string   `fills:"found" holds:"t2000"`

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

	// Whether it is about the niche's subject, as core/subject tells it, which other strays it hangs together with, and
	// why; and what somebody said of it.
	Side     int8   `fills:"subject" holds:"0..2"`
	Part     int    `fills:"subject" holds:"-1..1e6"`
	SideWhy  string `figure:"subject-why" fills:"subject" holds:"t400"`
	SideHand int8   `holds:"0..2"`

	// What I could put there for this idea, where it differs from the niche.
	MyStanding *float64 `fills:"supposed" holds:"0..100"`
	MyLinks    *int     `fills:"supposed" holds:"0..200"`
	MyFit      *float64 `fills:"supposed" holds:"0..100"`
	MyTilt     *float64 `fills:"supposed" holds:"-1..1"` // of the engine, see difficulty.Model.Tilted
}

// What fills columns of an idea; a column's fills tag names those that fill it.
const (
	byDemand   = "demand"   // a demand source's answer; the cost apart, which a source may not know
	byCost     = "cost"     // the same, where it knows the cost
	byTop      = "ten"      // the lookup of the top ten; the other lookups have keys of their own
	byForecast = "forecast" // of these, what a forecast gives
	byWeeks    = "weeks"    // the snapshots of its results
	byMonths   = "lasting"  // what is reckoned from monthly searches
	bySupposed = "supposed" // what a user supposes for one idea
	bySubject  = "subject"  // what tells strays
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

// Branch is what brings ideas: a way in which a seed grows, or a list. An idea is on the branch by which it came first.
type Branch struct {
	ID      uint
	NicheID uint
	Kind    string // one of sieve.FoundIn's names
	Seed    string // what grows, or the list's name
	From    uint   `gorm:"->"` // the branch of the idea that the seed was dug from; 0 none
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

// Gathering is one that is kept, to be done again.
type Gathering struct {
	ID        uint
	NicheID   uint
	Name      string
	Body      string // its seeds and settings, as JSON
	Weekly    bool   // it is done every week by itself
	RunAt     *time.Time
	JobID     uint // that did it last
	After     uint // the last idea that was there before it did
	CreatedAt time.Time
	RemovedAt *time.Time
}

// History is what the results of an idea were, look-up by look-up: core/serp's, as JSON, compressed.
type History struct {
	IdeaID uint `gorm:"primaryKey"`
	Body   []byte
}

// Nearest is the wording of an idea that is searched, where it is not itself.
type Nearest struct {
	IdeaID   uint   `gorm:"primaryKey"`
	Phrase   string // "" where none is like it
	Searches int
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

// Decision is one keep, drop or neither, for undoing, or a change of labels, of a note or of what was said of its
// subject: Labels, Note or Side are then what was there. Those of one Batch were made at once.
type Decision struct {
	ID        uint
	NicheID   uint
	IdeaID    uint
	Batch     string
	Was       int8
	Became    int8
	Labels    *string
	Note      *string
	Side      *int8   // what was said of its subject before
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
