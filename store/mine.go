package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// What is known of one's own sites beside where they stand: their names, what became of faults, what their pages tell.

// OwnSite is a site of mine beside the niche's own, by a name.
type OwnSite struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	Site    string `gorm:"primaryKey" holds:"t300"` // registrable domain
	Name    string `holds:"t80"`
}

// OwnSites of a niche, by name.
func (s *Store) OwnSites(ctx context.Context, niche uint) (out []OwnSite, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("name, site").Find(&out).Error
}

// SaveOwnSite keeps one, or its new name.
func (s *Store) SaveOwnSite(ctx context.Context, one OwnSite) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&one).Error
	})
}

// DeleteOwnSite keeps one no more; its phrases are watched no more, and their places stay.
func (s *Store) DeleteOwnSite(ctx context.Context, niche uint, site string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Where("niche_id = ? AND site = ?", niche, site).Delete(&OwnSite{})
		if done.Error != nil || done.RowsAffected == 0 {
			return done.Error
		}
		return tx.Model(&Watched{}).Where("niche_id = ? AND site = ? AND removed_at IS NULL", niche, site).
			Update("removed_at", s.now().UTC()).Error
	})
}

// OwnRead is how a page of one of my sites was found when it was read last.
type OwnRead struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	Site    string `gorm:"primaryKey"` // domain
	URL     string `gorm:"primaryKey"` // "" stands for the site as a whole: its sitemap
	At      time.Time
	Trouble string // why it could not be read, as one word: gone, robots, unreachable, unreadable; "" it was
	Says    string // that in words
	Listed  int    // whether the sitemap has it: 1 it does, 2 it does not, 0 there is none
	Millis  int    // until all of it was there
	NoIndex bool   // it asks engines not to list it
	Broken  string // links of it that lead nowhere, one a line
	Links   string // of my pages that it links to, one a line
}

// OwnReads are the pages of a site of mine that were read.
func (s *Store) OwnReads(ctx context.Context, niche uint, site string) (out []OwnRead, err error) {
	return out, s.read(ctx).Where("niche_id = ? AND site = ?", niche, site).Order("url").Find(&out).Error
}

// SaveOwnRead keeps how a page was found.
func (s *Store) SaveOwnRead(ctx context.Context, one OwnRead) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&one).Error
	})
}

// DeleteOwnReads forgets those of a site that were read before a moment: it is read anew.
func (s *Store) DeleteOwnReads(ctx context.Context, niche uint, site string, before time.Time) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Where("niche_id = ? AND site = ? AND at < ?", niche, site, before.UTC()).Delete(&OwnRead{}).Error
	})
}

// Own is what is known of a niche's own pages: what their outcomes told and the outcomes themselves, each as JSON,
// and how often each place is clicked by a search report.
type Own struct {
	NicheID  uint   `gorm:"primaryKey;autoIncrement:false"`
	Body     string // "" nothing was taken
	Outcomes []byte // compressed
	Curve    string // "" no report told
}

// Own of a niche; empty where there is none. Outcomes are plain, and none where they are damaged.
func (s *Store) Own(ctx context.Context, niche uint) (out Own, err error) {
	err = s.read(ctx).Where("niche_id = ?", niche).Limit(1).Find(&out).Error
	if out.NicheID = niche; len(out.Outcomes) > 0 {
		if out.Outcomes, _ = unpacked(out.Outcomes); out.Outcomes == nil {
			out.Body = ""
		}
	}
	return out, err
}

// SaveOwnOutcomes keeps what outcomes told, with themselves; "" takes that back.
func (s *Store) SaveOwnOutcomes(ctx context.Context, niche uint, body string, outcomes []byte) (err error) {
	row := Own{NicheID: niche, Body: body}
	if len(outcomes) > 0 {
		if row.Outcomes, err = packed(outcomes); err != nil {
			return err
		}
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}},
			DoUpdates: clause.AssignmentColumns([]string{"body", "outcomes"})}).Create(&row).Error
	})
}

// SaveOwnCurve keeps how often each place is clicked.
func (s *Store) SaveOwnCurve(ctx context.Context, niche uint, curve string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}},
			DoUpdates: clause.AssignmentColumns([]string{"curve"})}).Create(&Own{NicheID: niche, Curve: curve}).Error
	})
}

// Clicked is what a search report said of an idea's phrase.
type Clicked struct {
	IdeaID uint
	Phrase string
	Place  float64
	Shown  int
	Clicks int
	Page   string
}

// Clicked is what the latest search reports said of a niche's ideas, of the first ten places.
func (s *Store) Clicked(ctx context.Context, niche uint) (out []Clicked, err error) {
	return out, s.read(ctx).Raw("SELECT id AS idea_id, phrase, my_place AS place, my_shown AS shown, my_clicks AS "+
		"clicks, my_page AS page "+
		"FROM ideas WHERE niche_id = ? AND my_place < 10.5 AND my_shown > 0 AND my_clicks IS NOT NULL AND "+present,
		niche).Scan(&out).Error
}

// Mending is what somebody says of a fault of a page: done, or ignored.
type Mending struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	URL     string `gorm:"primaryKey" holds:"t2000"`
	Fault   string `gorm:"primaryKey" holds:"t40"`
	State   string `holds:"t20"`
	At      time.Time
}

// Mendings of a niche.
func (s *Store) Mendings(ctx context.Context, niche uint) (out []Mending, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Find(&out).Error
}

// SetMending says what became of a fault; an empty state takes that back.
func (s *Store) SetMending(ctx context.Context, m Mending) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if m.State == "" {
			return tx.Where("niche_id = ? AND url = ? AND fault = ?", m.NicheID, m.URL, m.Fault).Delete(&Mending{}).Error
		}
		m.At = s.now().UTC()
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error
	})
}
