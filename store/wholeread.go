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
	"path/filepath"
	"reflect"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Bounds of a file that is read, in bytes but for lines.
const (
	mostText     = 1 << 20 // of a text that is no list
	mostLine     = 64 << 10
	mostTopic    = 3 << 20 // a line with an edited brief
	mostEvidence = 4 << 20
	mostBatch    = 4 << 20 // of the lines that are put in together
	mostLines    = 5_000_000
	mostWhole    = 4 << 30 // of all lists together, unpacked
	mostRatio    = 100     // of a list unpacked to packed
	anyRatio     = 1 << 20 // from this size on
)

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

// Checks are asked for what comes in by a file, beside what the columns can hold; they may mend it or refuse.
type Checks struct {
	Niche    func(*Niche) error
	Idea     func(*Idea) error
	Origin   func(*Origin) error
	Seed     func(*Seed) error
	Topic    func(*TopicEdit) error
	OwnPage  func(*OwnPage) error
	Rival    func(*Rival) error
	Ranks    func(*RivalPhrase) error
	Evidence func(Document) error
	History  func(body string) error
	Pages    string // the kind of answer that pages are
	Page     func(url string, body []byte) error
}

// ReadWhole makes a niche of such a file. Nobody sees it before all of it is there; nothing of a file that is refused,
// or of one that was not read to its end, stays.
func (s *Store) ReadWhole(ctx context.Context, r io.ReaderAt, size int64, check Checks) (n Niche, err error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return n, fmt.Errorf("%w: %w", ErrNoWhole, err)
	}
	w := &wholeReader{store: s, check: check, files: map[string]*zip.File{}, ids: map[uint]uint{},
		topics: map[uint]uint{}, rivals: map[uint]uint{}, rows: map[string]int{}}
	var about wholeAbout
	if err := w.open(z); err != nil {
		return n, err
	}
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
		n.ID, n.UsualSieve, n.ListOf, n.DeletedAt, n.ArchivedAt = 0, 0, 0, nil, nil
		err = errors.Join(check.Niche(&n), held(&n))
	}
	if err != nil {
		return n, fmt.Errorf("the niche: %w", err)
	}
	n.Staged = true
	if err := s.CreateNiche(ctx, &n); err != nil {
		return n, err
	}
	if err = w.lists(ctx, n.ID); err == nil {
		for name, want := range about.Rows {
			if got, known := w.rows[name]; known && got != want {
				err = fmt.Errorf("%w: it says that it has %d %s, and has %d", ErrNoWhole, want, name, got)
			}
		}
	}
	if err == nil {
		err = s.write(ctx, func(tx *gorm.DB) error {
			return tx.Model(&Niche{}).Where("id = ?", n.ID).Updates(map[string]any{"staged": false, "opened_at": s.now()}).Error
		})
	}
	if err != nil {
		return n, errors.Join(err, s.EraseNiche(context.WithoutCancel(ctx), n.ID))
	}
	n.Staged = false
	return n, nil
}

// wholeReader reads the lists of a file; ids are its ideas' IDs here, topics its topics', rivals its rivals'.
type wholeReader struct {
	store  *Store
	check  Checks
	files  map[string]*zip.File
	ids    map[uint]uint
	topics map[uint]uint
	rivals map[uint]uint
	rows   map[string]int // read, by list
	bytes  int64
	lines  int
}

// open looks whether what is in the archive can be unpacked here.
func (w *wholeReader) open(z *zip.Reader) error {
	var all uint64
	for _, f := range z.File {
		if w.files[f.Name] != nil {
			return fmt.Errorf("%w: it holds %s twice", ErrNoWhole, input(f.Name))
		}
		w.files[f.Name] = f
		if f.UncompressedSize64 > anyRatio && f.UncompressedSize64/mostRatio > f.CompressedSize64 {
			return fmt.Errorf("%w: its %s would become more than %d times as large", ErrNoWhole, input(f.Name), mostRatio)
		}
		all += f.UncompressedSize64
	}
	if free, known := Room(filepath.Dir(w.store.path)); known && all > free/2 {
		return &Trouble{Says: fmt.Sprintf("the file would become %d MB, and the disk has %d MB free", all>>20, free>>20),
			Do: "make room on it, and do that again"}
	}
	if all > mostWhole {
		return fmt.Errorf("%w that this program takes: it is too large", ErrNoWhole)
	}
	return nil
}

// input is a name that a file gives, shortened.
func input(name string) string { return fmt.Sprintf("%.40q", name) }

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
	return io.ReadAll(io.LimitReader(r, mostText))
}

// lists reads all lists into a niche, each after those whose rows it names.
func (w *wholeReader) lists(ctx context.Context, niche uint) error {
	steps := []func() error{
		func() error { return w.readIdeas(ctx, niche) },
		func() error { return w.readOrigins(ctx) },
		func() error { return w.readSeeds(ctx, niche) },
		func() error { return w.store.growBranches(ctx, niche) },
	}
	if w.files["topics.jsonl"] != nil { // files of the past have none
		steps = append(steps,
			func() error { return w.readTopics(ctx, niche) },
			func() error { return w.readMemberships(ctx, niche) },
			func() error { return w.readOwnPages(ctx, niche) },
			func() error { return w.readActions(ctx, niche) })
	}
	if w.files["rivals.jsonl"] != nil {
		steps = append(steps,
			func() error { return w.readRivals(ctx, niche) },
			func() error { return w.readRivalPhrases(ctx, niche) })
	}
	if w.files["verdicts.jsonl"] != nil {
		steps = append(steps, func() error { return w.readVerdicts(ctx, niche) })
	}
	if w.files["watched.jsonl"] != nil {
		steps = append(steps, func() error { return w.readWatched(ctx, niche) })
	}
	if w.files["mendings.jsonl"] != nil {
		steps = append(steps, func() error { return w.readMine(ctx, niche) })
	}
	if w.files["histories.jsonl"] != nil {
		steps = append(steps, func() error { return w.readHistories(ctx) })
	}
	if w.files["pages.jsonl"] != nil {
		steps = append(steps, func() error { return w.readPages(ctx) })
	}
	for _, step := range append(steps, func() error { return w.readEvidence(ctx) }) {
		if err := step(); err != nil {
			return err
		}
		err := w.store.writeLater(ctx, func(tx *gorm.DB) error { // shows that somebody is at it
			return tx.Model(&Niche{}).Where("id = ?", niche).Update("opened_at", w.store.now()).Error
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// checked asks for each row of a list.
func checked[T any](rows []T, check func(*T) error) error {
	for i := range rows {
		if err := check(&rows[i]); err != nil {
			return err
		}
	}
	return nil
}

// tooSoon stands for the ID of an idea that is about to have one.
const tooSoon = ^uint(0)

var errNamesNone = errors.New("it names an idea that is not in the file")

func (w *wholeReader) readIdeas(ctx context.Context, niche uint) error {
	return readList(ctx, w, "ideas", func(tx *gorm.DB, rows []Idea) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		old := make([]uint, len(rows))
		for i := range rows {
			old[i] = rows[i].ID
			rows[i].ID, rows[i].NicheID, rows[i].Revision, rows[i].RemovedAt = 0, niche, revision, nil
			rows[i].BranchID = 0 // it is found again by its origins
			if old[i] == 0 || w.ids[old[i]] != 0 {
				return fmt.Errorf("“%.60s” has the id %d, which is none or another idea's", rows[i].Phrase, old[i])
			}
			w.ids[old[i]] = tooSoon
			if err := w.check.Idea(&rows[i]); err != nil {
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
		if err := checked(rows, w.check.Origin); err != nil {
			return err
		}
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
		if err := checked(rows, w.check.Seed); err != nil {
			return err
		}
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
			if err := w.check.Evidence(Document{Version: e.Version, Body: e.Body}); err != nil {
				return err
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

func (w *wholeReader) readHistories(ctx context.Context) error {
	return readList(ctx, w, "histories", func(tx *gorm.DB, rows []wholeHistory) error {
		for _, h := range rows {
			if err := w.check.History(string(h.Body)); err != nil {
				return err
			}
			id := w.ids[h.IdeaID]
			if id == 0 {
				return errNamesNone
			}
			if err := saveHistory(tx, id, string(h.Body)); err != nil {
				return err
			}
		}
		return nil
	})
}

// readPages reads pages where there are none of their addresses. They are as old as can be: briefs are made of them,
// and whatever is judged by a page fetches it.
func (w *wholeReader) readPages(ctx context.Context) error {
	return readList(ctx, w, "pages", func(tx *gorm.DB, rows []wholePage) error {
		for _, p := range rows {
			if err := w.check.Page(p.URL, p.Body); err != nil {
				return err
			}
			body, err := packed(p.Body)
			if err != nil {
				return err
			}
			a := Answer{Kind: w.check.Pages, Key: p.URL, Source: "a niche's file", Body: body, AskedAt: time.Unix(0, 0).UTC()}
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&a).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// readTopics reads what was decided by hand on topics, and then which hangs on which.
func (w *wholeReader) readTopics(ctx context.Context, niche uint) error {
	hubs := map[uint]Hub{}
	err := readList(ctx, w, "topics", func(tx *gorm.DB, rows []TopicEdit) error {
		old := make([]uint, len(rows))
		for i := range rows {
			if err := w.check.Topic(&rows[i]); err != nil {
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
		if err := checked(rows, w.check.OwnPage); err != nil {
			return err
		}
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
	longest := map[string]int{"topics": mostTopic, "rivals": mostEvidence, "evidence": mostEvidence, "pages": mostEvidence,
		"histories": mostEvidence}[name]
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, cmp.Or(longest, mostLine))
	var rows []T
	at, size := 0, 0
	flush := func() error {
		if len(rows) == 0 {
			return nil
		}
		err := w.store.writeLater(ctx, func(tx *gorm.DB) error { return put(tx, rows) })
		if rows, size = rows[:0], 0; err != nil {
			return fmt.Errorf("up to line %d of the %s: %w", at, name, err)
		}
		return nil
	}
	for lines.Scan() {
		at++
		w.lines++
		size += len(lines.Bytes())
		w.bytes += int64(len(lines.Bytes()))
		if w.lines > mostLines || w.bytes > mostWhole {
			return fmt.Errorf("%w that this program takes: it is too large", ErrNoWhole)
		}
		if len(bytes.TrimSpace(lines.Bytes())) == 0 {
			continue
		}
		var row T
		switch any(&row).(type) {
		case *wholeEvidence, *wholePage, *wholeHistory:
			err = json.Unmarshal(lines.Bytes(), &row)
		default:
			err = readRecord(lines.Bytes(), &row)
		}
		if err == nil {
			err = held(&row)
		}
		if err != nil {
			return fmt.Errorf("line %d of the %s: %w", at, name, err)
		}
		w.rows[name]++
		if rows = append(rows, row); len(rows) == batch || size > mostBatch {
			if err := flush(); err != nil {
				return err
			}
		}
	}
	if err := lines.Err(); err != nil {
		return fmt.Errorf("line %d of the %s: %w", at+1, name, err)
	}
	return flush()
}
