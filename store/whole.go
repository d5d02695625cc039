package store

import (
	"archive/zip"
	"bufio"
	"cmp"
	"compress/flate"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"strings"
	"time"

	"gorm.io/gorm"
)

// A whole niche is written as a ZIP file of JSON texts and of lists with a JSON object a line
// (docs/niche-file.md), whose members are the columns of the data file.
const (
	wholeFormat  = "clever-niche"
	wholeVersion = 1
)

type wholeAbout struct {
	Format  string         `json:"format"`
	Version int            `json:"version"`
	Made    time.Time      `json:"made"`
	Rows    map[string]int `json:"rows"`
}

// wholeEvidence is a judgement's document as the file has it: unpacked.
type wholeEvidence struct {
	IdeaID  uint            `json:"idea_id"`
	Version int             `json:"version"`
	Body    json.RawMessage `json:"body"`
}

// wholeHistory is a history as the file has it: unpacked.
type wholeHistory struct {
	IdeaID uint            `json:"idea_id"`
	Body   json.RawMessage `json:"body"`
}

// WriteWhole writes a niche with its ideas, where they were found, its seeds and what the ideas were
// judged on, as they are at one moment. Nobody waits for it: what others write meanwhile is not in it.
//
// With the pages of the kind of answer that is named go those which briefs of the plan are made of.
func (s *Store) WriteWhole(ctx context.Context, niche uint, pages string, w io.Writer) error {
	return s.snapshot(ctx, func(tx *gorm.DB) error {
		n, err := first[Niche](tx.Where("id = ?", niche))
		if err != nil {
			return err
		}
		z := zip.NewWriter(w)
		z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
			return flate.NewWriter(w, flate.BestSpeed)
		})
		about := wholeAbout{wholeFormat, wholeVersion, s.now(), map[string]int{}}
		if err := writeJSON(z, "niche.json", about.Made, recordOf(&n)); err != nil {
			return err
		}
		for _, list := range append(wholeLists(tx, niche), wholePages(tx, niche, pages)) {
			if about.Rows[list.name], err = list.write(z, about.Made); err != nil {
				return fmt.Errorf("writing the %s: %w", list.name, err)
			}
		}
		if err := writeJSON(z, "about.json", about.Made, about); err != nil { // last: a file that is cut short has none
			return err
		}
		return z.Close()
	})
}

// wholeList is a list of a niche's file.
type wholeList struct {
	name string
	rows func(each func(line []byte) error) error
}

// wholeLists are the lists of a niche's file, in the order they are read in again.
func wholeLists(tx *gorm.DB, niche uint) []wholeList {
	own := func(order string) *gorm.DB { return tx.Where("niche_id = ?", niche).Order(order) }
	ofIdeas := func(order string) *gorm.DB {
		return tx.Where("idea_id IN (SELECT id FROM ideas WHERE niche_id = ? AND "+present+")", niche).Order(order)
	}
	ofWatched := func(order string) *gorm.DB {
		return tx.Where("watched_id IN (SELECT id FROM watcheds WHERE niche_id = ?)", niche).Order(order)
	}
	return []wholeList{
		records[Idea]("ideas", tx.Where(byRising, niche, niche, niche).Where(present).Order("id")),
		records[Origin]("origins", ofIdeas("idea_id, kind, query")),
		records[Seed]("seeds", own("id")),
		records[TopicEdit]("topics", own("id")),
		records[Membership]("placements", ofIdeas("idea_id")),
		records[OwnPage]("own_pages", own("url")),
		records[Action]("actions", ofIdeas("idea_id")),
		records[Rival]("rivals", own("id")),
		records[RivalPhrase]("rival_phrases", own("phrase, rival_id")),
		records[Verdict]("verdicts", own("id")),
		records[Watched]("watched", own("id")),
		records[Position]("positions", ofWatched("id")),
		records[Remark]("remarks", ofWatched("id")),
		records[OwnSite]("own_sites", own("site")),
		records[Mending]("mendings", own("url, fault")),
		records[Watch]("watches", own("niche_id")),
		{"histories", func(each func([]byte) error) error {
			return eachRow(ofIdeas("idea_id"), func(h *History) error {
				body, err := unpacked(h.Body)
				if err != nil {
					return nil // damaged is as good as none
				}
				line, err := json.Marshal(wholeHistory{h.IdeaID, body})
				if err != nil {
					return nil // the same
				}
				return each(line)
			})
		}},
		{"evidence", func(each func([]byte) error) error {
			return eachRow(ofIdeas("idea_id"), func(e *Evidence) error {
				body := e.Body
				if e.Version >= firstPacked {
					var err error
					if body, err = unpacked(body); err != nil {
						return nil // damaged is as good as none: it is looked up again
					}
				}
				line, err := json.Marshal(wholeEvidence{e.IdeaID, e.Version, body})
				if err != nil {
					return nil // the same
				}
				return each(line)
			})
		}},
	}
}

// wholePage is a page as the file has it.
type wholePage struct {
	URL  string          `json:"url"`
	Body json.RawMessage `json:"body"`
}

// wholePages is the list of the pages that stand for ideas of the plan, as they were fetched.
func wholePages(tx *gorm.DB, niche uint, kind string) wholeList {
	return wholeList{"pages", func(each func([]byte) error) error {
		var lists []string
		err := tx.Raw("SELECT f.pages FROM founds f JOIN placements p ON p.idea_id = f.idea_id "+
			"JOIN topics t ON t.id = p.topic_id AND t.state <> '' WHERE p.niche_id = ? ORDER BY f.idea_id", niche).
			Scan(&lists).Error
		if err != nil {
			return err
		}
		seen := map[string]bool{}
		for _, list := range lists {
			for url := range strings.SplitSeq(list, "\n") {
				if url == "" || seen[url] {
					continue
				}
				seen[url] = true
				a, err := first[Answer](tx.Where("kind = ? AND key = ?", kind, url))
				if errors.Is(err, ErrNotFound) {
					continue
				}
				if err != nil {
					return err
				}
				body, err := unpacked(a.Body)
				if err != nil {
					continue // damaged is as good as none
				}
				line, err := json.Marshal(wholePage{url, body})
				if err != nil || len(line) > mostEvidence {
					continue
				}
				if err := each(line); err != nil {
					return err
				}
			}
		}
		return nil
	}}
}

// records is a list of the rows of a query.
func records[T any](name string, q *gorm.DB) wholeList {
	return wholeList{name, func(each func([]byte) error) error {
		var row T
		rows, err := q.Model(&row).Select(jsonRow(row)).Rows()
		if err != nil {
			return err
		}
		defer rows.Close()
		var line sql.RawBytes
		for rows.Next() {
			if err := rows.Scan(&line); err != nil {
				return err
			}
			if err := each(line); err != nil {
				return err
			}
		}
		return rows.Err()
	}}
}

// write writes the list, a row a line, and returns how many there are.
func (l wholeList) write(z *zip.Writer, made time.Time) (rows int, err error) {
	f, err := z.CreateHeader(&zip.FileHeader{Name: l.name + ".jsonl", Method: zip.Deflate, Modified: made})
	if err != nil {
		return 0, err
	}
	lines := bufio.NewWriter(f)
	err = l.rows(func(line []byte) error {
		rows++
		if _, err := lines.Write(line); err != nil {
			return err
		}
		return lines.WriteByte('\n')
	})
	return rows, cmp.Or(err, lines.Flush())
}

func writeJSON(z *zip.Writer, name string, made time.Time, v any) error {
	f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: made})
	if err != nil {
		return err
	}
	return json.NewEncoder(f).Encode(v)
}

// eachRow reads the rows of a query one by one.
func eachRow[T any](q *gorm.DB, each func(*T) error) error {
	rows, err := q.Model(new(T)).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var row T
		if err := q.ScanRows(rows, &row); err != nil {
			return err
		}
		if err := each(&row); err != nil {
			return err
		}
	}
	return rows.Err()
}

// recordOf is a row by the names of its columns.
func recordOf(row any) map[string]any {
	out := map[string]any{}
	v := reflect.ValueOf(row).Elem()
	for i := range v.NumField() {
		out[ColumnOf(v.Type().Field(i))] = v.Field(i).Interface()
	}
	return out
}
