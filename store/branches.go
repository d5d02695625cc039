package store

import (
	"context"
	"errors"

	"gorm.io/gorm"
)

// What puts ideas on the branches of their first origins: the branches, and then the ideas. A condition on ideas has to
// follow.
const (
	branchSeed          = `CASE kind WHEN 'list' THEN query ELSE seed END`
	branchesFromOrigins = `INSERT OR IGNORE INTO branches (niche_id, kind, seed)
		SELECT DISTINCT niche_id, kind, ` + branchSeed + ` FROM origins JOIN ideas ON ideas.id = idea_id`
	ideasOnBranches = `UPDATE ideas SET branch_id = coalesce((SELECT b.id FROM
		(SELECT kind, ` + branchSeed + ` seed FROM origins WHERE idea_id = ideas.id
			ORDER BY created_at, kind <> 'seed', kind, query LIMIT 1) o
		JOIN branches b ON b.niche_id = ideas.niche_id AND b.kind = o.kind AND b.seed = o.seed), 0)`
)

// Branch is the branch of a kind of a seed, or of a list: it is put in where it is not there yet.
func (s *Store) Branch(ctx context.Context, niche uint, kind, seed string) (id uint, err error) {
	err = s.writeLater(ctx, func(tx *gorm.DB) error {
		id, err = branchOf(tx, niche, kind, seed)
		return err
	})
	return id, err
}

func branchOf(tx *gorm.DB, niche uint, kind, seed string) (uint, error) {
	there, err := first[Branch](tx.Select("id").Where("niche_id = ? AND seed = ? AND kind = ?", niche, seed, kind))
	if !errors.Is(err, ErrNotFound) {
		return there.ID, err
	}
	row := Branch{NicheID: niche, Kind: kind, Seed: seed}
	err = tx.Create(&row).Error
	return row.ID, err
}

// onBranches puts ideas on the branches of the origins that they are found with.
func onBranches(tx *gorm.DB, niche uint, finds []Find) error {
	known := map[[2]string]uint{}
	for i := range finds {
		o := finds[i].Origin
		seed := o.Seed
		if o.Kind == listOrigin {
			seed = o.Query
		}
		id := known[[2]string{o.Kind, seed}]
		if id == 0 {
			var err error
			if id, err = branchOf(tx, niche, o.Kind, seed); err != nil {
				return err
			}
			known[[2]string{o.Kind, seed}] = id
		}
		finds[i].Idea.BranchID = id
	}
	return nil
}

// listOrigin is the kind of origin of what stood in a list.
const listOrigin = "list"

// growBranches makes a niche's branches anew from where its ideas were found.
func (s *Store) growBranches(ctx context.Context, niche uint) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec(branchesFromOrigins+" WHERE niche_id = ?", niche).Error; err != nil {
			return err
		}
		return tx.Exec(ideasOnBranches+" WHERE niche_id = ?", niche).Error
	})
}

// Branches lists a niche's branches in the order they were put in, each with the one that its seed was dug from.
func (s *Store) Branches(ctx context.Context, niche uint) (out []Branch, err error) {
	return out, s.read(ctx).Raw(`SELECT b.*, coalesce(i.branch_id, 0) "from" FROM branches b
		LEFT JOIN seeds s ON b.kind <> '`+listOrigin+`' AND s.niche_id = b.niche_id AND s.phrase = b.seed
		LEFT JOIN ideas i ON i.id = s.from_idea WHERE b.niche_id = ? ORDER BY b.id`, niche).Scan(&out).Error
}

// LastBranch is the ID of a niche's latest branch; 0 where it has none.
func (s *Store) LastBranch(ctx context.Context, niche uint) (id uint, err error) {
	return id, s.read(ctx).Raw("SELECT coalesce(max(id), 0) FROM branches WHERE niche_id = ?", niche).Scan(&id).Error
}

// BranchCosts is what was spent for each branch of a niche, in millionths, by its ID; and what its jobs spent for none
// of them.
func (s *Store) BranchCosts(ctx context.Context, niche uint) (of map[uint]int64, other int64, err error) {
	var rows []struct {
		BranchID uint
		Micros   int64
	}
	err = s.read(ctx).Raw(`SELECT branch_id, sum(micros) micros FROM ledger WHERE branch_id > 0 AND
		branch_id IN (SELECT id FROM branches WHERE niche_id = ?) GROUP BY branch_id`, niche).Scan(&rows).Error
	if err != nil {
		return nil, 0, err
	}
	of = make(map[uint]int64, len(rows))
	for _, r := range rows {
		of[r.BranchID] = r.Micros
	}
	return of, other, s.read(ctx).Raw(`SELECT coalesce(sum(micros), 0) FROM ledger WHERE branch_id = 0 AND
		job_id IN (SELECT id FROM jobs WHERE niche_id = ?)`, niche).Scan(&other).Error
}
