package organisation

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/google/uuid"
	"golang.org/x/text/currency"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// linkLife is how long an invitation or reset link works.
const linkLife = 72 * time.Hour

// SetupNeeded reports whether the database has no organisation yet.
func (s *Service) SetupNeeded(ctx context.Context) (bool, error) {
	n, err := s.Store.Organisations(ctx)
	return n == 0, err
}

var loginForm = regexp.MustCompile(`^[a-z0-9][a-z0-9._@+-]{1,118}$`)

func checkLogin(bad *invalid.Error, pointer, login string) string {
	login = strings.ToLower(strings.TrimSpace(login))
	if !loginForm.MatchString(login) {
		bad.Addf(pointer, "must have two or more letters, digits, dots, dashes or @, such as an e-mail address")
	}
	return login
}

// SetUp makes the first organisation with its manager; only while there is none.
func (s *Service) SetUp(ctx context.Context, in contract.NewHouse) (Actor, error) {
	var bad invalid.Error
	name, person := strings.TrimSpace(in.Organisation), strings.TrimSpace(in.Person)
	if name == "" {
		bad.Addf("/organisation", "is empty")
	}
	if person == "" {
		bad.Addf("/person", "is empty")
	}
	login := checkLogin(&bad, "/login", in.Login)
	if _, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" {
		bad.Addf("/zone", "is not a time zone, such as Europe/Oslo")
	}
	code, err := currency.ParseISO(in.Currency)
	if err != nil {
		bad.Addf("/currency", "is not a currency of ISO 4217, such as EUR")
	}
	var password invalid.Error
	if errors.As(checkNewPassword(in.Password, login), &password) {
		bad = append(bad, password...)
	}
	if err := bad.Err(); err != nil {
		return Actor{}, err
	}
	var a Actor
	err = s.Store.WhileFirst(ctx, func(st *store.Store) error {
		inside := *s
		inside.Base = s.over(st)
		if needed, err := inside.SetupNeeded(ctx); err != nil || !needed {
			return errors.Join(err, Conflict{Reason: "this database already has its organisation; sign in"})
		}
		org, err := inside.CreateOrganisation(ctx, NewOrganisation{Name: name, Zone: in.Zone, Currency: code.String(), Units: string(in.Units)})
		if err != nil {
			return err
		}
		a, err = inside.CreateMember(ctx, org, person, login, in.Password, contract.RoleManager)
		return err
	})
	return a, err
}

// People lists everybody of the organisation, with what they may do.
func (s *Service) People(ctx context.Context, a Actor) ([]contract.PersonLine, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	return people(s.Tenant(ctx, a))
}

func people(t store.Tenant) ([]contract.PersonLine, error) {
	var persons []store.Person
	var members []store.Membership
	var sites []store.MembershipSite
	for _, read := range []func() error{into(&persons, t, "lower(name)"), into(&members, t, "id"), into(&sites, t, "membership_id, site_id")} {
		if err := read(); err != nil {
			return nil, err
		}
	}
	accounts, err := t.Accounts()
	if err != nil {
		return nil, err
	}
	account := store.Index(accounts, func(x store.Account) uuid.UUID { return x.ID })
	member := store.Index(members, func(x store.Membership) uuid.UUID { return x.PersonID })
	of := store.By(sites, func(x store.MembershipSite) uuid.UUID { return x.MembershipID })
	out := []contract.PersonLine{}
	for _, p := range persons {
		line := contract.PersonLine{PersonID: p.ID, Name: p.Name, AllSites: true, SiteIds: []uuid.UUID{}}
		if m, ok := member[p.ID]; ok {
			acc := account[m.AccountID]
			line.SignsIn, line.Login, line.Role = true, &acc.Login, new(contract.Role(m.Role))
			line.Disabled, line.HasPassword, line.HasFactor = acc.Disabled, acc.PasswordHash != "", acc.FactorSince != nil
			line.AllSites, line.Version = m.AllSites, m.Version
			for _, x := range of[m.ID] {
				line.SiteIds = append(line.SiteIds, x.SiteID)
			}
		}
		out = append(out, line)
	}
	return out, nil
}

func personLine(t store.Tenant, id uuid.UUID) (contract.PersonLine, error) {
	all, err := people(t)
	for _, p := range all {
		if p.PersonID == id {
			return p, err
		}
	}
	return contract.PersonLine{}, errors.Join(err, ErrNotFound)
}

// AddPerson adds somebody; with a login they get a link to choose a password.
func (s *Service) AddPerson(ctx context.Context, a Actor, in contract.NewPerson) (contract.PersonAdded, error) {
	var out contract.PersonAdded
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	var bad invalid.Error
	name := strings.TrimSpace(in.Name)
	if name == "" {
		bad.Addf("/name", "is empty")
	}
	login := ""
	if optional.Value(in.Login) != "" {
		login = checkLogin(&bad, "/login", *in.Login)
		if in.Role == nil {
			bad.Addf("/role", "is needed for somebody who signs in")
		}
	}
	if err := bad.Err(); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		p := store.Person{OrganisationID: t.Org, ID: store.NewID(), Name: name}
		if err := store.Insert(t, p); err != nil {
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "person", p.ID, "added", nil); err != nil {
			return err
		}
		if login != "" {
			m, err := t.AddMember(p, login, "", string(*in.Role), in.AllSites == nil || *in.AllSites, s.Stamp())
			if errors.Is(err, store.ErrDuplicate) {
				return invalid.At("/login", "is somebody else's")
			}
			if err != nil {
				return err
			}
			if err := setSites(t, m.Membership, optional.Value(in.SiteIds)); err != nil {
				return err
			}
			if err := s.link(t, a, m.Account.ID, "invite", &out); err != nil {
				return err
			}
		}
		var err error
		out.Person, err = personLine(t, p.ID)
		return err
	})
	return out, err
}

func setSites(t store.Tenant, m store.Membership, sites []uuid.UUID) error {
	if m.AllSites {
		return t.SetSites(m.ID, nil)
	}
	if len(sites) == 0 {
		return invalid.At("/site_ids", "name at least one site, or allow all")
	}
	known, err := store.Where[store.Site](t, "id", sites, "id")
	if err != nil {
		return err
	}
	if len(known) != len(store.Keys(known, func(x store.Site) uuid.UUID { return x.ID })) || len(known) != len(sites) {
		return invalid.At("/site_ids", "names a site that is not yours, or one twice")
	}
	return t.SetSites(m.ID, sites)
}

// link makes a new link for an account; earlier ones stop working.
func (s *Service) link(t store.Tenant, a Actor, account uuid.UUID, kind string, out *contract.PersonAdded) error {
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return fmt.Errorf("making a link: %w", err)
	}
	token := base64.RawURLEncoding.EncodeToString(raw)
	now := s.RealNow()
	row := store.AccountToken{
		ID: store.NewID(), OrganisationID: t.Org, AccountID: account, Kind: kind, TokenHash: HashToken(token),
		ExpiresAt: now.Add(linkLife), CreatedBy: &a.AccountID, CreatedAt: now,
	}
	out.Link, out.ExpiresAt = new("/join/"+token), &row.ExpiresAt
	if err := t.EndTokens(account, now); err != nil {
		return err
	}
	if err := t.AddToken(row); err != nil {
		return err
	}
	return t.Record(s.Stamp(), a.AccountID, "account", account, kind+" link made", nil)
}

// HashToken is what is kept of a token.
func HashToken(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// MakeLink makes a link with which somebody who signs in can choose a new password.
func (s *Service) MakeLink(ctx context.Context, a Actor, person uuid.UUID) (contract.PersonAdded, error) {
	var out contract.PersonAdded
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		m, err := memberOf(t, person)
		if err != nil {
			return err
		}
		if out.Person, err = personLine(t, person); err != nil {
			return err
		}
		kind := "reset"
		if !out.Person.HasPassword {
			kind = "invite"
		}
		return s.link(t, a, m.AccountID, kind, &out)
	})
	return out, err
}

func memberOf(t store.Tenant, person uuid.UUID) (store.Membership, error) {
	rows, err := store.Where[store.Membership](t, "person_id", []uuid.UUID{person}, "id")
	if err == nil && len(rows) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return store.Membership{}, err
	}
	return rows[0], nil
}

// SavePerson changes a name, and for those who sign in their role, sites and whether they may.
func (s *Service) SavePerson(ctx context.Context, a Actor, id uuid.UUID, in contract.PersonChange) (contract.PersonLine, error) {
	var out contract.PersonLine
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return out, invalid.At("/name", "is empty")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		// One change of rights at a time: two managers who take each other's rights must not both succeed.
		if _, err := t.LockManagers(); err != nil {
			return err
		}
		before, err := personLine(t, id)
		if err != nil {
			return err
		}
		if err := store.Save(t, id, &store.Person{Name: name}); err != nil {
			return err
		}
		if before.SignsIn {
			if err := s.saveMember(t, a, id, before, in); err != nil {
				return err
			}
		}
		if out, err = personLine(t, id); err != nil {
			return err
		}
		return RecordChange(t, s.Stamp(), a, "person", id, "changed", before, out)
	})
	return out, err
}

func (s *Service) saveMember(t store.Tenant, a Actor, person uuid.UUID, before contract.PersonLine, in contract.PersonChange) error {
	m, err := memberOf(t, person)
	if err != nil {
		return err
	}
	read := in.Version
	if read != m.Version {
		return Stale{Current: before}
	}
	m.Version++
	if in.Role != nil {
		m.Role = string(*in.Role)
	}
	if in.AllSites != nil {
		m.AllSites = *in.AllSites
	}
	off := optional.Value(in.Disabled)
	if m.AccountID == a.AccountID && (off || m.Role != string(contract.RoleManager) || !m.AllSites) {
		return invalid.At("/role", "you cannot remove your own rights; another manager can")
	}
	if err := store.SaveVersion(t, m.ID, read, &m); err != nil {
		return err
	}
	sites := before.SiteIds
	if in.SiteIds != nil {
		sites = *in.SiteIds
	}
	if err := setSites(t, m, sites); err != nil {
		return err
	}
	if off && !before.Disabled {
		// Somebody who was locked out must not come back in by an old link.
		if err := t.EndTokens(m.AccountID, s.RealNow()); err != nil {
			return err
		}
	}
	if err := t.SetAccount(m.AccountID, map[string]any{"disabled": off}); err != nil {
		return err
	}
	left, err := t.LockManagers()
	if err == nil && left == 0 {
		return invalid.At("/role", "is the last manager of the whole organisation; make somebody else one first")
	}
	return err
}

// Join says whom a link was made for; ErrNotFound when it does not work (any more).
func (s *Service) Join(ctx context.Context, token string) (contract.JoinInfo, error) {
	row, m, err := s.linkOwner(ctx, token)
	if err != nil {
		return contract.JoinInfo{}, err
	}
	return contract.JoinInfo{
		Organisation: m.Organisation.Name, Person: m.Person.Name, Login: m.Account.Login,
		Kind: contract.JoinInfoKind(row.Kind), ExpiresAt: row.ExpiresAt,
	}, nil
}

func (s *Service) linkOwner(ctx context.Context, token string) (store.AccountToken, store.Member, error) {
	row, err := s.Store.TakeToken(ctx, HashToken(token), s.RealNow())
	if err != nil {
		return row, store.Member{}, err
	}
	m, err := s.Store.MemberByAccount(ctx, row.AccountID)
	if err == nil && m.Account.Disabled {
		err = ErrNotFound
	}
	return row, m, err
}

// UseLink sets the password of whom a link was made for; the link works once.
func (s *Service) UseLink(ctx context.Context, token, password string) (Actor, error) {
	row, m, err := s.linkOwner(ctx, token)
	if err != nil {
		return Actor{}, err
	}
	err = s.Store.For(ctx, m.Organisation.ID).InTransaction(func(t store.Tenant) error {
		if err := t.UseToken(row.ID, s.RealNow()); err != nil {
			return err
		}
		return s.setPassword(t, m.Account, password, m.Account.ID, "password chosen by "+row.Kind+" link")
	})
	if err != nil {
		return Actor{}, err
	}
	if err := s.Store.ForgetSignIns(ctx, m.Account.Login, ""); err != nil {
		return Actor{}, err
	}
	return s.Actor(ctx, m.Account.ID)
}
