package filters

import (
	"bytes"
	"fmt"
	"io"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/input"
	"cleverniche/study/sieves"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// sievesRoutes adds the addresses of saved sieves.
func sievesRoutes(s *frame.Server, niche fiber.Router) {
	niche.Get("/sieves", s.In(func(r *frame.Request) error { return showSieves(r, sievesPage{}) }))
	niche.Get("/sieves.json", s.In(exportSieves))
	niche.Post("/sieves", s.In(saveSieve))
	niche.Post("/sieves/import", s.In(importSieves))
	for path, do := range map[string]func(*frame.Request, uint) (string, error){"rename": renameSieve,
		"delete": deleteSieve, "usual": usualSieve} {
		niche.Post("/sieves/:sieve/"+path, s.In(func(r *frame.Request) error { return changeSieve(r, do) }))
	}
	niche.Post("/sieves/copy", s.In(copySieve))
}

// sievesPage is the page of all sieves.
type sievesPage struct {
	frame.Page
	List    []savedView
	Said    string
	Problem string
	Report  *sieves.Report
	PutBack string // what was deleted, as a file
}

// savedView is one of them.
type savedView struct {
	sieves.Saved
	Says   string // its filters
	Href   string // of the list behind it
	Waits  string
	Usual  bool
	Export string
}

func showSieves(r *frame.Request, v sievesPage) (err error) {
	if v.Page, err = r.Page("Sieves", "sift", -1); err != nil {
		return err
	}
	stage, err := r.Stage("sift")
	if err != nil {
		return err
	}
	list, err := r.Study.Sieves.All(r.Context())
	if err != nil {
		return err
	}
	n, err := r.Study.Niches.Get(r.Context(), r.Niche.ID) // its usual sieve may just have changed
	if err != nil {
		return err
	}
	for _, one := range list {
		var says []string
		for _, m := range one.Filters {
			says = append(says, m.String())
		}
		v.List = append(v.List, savedView{Saved: one, Says: strings.Join(says, "; "), Waits: one.Waits(),
			Href:   r.Path("sift") + "?" + Query(withBase(one.Sieve, stage.First), stage.First),
			Usual:  one.ID != 0 && one.ID == n.UsualSieve,
			Export: r.Path("sieves.json?" + Query(sieve.Sieve{From: one.Name}, sieve.Sieve{}))})
	}
	return r.Render("filters/sieves", v)
}

// saveSieve saves the sieve that the list is behind, under a name.
func saveSieve(r *frame.Request) error {
	by, _, err := Of(r, r.FormValue("stage"), string(r.Body()))
	if err != nil {
		return err
	}
	saved, replaced, err := r.Study.Sieves.Save(r.Context(), r.FormValue("name"), by)
	if err != nil {
		return err
	}
	said := fmt.Sprintf("Saved “%s”.", saved.Name)
	if replaced {
		said = fmt.Sprintf("Saved “%s”. It replaces the earlier one.", saved.Name)
	}
	if r.FormValue("usual") != "" {
		if err := r.Study.Sieves.SetDefault(r.Context(), r.Niche, saved.ID); err != nil {
			return err
		}
		said += " This niche begins with it from now on."
	}
	return r.Render("frame/notice", map[string]any{"Said": said})
}

// changeSieve does something to a saved sieve, and shows them all again.
func changeSieve(r *frame.Request, do func(*frame.Request, uint) (string, error)) error {
	id, err := r.ID("sieve")
	if err != nil {
		return err
	}
	v := sievesPage{}
	if v.Said, err = do(r, id); err != nil {
		return frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			return showSieves(r, sievesPage{Problem: wrong.Reason})
		})
	}
	v.PutBack, _ = r.Locals(putBack).(string)
	return showSieves(r, v)
}

func renameSieve(r *frame.Request, id uint) (string, error) {
	one, err := r.Study.Sieves.Rename(r.Context(), id, r.FormValue("name"))
	return fmt.Sprintf("Renamed to “%s”.", one.Name), err
}

// putBack is where a deleted sieve is kept until the page is shown.
const putBack = "put back"

func deleteSieve(r *frame.Request, id uint) (string, error) {
	one, err := r.Study.Sieves.Get(r.Context(), id)
	if err == nil {
		var file bytes.Buffer
		if err := r.Study.Sieves.Export(r.Context(), &file, one.Name); err != nil {
			return "", err
		}
		r.Locals(putBack, file.String())
	}
	one, err = r.Study.Sieves.Delete(r.Context(), id)
	return fmt.Sprintf("Deleted “%s”. Links with its filters still work.", one.Name), err
}

func usualSieve(r *frame.Request, id uint) (string, error) {
	if r.FormValue("usual") == "no" {
		return "This niche has no default sieve now.", r.Study.Sieves.SetDefault(r.Context(), r.Niche, 0)
	}
	one, err := r.Study.Sieves.Get(r.Context(), id)
	if err == nil {
		err = r.Study.Sieves.SetDefault(r.Context(), r.Niche, id)
	}
	return fmt.Sprintf("“%s” is this niche’s default sieve.", one.Name), err
}

func copySieve(r *frame.Request) error {
	one, err := r.Study.Sieves.Duplicate(r.Context(), r.FormValue("name"))
	if err != nil {
		return frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			return showSieves(r, sievesPage{Problem: wrong.Reason})
		})
	}
	return showSieves(r, sievesPage{Said: fmt.Sprintf("Copied as “%s”.", one.Name)})
}

// exportSieves writes the saved sieves as a file, or the one of a name.
func exportSieves(r *frame.Request) error {
	var names []string
	if name := r.Query("sieve"); name != "" {
		names = append(names, name)
	}
	var file bytes.Buffer
	if err := r.Study.Sieves.Export(r.Context(), &file, names...); err != nil {
		return err
	}
	r.Attachment("sieves.json")
	r.Set(fiber.HeaderContentType, "application/json; charset=utf-8")
	return r.Send(file.Bytes())
}

func importSieves(r *frame.Request) error {
	var in io.Reader = strings.NewReader(r.FormValue("text"))
	if file, err := r.FormFile("file"); err == nil {
		f, err := file.Open()
		if err != nil {
			return err
		}
		defer f.Close()
		in = f
	}
	rep, err := r.Study.Sieves.Import(r.Context(), in)
	if err != nil {
		return frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			return showSieves(r, sievesPage{Problem: wrong.Reason})
		})
	}
	return showSieves(r, sievesPage{Report: &rep})
}
