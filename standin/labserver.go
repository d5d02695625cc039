package standin

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"
)

// clockState is what /lab/clock says and takes.
type clockState struct {
	Now     string `json:"now"`
	Founded string `json:"founded"`
}

func (s *server) serveClock(rw http.ResponseWriter, _ *http.Request) { s.world.writeClock(rw) }

func (w *World) writeClock(rw http.ResponseWriter) {
	writeJSON(rw, clockState{w.now.Format(time.DateOnly), w.Founded.Format(time.DateOnly)})
}

// serveMove moves the clock to a day, or on by days.
func (w *World) serveMove(rw http.ResponseWriter, r *http.Request) {
	var to struct {
		To   string `json:"to"`
		Days int    `json:"days"`
	}
	if !readJSON(rw, r, 1<<10, &to) {
		return
	}
	day := w.now.AddDate(0, 0, max(-4000, min(4000, to.Days)))
	if to.To != "" {
		var err error
		if day, err = time.Parse(time.DateOnly, to.To); err != nil || to.Days != 0 {
			problem(rw, http.StatusUnprocessableEntity,
				"give either a day to move to, of the form 2006-01-02, or a number of days")
			return
		}
	}
	if err := w.MoveTo(day); err != nil {
		problem(rw, http.StatusUnprocessableEntity, "%v", err)
		return
	}
	w.writeClock(rw)
}

func (w *World) serveTruth(rw http.ResponseWriter, _ *http.Request) { writeJSON(rw, w.Truth()) }

// serveReport writes a site's search report of a month as CSV (RFC 4180).
func (w *World) serveReport(rw http.ResponseWriter, r *http.Request) {
	v := r.URL.Query()
	e := w.Engine(v.Get("engine"))
	month := w.now.AddDate(0, -1, 0)
	if s := v.Get("month"); s != "" {
		t, err := time.Parse("2006-01", s)
		if err != nil || t.After(w.now) {
			problem(rw, http.StatusBadRequest, "month %q is no past month of the form 2006-01", s)
			return
		}
		month = t
	}
	if e == nil || w.sites[v.Get("site")] == nil {
		problem(rw, http.StatusNotFound, "there is no engine %q or no site %q in this world", v.Get("engine"), v.Get("site"))
		return
	}
	rw.Header().Set("Content-Type", "text/csv; charset=utf-8")
	out := csv.NewWriter(rw)
	out.Write([]string{"query", "page", "clicks", "impressions", "ctr", "position"})
	for _, row := range w.Report(e, v.Get("site"), month) {
		out.Write([]string{row.Query, row.Page, strconv.Itoa(row.Clicks), strconv.Itoa(row.Impressions),
			fmt.Sprintf("%.4f", row.CTR), fmt.Sprintf("%.1f", row.Position)})
	}
	out.Flush()
}

// published is an experiment that stands in the world.
type published struct {
	ID         int        `json:"id"`
	URL        string     `json:"url"`
	Need       int        `json:"need"`
	Indexed    string     `json:"indexed"`
	Experiment Experiment `json:"experiment"`
}

func (w *World) published(id int) published {
	lp := w.lab.pages[id]
	return published{id, lp.page.url(), lp.page.need.id, lp.page.indexed.Format(time.DateOnly), lp.experiment}
}

func (w *World) serveExperiments(rw http.ResponseWriter, _ *http.Request) {
	out := []published{}
	for id := range w.lab.pages {
		out = append(out, w.published(id))
	}
	slices.SortFunc(out, func(a, b published) int { return a.ID - b.ID })
	writeJSON(rw, out)
}

func (w *World) servePublish(rw http.ResponseWriter, r *http.Request) {
	var x Experiment
	if !readJSON(rw, r, 1<<20, &x) {
		return
	}
	id, _, err := w.Publish(x)
	if err != nil {
		problem(rw, http.StatusUnprocessableEntity, "%v", err)
		return
	}
	rw.Header().Set("Location", fmt.Sprintf("/lab/pages/%d", id))
	rw.Header().Set("Content-Type", "application/json")
	rw.WriteHeader(http.StatusCreated)
	writeBody(rw, w.published(id))
}

func (w *World) serveCourse(rw http.ResponseWriter, r *http.Request) {
	id, _ := strconv.Atoi(r.PathValue("id"))
	course, ok := w.Course(id, within(r.URL.Query().Get("weeks"), 12, 0, 104))
	if !ok {
		problem(rw, http.StatusNotFound, "there is no experiment %q", r.PathValue("id"))
		return
	}
	writeJSON(rw, course)
}

// serveWithdraw takes one experiment out of the world, or all of them.
func (w *World) serveWithdraw(rw http.ResponseWriter, r *http.Request) {
	if r.PathValue("id") == "" {
		for id := range w.lab.pages {
			w.Withdraw(id)
		}
	} else if id, _ := strconv.Atoi(r.PathValue("id")); !w.Withdraw(id) {
		problem(rw, http.StatusNotFound, "there is no experiment %q", r.PathValue("id"))
		return
	}
	rw.WriteHeader(http.StatusNoContent)
}

func (s *server) serveTrials(rw http.ResponseWriter, r *http.Request) {
	var b Batch
	if !readJSON(rw, r, 64<<20, &b) {
		return
	}
	var err error
	s.changing(func(http.ResponseWriter, *http.Request) { err = s.world.Prepare(&b) })(rw, r)
	if err != nil {
		problem(rw, http.StatusUnprocessableEntity, "%v", err)
		return
	}
	writeJSON(rw, map[string]any{"outcomes": s.world.Try(b)})
}

func (s *server) serveFaults(rw http.ResponseWriter, _ *http.Request) {
	writeJSON(rw, map[string]any{"faults": s.faults.all(), "kinds": FaultKinds})
}

func (s *server) serveNewFault(rw http.ResponseWriter, r *http.Request) {
	var f Fault
	if !readJSON(rw, r, 1<<12, &f) {
		return
	}
	f, err := s.faults.add(f, func(host string) bool { return s.world.sites[host] != nil })
	if err != nil {
		problem(rw, http.StatusUnprocessableEntity, "%v", err)
		return
	}
	rw.Header().Set("Content-Type", "application/json")
	rw.WriteHeader(http.StatusCreated)
	writeBody(rw, f)
}

func (s *server) serveNoFaults(rw http.ResponseWriter, r *http.Request) {
	id, _ := strconv.Atoi(r.PathValue("id"))
	if r.PathValue("id") != "" && id == 0 || !s.faults.remove(id) {
		problem(rw, http.StatusNotFound, "there is no fault %q", r.PathValue("id"))
		return
	}
	rw.WriteHeader(http.StatusNoContent)
}
