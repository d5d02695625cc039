package store

import (
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Rival is a site that a niche looks at: one whose places are known, or that is followed. The niche's own site is one,
// too, once its places were asked for.
type Rival struct {
	ID       uint
	NicheID  uint
	Site     string `holds:"t253"`
	Followed bool
	Source   string    `holds:"t200"`          // who said its places last; "" nobody
	AsOf     string    `holds:"t10"`           // the day of which these are, 2006-01-02
	Total    int       `holds:"0..1000000000"` // phrases that the source knows in all
	Asked    string    `holds:"t10000"`        // what was asked last, as JSON
	AskedAt  time.Time // zero never
	Pages    string    // what changed of its pages, as JSON; "" not looked at
}

// RivalPhrase is a phrase for which a rival ranks. Searches and Visits are a month's; nil is unknown.
type RivalPhrase struct {
	NicheID  uint     `gorm:"primaryKey;autoIncrement:false"`
	Phrase   string   `gorm:"primaryKey"` // normal form
	RivalID  uint     `gorm:"primaryKey;autoIncrement:false"`
	Place    int      `holds:"1..1000"`
	Page     string   `holds:"t2048"` // without its scheme
	Searches *int     `holds:"0..1000000000000"`
	Visits   *float64 `holds:"0..1000000000000"`
}

// Rivals are those of a niche, by their sites.
func (s *Store) Rivals(ctx context.Context, niche uint) (out []Rival, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("site").Find(&out).Error
}

// RivalOf is the rival of a site, or ErrNotFound.
func (s *Store) RivalOf(ctx context.Context, niche uint, site string) (Rival, error) {
	return first[Rival](s.read(ctx).Where("niche_id = ? AND site = ?", niche, site))
}

// Follow begins or ends following a site.
func (s *Store) Follow(ctx context.Context, niche uint, site string, follow bool) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		row := Rival{NicheID: niche, Site: site, Followed: follow}
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}, {Name: "site"}},
			DoUpdates: clause.AssignmentColumns([]string{"followed"})}).Create(&row).Error
	})
}

// SaveRanks keeps phrases of a site, in place of what was known of these, and who said so. It returns how many were not
// known before.
func (s *Store) SaveRanks(ctx context.Context, r Rival, list []RivalPhrase) (added int, err error) {
	return added, s.writeLater(ctx, func(tx *gorm.DB) error {
		added = 0
		err := tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}, {Name: "site"}},
			DoUpdates: clause.AssignmentColumns([]string{"source", "as_of", "total", "asked", "asked_at"})}).Create(&r).Error
		if err != nil {
			return err
		}
		row, err := first[Rival](tx.Where("niche_id = ? AND site = ?", r.NicheID, r.Site))
		if err != nil || len(list) == 0 {
			return err
		}
		for i := range list {
			list[i].NicheID, list[i].RivalID = row.NicheID, row.ID
		}
		for part := range slices.Chunk(list, lookup) {
			phrases := make([]string, len(part))
			for i, p := range part {
				phrases[i] = p.Phrase
			}
			var there int64
			err := tx.Model(&RivalPhrase{}).Where("niche_id = ? AND rival_id = ? AND phrase IN ?", row.NicheID, row.ID,
				phrases).Count(&there).Error
			if err == nil {
				err = tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(part).Error
			}
			if err != nil {
				return err
			}
			added += len(part) - int(there)
		}
		return nil
	})
}

// SaveRivalPages keeps what changed of a site's pages.
func (s *Store) SaveRivalPages(ctx context.Context, niche uint, site, pages string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		row := Rival{NicheID: niche, Site: site, Pages: pages}
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}, {Name: "site"}},
			DoUpdates: clause.AssignmentColumns([]string{"pages"})}).Create(&row).Error
	})
}

// ForgetRanks takes out what is known of a site's places; that it is followed stays.
func (s *Store) ForgetRanks(ctx context.Context, niche uint, site string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		row, err := first[Rival](tx.Where("niche_id = ? AND site = ?", niche, site))
		if err != nil {
			return err
		}
		if err := tx.Where("niche_id = ? AND rival_id = ?", niche, row.ID).Delete(&RivalPhrase{}).Error; err != nil {
			return err
		}
		return tx.Model(&row).Select("Source", "AsOf", "Total", "Asked", "AskedAt").Updates(Rival{}).Error
	})
}

// Ranked sifts phrases of rivals. Zero values sift nothing.
type Ranked struct {
	Contains     []string // words
	Lacks        []string
	Starts, Ends string
	PlaceFrom    int
	PlaceTo      int
	SearchesFrom int
	SearchesTo   int
	Page         string // its page begins so, without scheme
	New          bool   // no ideas yet
	DifficultyTo int    // looked up, and at most so difficult as it is shown
	Order        string // visits, searches, place, phrase or easy
	Offset       int
	Limit        int
}

// where is the condition, on rows called p, and i of their ideas.
func (f Ranked) where() (string, []any) {
	var parts []string
	var values []any
	add := func(part string, v ...any) {
		parts = append(parts, part)
		values = append(values, v...)
	}
	for _, w := range f.Contains {
		add("instr(p.phrase, ?) > 0 AND instr(' ' || p.phrase || ' ', ?) > 0", w, " "+w+" ") // most end at the first
	}
	for _, w := range f.Lacks {
		add("instr(' ' || p.phrase || ' ', ?) = 0", " "+w+" ")
	}
	if f.Starts != "" {
		add("(p.phrase = ? OR p.phrase > ? AND p.phrase < ?)", f.Starts, f.Starts+" ", f.Starts+"!") // ! is after the blank
	}
	if f.Ends != "" {
		add("substr(' ' || p.phrase, ?) = ?", -len([]rune(f.Ends))-1, " "+f.Ends)
	}
	if f.PlaceFrom > 0 {
		add("p.place >= ?", f.PlaceFrom)
	}
	if f.PlaceTo > 0 {
		add("p.place <= ?", f.PlaceTo)
	}
	if f.SearchesFrom > 0 {
		add("p.searches >= ?", f.SearchesFrom)
	}
	if f.SearchesTo > 0 {
		add("p.searches <= ?", f.SearchesTo)
	}
	if f.Page != "" {
		add("substr(p.page, 1, ?) = ?", len([]rune(f.Page)), f.Page)
	}
	if f.New {
		add("i.id IS NULL")
	}
	if f.DifficultyTo > 0 {
		add("i.judged_at IS NOT NULL AND NOT i.locked AND i.difficulty < ?", float64(f.DifficultyTo)+0.5)
	}
	return strings.Join(append(parts, "1"), " AND "), values
}

// byIdea reports whether it goes by the ideas that phrases are.
func (f Ranked) byIdea() bool { return f.New || f.DifficultyTo > 0 }

// easiest is the order in which what was looked up comes first, the least difficult before others.
func easiest(then string) string {
	return "i.judged_at IS NULL, CASE WHEN i.locked THEN 1000 ELSE i.difficulty END, " + then
}

// joined joins rows with the present ideas that they are; only where somebody asks for it, since it takes time.
func (f Ranked) joined() string {
	return " LEFT JOIN ideas i ON i.niche_id = p.niche_id AND i.phrase = p.phrase AND i." + present
}

// KnownRank is a phrase of a rival, and the idea that it is; 0 none.
type KnownRank struct {
	RivalPhrase
	Idea uint
	All  int // that are let through
}

// Ranks are phrases of a rival that are let through, and how many these are in all.
func (s *Store) Ranks(ctx context.Context, r Rival, f Ranked) (out []KnownRank, total int, err error) {
	where, values := f.where()
	values = append([]any{r.NicheID, r.ID}, values...)
	from := " FROM rival_phrases p"
	if f.byIdea() || f.Order == "easy" {
		from += f.joined()
	}
	from += " WHERE p.niche_id = ? AND p.rival_id = ? AND " + where
	order := map[string]string{"searches": "p.searches DESC NULLS LAST, p.phrase", "place": "p.place, p.phrase",
		"phrase": "p.phrase", "easy": easiest("p.visits DESC")}[f.Order]
	if order == "" {
		order = "p.visits DESC NULLS LAST, p.searches DESC NULLS LAST, p.phrase"
	}
	// What is sorted is narrow: the rest is read of those that are shown.
	rows := "SELECT p.niche_id, p.phrase, p.rival_id, count(*) OVER () \"all\"" + from + " ORDER BY " + order +
		" LIMIT ? OFFSET ?"
	err = s.read(ctx).Raw("SELECT p.*, k.\"all\", coalesce(i.id, 0) idea FROM ("+rows+") k CROSS JOIN rival_phrases p "+
		"USING (niche_id, phrase, rival_id)"+f.joined(), append(slices.Clone(values), f.Limit, f.Offset)...).Scan(&out).Error
	if len(out) > 0 {
		return out, out[0].All, err
	}
	if err != nil || f.Offset == 0 {
		return nil, 0, err
	}
	return nil, total, s.read(ctx).Raw("SELECT count(*)"+from, values...).Scan(&total).Error
}

// Section is a part of a site by the beginning of its addresses.
type Section struct {
	Page    string // how its pages begin, without scheme, to the slash
	Phrases int
	Visits  float64
	Known   int // of the phrases that are ideas and looked up
	Within  int // of these, those at or under the difficulty that is asked for
}

// Sections are the parts of a rival's site: hosts and first path segments, or within one of those the next segments.
func (s *Store) Sections(ctx context.Context, r Rival, within string, reach float64) (out []Section, err error) {
	of, these := " FROM rival_phrases p WHERE p.niche_id = ? AND p.rival_id = ?", []any{r.NicheID, r.ID}
	if within != "" {
		of, these = of+" AND substr(p.page, 1, ?) = ?", append(these, len([]rune(within)), within)
	}
	at := map[string]*Section{}
	// section is the one that a page is of. Each page is read once, and its beginning cut here: SQLite takes twice as
	// long for that.
	section := func(page []byte) *Section {
		rest := page[min(len(within), len(page)):]
		end := bytes.IndexByte(rest, '/') + 1
		if within == "" { // the host and one segment
			end += bytes.IndexByte(rest[end:], '/') + 1
		}
		s := at[string(rest[:end])]
		if s == nil {
			s = &Section{Page: within + string(rest[:end])}
			at[string(rest[:end])] = s
		}
		return s
	}
	err = s.eachPage(ctx, "SELECT p.page, p.visits"+of, these, func(page []byte, visits sql.NullFloat64) {
		one := section(page)
		one.Phrases++
		one.Visits += visits.Float64
	})
	if err != nil {
		return nil, err
	}
	// What is looked up of them: ideas are fewer than phrases.
	err = s.eachPage(ctx, "SELECT p.page, NOT i.locked AND i.difficulty <= ? FROM ideas i CROSS JOIN "+
		strings.Replace(strings.TrimPrefix(of, " FROM "), " WHERE ", " ON p.niche_id = i.niche_id AND p.phrase = i.phrase "+
			"WHERE i.judged_at IS NOT NULL AND i."+present+" AND ", 1), append([]any{reach}, these...),
		func(page []byte, easy sql.NullFloat64) {
			one := section(page)
			one.Known++
			one.Within += int(easy.Float64)
		})
	for _, one := range at {
		out = append(out, *one)
	}
	slices.SortFunc(out, func(a, b Section) int {
		return cmp.Or(b.Phrases-a.Phrases, strings.Compare(a.Page, b.Page))
	})
	return out, err
}

// eachPage hands out rows of a page and a number one by one.
func (s *Store) eachPage(ctx context.Context, query string, values []any,
	each func(page []byte, x sql.NullFloat64)) error {
	rows, err := s.read(ctx).Raw(query, values...).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var page sql.RawBytes
	var x sql.NullFloat64
	for rows.Next() {
		if err := rows.Scan(&page, &x); err != nil {
			return err
		}
		each(page, x)
	}
	return rows.Err()
}

// Gap is a phrase for which rivals rank.
type Gap struct {
	Phrase   string
	Rivals   int // how many of them
	Best     int // place of theirs
	Rival    uint
	Page     string // the page that stands there
	Searches *int
	Mine     int // my place; 0 none is known
	MyPage   string
	Idea     uint
}

// Gaps are phrases for which at least so many of some rivals rank, and my site (0 is none) does not, or so many places
// below the best of theirs; those for which most rank first.
func (s *Store) Gaps(ctx context.Context, niche uint, rivals []uint, mine uint, least, below int,
	f Ranked) (out []Gap, total int, err error) {
	where, values := f.where()
	// One walk over the phrases in their order: theirs and mine stand side by side.
	const theirs = " FILTER (WHERE p.rival_id <> ?)"
	inner := "SELECT p.niche_id, p.phrase, count(*)" + theirs + " rivals, min(p.place)" + theirs + " best, " +
		"max(p.searches)" + theirs + " searches, min(p.place) FILTER (WHERE p.rival_id = ?) mine FROM rival_phrases p"
	if f.byIdea() {
		inner += f.joined()
	}
	inner += " WHERE p.niche_id = ? AND (p.rival_id = ? OR p.rival_id IN ? AND " + where +
		") GROUP BY p.niche_id, p.phrase HAVING rivals >= ? AND (mine IS NULL OR mine >= best + ?)"
	from := " FROM (" + inner + ") g"
	values = slices.Concat([]any{mine, mine, mine, mine, niche, mine, rivals}, values, []any{max(least, 1), below})
	order := map[string]string{"searches": "g.searches DESC NULLS LAST, g.phrase", "place": "g.best, g.phrase",
		"phrase": "g.phrase", "easy": easiest("g.phrase")}[f.Order]
	if order == "" {
		order = "g.rivals DESC, g.searches DESC NULLS LAST, g.phrase"
	}
	if f.Order == "easy" {
		from += strings.ReplaceAll(f.joined(), "p.", "g.")
	}
	// They are counted meanwhile: a count beside each row would hold them all at once.
	var both errgroup.Group
	both.Go(func() error {
		return s.read(ctx).Raw("SELECT count(*) FROM ("+inner+")", values...).Scan(&total).Error
	})
	// Who stands there is read of those that are shown only.
	const there = "FROM rival_phrases x WHERE x.niche_id = p.niche_id AND x.phrase = p.phrase AND x.rival_id IN ? AND " +
		"x.place = p.best ORDER BY x.rival_id LIMIT 1)"
	both.Go(func() error {
		return s.read(ctx).Raw("SELECT p.niche_id, p.phrase, p.rivals, p.best, p.searches, coalesce(p.mine, 0) mine, "+
			"coalesce(m.page, '') my_page, coalesce(i.id, 0) idea, (SELECT x.rival_id "+there+" rival, (SELECT x.page "+
			there+" page FROM (SELECT g.*"+from+" ORDER BY "+order+" LIMIT ? OFFSET ?) p LEFT JOIN rival_phrases m ON "+
			"m.niche_id = p.niche_id AND m.phrase = p.phrase AND m.rival_id = ?"+f.joined(),
			slices.Concat([]any{rivals, rivals}, values, []any{f.Limit, f.Offset, mine})...).Scan(&out).Error
	})
	return out, total, both.Wait()
}

// Shares counts phrases: those for which only rivals rank, both, and only my site.
func (s *Store) Shares(ctx context.Context, niche uint, rivals []uint, mine uint) (theirs, both, own int, err error) {
	var out struct{ Theirs, Both, Own int }
	err = s.read(ctx).Raw("SELECT coalesce(sum(t AND NOT m), 0) theirs, coalesce(sum(t AND m), 0) both, "+
		"coalesce(sum(m AND NOT t), 0) own FROM (SELECT max(rival_id IN ?) t, max(rival_id = ?) m FROM rival_phrases "+
		"WHERE niche_id = ? GROUP BY phrase)", rivals, mine, niche).Scan(&out).Error
	return out.Theirs, out.Both, out.Own, err
}
