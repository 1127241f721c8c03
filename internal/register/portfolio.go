package register

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// portfolioPage is how many coils a page has unless asked otherwise.
const portfolioPage = 100

// PortfolioQuery says which coils are wanted.
type PortfolioQuery struct {
	store.CoilFilter
	Sort  string
	After string
	Limit int
}

// Portfolio lists coils of units, filtered and sorted, a page at a time.
func (s *Service) Portfolio(ctx context.Context, a organisation.Actor, q PortfolioQuery) (contract.Portfolio, error) {
	t := s.Tenant(ctx, a)
	out := contract.Portfolio{Today: s.Today(a.Org.Zone), Rows: []contract.PortfolioRow{}}
	q.Today = out.Today
	page := store.CoilPage{Sort: q.Sort, Limit: q.Limit}
	if page.Limit == 0 {
		page.Limit = portfolioPage
	}
	if q.After != "" {
		if err := readCursor(q.After, &page.After); err != nil {
			return out, invalid.At("after", "is not from an earlier page")
		}
	}
	rows, err := t.CoilLines(q.CoilFilter, page)
	if err != nil {
		return out, err
	}
	if len(rows) > page.Limit {
		rows = rows[:page.Limit]
		out.Next = new(writeCursor(rows[len(rows)-1].Cursor(page.Sort)))
	}
	rounds, err := t.RoundDays(out.Today)
	if err != nil {
		return out, err
	}
	for _, row := range rows {
		line, err := portfolioRow(row, out.Today, rounds)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, line)
	}
	return out, nil
}

func portfolioRow(row store.CoilLineShown, today calendar.Day, rounds map[uuid.UUID]calendar.Day) (contract.PortfolioRow, error) {
	out := contract.PortfolioRow{
		UnitID: row.UnitID, Tag: row.Tag, ClassID: row.ClassID, Class: row.ClassName, SiteID: row.SiteID, Site: row.SiteName,
		Placement: row.PlacementName, Status: row.Status,
	}
	if err := row.Line.Into(&out.Coil); err != nil {
		return out, err
	}
	for i := range out.Coil.Tasks {
		task := &out.Coil.Tasks[i]
		if task.FirstLook {
			task.Due = today
		}
		task.DaysLate = today.Sub(task.Due)
		if day, ok := rounds[task.TaskID]; ok {
			task.OnRound = &day
		}
	}
	return out, nil
}

func writeCursor(c store.CoilCursor) string {
	b, _ := json.Marshal(c)
	return base64.RawURLEncoding.EncodeToString(b)
}

func readCursor(text string, into **store.CoilCursor) error {
	b, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil {
		return err
	}
	return json.Unmarshal(b, into)
}

// PortfolioSummary counts what a filter lets through.
func (s *Service) PortfolioSummary(ctx context.Context, a organisation.Actor, f store.CoilFilter) (contract.PortfolioSummary, error) {
	f.Today = s.Today(a.Org.Zone)
	n, err := s.Tenant(ctx, a).CountCoilLines(f)
	return contract.PortfolioSummary{
		Units: n.Units, Coils: n.Coils, Sites: n.Sites, Due: n.Due, Proposals: n.Proposals, Unseen: n.Unseen, AllUnits: n.AllUnits,
	}, err
}

// searchHits is how many hits a search shows.
const searchHits = 12

// Search finds units by tag, make, model or serial, and sites by name or code.
func (s *Service) Search(ctx context.Context, a organisation.Actor, text string) ([]contract.SearchHit, error) {
	out := []contract.SearchHit{}
	if text = strings.TrimSpace(text); text == "" {
		return out, nil
	}
	hits, err := s.Tenant(ctx, a).Search(text, searchHits)
	for _, h := range hits {
		out = append(out, contract.SearchHit{Kind: contract.SearchHitKind(h.Kind), ID: h.ID, Label: h.Label, Detail: h.Detail})
	}
	return out, err
}

// SavedFilters lists the portfolio addresses somebody has kept.
func (s *Service) SavedFilters(ctx context.Context, a organisation.Actor) ([]contract.SavedFilter, error) {
	rows, err := store.Where[store.SavedFilter](s.Tenant(ctx, a), "account_id", []uuid.UUID{a.AccountID}, "lower(name)")
	out := []contract.SavedFilter{}
	for _, r := range rows {
		out = append(out, contract.SavedFilter{ID: r.ID, Name: r.Name, Query: r.Query})
	}
	return out, err
}

// SaveFilter keeps a portfolio address under a name.
func (s *Service) SaveFilter(ctx context.Context, a organisation.Actor, in contract.NewSavedFilter) (contract.SavedFilter, error) {
	row := store.SavedFilter{OrganisationID: a.Org.ID, ID: store.NewID(), AccountID: a.AccountID, Name: strings.TrimSpace(in.Name), Query: in.Query}
	if row.Name == "" {
		return contract.SavedFilter{}, invalid.At("/name", "is empty")
	}
	err := store.Insert(s.Tenant(ctx, a), row)
	if errors.Is(err, store.ErrDuplicate) {
		err = invalid.At("/name", "is another filter's name")
	}
	return contract.SavedFilter{ID: row.ID, Name: row.Name, Query: row.Query}, err
}

// RemoveFilter forgets a portfolio address of one's own.
func (s *Service) RemoveFilter(ctx context.Context, a organisation.Actor, id uuid.UUID) error {
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.SavedFilter](t, id)
	if err != nil || row.AccountID != a.AccountID {
		return errors.Join(err, organisation.ErrNotFound)
	}
	return store.Delete[store.SavedFilter](t, id)
}
