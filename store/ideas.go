package store

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Find is an idea to be put in, with the way it was found. Demand figures are
// taken when the row brings them.
type Find struct {
	Idea   Idea
	Origin Origin
}

// AddIdeas puts ideas into a niche: those whose phrase is new are inserted, and
// every one remembers its origin. A figure that a Find brings fills a gap and
// never overwrites what is known. It returns how many are new. All or nothing.
func (s *Store) AddIdeas(ctx context.Context, niche uint, finds []Find) (added int, err error) {
	if len(finds) == 0 {
		return 0, nil
	}
	err = s.write(ctx, func(tx *gorm.DB) error {
		added, err = addIdeas(tx, niche, finds)
		return err
	})
	return added, err
}

const batch = 200 // rows a statement: well under SQLite's limit of variables

func addIdeas(tx *gorm.DB, niche uint, finds []Find) (int, error) {
	revision, err := nextRevision(tx, niche)
	if err != nil {
		return 0, err
	}
	ideas := make([]Idea, 0, len(finds))
	phrases := make([]string, 0, len(finds))
	known := map[string]bool{}
	for _, f := range finds {
		if !known[f.Idea.Phrase] {
			known[f.Idea.Phrase] = true
			f.Idea.NicheID, f.Idea.Revision = niche, revision
			ideas = append(ideas, f.Idea)
			phrases = append(phrases, f.Idea.Phrase)
		}
	}
	insert := tx.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(&ideas, batch)
	if insert.Error != nil {
		return 0, fmt.Errorf("inserting ideas: %w", insert.Error)
	}
	ids, err := idsOf(tx, niche, phrases)
	if err != nil {
		return 0, err
	}
	origins := make([]Origin, 0, len(finds))
	for _, f := range finds {
		f.Origin.IdeaID = ids[f.Idea.Phrase]
		origins = append(origins, f.Origin)
	}
	if err := tx.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(&origins, batch).Error; err != nil {
		return 0, fmt.Errorf("inserting origins: %w", err)
	}
	return int(insert.RowsAffected), fillGaps(tx, finds, ids, revision)
}

func idsOf(tx *gorm.DB, niche uint, phrases []string) (map[string]uint, error) {
	ids := make(map[string]uint, len(phrases))
	for len(phrases) > 0 {
		n := min(len(phrases), 500)
		var rows []Idea
		if err := tx.Select("id", "phrase").Where("niche_id = ? AND phrase IN ?", niche, phrases[:n]).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			ids[r.Phrase] = r.ID
		}
		phrases = phrases[n:]
	}
	return ids, nil
}

// fillGaps writes brought figures into ideas that had none.
func fillGaps(tx *gorm.DB, finds []Find, ids map[string]uint, revision int64) error {
	for _, f := range finds {
		if f.Idea.DemandAt == nil {
			continue
		}
		err := tx.Model(&Idea{}).Where("id = ? AND demand_at IS NULL", ids[f.Idea.Phrase]).
			Select("DemandAt", "DemandSource", "Searches", "Under", "CPCMicros", "Currency", "Revision").
			Updates(Idea{DemandAt: f.Idea.DemandAt, DemandSource: f.Idea.DemandSource, Searches: f.Idea.Searches,
				Under: f.Idea.Under, CPCMicros: f.Idea.CPCMicros, Currency: f.Idea.Currency, Revision: revision}).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// SaveDemand writes the demand figures of ideas of one niche.
func (s *Store) SaveDemand(ctx context.Context, niche uint, ideas []Idea) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		for _, i := range ideas {
			i.Revision = revision
			err := tx.Model(&Idea{}).Where("id = ?", i.ID).Select("DemandAt", "DemandSource", "DemandError", "Searches",
				"Under", "Months", "CPCMicros", "Currency", "Competition", "PhraseMatch", "BroadMatch", "Revision").Updates(i).Error
			if err != nil {
				return err
			}
		}
		return nil
	})
}

var judgementColumns = []string{"JudgedAt", "JudgeError", "Difficulty", "Reach", "PageOne", "TopFive", "Expected",
	"Footholds", "Weakest", "LinksNeeded", "Locked", "Want", "Mixed", "Revision"}

// SaveJudgement writes one idea's judgement and its evidence together. A nil body
// keeps the evidence that is there.
func (s *Store) SaveJudgement(ctx context.Context, idea Idea, body []byte) error {
	return s.SaveJudgements(ctx, idea.NicheID, []Idea{idea}, [][]byte{body})
}

// SaveSupposed writes what is supposed of my page for one idea, and the judgement that
// follows from it.
func (s *Store) SaveSupposed(ctx context.Context, idea Idea, body []byte) error {
	return s.saveJudgements(ctx, idea.NicheID, []Idea{idea}, [][]byte{body}, "MyStanding", "MyLinks", "MyFit")
}

// SaveJudgements writes the judgements of several ideas of one niche at once.
func (s *Store) SaveJudgements(ctx context.Context, niche uint, ideas []Idea, bodies [][]byte) error {
	return s.saveJudgements(ctx, niche, ideas, bodies)
}

func (s *Store) saveJudgements(ctx context.Context, niche uint, ideas []Idea, bodies [][]byte, also ...string) error {
	columns := slices.Concat(judgementColumns, also)
	return s.write(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		for n, idea := range ideas {
			idea.Revision = revision
			if err := tx.Model(&Idea{}).Where("id = ?", idea.ID).Select(columns).Updates(idea).Error; err != nil {
				return err
			}
			if bodies[n] == nil {
				continue
			}
			row := Evidence{IdeaID: idea.ID, Body: bodies[n]}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// SaveJudgeError notes why an idea could not be judged; an earlier judgement stays.
func (s *Store) SaveJudgeError(ctx context.Context, niche, idea uint, reason string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		return tx.Model(&Idea{}).Where("id = ?", idea).Select("JudgeError", "Revision").
			Updates(Idea{JudgeError: reason, Revision: revision}).Error
	})
}

// Evidence returns the evidence of an idea, or ErrNotFound.
func (s *Store) Evidence(ctx context.Context, idea uint) ([]byte, error) {
	row, err := first[Evidence](s.read(ctx).Where("idea_id = ?", idea))
	return row.Body, err
}

// Idea returns one idea of a niche, or ErrNotFound.
func (s *Store) Idea(ctx context.Context, niche, id uint) (Idea, error) {
	return first[Idea](s.read(ctx).Where("niche_id = ? AND id = ?", niche, id))
}

// Origins lists how an idea was found, the first way first.
func (s *Store) Origins(ctx context.Context, idea uint) ([]Origin, error) {
	var out []Origin
	return out, s.read(ctx).Where("idea_id = ?", idea).Order("created_at, kind, query").Find(&out).Error
}

// Revision is the number of the latest change to a niche's ideas.
func (s *Store) Revision(ctx context.Context, niche uint) (int64, error) {
	n, err := first[Niche](s.read(ctx).Select("revision").Where("id = ?", niche))
	return n.Revision, err
}

// IdeasSince returns the ideas changed after a revision, by ID; with 0, all.
func (s *Store) IdeasSince(ctx context.Context, niche uint, revision int64) ([]Idea, error) {
	var out []Idea
	return out, s.read(ctx).Where("niche_id = ? AND revision > ?", niche, revision).Order("id").Find(&out).Error
}

// Ideas returns the ideas of the IDs that are in the niche.
func (s *Store) Ideas(ctx context.Context, niche uint, ids []uint) ([]Idea, error) {
	var out []Idea
	for len(ids) > 0 {
		n := min(len(ids), 500)
		var part []Idea
		if err := s.read(ctx).Where("niche_id = ? AND id IN ?", niche, ids[:n]).Find(&part).Error; err != nil {
			return nil, err
		}
		out, ids = append(out, part...), ids[n:]
	}
	return out, nil
}

// Undemanded returns ideas without demand figures, oldest first.
func (s *Store) Undemanded(ctx context.Context, niche uint) ([]Idea, error) {
	var out []Idea
	return out, s.read(ctx).Select("id", "phrase").
		Where("niche_id = ? AND demand_at IS NULL AND demand_error = ''", niche).Order("id").Find(&out).Error
}

// ImportSource is the demand source of figures that a user's own list brought.
const ImportSource = "your list"

// Decide sets the decision of ideas, remembers what it was, and returns how many
// changed.
func (s *Store) Decide(ctx context.Context, niche uint, ids []uint, became int8, batchName string) (changed int, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		now := time.Now().UTC()
		for _, id := range ids {
			idea, err := first[Idea](tx.Select("id", "decision").Where("niche_id = ? AND id = ?", niche, id))
			if err != nil {
				return err
			}
			if idea.Decision == became {
				continue
			}
			row := Decision{NicheID: niche, IdeaID: id, Batch: batchName, Was: idea.Decision, Became: became}
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
			if err := setDecision(tx, id, became, &now, revision); err != nil {
				return err
			}
			changed++
		}
		return nil
	})
	return changed, err
}

func setDecision(tx *gorm.DB, id uint, to int8, at *time.Time, revision int64) error {
	return tx.Model(&Idea{}).Where("id = ?", id).Select("Decision", "DecidedAt", "Revision").
		Updates(Idea{Decision: to, DecidedAt: at, Revision: revision}).Error
}

// UndoDecision takes back the latest batch of decisions of a niche and returns
// it; it is empty when there is nothing to undo.
func (s *Store) UndoDecision(ctx context.Context, niche uint) (undone []Decision, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		last, err := first[Decision](tx.Where("niche_id = ?", niche).Order("id DESC"))
		if err == ErrNotFound {
			return nil
		}
		if err != nil {
			return err
		}
		if err := tx.Where("niche_id = ? AND batch = ?", niche, last.Batch).Order("id DESC").Find(&undone).Error; err != nil {
			return err
		}
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		now := time.Now().UTC()
		for _, d := range undone {
			if err := setDecision(tx, d.IdeaID, d.Was, &now, revision); err != nil {
				return err
			}
			if err := tx.Delete(&Decision{}, d.ID).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return undone, err
}
