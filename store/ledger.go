package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
)

// Entry is one line of the ledger, which is only added to. A call that costs money has one
// before it is made, and one when it is known what became of it: the sum of all is what was
// spent, and a call without a later line may have been paid or not.
type Entry struct {
	ID       uint
	Call     string // what the lines of one call have in common
	Event    string
	Question string
	Source   string // that it is put to; "" before that was entered
	Key      string // of the question
	Micros   int64  // what is spent by it; negative where a call turned out to cost nothing
	JobID    uint   // that it is made for; 0 none
	Person   string // for whom
	Program  int64  // that makes it
	BranchID uint   // of the ideas, whose cost it is; 0 none
	At       time.Time
	Lost     bool `gorm:"->"` // of a call in doubt: who made it does not know either
}

// TableName is ledger.
func (Entry) TableName() string { return "ledger" }

// What a line of the ledger says of its call.
const (
	CallAsked = "asked"    // it is about to be made
	CallPaid  = "paid"     // it was answered
	CallVoid  = "void"     // it was declined, or never got there: nothing is paid
	CallAgain = "accepted" // nobody knows, and the user wants it asked again all the same
	CallHeld  = "held"     // a job did not make it again, since nobody knows
	CallLost  = "lost"     // it ended, and who made it does not know whether it is paid
)

// ErrBudget is returned for a call that the day's budget does not cover.
var ErrBudget = errors.New("the budget does not cover it")

// ErrAsked is returned for a call that somebody has made, and of which nobody has said yet what became of it.
var ErrAsked = errors.New("it was asked already")

// Spend enters calls that are about to be made, unless they would cost more than a budget leaves
// of what was spent since a moment: then it is ErrBudget. A budget of 0 is none. Where one was made by somebody else
// just now, it is ErrAsked.
func (s *Store) Spend(ctx context.Context, calls []Entry, since time.Time, budget int64) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		sum := int64(0)
		keys := make([]string, len(calls))
		for i := range calls {
			calls[i].Event, calls[i].At, calls[i].Program = CallAsked, s.now(), s.program
			sum += calls[i].Micros
			keys[i] = calls[i].Key
		}
		if len(calls) > 0 {
			if doubts, err := inDoubt(tx, calls[0].Question, calls[0].Source, keys); err != nil {
				return err
			} else if len(doubts) > 0 {
				return ErrAsked
			}
		}
		if budget > 0 {
			spent, err := spentSince(tx, since)
			if err != nil {
				return err
			}
			if spent+sum > budget {
				return ErrBudget
			}
		}
		if err := withinOwn(tx, personOf(ctx), since, sum); err != nil {
			return err
		}
		return tx.CreateInBatches(&calls, batch).Error
	})
}

// Settle enters what became of calls: CallPaid, or CallVoid.
func (s *Store) Settle(ctx context.Context, calls []Entry, event string) error {
	if len(calls) == 0 {
		return nil
	}
	return s.writeLater(ctx, func(tx *gorm.DB) error { return settle(tx, calls, event, s.now()) })
}

// Hold enters that a job did not make calls in doubt again.
func (s *Store) Hold(ctx context.Context, doubts []Entry, job uint) error {
	for i := range doubts {
		doubts[i].JobID = job
	}
	return s.Settle(ctx, doubts, CallHeld)
}

func settle(tx *gorm.DB, calls []Entry, event string, now time.Time) error {
	lines := make([]Entry, len(calls))
	for i, c := range calls {
		lines[i] = Entry{Call: c.Call, Event: event, Question: c.Question, Source: c.Source, Key: c.Key,
			JobID: c.JobID, BranchID: c.BranchID, At: now}
		if event == CallVoid {
			lines[i].Micros = -c.Micros
		}
	}
	return tx.CreateInBatches(&lines, batch).Error
}

// unsettled are the calls that nobody knows the end of.
const unsettled = `event = 'asked' AND NOT EXISTS
	(SELECT 1 FROM ledger later WHERE later.call = ledger.call AND later.event IN ('paid', 'void', 'accepted'))`

// isLost holds for calls whose end who made them does not know either.
const isLost = `EXISTS (SELECT 1 FROM ledger later WHERE later.call = ledger.call AND later.event = 'lost')`

// InDoubt returns those of the keys that a source was asked for money, nobody knows with what end.
func (s *Store) InDoubt(ctx context.Context, question, source string, keys []string) (out []Entry, err error) {
	return inDoubt(s.read(ctx), question, source, keys)
}

func inDoubt(tx *gorm.DB, question, source string, keys []string) (out []Entry, err error) {
	for len(keys) > 0 && err == nil {
		n := min(len(keys), lookup)
		var part []Entry
		err = tx.Select("*, "+isLost+" lost").
			Where("question = ? AND source IN (?, '') AND key IN ? AND "+unsettled, question, source, keys[:n]).Find(&part).Error
		out, keys = append(out, part...), keys[n:]
	}
	return out, err
}

// acceptDoubts enters that a job's calls in doubt may be made again.
func acceptDoubts(tx *gorm.DB, job uint, now time.Time) error {
	// Those that it did not get to make since another one's were in doubt are among them.
	var doubts []Entry
	err := tx.Where("(question, key) IN (SELECT question, key FROM ledger WHERE job_id = ?) AND "+unsettled, job).
		Find(&doubts).Error
	if err != nil || len(doubts) == 0 {
		return err
	}
	return settle(tx, doubts, CallAgain, now)
}

// Spent is what was spent, and on how many calls how much of it is in doubt.
type Spent struct {
	Micros      int64
	Doubts      int
	DoubtMicros int64
}

// JobSpent is what was spent for a job.
func (s *Store) JobSpent(ctx context.Context, job uint) (Spent, error) {
	return s.spent(ctx, "job_id = ?", job)
}

// DaySpent is what was spent since a moment.
func (s *Store) DaySpent(ctx context.Context, since time.Time) (Spent, error) {
	return s.spent(ctx, "at >= ?", since.UTC())
}

// spent sums what calls cost. Those under way in a program that runs are not in doubt: it will say how they end.
func (s *Store) spent(ctx context.Context, where string, value any) (out Spent, err error) {
	err = s.read(ctx).Raw("SELECT coalesce(sum(micros), 0) micros FROM ledger WHERE "+where, value).Scan(&out).Error
	if err != nil {
		return out, err
	}
	var open []struct {
		Program, Micros int64
		Calls           int
		Lost            bool
	}
	err = s.read(ctx).Raw("SELECT program, "+isLost+" lost, count(*) calls, sum(micros) micros FROM ledger WHERE "+
		unsettled+" AND "+where+" GROUP BY program, lost", value).Scan(&open).Error
	for _, of := range open {
		if of.Lost || !s.Alive(of.Program) {
			out.Doubts += of.Calls
			out.DoubtMicros += of.Micros
		}
	}
	return out, err
}

// SpentSince is what calls cost since a moment, in micro-units; those in doubt count.
func (s *Store) SpentSince(ctx context.Context, since time.Time) (micros int64, err error) {
	return spentSince(s.read(ctx), since)
}

// ErrOwnBudget is returned for a call that somebody's own budget does not cover.
var ErrOwnBudget = errors.New("your own budget does not cover it")

// withinOwn returns ErrOwnBudget where what somebody spent since a moment, and more, is over the budget they have.
func withinOwn(tx *gorm.DB, person string, since time.Time, more int64) error {
	var budget, spent int64
	err := tx.Raw("SELECT coalesce(max(budget), 0) FROM members WHERE name = ?", person).Scan(&budget).Error
	if err != nil || budget == 0 {
		return err
	}
	err = tx.Raw("SELECT coalesce(sum(micros), 0) FROM ledger WHERE at >= ? AND person = ?", since.UTC(), person).
		Scan(&spent).Error
	if err == nil && spent+more > budget {
		err = ErrOwnBudget
	}
	return err
}

func spentSince(tx *gorm.DB, since time.Time) (micros int64, err error) {
	err = tx.Raw("SELECT coalesce(sum(micros), 0) FROM ledger WHERE at >= ?", since.UTC()).Scan(&micros).Error
	return micros, err
}

// SourceSpent is what calls of a question to a source cost since a moment, in micro-units; those in doubt count.
func (s *Store) SourceSpent(ctx context.Context, question, source string, since time.Time) (micros int64, err error) {
	err = s.read(ctx).Raw("SELECT coalesce(sum(micros), 0) FROM ledger WHERE at >= ? AND question = ? AND source = ?",
		since.UTC(), question, source).Scan(&micros).Error
	return micros, err
}
