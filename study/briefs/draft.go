package briefs

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"cleverniche/core/intent"
	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/topic"
	"cleverniche/study/articles"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// draft is what a brief's sections are made of.
type draft struct {
	niche    niches.Niche
	topics   *topics.Topics
	article  articles.Article
	plan     plan.Brief
	evidence results.Evidence
}

// part is one section of a brief.
type part struct {
	key, name string
	live      bool // told from my own plan and calendar: it follows them
	lines     func(d draft) []string
}

// parts are the sections of a brief, in their order: who reads it, why it can win, what to write, and at the end what
// only the editor needs.
var parts = []part{
	{sectionTitle, "Title", false, func(d draft) []string { return d.plan.Titles }},
	{"reader", "Who reads it, and what they can do afterwards", false, draft.reader},
	{"kind", "Kind of article", false, draft.kind},
	{"length", "Length", false, draft.length},
	{"win", "Why you can win: the top ten", false, draft.win},
	{"address", "Address and description", false, draft.address},
	{"answer", "Answer first", false, draft.answer},
	{sectionHeadings, "Outline, from headings in the top ten", false, draft.headings},
	{"apart", "What does not belong here", true, draft.apart},
	{"questions", "Questions to answer", false, draft.questions},
	{"lack", "What the weak results lack", false, func(d draft) []string { return d.plan.Lack }},
	{"facts", "Tables, steps and videos in the top ten", false, func(d draft) []string { return d.plan.Facts }},
	{"wordings", "Other phrases to cover", true, draft.wordings},
	{"mention", "Words most of the top ten use", false, draft.mention},
	{"links", "Internal links", true, draft.links},
	{"solid", "Links to get from other sites", false, draft.solid},
	{"when", "When to publish (editor)", true, draft.when},
	{"brings", "Chance, visits and income (editor)", true, draft.brings},
	{sectionNote, "Notes", true, func(d draft) []string { return splitLines(d.article.Note) }},
}

// sections are the parts of a brief as they are proposed.
func (d draft) sections() (out []Section) {
	for _, p := range parts {
		lines := p.lines(d)
		out = append(out, Section{Key: p.key, Name: p.name, Lines: lines, Asked: lines})
	}
	return out
}

func (d draft) kind() []string {
	line := string(d.plan.Kind)
	if d.plan.Also != "" {
		line += fmt.Sprintf("; some readers want %s", d.plan.Also.One())
	}
	return []string{line}
}

func (d draft) length() []string {
	if d.plan.Words == 0 {
		return nil
	}
	fifty := func(n int) int { return max(50, (n+25)/50*50) }
	least, most := fifty(d.plan.Least), fifty(d.plan.Most)
	p := message.NewPrinter(language.English)
	if least == most {
		return []string{p.Sprintf("About %d words", most)}
	}
	return []string{p.Sprintf("%d to %d words, like half of the results that fit", least, most)}
}

// read is what is counted in: page one, or those of it that were read.
func (d draft) read() string {
	if d.plan.Read < len(d.evidence.Reading.Ten()) {
		return fmt.Sprintf("the %d results that were read", d.plan.Read)
	}
	return "the top ten"
}

func (d draft) questions() (out []string) {
	for _, q := range d.plan.Questions {
		line := d.plan.Sentence(q.Text) + "?"
		switch {
		case d.plan.Read == 0:
		case q.Have == 0:
			line += fmt.Sprintf(" (not answered in %s)", d.read())
		case q.Have == 1:
			line += fmt.Sprintf(" (answered by 1 of %s)", d.read())
		default:
			line += fmt.Sprintf(" (answered by %d of %s)", q.Have, d.read())
		}
		out = append(out, line)
	}
	return out
}

func (d draft) headings() (out []string) {
	for _, h := range d.plan.Headings {
		out = append(out, fmt.Sprintf("%s (%d of %s)", h.Text, h.Have, d.read()))
	}
	return out
}

func (d draft) wordings() (out []string) {
	a := d.article
	for _, idea := range a.Ideas {
		if idea.ID != a.ID && len(out) < mostAlso && !phrase.Slipped(idea.Phrase, a.Lead()) {
			out = append(out, idea.Phrase)
		}
	}
	return out
}

func (d draft) mention() (out []string) {
	for _, m := range d.plan.Mention {
		line := m.Word
		if d.plan.Read > 0 {
			line += fmt.Sprintf(" (%d of %d)", m.Do, d.plan.Read)
		}
		out = append(out, line)
	}
	return out
}

func (d draft) solid() (out []string) {
	if d.evidence.Phrase == "" {
		return nil
	}
	switch v := d.evidence.Verdict; {
	case v.LinksOK && v.Links == 0:
		out = append(out, "No links needed: your site is strong enough for a 50% chance of the top five")
	case v.LinksOK:
		out = append(out, fmt.Sprintf("%d %s from well-known sites to aim for", v.Links, plural(v.Links, "link", "links")))
	default:
		out = append(out, "It would take more links than a small site gets")
	}
	if len(d.plan.Linkers) > 0 {
		out = append(out, "They link to results in the top ten, and might link to yours: "+strings.Join(d.plan.Linkers, ", "))
	}
	return out
}

func (d draft) when() (out []string) {
	if on := d.article.Decided.Published; d.article.State() == plan.Published && on != "" {
		return []string{"Published on " + day(on.Time())}
	}
	if last := d.article.Schedule.Last; !last.IsZero() {
		out = append(out, fmt.Sprintf("Publish by %s: searches rise from %s", day(last),
			last.AddDate(0, 0, d.niche.LeadDays).Format("January")))
	}
	if !d.article.Deadline.IsZero() {
		out = append(out, "Deadline: "+day(d.article.Deadline))
	}
	return out
}

func (d draft) brings() (out []string) {
	if v := d.evidence.Verdict; d.evidence.Phrase != "" && v.Locked == "" {
		out = append(out, fmt.Sprintf("Chance of page one: %s; of the top five: %s", v.PageOne, v.TopFive))
	}
	switch visits := d.article.Visits(d.niche); {
	case visits < 0:
	case visits < 1.5:
		out = append(out, "Hardly any visits")
	default:
		out = append(out, fmt.Sprintf("About %.0f visits a month once rankings settle", visits))
	}
	if low, _, high, known := d.article.Worth(); known {
		out = append(out, capital(money.Range(low, high, d.niche.Currency))+" a month")
	}
	return out
}

// mostAlso is how many other wordings a brief names.
const mostAlso = 20

func day(t time.Time) string { return t.Format("2 January 2006") }

// links say which of my articles link to this one and back, with the words to link by.
func (d draft) links() (out []string) {
	t, a := d.topics, d.article
	line := func(how string, other topics.Topic) {
		l := fmt.Sprintf("%s “%s”", how, other.Name)
		if other.Name != other.Lead() {
			l += fmt.Sprintf(", anchor text “%s”", other.Lead())
		}
		if other.Decided.Address != "" {
			l += ": " + other.Decided.Address
		}
		out = append(out, l)
	}
	if a.At < 0 {
		return nil
	}
	if a.Hub != topic.NoHub {
		line("Link to and from the overview", t.List[a.Hub])
	}
	for _, i := range a.Spokes[:min(len(a.Spokes), mostAlso)] {
		line("Link to and from", t.List[i])
	}
	for _, other := range t.Beside(a.Topic) {
		line("Link to and from (one says why, the other how)", other)
	}
	if a.Hub != topic.NoHub {
		for _, i := range t.List[a.Hub].Spokes {
			if i != a.At && len(out) < mostAlso && t.List[i].State() != plan.None {
				line("Link to", t.List[i])
			}
		}
	}
	for _, other := range d.siblings() {
		if len(out) < mostAlso && !slices.ContainsFunc(out, func(l string) bool {
			return strings.Contains(l, "“"+other.Name+"”")
		}) {
			line("Link to and from", other)
		}
	}
	return out
}

// siblings are the other articles in the plan on the same subject, the most searched first.
func (d draft) siblings() (out []topics.Topic) {
	for _, other := range d.topics.List {
		if other.At != d.article.At && other.State() != plan.None && d.topics.OneSubject(d.article.Topic, other) {
			out = append(out, other)
		}
	}
	return out[:min(mostSiblings, len(out))]
}

// mostSiblings is how many other articles a brief names (ours).
const mostSiblings = 6

// apart says what other articles in the plan answer, which this one links to and does not repeat.
func (d draft) apart() (out []string) {
	for _, other := range d.siblings() {
		out = append(out, fmt.Sprintf("%s: another article answers it; link to that", d.plan.Sentence(other.Lead())))
	}
	return out
}

// reader says who reads it and what for.
func (d draft) reader() []string {
	if d.evidence.Phrase == "" {
		return nil
	}
	able := map[intent.Class]string{
		intent.Learn:   "They want to learn. Afterwards they know the answer.",
		intent.Find:    "They look for a certain site or page. Afterwards they have found it.",
		intent.Compare: "They compare before they buy. Afterwards they know which one suits them, and why.",
		intent.Buy:     "They want to buy. Afterwards they know where, and what a fair price is.",
	}[d.evidence.Intent.Leading]
	if d.evidence.Intent.Leading == intent.Learn && d.plan.Kind == serp.HowTo {
		able = "They want to do it. Afterwards they can, without another page."
	}
	out := []string{fmt.Sprintf("People who search “%s”.", d.plan.Spelt(d.article.Lead())), able}
	if d.evidence.Intent.Mixed {
		out = append(out, "The results serve other intents, too. Decide for one, and name the others in a line each.")
	}
	return out
}

// win tells the ten in a line each: what is weak in them, and what stands for them.
func (d draft) win() (out []string) {
	for i, e := range d.evidence.Reading.Ten() {
		line := fmt.Sprintf("No. %d: %s", e.Position, e.URL)
		var weak []string
		for _, r := range e.Weak {
			weak = append(weak, r.Weakness.String())
		}
		switch {
		case len(weak) > 0:
			line += ". Weak: " + strings.Join(weak, ", ")
		case e.SiteStanding >= strongSite:
			line += ". Strong: a well-known site"
		}
		if pass := d.evidence.Verdict.Pass; i < len(pass) {
			line += fmt.Sprintf(chanceInLine+"%.0f%%", 100*pass[i])
		}
		out = append(out, line)
	}
	return out
}

// chanceInLine leads to my chance, behind what stands there.
const chanceInLine = ". Your chance to outrank it: "

// strongSite is the standing from which a site is called strong (ours).
const strongSite = 50

// address proposes the page's address and its description.
func (d draft) address() []string {
	slug := strings.Join(phrase.Words(d.article.Lead()), "-")
	lead := d.plan.Sentence(d.article.Lead())
	about := fmt.Sprintf("Description, up to %d characters: say what “%s” comes to", longestDescription, lead)
	var names []string
	for _, h := range d.plan.Headings[:min(mostInDescription, len(d.plan.Headings))] {
		names = append(names, "“"+h.Text+"”")
	}
	if len(names) > 0 {
		about += ", and name " + strings.Join(names, ", ")
	}
	return []string{"Address: /" + slug, about}
}

// mostInDescription is how many parts of the outline a description names (ours).
const mostInDescription = 2

// longestDescription is how much of a page's description engines show (common practice, no source).
const longestDescription = 155

// answer says what the first lines have to answer.
func (d draft) answer() []string {
	shapes, lead := phrase.Shapes(d.article.Lead(), d.niche.Language), d.plan.Sentence(d.article.Lead())
	is := func(shape phrase.Shape) bool { return phrase.Has(shapes, shape) }
	switch {
	case d.plan.Kind == serp.HowTo && is(phrase.HowTo):
		return []string{fmt.Sprintf("“%s”: say in the first two sentences what it takes, then give the steps.", lead)}
	case is(phrase.Question):
		return []string{fmt.Sprintf("Answer “%s?” in the first two sentences, then explain.", lead)}
	case is(phrase.Comparison):
		return []string{"Say in the first two sentences which one suits whom, then compare."}
	case d.plan.Kind == serp.Comparison:
		return []string{"Name your pick and who it suits in the first two sentences, then the others."}
	}
	return []string{fmt.Sprintf("Give who searches “%s” what they came for in the first two sentences, then explain.",
		d.plan.Spelt(d.article.Lead()))}
}

func plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// capital begins a sentence.
func capital(s string) string {
	for i, r := range s {
		return strings.ToUpper(string(r)) + s[i+len(string(r)):]
	}
	return s
}
