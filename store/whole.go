package store

import (
	"archive/zip"
	"bufio"
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"time"

	"gorm.io/gorm"
)

// A whole niche is written as a ZIP file of JSON texts and of lists with a JSON object a line
// (docs/niche-file.md), whose members are the columns of the data file.
const (
	wholeFormat  = "clever-niche"
	wholeVersion = 1
)

// Bounds of a file that is read.
const (
	mostLine  = 16 << 20 // bytes
	mostLines = 5_000_000
	mostWhole = 4 << 30 // bytes of all lists together, unpacked
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

// WriteWhole writes a niche with its ideas, where they were found, its seeds and what the ideas were
// judged on, as they are at one moment.
func (s *Store) WriteWhole(ctx context.Context, niche uint, w io.Writer) error {
	return s.read(ctx).Transaction(func(tx *gorm.DB) error {
		n, err := first[Niche](tx.Where("id = ?", niche))
		if err != nil {
			return err
		}
		z := zip.NewWriter(w)
		about := wholeAbout{wholeFormat, wholeVersion, s.now(), map[string]int{}}
		if err := writeJSON(z, "niche.json", recordOf(&n)); err != nil {
			return err
		}
		for _, list := range wholeLists(tx, niche) {
			if about.Rows[list.name], err = list.write(z); err != nil {
				return fmt.Errorf("writing the %s: %w", list.name, err)
			}
		}
		if err := writeJSON(z, "about.json", about); err != nil { // last: a file that is cut short has none
			return err
		}
		return z.Close()
	})
}

// wholeList is a list of a niche's file.
type wholeList struct {
	name string
	rows func(each func(any) error) error
}

// wholeLists are the lists of a niche's file, in the order they are read in again.
func wholeLists(tx *gorm.DB, niche uint) []wholeList {
	own := func(order string) *gorm.DB { return tx.Where("niche_id = ?", niche).Order(order) }
	ofIdeas := func(order string) *gorm.DB {
		return tx.Where("idea_id IN (SELECT id FROM ideas WHERE niche_id = ?)", niche).Order(order)
	}
	return []wholeList{
		records[Idea]("ideas", own("id")),
		records[Origin]("origins", ofIdeas("idea_id, kind, query")),
		records[Seed]("seeds", own("id")),
		records[TopicEdit]("topics", own("id")),
		records[Membership]("placements", own("idea_id")),
		records[OwnPage]("own_pages", own("url")),
		records[Action]("actions", own("idea_id")),
		{"evidence", func(each func(any) error) error {
			return eachRow(ofIdeas("idea_id"), func(e *Evidence) error {
				body := e.Body
				if e.Version >= firstPacked {
					var err error
					if body, err = unpacked(body); err != nil {
						return nil // damaged is as good as none: it is looked up again
					}
				}
				return each(wholeEvidence{e.IdeaID, e.Version, body})
			})
		}},
	}
}

// records is a list of the rows of a query.
func records[T any](name string, q *gorm.DB) wholeList {
	return wholeList{name, func(each func(any) error) error {
		return eachRow(q, func(row *T) error { return each(recordOf(row)) })
	}}
}

// write writes the list, a row a line, and returns how many there are.
func (l wholeList) write(z *zip.Writer) (rows int, err error) {
	f, err := z.Create(l.name + ".jsonl")
	if err != nil {
		return 0, err
	}
	lines := bufio.NewWriter(f)
	err = l.rows(func(row any) error {
		rows++
		text, err := json.Marshal(row)
		if err == nil {
			_, err = lines.Write(append(text, '\n'))
		}
		return err
	})
	return rows, cmp.Or(err, lines.Flush())
}

func writeJSON(z *zip.Writer, name string, v any) error {
	f, err := z.Create(name)
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

// readRecord fills a row by the names of its columns. What this version does not know is left out.
func readRecord(text []byte, row any) error {
	var members map[string]json.RawMessage
	if err := json.Unmarshal(text, &members); err != nil {
		return err
	}
	v := reflect.ValueOf(row).Elem()
	for i := range v.NumField() {
		name := ColumnOf(v.Type().Field(i))
		if m, ok := members[name]; ok {
			if err := json.Unmarshal(m, v.Field(i).Addr().Interface()); err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
		}
	}
	return nil
}

// ErrNoWhole is returned for a file that is not a whole niche.
var ErrNoWhole = errors.New("it is not a whole niche")

// ReadWhole makes a niche of such a file. check is asked for the niche and for every idea, and may
// mend them or refuse. Nothing of a file that is refused stays.
func (s *Store) ReadWhole(ctx context.Context, r io.ReaderAt, size int64, checkNiche func(*Niche) error,
	checkIdea func(*Idea) error, checkTopic func(*TopicEdit) error) (n Niche, err error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return n, fmt.Errorf("%w: %w", ErrNoWhole, err)
	}
	w := &wholeReader{store: s, files: map[string]*zip.File{}, ids: map[uint]uint{}, topics: map[uint]uint{}}
	for _, f := range z.File {
		w.files[f.Name] = f
	}
	var about wholeAbout
	text, err := w.text("about.json")
	if err != nil || json.Unmarshal(text, &about) != nil || about.Format != wholeFormat {
		return n, fmt.Errorf("%w, or is cut short", ErrNoWhole)
	}
	if about.Version > wholeVersion {
		return n, fmt.Errorf("%w that this version reads: it is of version %d", ErrNoWhole, about.Version)
	}
	if text, err = w.text("niche.json"); err == nil {
		err = readRecord(text, &n)
	}
	if err == nil {
		n.ID, n.UsualSieve = 0, 0
		err = checkNiche(&n)
	}
	if err != nil {
		return n, fmt.Errorf("the niche: %w", err)
	}
	if err := s.CreateNiche(ctx, &n); err != nil {
		return n, err
	}
	if err := w.rows(ctx, n.ID, checkIdea, checkTopic); err != nil {
		return n, errors.Join(err, s.write(context.WithoutCancel(ctx), func(tx *gorm.DB) error {
			return tx.Delete(&Niche{}, n.ID).Error
		}))
	}
	return n, nil
}

// wholeReader reads the lists of a file; ids are its ideas' IDs here, topics its topics'.
type wholeReader struct {
	store  *Store
	files  map[string]*zip.File
	ids    map[uint]uint
	topics map[uint]uint
	bytes  int64
	lines  int
}

func (w *wholeReader) text(name string) ([]byte, error) {
	f := w.files[name]
	if f == nil {
		return nil, fmt.Errorf("%w: %s is missing", ErrNoWhole, name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return io.ReadAll(io.LimitReader(r, mostLine))
}

// rows reads all lists into a niche, each after those whose rows it names.
func (w *wholeReader) rows(ctx context.Context, niche uint, check func(*Idea) error,
	checkTopic func(*TopicEdit) error) error {
	steps := []func() error{
		func() error { return w.readIdeas(ctx, niche, check) },
		func() error { return w.readOrigins(ctx) },
		func() error { return w.readSeeds(ctx, niche) },
	}
	if w.files["topics.jsonl"] != nil { // files of the past have none
		steps = append(steps,
			func() error { return w.readTopics(ctx, niche, checkTopic) },
			func() error { return w.readMemberships(ctx, niche) },
			func() error { return w.readOwnPages(ctx, niche) },
			func() error { return w.readActions(ctx, niche) })
	}
	for _, step := range append(steps, func() error { return w.readEvidence(ctx) }) {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

var errNamesNone = errors.New("it names an idea that is not in the file")

func (w *wholeReader) readIdeas(ctx context.Context, niche uint, check func(*Idea) error) error {
	return readList(ctx, w, "ideas", func(tx *gorm.DB, rows []Idea) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		old := make([]uint, len(rows))
		for i := range rows {
			old[i] = rows[i].ID
			rows[i].ID, rows[i].NicheID, rows[i].Revision = 0, niche, revision
			if err := check(&rows[i]); err != nil {
				return err
			}
		}
		if err := tx.CreateInBatches(&rows, 100).Error; err != nil {
			return err
		}
		for i := range rows {
			w.ids[old[i]] = rows[i].ID
		}
		return nil
	})
}

func (w *wholeReader) readOrigins(ctx context.Context) error {
	return readList(ctx, w, "origins", func(tx *gorm.DB, rows []Origin) error {
		for i := range rows {
			if rows[i].IdeaID = w.ids[rows[i].IdeaID]; rows[i].IdeaID == 0 {
				return errNamesNone
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

func (w *wholeReader) readSeeds(ctx context.Context, niche uint) error {
	return readList(ctx, w, "seeds", func(tx *gorm.DB, rows []Seed) error {
		for i := range rows {
			rows[i].ID, rows[i].NicheID = 0, niche
			if from := rows[i].FromIdea; from != nil {
				id := w.ids[*from]
				if rows[i].FromIdea = &id; id == 0 {
					rows[i].FromIdea = nil
				}
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

func (w *wholeReader) readEvidence(ctx context.Context) error {
	return readList(ctx, w, "evidence", func(tx *gorm.DB, rows []wholeEvidence) error {
		for _, e := range rows {
			id := w.ids[e.IdeaID]
			if id == 0 {
				return errNamesNone
			}
			body := []byte(e.Body)
			if e.Version >= firstPacked {
				var err error
				if body, err = packed(body); err != nil {
					return err
				}
			}
			if err := tx.Create(&Evidence{IdeaID: id, Version: e.Version, Body: body}).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// readTopics reads what was decided by hand on topics, and then which hangs on which.
func (w *wholeReader) readTopics(ctx context.Context, niche uint, check func(*TopicEdit) error) error {
	hubs := map[uint]Hub{}
	err := readList(ctx, w, "topics", func(tx *gorm.DB, rows []TopicEdit) error {
		old := make([]uint, len(rows))
		for i := range rows {
			if err := check(&rows[i]); err != nil {
				return err
			}
			old[i], rows[i].ID, rows[i].NicheID, rows[i].LeadID = rows[i].ID, 0, niche, w.ids[rows[i].LeadID]
		}
		if err := tx.CreateInBatches(&rows, 100).Error; err != nil {
			return err
		}
		for i := range rows {
			w.topics[old[i]] = rows[i].ID
			hubs[rows[i].ID] = rows[i].Hub
		}
		return nil
	})
	if err != nil {
		return err
	}
	return w.store.write(ctx, func(tx *gorm.DB) error {
		for id, hub := range hubs {
			old, is := hub.Topic()
			if !is {
				continue
			}
			hub = ProposedHub
			if to := w.topics[old]; to != 0 {
				hub = HubOf(to)
			}
			if err := tx.Model(&TopicEdit{}).Where("id = ?", id).Update("hub", hub).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

func (w *wholeReader) readMemberships(ctx context.Context, niche uint) error {
	return readList(ctx, w, "placements", func(tx *gorm.DB, rows []Membership) error {
		for i := range rows {
			rows[i].IdeaID, rows[i].TopicID, rows[i].NicheID = w.ids[rows[i].IdeaID], w.topics[rows[i].TopicID], niche
			if rows[i].IdeaID == 0 || rows[i].TopicID == 0 {
				return errors.New("it names an idea or a topic that is not in the file")
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

func (w *wholeReader) readOwnPages(ctx context.Context, niche uint) error {
	return readList(ctx, w, "own_pages", func(tx *gorm.DB, rows []OwnPage) error {
		for i := range rows {
			rows[i].NicheID = niche
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

func (w *wholeReader) readActions(ctx context.Context, niche uint) error {
	return readList(ctx, w, "actions", func(tx *gorm.DB, rows []Action) error {
		for i := range rows {
			rows[i].NicheID = niche
			if rows[i].IdeaID = w.ids[rows[i].IdeaID]; rows[i].IdeaID == 0 {
				return errNamesNone
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

// readList reads a list, and puts a few hundred of its rows in at once.
func readList[T any](ctx context.Context, w *wholeReader, name string, put func(*gorm.DB, []T) error) error {
	f := w.files[name+".jsonl"]
	if f == nil {
		return fmt.Errorf("%w: the %s are missing", ErrNoWhole, name)
	}
	r, err := f.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, mostLine)
	var rows []T
	at, most := 0, batch
	if _, heavy := any(new(T)).(*wholeEvidence); heavy {
		most = batch / 10 // nobody is to wait for long
	}
	flush := func() error {
		if len(rows) == 0 {
			return nil
		}
		err := w.store.write(ctx, func(tx *gorm.DB) error { return put(tx, rows) })
		rows = rows[:0]
		return err
	}
	for lines.Scan() {
		at++
		w.lines++
		w.bytes += int64(len(lines.Bytes()))
		if w.lines > mostLines || w.bytes > mostWhole {
			return fmt.Errorf("%w that this program takes: it is too large", ErrNoWhole)
		}
		if len(bytes.TrimSpace(lines.Bytes())) == 0 {
			continue
		}
		var row T
		if e, ok := any(&row).(*wholeEvidence); ok {
			err = json.Unmarshal(lines.Bytes(), e)
		} else {
			err = readRecord(lines.Bytes(), &row)
		}
		if err != nil {
			return fmt.Errorf("line %d of the %s: %w", at, name, err)
		}
		if rows = append(rows, row); len(rows) == most {
			if err := flush(); err != nil {
				return fmt.Errorf("up to line %d of the %s: %w", at, name, err)
			}
		}
	}
	if err := lines.Err(); err != nil {
		return fmt.Errorf("line %d of the %s: %w", at+1, name, err)
	}
	if err := flush(); err != nil {
		return fmt.Errorf("up to line %d of the %s: %w", at, name, err)
	}
	return nil
}
