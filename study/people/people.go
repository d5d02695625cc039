// Package people is who may sign in, and what each may do.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/netip"
	"strings"
	"time"
	"unicode"

	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"

	"github.com/alexedwards/argon2id"
)

// Role is what somebody may do.
type Role string

// The roles, each with what those behind it may, too.
const (
	Owner  Role = "owner"  // people, budgets, sources, the record, deleting niches
	Editor Role = "editor" // all work in niches
	Reader Role = "reader" // sees niches
	Writer Role = "writer" // sees briefs, and says what is being written and what is out
)

// Roles lists them, with what they may in words.
var Roles = []struct {
	Role Role
	Says string
}{{Owner, "Everything, also people and budgets"}, {Editor, "All work in niches"}, {Reader, "Sees everything in niches"},
	{Writer, "Sees briefs and says what is written"}}

// Right is what a request needs.
type Right int

// The rights.
const (
	ToWrite Right = iota // briefs
	ToSee
	ToWork
	ToOwn
)

// May reports whether a role has a right.
func (r Role) May(what Right) bool {
	switch r {
	case Owner:
		return true
	case Editor:
		return what <= ToWork
	case Reader:
		return what == ToSee || what == ToWrite
	case Writer:
		return what == ToWrite
	}
	return false
}

// Store is what is asked of the data file.
type Store interface {
	Accept(ctx context.Context, hash, password string) (store.Member, error)
	AddPasskey(ctx context.Context, p store.Passkey, most int) (ok bool, err error)
	Attempt(ctx context.Context, since time.Time, most map[string]int) (ok bool, err error)
	BeginCeremony(ctx context.Context, c store.Ceremony) error
	BeginSession(ctx context.Context, one store.Session) error
	ChangeMember(ctx context.Context, id uint, role string, budget int64, owner string) error
	Deeds(ctx context.Context, before uint, most int) ([]store.Deed, error)
	DeletePasskey(ctx context.Context, member, id uint) error
	EachDeed(ctx context.Context, each func(store.Deed) error) error
	EndCeremony(ctx context.Context, hash string) (store.Ceremony, error)
	EndSession(ctx context.Context, member, id uint) error
	Forgive(ctx context.Context, all string, latest ...string) error
	Invitation(ctx context.Context, hash string) (store.Invitation, error)
	Invitations(ctx context.Context) ([]store.Invitation, error)
	Invite(ctx context.Context, i store.Invitation) error
	Member(ctx context.Context, id uint) (store.Member, error)
	MemberNamed(ctx context.Context, name string) (store.Member, error)
	Members(ctx context.Context, all bool) ([]store.Member, error)
	Note(ctx context.Context, d store.Deed) error
	Now() time.Time
	Passkeys(ctx context.Context, member uint) ([]store.Passkey, error)
	RemoveMember(ctx context.Context, id uint, owner string) error
	Seen(ctx context.Context, id uint) error
	SessionOf(ctx context.Context, hash string, used, begun time.Time) (store.Session, error)
	Sessions(ctx context.Context, member uint) ([]store.Session, error)
	SetPassword(ctx context.Context, id uint, password string, keep uint) error
	UsePasskey(ctx context.Context, id uint, credential string) error
	Withdraw(ctx context.Context, name string) error
}

// Keeper knows who may sign in.
type Keeper struct {
	store Store
	here  presence
}

// New returns one.
func New(st Store) *Keeper { return &Keeper{store: st} }

// Person is somebody who may sign in.
type Person struct {
	ID      uint
	Name    string
	Role    Role
	Budget  int64 // a day, in millionths; 0 none of one's own
	Session uint  // that a request comes by; 0 none
}

func personOf(m store.Member) Person {
	return Person{ID: m.ID, Name: m.Name, Role: Role(m.Role), Budget: m.Budget}
}

// Bounds (ours, but for what is said).
const (
	MostName       = 40
	LeastPassword  = 12 // NIST SP 800-63B asks for 8 at least, 15 where nothing else is asked
	MostPassword   = 200
	MostBudget     = 1_000_000_000_000
	InvitationLife = 7 * ask.Day
	idle           = 14 * ask.Day // a session that was not used for so long is over
	longest        = 90 * ask.Day // and so is one that was begun before
	seenAgain      = 5 * time.Minute
	attemptsIn     = 15 * time.Minute
	mostOfOne      = 10 // attempts for a name from an address
	mostOfName     = 60 // for a name from anywhere
	mostOfAddress  = 60 // from an address
	mostAgent      = 200
)

// hashing is how passwords are kept: argon2id (RFC 9106) with what OWASP's Password Storage Cheat Sheet asks for at
// least: 19 MiB, two passes, one lane.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// nobody is the hash of a password that nobody has: a name that is not there takes as long as one that is.
var nobody, _ = argon2id.CreateHash(rand.Text(), hashing)

// secret makes one, and what is kept of it. It has 130 bits.
func secret() (plain, kept string) {
	plain = rand.Text()
	return plain, hashOf(plain)
}

func hashOf(plain string) string {
	sum := sha256.Sum256([]byte(plain))
	return hex.EncodeToString(sum[:])
}

// ErrSignIn is why nobody is signed in; it does not tell whether the name or the password is wrong.
var ErrSignIn = input.Bad("password", "The name or the password is wrong.")

// ErrTooOften is that with too many attempts.
var ErrTooOften = input.Bad("password", "Too many attempts. Try again in 15 minutes.")

// SignIn begins a session, and returns its secret. It is an *input.Error where that cannot be.
func (k *Keeper) SignIn(ctx context.Context, name, password, address, agent string) (string, Person, error) {
	name = strings.TrimSpace(name)
	folded := strings.ToLower(input.Clip(name, MostName))
	from := networkOf(address)
	keys := map[string]int{"both:" + folded + "@" + from: mostOfOne, "name:" + folded: mostOfName,
		"address:" + from: mostOfAddress}
	ok, err := k.store.Attempt(ctx, k.store.Now().Add(-attemptsIn), keys)
	if err != nil {
		return "", Person{}, err
	}
	if !ok {
		return "", Person{}, ErrTooOften
	}
	m, err := k.store.MemberNamed(ctx, name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return "", Person{}, err
	}
	hash := m.Password
	if hash == "" {
		hash = nobody
	}
	right, failed := argon2id.ComparePasswordAndHash(input.Clip(password, MostPassword), hash)
	if err != nil || failed != nil || !right || m.Password == "" {
		return "", Person{}, ErrSignIn
	}
	if err := k.store.Forgive(ctx, "both:"+folded+"@"+from, "name:"+folded, "address:"+from); err != nil {
		return "", Person{}, err
	}
	plain, err := k.begin(ctx, m, address, agent)
	return plain, personOf(m), err
}

// networkOf is what counts as one address: of IPv6 the first 64 bits, which is what one line is given (RFC 6177).
func networkOf(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil || a.Unmap().Is4() {
		return address
	}
	p, err := a.Prefix(64)
	if err != nil {
		return address
	}
	return p.String()
}

// begin begins a session. Each has a secret of its own, so that none can be fixed before.
func (k *Keeper) begin(ctx context.Context, m store.Member, address, agent string) (string, error) {
	plain, kept := secret()
	return plain, k.store.BeginSession(ctx, store.Session{Hash: kept, MemberID: m.ID, Address: address,
		Agent: input.Clip(agent, mostAgent)})
}

// Of is who a session's secret is of; ok is false where it is over.
func (k *Keeper) Of(ctx context.Context, plain string) (p Person, ok bool, err error) {
	if len(plain) < 20 || len(plain) > 100 {
		return p, false, nil
	}
	now := k.store.Now()
	s, err := k.store.SessionOf(ctx, hashOf(plain), now.Add(-idle), now.Add(-longest))
	if err == nil {
		var m store.Member
		if m, err = k.store.Member(ctx, s.MemberID); err == nil {
			p = personOf(m)
			p.Session = s.ID
			if now.Sub(s.SeenAt) > seenAgain {
				err = k.store.Seen(ctx, s.ID)
			}
			return p, true, err
		}
	}
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return Person{}, false, err
}

// Any reports whether somebody may sign in.
func (k *Keeper) Any(ctx context.Context) (bool, error) {
	list, err := k.store.Members(ctx, false)
	return len(list) > 0, err
}

// List are those who may sign in.
func (k *Keeper) List(ctx context.Context) (out []Person, err error) {
	list, err := k.store.Members(ctx, false)
	for _, m := range list {
		out = append(out, personOf(m))
	}
	return out, err
}

// Invited is somebody who was invited and has not come yet.
type Invited struct {
	Name   string
	Role   Role
	Again  bool // is there already, and chooses another password
	EndsAt time.Time
}

// Invited are those.
func (k *Keeper) Invited(ctx context.Context) (out []Invited, err error) {
	list, err := k.store.Invitations(ctx)
	for _, i := range list {
		out = append(out, Invited{i.Name, Role(i.Role), i.MemberID != 0, i.EndsAt})
	}
	return out, err
}

// CheckName reads a name.
func CheckName(text string) (string, error) {
	name := strings.Join(strings.Fields(text), " ")
	switch {
	case name == "":
		return "", input.Bad("name", "Type a name.")
	case len([]rune(name)) > MostName:
		return "", input.Bad("name", "The name is longer than %d characters.", MostName)
	case strings.ContainsFunc(name, func(r rune) bool { return !unicode.IsPrint(r) }):
		return "", input.Bad("name", "The name has characters that cannot be seen.")
	case strings.EqualFold(name, store.Owner):
		return "", input.Bad("name", "“%s” is taken: what was done before anybody signed in is under it.", store.Owner)
	}
	return name, nil
}

// Invite invites somebody, and returns the secret of the link.
func (k *Keeper) Invite(ctx context.Context, name string, role Role, by string) (string, error) {
	name, err := CheckName(name)
	if err != nil {
		return "", err
	}
	if !role.May(ToWrite) { // every role may
		return "", input.Bad("role", "That option is not available. Reload the page.")
	}
	plain, kept := secret()
	err = k.store.Invite(ctx, store.Invitation{Hash: kept, Name: name, Role: string(role), By: by,
		EndsAt: k.store.Now().Add(InvitationLife).UTC()})
	if errors.Is(err, store.ErrTaken) {
		return "", input.Bad("name", "“%s” is taken, or was taken by somebody who was removed.", name)
	}
	return plain, err
}

// Renew lets somebody who is there choose another password, and returns the secret of the link.
func (k *Keeper) Renew(ctx context.Context, id uint, by string) (string, error) {
	m, err := k.store.Member(ctx, id)
	if err != nil {
		return "", err
	}
	plain, kept := secret()
	return plain, k.store.Invite(ctx, store.Invitation{Hash: kept, Name: m.Name, Role: m.Role, MemberID: m.ID, By: by,
		EndsAt: k.store.Now().Add(InvitationLife).UTC()})
}

// Withdraw takes an invitation back.
func (k *Keeper) Withdraw(ctx context.Context, name string) error { return k.store.Withdraw(ctx, name) }

// Invitation is whom a link is for; input.ErrNotFound where it is no longer good.
func (k *Keeper) Invitation(ctx context.Context, plain string) (Invited, error) {
	i, err := k.store.Invitation(ctx, hashOf(plain))
	return Invited{i.Name, Role(i.Role), i.MemberID != 0, i.EndsAt}, err
}

// checkPassword reads a password: a long one, whatever is in it, and not the name.
func checkPassword(name, text string) (string, error) {
	switch n := len([]rune(text)); {
	case n < LeastPassword:
		return "", input.Bad("password", "The password has %d characters; %d are needed. Several words are easy to remember.",
			n, LeastPassword)
	case n > MostPassword:
		return "", input.Bad("password", "The password is longer than %d characters.", MostPassword)
	case strings.Contains(strings.ToLower(text), strings.ToLower(name)) && n < 2*LeastPassword:
		return "", input.Bad("password", "The password holds your name. Choose another one.")
	case simple(text):
		return "", input.Bad("password", "That password is too easy to guess. Choose another one.")
	}
	return argon2id.CreateHash(text, hashing)
}

// simple reports whether a password hardly has different characters.
func simple(text string) bool {
	different := map[rune]bool{}
	for _, r := range strings.ToLower(text) {
		different[r] = true
	}
	return len(different) < 5
}

// Accept uses a link up with a password, and begins a session.
func (k *Keeper) Accept(ctx context.Context, plain, password, address, agent string) (string, Person, error) {
	i, err := k.Invitation(ctx, plain)
	if err != nil {
		return "", Person{}, err
	}
	hash, err := checkPassword(i.Name, password)
	if err != nil {
		return "", Person{}, err
	}
	m, err := k.store.Accept(ctx, hashOf(plain), hash)
	if err != nil {
		return "", Person{}, err
	}
	session, err := k.begin(ctx, m, address, agent)
	return session, personOf(m), err
}

// ChangePassword gives oneself another one; other sessions end.
func (k *Keeper) ChangePassword(ctx context.Context, p Person, old, password string) error {
	m, err := k.store.Member(ctx, p.ID)
	if err != nil {
		return err
	}
	if right, err := argon2id.ComparePasswordAndHash(old, m.Password); err != nil || !right {
		return input.Bad("old", "That is not your password.")
	}
	hash, err := checkPassword(m.Name, password)
	if err != nil {
		return err
	}
	return k.store.SetPassword(ctx, m.ID, hash, p.Session)
}

// Change gives somebody another role and a budget a day, in millionths.
func (k *Keeper) Change(ctx context.Context, id uint, role Role, budget int64) error {
	if !role.May(ToWrite) || budget < 0 || budget > MostBudget {
		return input.Bad("role", "That option is not available. Reload the page.")
	}
	return lastOwner(k.store.ChangeMember(ctx, id, string(role), budget, string(Owner)))
}

// Remove lets somebody sign in no more, at once.
func (k *Keeper) Remove(ctx context.Context, id uint) error {
	return lastOwner(k.store.RemoveMember(ctx, id, string(Owner)))
}

func lastOwner(err error) error {
	if errors.Is(err, store.ErrLastOwner) {
		return input.Bad("role", "There is no other owner. Make somebody else owner first.")
	}
	return err
}

// Session is a browser that somebody signed in with.
type Session struct {
	ID             uint
	Begun, Seen    time.Time
	Address, Agent string
	Here           bool
}

// Sessions of somebody.
func (k *Keeper) Sessions(ctx context.Context, p Person) (out []Session, err error) {
	list, err := k.store.Sessions(ctx, p.ID)
	now := k.store.Now()
	for _, s := range list {
		if now.Sub(s.SeenAt) < idle && now.Sub(s.CreatedAt) < longest {
			out = append(out, Session{s.ID, s.CreatedAt, s.SeenAt, s.Address, s.Agent, s.ID == p.Session})
		}
	}
	return out, err
}

// End ends a session of somebody; 0 all.
func (k *Keeper) End(ctx context.Context, p Person, id uint) error {
	return k.store.EndSession(ctx, p.ID, id)
}

// Deed is something that was done.
type Deed = store.Deed

// Note keeps what was done.
func (k *Keeper) Note(ctx context.Context, d Deed) error { return k.store.Note(ctx, d) }

// Deeds are what was done, the latest first, before one.
func (k *Keeper) Deeds(ctx context.Context, before uint, most int) ([]Deed, error) {
	return k.store.Deeds(ctx, before, most)
}

// EachDeed tells all that was done, the first first.
func (k *Keeper) EachDeed(ctx context.Context, each func(Deed) error) error {
	return k.store.EachDeed(ctx, each)
}

// As is a context in which what is done is somebody's.
func As(ctx context.Context, p Person) context.Context { return store.As(ctx, p.Name) }
