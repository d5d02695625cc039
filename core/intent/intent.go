// Package intent says what searchers are after, from two witnesses: the words
// of the phrase and what the results page serves.
//
// The classes are those of Broder 2002 ("A taxonomy of web search", SIGIR Forum
// 36(2)), with commercial investigation split off (common practice, no source);
// the rules on words follow Jansen, Booth & Spink 2008 ("Determining the
// informational, navigational, and transactional intent of Web queries",
// Information Processing & Management 44(3)), from memory.
package intent

import (
	"fmt"
	"math"
	"strings"

	"cleverniche/core/phrase"
)

// Class is what a searcher is after.
type Class int

// The four wants; their standard names are given by Standard.
const (
	Learn   Class = iota // informational
	Find                 // navigational
	Compare              // commercial investigation
	Buy                  // transactional
	classes
)

// All lists the wants in their fixed order.
var All = [classes]Class{Learn, Find, Compare, Buy}

func (w Class) String() string { return [...]string{"Learn", "Find", "Compare", "Buy"}[w] }

// Standard is the name the literature uses.
func (w Class) Standard() string {
	return [...]string{"informational", "navigational", "commercial investigation", "transactional"}[w]
}

// Parse reads a want's name in any case.
func Parse(s string) (Class, bool) {
	for _, w := range All {
		if strings.EqualFold(s, w.String()) {
			return w, true
		}
	}
	return 0, false
}

// Shares is the share of each want; they sum to 1, or are all 0 when nothing is known.
type Shares [classes]float64

// Leading returns the want with the largest share; the earlier one wins a tie.
func (s Shares) Leading() Class {
	best := Learn
	for _, w := range All {
		if s[w] > s[best] {
			best = w
		}
	}
	return best
}

// Entropy returns −Σ p·log2 p in bits: 0 when all want one thing, 2 when the
// four wants are equally frequent (Shannon 1948).
func (s Shares) Entropy() float64 {
	h := 0.0
	for _, p := range s {
		if p > 0 {
			h -= p * math.Log2(p)
		}
	}
	return h
}

// MixedBits is the entropy from which a phrase is called mixed: that of a
// 70:30 division between two wants (ours).
const MixedBits = 0.88

// Mixed reports whether searchers want clearly more than one thing.
func (s Shares) Mixed() bool { return s.Entropy() >= MixedBits }

func (s Shares) normal() Shares {
	sum := 0.0
	for _, p := range s {
		sum += p
	}
	if sum > 0 {
		for i := range s {
			s[i] /= sum
		}
	}
	return s
}

// Witness is one opinion: shares, and what they were read from.
type Witness struct {
	Shares  Shares `json:"shares"`
	Because string `json:"because"`
	Known   bool   `json:"known"`
}

// Weights of the word rules, in votes (ours). A phrase with no sign at all is
// informational, as most are (Jansen et al. 2008 found about 80 %).
const (
	voteStrong  = 4.0
	voteMiddle  = 2.0
	voteDefault = 1.0
)

// FromWords judges a phrase in normal form by its words alone. brands are the
// niche's brand words, in normal form; they may be none.
func FromWords(s, lang string, brands ...string) Witness {
	shapes := phrase.Shapes(s, lang)
	votes := Shares{}
	var because []string
	vote := func(shape phrase.Shape, w Class, n float64, why string) {
		if phrase.Has(shapes, shape) {
			votes[w] += n
			because = append(because, why)
		}
	}
	vote(phrase.HowTo, Learn, voteStrong, "asks how")
	if !phrase.Has(shapes, phrase.HowTo) {
		n := voteStrong
		if phrase.Has(shapes, phrase.List) || phrase.Has(shapes, phrase.Verdict) || phrase.Has(shapes, phrase.Comparison) ||
			phrase.Has(shapes, phrase.Buying) {
			n = voteMiddle // it asks which, or where
		}
		vote(phrase.Question, Learn, n, "is a question")
	}
	vote(phrase.List, Compare, voteStrong, "asks for the best")
	vote(phrase.Verdict, Compare, voteStrong, "asks for a verdict")
	vote(phrase.Comparison, Compare, voteStrong, "compares")
	vote(phrase.Price, Compare, voteMiddle, "names a price")
	vote(phrase.Buying, Buy, voteStrong, "holds a buying word")
	vote(phrase.Local, Buy, voteMiddle, "asks for a place nearby")
	vote(phrase.Site, Find, voteStrong, "asks for a site")
	if b := phrase.HoldsBrand(s, brands); b != "" {
		votes[Find] += voteMiddle
		because = append(because, "names "+b)
	}
	if len(because) == 0 {
		because = append(because, "no word suggests another intent")
	}
	votes[Learn] += voteDefault
	return Witness{votes.normal(), strings.Join(because, ", "), true}
}

// Ten is what a results page serves.
type Ten struct {
	Serve       [classes]int // results by the want their page answers
	Ads         int
	ShoppingRow bool
	AnswerBox   bool
	Named       bool // the first result is the front or an official page of what the phrase names
}

// A page's votes beside its results (ours): an ad is a quarter of a result for
// buying, a shopping row is one and a half, an answer box is one for learning, the site that is named in the first
// place six for finding it.
const (
	adVote       = 0.25
	shoppingVote = 1.5
	answerVote   = 1.0
	namedVote    = 6.0
)

// FromTen judges by what is served. It is unknown when nothing is served.
func FromTen(t Ten) Witness {
	votes := Shares{}
	var parts []string
	for _, w := range All {
		votes[w] = float64(t.Serve[w])
		if t.Serve[w] > 0 {
			parts = append(parts, fmt.Sprintf("%d serve %s", t.Serve[w], w))
		}
	}
	if len(parts) == 0 {
		return Witness{Because: "no result could be read"}
	}
	if t.Ads > 0 {
		votes[Buy] += adVote * float64(t.Ads)
		parts = append(parts, fmt.Sprintf("%d ads", t.Ads))
	}
	if t.Named {
		votes[Find] += namedVote
		parts = append(parts, "the first one is the site that is named")
	}
	if t.ShoppingRow {
		votes[Buy] += shoppingVote
		parts = append(parts, "a shopping row")
	}
	if t.AnswerBox {
		votes[Learn] += answerVote
		parts = append(parts, "an answer box")
	}
	return Witness{votes.normal(), strings.Join(parts, ", "), true}
}

// Says tells in a sentence what searchers are after, and that they are not of one mind
// where they are not.
func (j Judgement) Says() string {
	if !j.Mixed {
		return fmt.Sprintf("They want to %s (%.0f %%).", strings.ToLower(j.Leading.String()), 100*j.Shares[j.Leading])
	}
	second := Learn
	if second == j.Leading {
		second = Find
	}
	for _, w := range All {
		if w != j.Leading && j.Shares[w] > j.Shares[second] {
			second = w
		}
	}
	return fmt.Sprintf("Mixed intent: %.0f %% to %s, %.0f %% to %s.", 100*j.Shares[j.Leading],
		strings.ToLower(j.Leading.String()), 100*j.Shares[second], strings.ToLower(second.String()))
}

// TenWeight is the weight of the ten against the words once they are known (ours).
const TenWeight = 0.8

// Judgement is both witnesses and their joining.
type Judgement struct {
	Words   Witness `json:"words"`
	Ten     Witness `json:"ten"`
	Shares  Shares  `json:"shares"`
	Leading Class   `json:"leading"`
	Mixed   bool    `json:"mixed"`
}

// Join weighs the two witnesses. Without the ten, the words stand alone.
func Join(words, ten Witness) Judgement {
	j := Judgement{Words: words, Ten: ten, Shares: words.Shares}
	if ten.Known {
		for i := range j.Shares {
			j.Shares[i] = (1-TenWeight)*words.Shares[i] + TenWeight*ten.Shares[i]
		}
	}
	j.Leading, j.Mixed = j.Shares.Leading(), j.Shares.Mixed()
	return j
}
