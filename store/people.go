package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
)

// Member is somebody who may sign in.
type Member struct {
	ID        uint
	Name      string // unique, without regard to capitals
	Role      string
	Password  string // as argon2id has it encoded; "" none was set
	Budget    int64  // a day, in millionths of the settings' currency; 0 none of one's own
	CreatedAt time.Time
	RemovedAt *time.Time // may sign in no more; what was done stays theirs
}

// TableName is members.
func (Member) TableName() string { return "members" }

// Session is a browser that somebody signed in with.
type Session struct {
	ID        uint
	Hash      string // of its secret: SHA-256 as hexadecimal
	MemberID  uint
	CreatedAt time.Time
	SeenAt    time.Time
	Address   string
	Agent     string
}

// Invitation lets somebody choose a password: a new member, or one who is there.
type Invitation struct {
	Hash     string `gorm:"primaryKey"` // of its secret
	Name     string // of a new member
	Role     string
	MemberID uint // who chooses another password; 0 a new member
	By       string
	EndsAt   time.Time
}

// Deed is something that was done, by whom and when.
type Deed struct {
	ID      uint
	At      time.Time
	Person  string
	NicheID uint // 0 none
	Act     string
	What    string
	Address string
}

// Members are those who may sign in, by name; all says those who may no more, too.
func (s *Store) Members(ctx context.Context, all bool) (out []Member, err error) {
	q := s.read(ctx)
	if !all {
		q = q.Where("removed_at IS NULL")
	}
	return out, q.Order("name COLLATE NOCASE").Find(&out).Error
}

// Member returns one who may sign in, or ErrNotFound.
func (s *Store) Member(ctx context.Context, id uint) (Member, error) {
	return first[Member](s.read(ctx).Where("id = ? AND removed_at IS NULL", id))
}

// MemberNamed returns one who may sign in, or ErrNotFound.
func (s *Store) MemberNamed(ctx context.Context, name string) (Member, error) {
	return first[Member](s.read(ctx).Where("name = ? COLLATE NOCASE AND removed_at IS NULL", name))
}

// ErrTaken says that somebody has the name.
var ErrTaken = errors.New("somebody has that name")

// Invite keeps an invitation; older ones for the same are no longer good.
func (s *Store) Invite(ctx context.Context, i Invitation) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if i.MemberID == 0 {
			if err := nameFree(tx, i.Name); err != nil {
				return err
			}
		}
		if err := tx.Where("member_id = ? AND name = ? COLLATE NOCASE", i.MemberID, i.Name).
			Delete(&Invitation{}).Error; err != nil {
			return err
		}
		return tx.Create(&i).Error
	})
}

func nameFree(tx *gorm.DB, name string) error {
	var n int64
	err := tx.Model(&Member{}).Where("name = ? COLLATE NOCASE", name).Count(&n).Error
	if err == nil && n > 0 {
		err = ErrTaken
	}
	return err
}

// Invitation returns one that is still good, or ErrNotFound.
func (s *Store) Invitation(ctx context.Context, hash string) (Invitation, error) {
	return first[Invitation](s.read(ctx).Where("hash = ? AND ends_at > ?", hash, s.now().UTC()))
}

// Invitations are those that are still good, by name.
func (s *Store) Invitations(ctx context.Context) (out []Invitation, err error) {
	return out, s.read(ctx).Where("ends_at > ?", s.now().UTC()).Order("name COLLATE NOCASE").Find(&out).Error
}

// Withdraw takes invitations of a name back.
func (s *Store) Withdraw(ctx context.Context, name string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Where("name = ? COLLATE NOCASE", name).Delete(&Invitation{}).Error
	})
}

// Accept uses an invitation up: it makes the member, or gives one another password and ends all of that one's sessions.
func (s *Store) Accept(ctx context.Context, hash, password string) (m Member, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		now := s.now().UTC()
		i, err := first[Invitation](tx.Where("hash = ? AND ends_at > ?", hash, now))
		if err != nil {
			return err
		}
		if err := tx.Delete(&i).Error; err != nil {
			return err
		}
		if i.MemberID == 0 {
			if err := nameFree(tx, i.Name); err != nil {
				return err
			}
			m = Member{Name: i.Name, Role: i.Role, Password: password, CreatedAt: now}
			return tx.Create(&m).Error
		}
		if m, err = first[Member](tx.Where("id = ? AND removed_at IS NULL", i.MemberID)); err != nil {
			return err
		}
		m.Password = password
		if err := tx.Model(&m).Update("password", password).Error; err != nil {
			return err
		}
		return tx.Where("member_id = ?", m.ID).Delete(&Session{}).Error
	})
	return m, err
}

// ErrLastOwner says that somebody is the only owner.
var ErrLastOwner = errors.New("it is the only owner")

// ChangeMember gives a member another role and budget.
func (s *Store) ChangeMember(ctx context.Context, id uint, role string, budget int64, owner string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Model(&Member{}).Where("id = ? AND removed_at IS NULL", id).
			Updates(map[string]any{"role": role, "budget": budget})
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return errors.Join(done.Error, stillOwned(tx, owner))
	})
}

// stillOwned returns ErrLastOwner where nobody is owner any more.
func stillOwned(tx *gorm.DB, owner string) error {
	var n int64
	err := tx.Model(&Member{}).Where("role = ? AND removed_at IS NULL", owner).Count(&n).Error
	if err == nil && n == 0 {
		err = ErrLastOwner
	}
	return err
}

// SetPassword gives a member another one, and ends all sessions of that one but the one that is said.
func (s *Store) SetPassword(ctx context.Context, id uint, password string, keep uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Model(&Member{}).Where("id = ?", id).Update("password", password).Error; err != nil {
			return err
		}
		return tx.Where("member_id = ? AND id <> ?", id, keep).Delete(&Session{}).Error
	})
}

// RemoveMember lets somebody sign in no more, at once.
func (s *Store) RemoveMember(ctx context.Context, id uint, owner string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Model(&Member{}).Where("id = ? AND removed_at IS NULL", id).Update("removed_at", s.now().UTC())
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		if err := errors.Join(done.Error, stillOwned(tx, owner)); err != nil {
			return err
		}
		return tx.Where("member_id = ?", id).Delete(&Session{}).Error
	})
}

// BeginSession keeps a session that begins.
func (s *Store) BeginSession(ctx context.Context, one Session) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		one.CreatedAt = s.now().UTC()
		one.SeenAt = one.CreatedAt
		return tx.Create(&one).Error
	})
}

// SessionOf returns a session that was used after one moment and begun after another, or ErrNotFound.
func (s *Store) SessionOf(ctx context.Context, hash string, used, begun time.Time) (Session, error) {
	return first[Session](s.read(ctx).Where("hash = ? AND seen_at > ? AND created_at > ?", hash, used.UTC(), begun.UTC()))
}

// Seen notes that a session is used.
func (s *Store) Seen(ctx context.Context, id uint) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Session{}).Where("id = ?", id).Update("seen_at", s.now().UTC()).Error
	})
}

// Sessions of a member, the latest used first.
func (s *Store) Sessions(ctx context.Context, member uint) (out []Session, err error) {
	return out, s.read(ctx).Where("member_id = ?", member).Order("seen_at DESC, id DESC").Find(&out).Error
}

// EndSession ends one of a member; 0 all of them.
func (s *Store) EndSession(ctx context.Context, member, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		q := tx.Where("member_id = ?", member)
		if id > 0 {
			q = q.Where("id = ?", id)
		}
		return q.Delete(&Session{}).Error
	})
}

// Attempt notes that somebody tried to sign in, under some keys, unless one of them was tried too often since a moment:
// then ok is false. It holds for all programs on the data file.
func (s *Store) Attempt(ctx context.Context, since time.Time, most map[string]int) (ok bool, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		ok = true
		if err := tx.Exec("DELETE FROM attempts WHERE at <= ?", since.UTC()).Error; err != nil {
			return err
		}
		for key, limit := range most {
			var n int64
			if err := tx.Raw("SELECT count(*) FROM attempts WHERE key = ?", key).Scan(&n).Error; err != nil {
				return err
			}
			if n >= int64(limit) {
				ok = false
				return nil
			}
		}
		for key := range most {
			if err := tx.Exec("INSERT INTO attempts (key, at) VALUES (?, ?)", key, s.now().UTC()).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return ok, err
}

// Forgive forgets all attempts under a key, "" none, and of the others the latest of each: somebody signed in, and that
// attempt was none to guess.
func (s *Store) Forgive(ctx context.Context, all string, latest ...string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM attempts WHERE key = ?", all).Error; err != nil {
			return err
		}
		for _, key := range latest {
			if err := tx.Exec("DELETE FROM attempts WHERE rowid = (SELECT max(rowid) FROM attempts WHERE key = ?)",
				key).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// Note keeps what was done.
func (s *Store) Note(ctx context.Context, d Deed) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		d.At = s.now().UTC()
		if d.Person == "" {
			d.Person = personOf(ctx)
		}
		return tx.Create(&d).Error
	})
}

// Deeds are what was done, the latest first, before one and at most so many; 0 begins with the latest.
func (s *Store) Deeds(ctx context.Context, before uint, most int) (out []Deed, err error) {
	q := s.read(ctx)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	return out, q.Order("id DESC").Limit(most).Find(&out).Error
}

// EachDeed tells all, the first first.
func (s *Store) EachDeed(ctx context.Context, each func(Deed) error) error {
	last := uint(0)
	for {
		var list []Deed
		if err := s.read(ctx).Where("id > ?", last).Order("id").Limit(batch).Find(&list).Error; err != nil ||
			len(list) == 0 {
			return err
		}
		for _, d := range list {
			if err := each(d); err != nil {
				return err
			}
			last = d.ID
		}
	}
}

// Passkey is one of a member.
type Passkey struct {
	ID         uint
	MemberID   uint
	Name       string
	Credential string // as JSON
	CreatedAt  time.Time
	UsedAt     *time.Time
}

// Ceremony is a passkey that is being made or shown.
type Ceremony struct {
	Hash     string `gorm:"primaryKey"` // of its secret
	MemberID uint   // who makes one; 0 somebody signs in
	Body     string // what the answer has to fit, as JSON
	EndsAt   time.Time
}

// Passkeys of a member, the oldest first.
func (s *Store) Passkeys(ctx context.Context, member uint) (out []Passkey, err error) {
	return out, s.read(ctx).Where("member_id = ?", member).Order("id").Find(&out).Error
}

// AddPasskey keeps one, unless there are so many.
func (s *Store) AddPasskey(ctx context.Context, p Passkey, most int) (ok bool, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&Passkey{}).Where("member_id = ?", p.MemberID).Count(&n).Error; err != nil || n >= int64(most) {
			return err
		}
		ok, p.CreatedAt = true, s.now().UTC()
		return tx.Create(&p).Error
	})
	return ok, err
}

// UsePasskey notes that one was shown, and what is known of it by now.
func (s *Store) UsePasskey(ctx context.Context, id uint, credential string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Passkey{}).Where("id = ?", id).
			Updates(map[string]any{"credential": credential, "used_at": s.now().UTC()}).Error
	})
}

// DeletePasskey takes one of a member away.
func (s *Store) DeletePasskey(ctx context.Context, member, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Where("member_id = ? AND id = ?", member, id).Delete(&Passkey{}).Error
	})
}

// BeginCeremony keeps one; those that are over are forgotten.
func (s *Store) BeginCeremony(ctx context.Context, c Ceremony) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("ends_at <= ?", s.now().UTC()).Delete(&Ceremony{}).Error; err != nil {
			return err
		}
		return tx.Create(&c).Error
	})
}

// EndCeremony returns one that is not over, or ErrNotFound: once.
func (s *Store) EndCeremony(ctx context.Context, hash string) (c Ceremony, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		if c, err = first[Ceremony](tx.Where("hash = ? AND ends_at > ?", hash, s.now().UTC())); err != nil {
			return err
		}
		return tx.Delete(&c).Error
	})
	return c, err
}
