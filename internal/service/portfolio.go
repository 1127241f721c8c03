package service

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
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
func (s *Service) Portfolio(ctx context.Context, a Actor, q PortfolioQuery) (contract.Portfolio, error) {
	t := s.tenant(ctx, a)
	out := contract.Portfolio{Today: s.today(a.Org.Zone), Rows: []contract.PortfolioRow{}}
	q.Today = out.Today
	page := store.CoilPage{Sort: q.Sort, Limit: q.Limit}
	if page.Limit == 0 {
		page.Limit = portfolioPage
	}
	if q.After != "" {
		if err := readCursor(q.After, &page.After); err != nil {
			return out, field("after", "is not from an earlier page")
		}
	}
	rows, err := t.CoilLines(q.CoilFilter, page)
	if err != nil {
		return out, err
	}
	if len(rows) > page.Limit {
		rows = rows[:page.Limit]
		out.Next = ptr(writeCursor(rows[len(rows)-1].Cursor(page.Sort)))
	}
	rounds, err := s.roundsByTask(t, out.Today)
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
func (s *Service) PortfolioSummary(ctx context.Context, a Actor, f store.CoilFilter) (contract.PortfolioSummary, error) {
	f.Today = s.today(a.Org.Zone)
	n, err := s.tenant(ctx, a).CountCoilLines(f)
	return contract.PortfolioSummary{
		Units: n.Units, Coils: n.Coils, Sites: n.Sites, Due: n.Due, Proposals: n.Proposals, Unseen: n.Unseen, AllUnits: n.AllUnits,
	}, err
}

// searchHits is how many hits a search shows.
const searchHits = 12

// Search finds units by tag, make, model or serial, and sites by name or code.
func (s *Service) Search(ctx context.Context, a Actor, text string) ([]contract.SearchHit, error) {
	out := []contract.SearchHit{}
	if text = strings.TrimSpace(text); text == "" {
		return out, nil
	}
	hits, err := s.tenant(ctx, a).Search(text, searchHits)
	for _, h := range hits {
		out = append(out, contract.SearchHit{Kind: contract.SearchHitKind(h.Kind), ID: h.ID, Label: h.Label, Detail: h.Detail})
	}
	return out, err
}

// SavedFilters lists the portfolio addresses somebody has kept.
func (s *Service) SavedFilters(ctx context.Context, a Actor) ([]contract.SavedFilter, error) {
	rows, err := store.Where[store.SavedFilter](s.tenant(ctx, a), "account_id", []uuid.UUID{a.AccountID}, "lower(name)")
	out := []contract.SavedFilter{}
	for _, r := range rows {
		out = append(out, contract.SavedFilter{ID: r.ID, Name: r.Name, Query: r.Query})
	}
	return out, err
}

// SaveFilter keeps a portfolio address under a name.
func (s *Service) SaveFilter(ctx context.Context, a Actor, in contract.NewSavedFilter) (contract.SavedFilter, error) {
	row := store.SavedFilter{OrganisationID: a.Org.ID, ID: store.NewID(), AccountID: a.AccountID, Name: strings.TrimSpace(in.Name), Query: in.Query}
	if row.Name == "" {
		return contract.SavedFilter{}, field("/name", "is empty")
	}
	err := store.Insert(s.tenant(ctx, a), row)
	if errors.Is(err, store.ErrDuplicate) {
		err = field("/name", "is another filter's name")
	}
	return contract.SavedFilter{ID: row.ID, Name: row.Name, Query: row.Query}, err
}

// RemoveFilter forgets a portfolio address of one's own.
func (s *Service) RemoveFilter(ctx context.Context, a Actor, id uuid.UUID) error {
	t := s.tenant(ctx, a)
	row, err := store.Get[store.SavedFilter](t, id)
	if err != nil || row.AccountID != a.AccountID {
		return errors.Join(err, ErrNotFound)
	}
	return store.Delete[store.SavedFilter](t, id)
}

// roundsByTask maps each task on a published round from today on to the round's day.
func (s *Service) roundsByTask(t store.Tenant, today calendar.Day) (map[uuid.UUID]calendar.Day, error) {
	rows, err := t.TasksOnRounds(today)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]calendar.Day{}
	for _, r := range rows {
		out[r.TaskID] = r.Day.Day()
	}
	return out, nil
}

func (d dossier) coilLine(c coilDossier, rounds map[uuid.UUID]calendar.Day) contract.CoilLine {
	line := contract.CoilLine{CoilID: c.ID, Role: contract.CoilRole(c.Role), State: c.state(), Tasks: []contract.TaskLine{}}
	if c.worst >= 0 {
		side := c.sides[c.worst]
		line.WorstSide, line.RatePer30Days, line.RateFrom = &side.Name, &side.rate.Rate.P50, ptr(contract.RateFrom(side.from))
	}
	if c.method != "" {
		line.LastMethod = ptr(c.method)
	}
	for _, t := range c.tasks {
		line.Tasks = append(line.Tasks, t.line(d.today, rounds))
	}
	return line
}

// state is that of the coil's worst side.
func (c coilDossier) state() contract.SoilState {
	if c.worst < 0 {
		return contract.SoilState{}
	}
	return c.sides[c.worst].state()
}

// state of a side with the range of its core.
func (side sideDossier) state() contract.SoilState {
	out := stateOf(side.trace)
	if out.Known {
		out.CoreLowShare, out.CoreHighShare = ptr(soil.Share(side.rate.Core.P10)), ptr(soil.Share(side.rate.Core.P90))
	}
	return out
}

func stateOf(t soil.Trace) contract.SoilState {
	out := contract.SoilState{Known: t.Known, CoreSeen: t.CoreSeen != nil, CoreSeenOn: t.CoreSeen}
	if !t.Known {
		return out
	}
	now := t.Now
	out.FaceShare, out.CoreShare, out.BlockedShare = ptr(soil.Share(now.Face)), ptr(soil.Share(now.Core)), ptr(now.Blocked())
	out.FaceGrade, out.CoreGrade, out.Grade = ptr(int(now.FaceGrade())), ptr(int(now.CoreGrade())), ptr(int(now.Grade()))
	return out
}

func (t taskDossier) line(today calendar.Day, rounds map[uuid.UUID]calendar.Day) contract.TaskLine {
	line := contract.TaskLine{
		TaskID: t.ID, Kind: contract.TaskKind(t.Kind), EveryDays: t.EveryDays, Due: t.due.Day,
		DaysLate: today.Sub(t.due.Day), FirstLook: t.due.FirstLook, About: t.due.About, DueSide: t.due.Side,
		LastDay: t.last, LastQuality: ptr(contract.LastCleanQuality(t.quality)),
	}
	if t.open != nil {
		line.ProposedDays, line.ProposalID, line.SavesYear = &t.open.Days, &t.open.ID, t.open.SavesYear
	}
	if t.ahead.known {
		line.WaitWeek = &t.wait
	}
	line.School = ptr(contract.School(t.setBy))
	if day, ok := rounds[t.ID]; ok {
		line.OnRound = &day
	}
	return line
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
