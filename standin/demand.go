package standin

import (
	"math"
	"net/http"
	"strings"
	"time"
)

// demandRequest and demandAnswer follow docs/demand.openapi.yaml.
type demandRequest struct {
	Phrases  []string `json:"phrases"`
	Country  string   `json:"country"`
	Language string   `json:"language"`
	Months   int      `json:"months"`
}

type demandAnswer struct {
	Results []demandResult `json:"results"`
}

type demandResult struct {
	Phrase      string        `json:"phrase"`
	Monthly     []demandMonth `json:"monthly"`
	CPC         *demandMoney  `json:"cpc,omitempty"`
	Competition *float64      `json:"competition,omitempty"`
	PhraseMatch int           `json:"phrase_match"`
	BroadMatch  int           `json:"broad_match"`
}

type demandMonth struct {
	Month string `json:"month"`
	Count *int   `json:"count,omitempty"`
	Under *int   `json:"under,omitempty"`
}

type demandMoney struct {
	Micros   int64  `json:"micros"`
	Currency string `json:"currency"`
}

// Limits of the demand protocol.
const (
	mostPhrases = 200
	mostMonths  = 48
	floor       = 10
)

func (w *World) serveDemand(rw http.ResponseWriter, r *http.Request) {
	var req demandRequest
	if !readJSON(rw, r, 1<<20, &req) {
		return
	}
	if len(req.Phrases) == 0 || len(req.Phrases) > mostPhrases {
		problem(rw, http.StatusUnprocessableEntity, "phrases must hold 1 to %d", mostPhrases)
		return
	}
	if req.Months < 1 || req.Months > mostMonths {
		req.Months = 12
	}
	in := placeOf(req.Country, req.Language)
	ans := demandAnswer{Results: []demandResult{}}
	for _, p := range req.Phrases {
		ans.Results = append(ans.Results, w.demandOf(p, req.Months, in))
	}
	writeJSON(rw, ans)
}

func (w *World) demandOf(text string, months int, in place) demandResult {
	toks := tokens(text)
	res := demandResult{Phrase: text}
	q := w.queries[strings.Join(toks, " ")]
	last := time.Date(w.now.Year(), w.now.Month(), 1, 0, 0, 0, 0, time.UTC)
	for i := months; i >= 1; i-- {
		month := last.AddDate(0, -i, 0)
		n := 0
		if q != nil {
			n = w.searches(q, month, in)
		}
		m := demandMonth{Month: month.Format("2006-01")}
		if n < floor {
			under := floor
			m.Under = &under
		} else {
			m.Count = &n
		}
		res.Monthly = append(res.Monthly, m)
	}
	if q == nil || w.appetite(q.need, in) == 0 {
		return res
	}
	rng := w.random("bids", q.text)
	cpc := q.need.cpc * math.Exp(0.15*rng.NormFloat64())
	if in.country != home.country { // fewer advertisers, and another currency
		cpc *= (0.4 + in.size) * math.Exp(0.2*w.random("bids", q.text, in.country).NormFloat64())
	}
	res.CPC = &demandMoney{int64(math.Round(cpc*in.rate*100)) * 10000, in.currency}
	competition := math.Round(100*math.Min(1, cpc/(cpc+0.8)+0.1*rng.Float64())) / 100
	res.Competition = &competition
	res.PhraseMatch, res.BroadMatch = w.matches(toks, in)
	return res
}

// matches counts searches a month of queries that hold the tokens as a phrase,
// and in any order.
func (w *World) matches(toks []string, in place) (phrase, broad int) {
	rarest := ""
	for _, t := range toks {
		if rarest == "" || len(w.hints.words[t]) < len(w.hints.words[rarest]) {
			rarest = t
		}
	}
	joined := " " + strings.Join(toks, " ") + " "
	var inPhrase, inAny float64
	for _, q := range w.hints.words[rarest] {
		all := true
		for _, t := range toks {
			all = all && contains(q.tokens, t)
		}
		if !all {
			continue
		}
		n := q.steady() * w.appetite(q.need, in)
		inAny += n
		if strings.Contains(" "+q.text+" ", joined) {
			inPhrase += n
		}
	}
	return int(inPhrase), int(inAny)
}
