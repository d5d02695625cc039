package people

import (
	"context"
	"encoding/json"
	"errors"
	"strconv"
	"strings"
	"time"

	"cleverniche/store"
	"cleverniche/study/input"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"
)

// Passkeys (Web Authentication Level 3): a browser or a device keeps a key that it shows instead of a password.

// Bounds of passkeys (ours).
const (
	MostPasskeys = 10
	MostKeyName  = 40
	ceremonyLife = 5 * time.Minute
)

// Passkey is one of somebody.
type Passkey struct {
	ID      uint
	Name    string
	Created time.Time
	Used    time.Time // zero never
}

// holder is somebody as the ceremonies know them.
type holder struct {
	person Person
	keys   []store.Passkey
	list   []webauthn.Credential
}

func (h *holder) WebAuthnID() []byte {
	return []byte(strconv.FormatUint(uint64(h.person.ID),
		10))
}
func (h *holder) WebAuthnName() string                       { return h.person.Name }
func (h *holder) WebAuthnDisplayName() string                { return h.person.Name }
func (h *holder) WebAuthnCredentials() []webauthn.Credential { return h.list }

// holds is somebody with all passkeys that can be read.
func (k *Keeper) holds(ctx context.Context, p Person) (*holder, error) {
	rows, err := k.store.Passkeys(ctx, p.ID)
	h := &holder{person: p}
	for _, row := range rows {
		var c webauthn.Credential
		if json.Unmarshal([]byte(row.Credential), &c) == nil {
			h.keys, h.list = append(h.keys, row), append(h.list, c)
		}
	}
	return h, err
}

// party is who asks for passkeys: this application, under the name that the browser reaches it by.
func party(host, origin string) (*webauthn.WebAuthn, error) {
	return webauthn.New(&webauthn.Config{RPID: host, RPDisplayName: "Clever Niche", RPOrigins: []string{origin}})
}

// Passkeys of somebody.
func (k *Keeper) Passkeys(ctx context.Context, p Person) (out []Passkey, err error) {
	rows, err := k.store.Passkeys(ctx, p.ID)
	for _, row := range rows {
		one := Passkey{ID: row.ID, Name: row.Name, Created: row.CreatedAt}
		if row.UsedAt != nil {
			one.Used = *row.UsedAt
		}
		out = append(out, one)
	}
	return out, err
}

// Asking is what a browser is asked, as JSON, and the secret by which its answer is known.
type Asking struct {
	Options json.RawMessage `json:"options"`
	Secret  string          `json:"secret"`
}

// asking keeps what an answer has to fit.
func (k *Keeper) asking(ctx context.Context, member uint, options any, session *webauthn.SessionData) (out Asking,
	err error) {
	if out.Options, err = json.Marshal(options); err != nil {
		return out, err
	}
	body, err := json.Marshal(session)
	if err != nil {
		return out, err
	}
	var kept string
	out.Secret, kept = secret()
	return out, k.store.BeginCeremony(ctx, store.Ceremony{Hash: kept, MemberID: member, Body: string(body),
		EndsAt: k.store.Now().Add(ceremonyLife).UTC()})
}

// answered is what an answer has to fit, once.
func (k *Keeper) answered(ctx context.Context, plain string) (c store.Ceremony, session webauthn.SessionData,
	err error) {
	if c, err = k.store.EndCeremony(ctx, hashOf(plain)); err != nil {
		return c, session, err
	}
	return c, session, json.Unmarshal([]byte(c.Body), &session)
}

// errKey is why a passkey is not taken.
var errKey = input.Bad("passkey", "That passkey does not fit. Try again, or use your password.")

// MakePasskey begins to make a passkey for somebody.
func (k *Keeper) MakePasskey(ctx context.Context, p Person, host, origin string) (Asking, error) {
	h, err := k.holds(ctx, p)
	if err != nil {
		return Asking{}, err
	}
	w, err := party(host, origin)
	if err != nil {
		return Asking{}, err
	}
	var have []protocol.CredentialDescriptor
	for _, c := range h.list {
		have = append(have, c.Descriptor())
	}
	selection := protocol.AuthenticatorSelection{ResidentKey: protocol.ResidentKeyRequirementRequired,
		UserVerification: protocol.VerificationRequired}
	options, session, err := w.BeginRegistration(h, webauthn.WithExclusions(have),
		webauthn.WithAuthenticatorSelection(selection))
	if err != nil {
		return Asking{}, err
	}
	return k.asking(ctx, p.ID, options.Response, session)
}

// AddPasskey takes the passkey that somebody's browser made.
func (k *Keeper) AddPasskey(ctx context.Context, p Person, host, origin, plain, name string, answer []byte) error {
	c, session, err := k.answered(ctx, plain)
	if errors.Is(err, store.ErrNotFound) || err == nil && c.MemberID != p.ID {
		return errKey
	}
	if err != nil {
		return err
	}
	w, err := party(host, origin)
	if err != nil {
		return err
	}
	h, err := k.holds(ctx, p)
	if err != nil {
		return err
	}
	parsed, err := protocol.ParseCredentialCreationResponseBytes(answer)
	if err != nil {
		return errKey
	}
	made, err := w.CreateCredential(h, session, parsed)
	if err != nil {
		return errKey
	}
	body, err := json.Marshal(made)
	if err != nil {
		return err
	}
	if name = strings.Join(strings.Fields(name), " "); name == "" {
		name = "passkey"
	}
	ok, err := k.store.AddPasskey(ctx, store.Passkey{MemberID: p.ID, Name: input.Clip(name, MostKeyName),
		Credential: string(body)}, MostPasskeys)
	if err == nil && !ok {
		err = input.Bad("passkey", "You have %d passkeys already. Remove one first.", MostPasskeys)
	}
	return err
}

// RemovePasskey takes one of somebody away.
func (k *Keeper) RemovePasskey(ctx context.Context, p Person, id uint) error {
	return k.store.DeletePasskey(ctx, p.ID, id)
}

// AskPasskey begins to let somebody sign in by a passkey, whoever that is.
func (k *Keeper) AskPasskey(ctx context.Context, host, origin, address string) (Asking, error) {
	ok, err := k.store.Attempt(ctx, k.store.Now().Add(-attemptsIn),
		map[string]int{"address:" + networkOf(address): mostOfAddress})
	if err != nil {
		return Asking{}, err
	}
	if !ok {
		return Asking{}, ErrTooOften
	}
	w, err := party(host, origin)
	if err != nil {
		return Asking{}, err
	}
	options, session, err := w.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationRequired))
	if err != nil {
		return Asking{}, err
	}
	return k.asking(ctx, 0, options.Response, session)
}

// SignInByPasskey begins a session for whose passkey was shown, and returns its secret.
func (k *Keeper) SignInByPasskey(ctx context.Context, host, origin, plain string, answer []byte, address,
	agent string) (string, Person, error) {
	c, session, err := k.answered(ctx, plain)
	if errors.Is(err, store.ErrNotFound) || err == nil && c.MemberID != 0 {
		return "", Person{}, errKey
	}
	if err != nil {
		return "", Person{}, err
	}
	w, err := party(host, origin)
	if err != nil {
		return "", Person{}, err
	}
	parsed, err := protocol.ParseCredentialRequestResponseBytes(answer)
	if err != nil {
		return "", Person{}, errKey
	}
	var who *holder
	var m store.Member
	used, err := w.ValidateDiscoverableLogin(func(_, handle []byte) (webauthn.User, error) {
		id, err := strconv.ParseUint(string(handle), 10, 32)
		if err != nil {
			return nil, err
		}
		if m, err = k.store.Member(ctx, uint(id)); err != nil {
			return nil, err
		}
		who, err = k.holds(ctx, personOf(m))
		return who, err
	}, session, parsed)
	if err != nil || used.Authenticator.CloneWarning { // a copy of the key was used elsewhere
		return "", Person{}, errKey
	}
	for i, one := range who.list {
		if string(one.ID) == string(used.ID) {
			body, err := json.Marshal(used)
			if err != nil {
				return "", Person{}, err
			}
			if err := k.store.UsePasskey(ctx, who.keys[i].ID, string(body)); err != nil {
				return "", Person{}, err
			}
		}
	}
	if err := k.store.Forgive(ctx, "", "address:"+networkOf(address)); err != nil {
		return "", Person{}, err
	}
	begun, err := k.begin(ctx, m, address, agent)
	return begun, personOf(m), err
}
