package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"
)

// What a niche's file holds beside its ideas and topics, as it is read: rivals, verdicts, what is watched.

func (w *wholeReader) readRivals(ctx context.Context, niche uint) error {
	return readList(ctx, w, "rivals", func(tx *gorm.DB, rows []Rival) error {
		if err := checked(rows, w.check.Rival); err != nil {
			return err
		}
		for i := range rows {
			old := rows[i].ID
			rows[i].ID, rows[i].NicheID = 0, niche
			if err := tx.Create(&rows[i]).Error; err != nil {
				return fmt.Errorf("“%.60s” is there twice, or is none: %w", rows[i].Site, err)
			}
			w.rivals[old] = rows[i].ID
		}
		return nil
	})
}

func (w *wholeReader) readRivalPhrases(ctx context.Context, niche uint) error {
	return readList(ctx, w, "rival_phrases", func(tx *gorm.DB, rows []RivalPhrase) error {
		if err := checked(rows, w.check.Ranks); err != nil {
			return err
		}
		for i := range rows {
			rows[i].NicheID = niche
			if rows[i].RivalID = w.rivals[rows[i].RivalID]; rows[i].RivalID == 0 {
				return errors.New("it names a site that is not in the file")
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

func (w *wholeReader) readVerdicts(ctx context.Context, niche uint) error {
	return readList(ctx, w, "verdicts", func(tx *gorm.DB, rows []Verdict) error {
		for i := range rows {
			if rows[i].ID, rows[i].NicheID = 0, niche; !json.Valid([]byte(rows[i].Figures)) {
				return errors.New("the figures of a verdict are no JSON")
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

// readWatched reads what was watched, where it stood and what was noted; topics are those of the file.
func (w *wholeReader) readWatched(ctx context.Context, niche uint) error {
	watched := map[uint]uint{}
	err := readList(ctx, w, "watched", func(tx *gorm.DB, rows []Watched) error {
		for i := range rows {
			old := rows[i].ID
			if rows[i].Forecast != "" && !json.Valid([]byte(rows[i].Forecast)) ||
				rows[i].Faced != "" && !json.Valid([]byte(rows[i].Faced)) {
				return errors.New("a forecast is no JSON")
			}
			rows[i].ID, rows[i].NicheID, rows[i].TopicID = 0, niche, w.topics[rows[i].TopicID]
			if err := tx.Create(&rows[i]).Error; err != nil {
				return fmt.Errorf("“%.60s” is watched twice, or is no phrase: %w", rows[i].Phrase, err)
			}
			watched[old] = rows[i].ID
		}
		return nil
	})
	if err != nil {
		return err
	}
	err = readList(ctx, w, "positions", func(tx *gorm.DB, rows []Position) error {
		for i := range rows {
			rows[i].ID = 0
			if rows[i].WatchedID = watched[rows[i].WatchedID]; rows[i].WatchedID == 0 {
				return errors.New("it names a phrase that is not in the file")
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
	if err != nil {
		return err
	}
	return readList(ctx, w, "remarks", func(tx *gorm.DB, rows []Remark) error {
		for i := range rows {
			rows[i].ID = 0
			if rows[i].WatchedID = watched[rows[i].WatchedID]; rows[i].WatchedID == 0 {
				return errors.New("it names a phrase that is not in the file")
			}
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}

// readMine reads one's other sites, what became of faults, and where places are checked.
func (w *wholeReader) readMine(ctx context.Context, niche uint) error {
	err := readList(ctx, w, "own_sites", func(tx *gorm.DB, rows []OwnSite) error {
		for i := range rows {
			rows[i].NicheID = niche
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
	if err != nil {
		return err
	}
	err = readList(ctx, w, "mendings", func(tx *gorm.DB, rows []Mending) error {
		for i := range rows {
			rows[i].NicheID = niche
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
	if err != nil {
		return err
	}
	return readList(ctx, w, "watches", func(tx *gorm.DB, rows []Watch) error {
		if len(rows) > 1 {
			return errors.New("it says twice where positions are checked")
		}
		for i := range rows { // what spends money is not begun by a file
			rows[i].NicheID, rows[i].EveryDays, rows[i].CheckedAt = niche, 0, nil
		}
		return tx.CreateInBatches(&rows, batch).Error
	})
}
