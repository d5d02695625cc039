package sieve

import (
	"fmt"
	"math"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
)

// The figures, each with the criteria that go by it. What has a Heading is a column of
// the list, in this order; what has Export one of exported files.
var (
	Phrase = figure(Figure{Key: "idea", Name: "phrase", Heading: "Idea", Export: true, Brief: true,
		SmallestFirst: true, wide: true})
)

var (
	Decided = figure(Figure{Key: "decision", Name: "decision", Form: Name, Names: []string{"", "kept", "dropped"},
		From: FromUser, Export: true, Brief: true})

	ByDecision = criterion(Criterion{Key: "show", Name: "ideas", Control: OneOf, Figure: Decided, Open: "all",
		Usual: true, always: true,
		Choices: []Choice{{choiceOpen, "not dropped"}, {choiceKept, "kept"}, {choiceDropped, "dropped"}},
		within: func(m Filter) (int64, int64) {
			switch m.Choice {
			case choiceKept:
				return int64(Kept), int64(Kept)
			case choiceDropped:
				return int64(Dropped), int64(Dropped)
			}
			return int64(Undecided), int64(Kept)
		}})
)

var (
	Length = figure(Figure{Key: "words", Name: "words", Heading: "Words", Form: Count})

	ByLength = criterion(Criterion{Key: "words", Start: 4, Name: "words at least", Unit: "words", Figure: Length, Most: 20,
		Usual: true, always: true, within: atLeast})
)

var (
	Searches = figure(Figure{Key: "searches", Name: "searches", Heading: "Searches", Unit: "searches a month",
		Form: Count, Drawn: Year, From: FromDemand, Export: true, Brief: true,
		Means: "Average searches a month, over the latest twelve months.",
		Says: func(of Known) string {
			if v := of("source"); of("searches").Under {
				return "Too rare for " + v.Text + " to measure: fewer than this a month, but not zero."
			}
			return ""
		}})
	UnderFloor = figure(Figure{Key: "under", Name: "under floor", Form: Yes, From: FromDemand, Export: true,
		Unheld: true, Means: "Whether the searches are only known to be fewer."})

	ByLeastSearches = criterion(Criterion{Key: "searches-from", Start: 100, Was: "from", Name: "searches at least",
		Unit: "searches a month", Figure: Searches, Usual: true, Lets: "include ideas too rare to measure", within: atLeast})
	ByMostSearches = criterion(Criterion{Key: "searches-to", Start: 5000, Was: "to", Name: "searches at most",
		Unit: "searches a month", Figure: Searches, Usual: true, lenient: true, within: atMost})
	ByVisits = criterion(Criterion{Key: "visits", Start: 10, Name: "visits a day in first place at least",
		Unit: "visits a day", Figure: Searches, Places: 1,
		within: func(m Filter) (int64, int64) {
			return atLeast(Filter{By: m.By, Number: m.Number / worth.VisitsADay(1)})
		}})
)

// What goes by the words of the phrase.
var (
	ByHolding = criterion(Criterion{Key: "holds", Name: "contains any of", Control: Words, Hint: "best, …", Usual: true,
		text: func(t *Table, m Filter, out Set) { t.text.mark(m.Terms, anywhere, t.n, out) }})
	ByLacking = criterion(Criterion{Key: "lacks", Name: "contains none of", Control: Words, Hint: "jobs, …", Usual: true,
		text: func(t *Table, m Filter, out Set) {
			t.text.mark(m.Terms, anywhere, t.n, out)
			out.not(t.n)
		}})
	ByFitting = criterion(Criterion{Key: "fits", Name: "fits a pattern", Control: Words, Hint: "can you see *, …",
		gaps: true, text: func(t *Table, m Filter, out Set) { t.text.fit(m.Terms, t.n, out) }})
	ByEdges = criterion(Criterion{Key: "starts", Name: "starts or ends with", Control: Edges, Hint: "best, …",
		text: func(t *Table, m Filter, out Set) {
			t.text.mark(m.Terms, atStart, t.n, out)
			t.text.mark(m.Ends, atEnd, t.n, out)
		}})
	ByNoPlace = criterion(Criterion{Key: "no-place", Name: "names no place", Control: Switch,
		text: func(t *Table, _ Filter, out Set) {
			t.text.shaped(phrase.Place, t.n, out)
			out.not(t.n)
		}})
	ByShape = criterion(Criterion{Key: "shape", Name: "shape", Control: OneOf, Choices: choices(phrase.AllShapes),
		text: func(t *Table, m Filter, out Set) { t.text.shaped(phrase.Shape(m.Choice), t.n, out) }})
)

var (
	CPC = figure(Figure{Key: "cpc", Name: "cpc", Heading: "CPC", Unit: "a click", Form: Amount, From: FromDemand,
		Places: 2, Export: true, Brief: true, scale: millionths, wide: true,
		Means: "Cost per click: what advertisers pay."})
	Currency = figure(Figure{Key: "currency", Name: "currency", From: FromDemand, Export: true, Unheld: true,
		Means: "Currency of the cost per click."})
	Ads = figure(Figure{Key: "ads", Name: "ad competition", Heading: "Ad competition", Form: Percent, From: FromDemand,
		Places: 6, Export: true, scale: millionths,
		Means: "Competition among advertisers. It is not difficulty."})
	ByCost = criterion(Criterion{Key: "cpc", Start: 0.5, Name: "cost per click at least",
		Figure: CPC, Places: 2, within: atLeast})
)

var (
	Difficulty = figure(Figure{Key: "difficulty", Name: "difficulty", Heading: "Difficulty", Form: Scale, Drawn: Ramp,
		From: FromTen, Places: 1, Locked: "locked", Export: true, Brief: true, SmallestFirst: true, scale: hundredths,
		whole: true, finer: "top-five", // at the ends of the scale, where many are equal, order goes by strength
		Means: "The site standing that the top five needs, from a well-made page without links.",
		Says: func(of Known) string {
			if of("locked").Number == 1 {
				return "Locked: the phrase names a brand whose own site ranks first, or asks for something near a place."
			}
			return difficulty.Says(of("difficulty").Number, "my page counts as", of("reach").Number, ranged(of, "top-five"))
		}})
	Reach = figure(Figure{Key: "reach", Name: "reach", Form: Scale, From: FromTen, Places: 1, Export: true,
		Unheld: true, Means: "Your reach: what a page of yours counts as, in points of site standing."})
	PageOne = figure(Figure{Key: "chance", Name: "page-one chance", Heading: "Page one", Form: Percent, Drawn: Ladder,
		From: FromTen, Places: 4, Locked: "none", Export: true, Brief: true, scale: millionths,
		Means: "Your chance of page one. Dark rungs: sure, whatever the engine leans on. Pale rungs: possible.",
		Says: func(of Known) string {
			if of("locked").Number == 1 {
				return "No chance: it is locked."
			}
			return fmt.Sprintf("Page one: %s. Top five: %s.", ranged(of, "chance"), ranged(of, "top-five"))
		}})
	Footholds = figure(Figure{Key: "footholds", Name: "footholds", Heading: "Footholds", Form: Count, From: FromTen,
		Export: true, Brief: true, Means: "How many of the top ten are weak enough to outrank: small sites with few " +
			"links, forums, titles without the phrase. The stairs name them."})
	Intent = figure(Figure{Key: "wants", Name: "intent", Heading: "Intent", Form: Name, Names: names(intent.All[:]),
		From: FromTen, Export: true, Brief: true, SmallestFirst: true,
		Means: "What searchers want to do, by what the top ten offer. With a +, the results serve other intents, too.",
		Says: func(of Known) string {
			says := "In the trade: " + intent.Class(of("wants").Number).Standard() + "."
			if of("mixed").Number == 1 {
				says += " Mixed: the results serve other intents, too."
			}
			return says
		}})
	Mixed = figure(Figure{Key: "mixed", Name: "mixed", Form: Yes, From: FromTen, Unheld: true,
		Means: "Whether searchers want clearly more than one thing."})
)

var (
	LookedUp = figure(Figure{Key: "judged", Name: "looked up", Form: Moment, From: FromTen, Export: true,
		wide: true, Means: "When the top ten were looked up."})
	SearchesSource = figure(Figure{Key: "source", Name: "searches from", From: FromDemand, Export: true, Unheld: true,
		Means: "Where the searches come from."})
	Locked = figure(Figure{Key: "locked", Name: "locked", Form: Yes, From: FromTen, Export: true, Unheld: true,
		Means: "Whether the phrase names a brand whose own site ranks first."})

	ByLookedUp = criterion(Criterion{Key: "judged", Name: "looked up", Control: Switch, Figure: LookedUp, Usual: true,
		within: isKnown})
	ByPageOne = criterion(Criterion{Key: "page-one", Start: 50, Name: "page-one chance at least", Unit: "%",
		Figure: PageOne,
		Most:   100, within: percent})
	ByMostDifficulty = criterion(Criterion{Key: "difficulty", Start: 20, Name: "difficulty at most", Figure: Difficulty,
		Most: 100, Usual: true, Zero: true, within: asShown})
	ByLeastDifficulty = criterion(Criterion{Key: "difficulty-from", Start: 20, Name: "difficulty at least",
		Figure: Difficulty, Most: 100,
		within: func(m Filter) (int64, int64) {
			return bound(math.Ceil(m.Number)*hundredths - hundredths/2), mostValue // as it is shown
		}})
	ByLeastFootholds = criterion(Criterion{Key: "footholds", Start: 4, Name: "footholds at least",
		Figure: Footholds, Most: 10,
		Usual: true, within: atLeast})
	ByIntent = criterion(Criterion{Key: "wants", Name: "intent", Control: OneOf, Figure: Intent,
		Choices: lower(intent.All[:]),
		within: func(m Filter) (int64, int64) {
			w, _ := intent.Parse(m.Choice)
			return int64(w), int64(w)
		}})
)

// Files have these behind the others, which were there first.
var (
	Share = figure(Figure{Key: "share", Name: "share in this word order", Form: Percent, From: FromDemand, Places: 4,
		Export: true, scale: millionths,
		Means: "Of all searches with these words in any order, the share in this order."})

	ByShare = criterion(Criterion{Key: "share", Start: 15, Name: "share in this word order at least", Unit: "%",
		Figure: Share, Most: 100,
		within: percent})
)

var (
	Coming = figure(Figure{Key: "season", Name: "season", Form: Name, Names: []string{"none", "seasonal"},
		From: FromDemand, Export: true,
		Means: "Whether searches rise and fall each year, from two or more years of data."})
	Trend = figure(Figure{Key: "trend", Name: "trend", Form: Name, Names: names(lastings), From: FromDemand,
		Export: true, Means: "Whether the searches last, by trend and season of the months."})

	BySeason = criterion(Criterion{Key: "season", Name: "season", Control: OneOf, Figure: Coming,
		Choices: []Choice{{"seasonal", "with a season"}, {"none", "without a season"}},
		within: func(m Filter) (int64, int64) {
			k := Coming.raw(Coming.Named(m.Choice))
			return k, k
		}})
	ByTrend = criterion(Criterion{Key: "trend", Name: "trend", Control: OneOf, Figure: Trend,
		Choices: append(choices(lastings), Choice{choiceNotFading, choiceNotFading}),
		passes: func(m Filter) func(int64) bool {
			fade, flash := Trend.raw(Trend.Named(string(demand.Fade))), Trend.raw(Trend.Named(string(demand.Flash)))
			is := Trend.raw(Trend.Named(m.Choice))
			return func(v int64) bool {
				return v >= 0 && (v == is || m.Choice == choiceNotFading && v != fade && v != flash)
			}
		}})
)

var (
	FoundIn = figure(Figure{Key: "sources", Name: "came from", Form: Several, Export: true,
		Names: []string{"seed", "completion", "letter", "question", "list", "preposition", "comparison",
			"between", "related", "pattern", "combination", "page", "ranking"},
		Means: "How the idea was found."})
	Lists = figure(Figure{Key: "lists", Name: "your lists", Form: Marks, From: FromUser, Export: true,
		Means: "The lists of your own that the idea stood in."})
	SearchRange = figure(Figure{Key: "range", Name: "searches range", From: FromDemand, Export: true, Unheld: true,
		Means: "What your list gives instead of a number. The searches are its middle, on a scale of tenfold steps."})
	MyPlace = figure(Figure{Key: "your-place", Name: "your place", Unit: "in the results", Form: Tenths, From: FromUser,
		Places: 1, Export: true, SmallestFirst: true, scale: hundredths,
		Means: "Where a page of yours stood on average, by your latest search report."})
	MyClicks = figure(Figure{Key: "your-clicks", Name: "your clicks", Form: Count, From: FromUser, Export: true,
		Means: "Clicks on your pages, by your latest search report."})
	MyShown = figure(Figure{Key: "times-shown", Name: "times shown", Form: Count, From: FromUser, Export: true, wide: true,
		Means: "How often a page of yours was shown in results, by your latest search report."})
	Branch = figure(Figure{Key: "branch", Name: "branch", Form: Hidden, marks: true,
		Means: "Where the idea came down from: seeds, the ways in which they grew, or your list."})
	Found = figure(Figure{Key: "found", Name: "found", Form: Count, wide: true,
		Means: "The order in which ideas came."})

	BySource = criterion(Criterion{Key: "source", Name: "came from", Control: OneOf, Figure: FoundIn, always: true,
		Choices: choices(FoundIn.Names),
		passes: func(m Filter) func(int64) bool {
			bit := FoundIn.raw(FoundIn.Named(m.Choice))
			return func(v int64) bool { return bit >= 0 && v>>bit&1 == 1 }
		}})
	ByMyPlace = criterion(Criterion{Key: "your-place", Start: 20, Name: "your place at most", Figure: MyPlace, Most: 1000,
		within: atMost})
	ByBranch = criterion(Criterion{Key: "branch", Name: "under the branch", Control: OneOf, Figure: Branch, always: true,
		own: true, Choices: []Choice{{"", "choose a branch"}},
		passes: func(m Filter) func(int64) bool { return labelled(m.Choice) }})
	ByList = criterion(Criterion{Key: "list", Name: "on your list", Control: OneOf, Figure: Lists, always: true, own: true,
		Choices: []Choice{{"", "choose a list"}}, passes: func(m Filter) func(int64) bool { return labelled(m.Choice) }})
)

var (
	ExactPages = figure(Figure{Key: "exact", Name: "pages with the exact phrase", Form: Count, wide: true,
		From:   FromTotals,
		Export: true, SmallestFirst: true,
		Means: "How many pages hold the exact phrase, as the search engine counts them."})
	TitlePages = figure(Figure{Key: "titles", Name: "pages with the phrase in the title", Form: Count, wide: true,
		From: FromTotals, Export: true, SmallestFirst: true,
		Means: "How many pages hold the exact phrase in their title, as the search engine counts them."})
	FreeName = figure(Figure{Key: "free", Name: "domain available", Form: Yes, From: FromNames, Export: true,
		Means: "Whether the phrase as one word is available under this niche's domain endings."})

	NearName = figure(Figure{Key: "near", Name: "similar domain available", Form: Yes, From: FromNames, Export: true,
		Means: "Whether that domain is available, or a similar one: with a hyphen, or a word before or after."})

	Youngest = figure(Figure{Key: "youngest", Name: "youngest site in the top ten", Unit: "years", Form: Level,
		From: FromAges, Places: 1, Export: true, SmallestFirst: true, scale: hundredths,
		Means: "Years since the youngest site among the top ten was registered, of those that the registry dates."})
	Steadiness = figure(Figure{Key: "steadiness", Name: "steadiness of the results", Form: Percent, From: FromWeeks,
		Places: 2, Export: true, scale: millionths,
		Means: "How alike successive snapshots of the top ten are, first places first (rank-biased overlap)."})

	Alike = figure(Figure{Key: "alike", Name: "same elsewhere", Form: Percent, From: FromElsewhere, Places: 2,
		Export: true, scale: millionths,
		Means: "How much of the top ten stands in those of the other engines and countries, too, on average."})

	ByAlike = criterion(Criterion{Key: "alike-to", Start: 50, Name: "same elsewhere at most", Unit: "%",
		Figure: Alike, Most: 100, within: percentAtMost})
	ByYoungest = criterion(Criterion{Key: "youngest", Start: 3, Name: "youngest site in the top ten at most",
		Unit: "years", Figure: Youngest, Most: 100, Places: 1, within: atMost})
	ByRestless = criterion(Criterion{Key: "steady-to", Start: 70, Name: "steadiness of the results at most", Unit: "%",
		Figure: Steadiness, Most: 100, within: percentAtMost})
	ByExact = criterion(Criterion{Key: "exact", Start: 30000, Name: "pages with the exact phrase at most", Unit: "pages",
		Figure: ExactPages,
		within: atMost})
	ByTitles = criterion(Criterion{Key: "titles", Start: 10000, Name: "pages with the phrase in the title at most",
		Unit: "pages", Figure: TitlePages, within: atMost})
	ByName = criterion(Criterion{Key: "name-free", Name: "domain available", Control: Switch, Figure: FreeName,
		within: isTrue})
	ByNear = criterion(Criterion{Key: "near-free", Name: "domain or a similar one available", Control: Switch,
		Figure: NearName, within: isTrue})
)

var (
	TopFive = figure(Figure{Key: "top-five", Name: "top-five chance", Form: Percent, From: FromTen, Places: 4,
		Export: true, scale: millionths,
		Means: "Your chance that a well-made page gets among the first five."})
	Weakest = figure(Figure{Key: "weakest", Name: "weakest of the top five", Form: Level, From: FromTen, Places: 1,
		Export: true, SmallestFirst: true, scale: hundredths, whole: true,
		Means: "The lowest site standing among the first five."})
	LinksNeeded = figure(Figure{Key: "links", Name: "links needed", Form: Count, From: FromTen, Export: true,
		SmallestFirst: true, Means: "Solid links the page needs for a 50% chance of the top five."})
	Worth = figure(Figure{Key: "worth", Name: "worth", Unit: "a month", Form: Amount, From: FromTen, Places: 2,
		Export: true, scale: millionths, wide: true,
		Means: "What you could earn a month: searches × the clicks to expect " +
			"by your chances × what a visit brings you (Settings). Of a topic: all its phrases together, those that are " +
			"not looked up by the chances of its lead."})

	WorthLow  = worthEnd("low", "least")
	WorthHigh = worthEnd("high", "most")

	ByTopFive = criterion(Criterion{Key: "top-five", Start: 50, Name: "top-five chance at least", Unit: "%",
		Figure: TopFive,
		Most:   100, within: percent})
	ByWeakest = criterion(Criterion{Key: "weakest", Start: 20, Name: "weakest of the top five at most", Figure: Weakest,
		Most: 100, Zero: true, within: asShown})
	ByLinks = criterion(Criterion{Key: "links-needed", Start: 20, Name: "links needed at most", Unit: "solid links",
		Figure: LinksNeeded, Zero: true, within: atMost})
	Variant = figure(Figure{Key: "variant", Name: "wording", Form: Hidden, wide: true,
		Means: "What tells wordings of one thing: its words, whatever their order and form."})
	Labels = figure(Figure{Key: "labels", Name: "labels", Form: Marks, From: FromUser, Export: true,
		Means: "Your own labels."})
	Note = figure(Figure{Key: "note", Name: "note", From: FromUser, Export: true, Unheld: true,
		Means: "Your own note."})

	ByLabel = criterion(Criterion{Key: "label", Name: "label", Control: OneOf, Figure: Labels, always: true, own: true,
		Choices: []Choice{{"", "choose a label"}}, passes: func(m Filter) func(int64) bool { return labelled(m.Choice) }})

	Ceiling = figure(Figure{Key: "ceiling", Name: "ad value", Unit: "a month", Form: Amount,
		From: FromDemand, Places: 2, Export: true, scale: hundredths, wide: true,
		Means: "The size of the ad market: searches × cost per click. An upper limit, not a forecast."})
	FirstVisits = figure(Figure{Key: "first-visits", Name: "visits a day at no. 1", Form: Tenths,
		From: FromDemand, Places: 1, Export: true, scale: hundredths, wide: true,
		Means: "Visits a day that no. 1 brings: the trade counts 42% of searches as clicks on it."})
	Beyond = figure(Figure{Key: "beyond", Name: "points beyond your reach", Form: Scale, From: FromTen, Places: 1,
		Export: true, SmallestFirst: true, scale: hundredths,
		Means: "How far the difficulty is above your reach. 0: a 50% chance of the top five or better."})
	Unread = figure(Figure{Key: "unread", Name: "unread pages in the top ten", Form: Count, From: FromTen, Export: true,
		SmallestFirst: true, Means: "How many of the top ten could not be read and are left out."})
	ByUnread = criterion(Criterion{Key: "unread", Name: "unread pages in the top ten at most", Unit: "pages",
		Figure: Unread, Most: 10, Zero: true, within: atMost})

	PageOneLow  = chanceEnd(PageOne, "low", "least")
	PageOneHigh = chanceEnd(PageOne, "high", "most")
	_           = chanceEnd(TopFive, "low", "least")
	_           = chanceEnd(TopFive, "high", "most")

	ByBeyond = criterion(Criterion{Key: "beyond", Name: "beyond your reach by at most", Unit: "points", Figure: Beyond,
		Most: 100, Zero: true, Hint: "0 = within reach", within: asShown})
	ByRank = criterion(Criterion{Key: "rank", Start: 50, Name: "worth among the first", Unit: "ideas",
		Figure: Worth, ranked: true})
)

// What an idea is about.
var (
	Subject = figure(Figure{Key: "subject", Name: "subject", Form: Name, Names: []string{"on the subject",
		"off the subject"}, Export: true,
		Means: "Whether it is about this niche's subject, or only shares its words: told by who stands for it, by its " +
			"words, or by you.",
		Says: func(of Known) string { return of("subject-why").Text }})
	SubjectWhy = figure(Figure{Key: "subject-why", Name: "subject because", Unheld: true, Export: true,
		Means: "Why it counts as on or off the subject."})

	BySubject = criterion(Criterion{Key: "subject", Name: "subject", Control: OneOf, Figure: Subject,
		always: true, Choices: []Choice{{choiceNotOff, "not off the subject"}, {choiceOff, "off the subject"}},
		passes: func(m Filter) func(int64) bool {
			off := Subject.raw(Subject.Named("off the subject"))
			return func(v int64) bool { return (v == off) == (m.Choice == choiceOff) }
		}})
)

// What is known of topics alone, and the kind of article that an idea asks for.
var (
	Members = figure(Figure{Key: "wordings", Name: "phrases", Heading: "", Form: Count, OfTopics: true,
		Means: "How many phrases one article answers."})
	Article = figure(Figure{Key: "article", Name: "kind of article", Form: Name, Names: names(serp.Articles),
		From: FromTen, Export: true, SmallestFirst: true,
		Means: "What most of the top ten are, among what a niche site can write."})

	ByArticle = criterion(Criterion{Key: "article", Name: "kind of article", Control: OneOf, Figure: Article,
		Choices: choices(serp.Articles), within: func(m Filter) (int64, int64) {
			k := Article.raw(Article.Named(m.Choice))
			return k, k
		}})
)

// worthEnd is the least or the most that an idea may be worth.
func worthEnd(key, end string) *Figure {
	return figure(Figure{Key: "worth-" + key, Name: "worth " + end, Unit: "a month", Form: Amount, From: FromTen,
		Places: 2, Export: true, End: true, scale: millionths, wide: true, Means: fmt.Sprintf(
			"The %s that it may be worth a month, by what the engine may lean on.", end)})
}

// chanceEnd is the least or the most that a chance may be, by what engines may lean on.
func chanceEnd(of *Figure, key, end string) *Figure {
	return figure(Figure{Key: of.Key + "-" + key, Name: of.Name + " " + end, Form: Percent, From: FromTen, Places: 4,
		Export: true, Unheld: true,
		Means: fmt.Sprintf("The %s that the %s may be, by what the engine may lean on.", end, of.Name)})
}

// Ranged is a chance with its range, as a row has it.
func (f *Figure) Ranged(r Row) difficulty.Range {
	return ranged(func(key string) Value { return r.Value(FigureNamed(key)) }, f.Key)
}

// ranged is a chance with its range, as known of a row.
func ranged(of Known, chance string) difficulty.Range {
	high := of(chance + "-high")
	r := difficulty.Range{Mean: of(chance).Number, Low: of(chance + "-low").Number, High: high.Number}
	if !high.Known {
		r.Low, r.High = r.Mean, r.Mean
	}
	return r
}

// What filters choose among that no other package names.
const (
	choiceOpen      = "open"
	choiceKept      = "kept"
	choiceDropped   = "dropped"
	choiceNotFading = "not fading"
	choiceOff       = "off"
	choiceNotOff    = "on"
)

var lastings = []demand.Lasting{demand.Evergreen, demand.Seasonal, demand.Rise, demand.Fade, demand.Flash}

func names[T any](list []T) []string {
	out := make([]string, len(list))
	for i, one := range list {
		out[i] = fmt.Sprint(one)
	}
	return out
}

func choices[T any](list []T) []Choice {
	out := make([]Choice, len(list))
	for i, name := range names(list) {
		out[i] = Choice{name, name}
	}
	return out
}

// lower are choices whose keys are in lower case.
func lower[T any](list []T) []Choice {
	out := choices(list)
	for i := range out {
		out[i].Key = strings.ToLower(out[i].Key)
	}
	return out
}
