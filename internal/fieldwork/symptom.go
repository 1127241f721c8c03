package fieldwork

import (
	"context"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// nearLimit is the share of the organisation's limit from which the coil is looked at first (assumption).
const nearLimit = .8

// elsewhere says where to look when the coil is not likely (common practice, no source).
var elsewhere = map[string]string{
	"not_cold": "door seals, how it is stocked, the fan, the charge", "water": "pan, drain, pump and float switch", "buzzing": "contactor, a loose panel, fan blades",
	"warm_goods": "door seals, how it is stocked, defrosting", "hot_compressor": "the condenser's fan, its free air, the start gear",
	"stopped_after_mowing": "a cut control wire first, then grass on the coil", "other": "what was seen",
}

// addSymptom keeps a complaint with the soil that the coil was thought to have when it came in.
func (s *Service) addSymptom(ctx context.Context, a organisation.Actor, in contract.NewSymptom, link *uuid.UUID) (store.SymptomReport, error) {
	row := store.SymptomReport{
		ID: store.NewID(), Kind: string(in.Kind), Note: optional.Trim(in.Note), Reporter: optional.Trim(in.Reporter), At: s.Stamp(), LinkID: link, Status: "open",
	}
	if link == nil {
		row.AccountID = &a.AccountID
	}
	if in.Kind == contract.SymptomKindOther && row.Note == "" {
		return row, invalid.At("/note", "say what was seen, heard or smelt")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row.OrganisationID = t.Org
		switch {
		case in.UnitID != nil:
			r, err := load.Units(t, []uuid.UUID{*in.UnitID})
			if err != nil {
				return err
			}
			if len(r.Rows.Units) == 0 {
				return invalid.At("/unit_id", "is not a unit of this site")
			}
			d, err := r.Unit(r.Rows.Units[0], s.Now())
			if err != nil {
				return err
			}
			if in.SiteID != nil && *in.SiteID != d.Site.ID {
				return invalid.At("/unit_id", "is not a unit of this site")
			}
			row.UnitID, row.SiteID, row.Day, row.ForecastShare = in.UnitID, d.Site.ID, store.Date(d.Today), worstBlocked(d)
		case in.SiteID != nil:
			if err := organisation.SeesSite(t, *in.SiteID); err != nil {
				return invalid.At("/site_id", "is not one of your sites")
			}
			site, err := store.Get[store.Site](t, *in.SiteID)
			if err != nil {
				return err
			}
			row.SiteID, row.Day = site.ID, store.Date(s.Today(site.Zone))
		default:
			return invalid.At("/unit_id", "say which unit or site it is about")
		}
		entity, id := "site", row.SiteID
		if row.UnitID != nil {
			entity, id = "unit", *row.UnitID
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, entity, id, "symptom reported", organisation.AuditDetail{Note: row.Kind + " " + row.Note})
	})
	return row, err
}

// worstBlocked is the blocked share of the unit's worst coil; nil when nothing is known.
func worstBlocked(d dossier.Unit) *float64 {
	var out *float64
	for _, c := range d.Coils {
		if c.Worst >= 0 && (out == nil || c.Blocked > *out) {
			out = new(c.Blocked)
		}
	}
	return out
}

// AddSymptom takes a complaint in.
func (s *Service) AddSymptom(ctx context.Context, a organisation.Actor, in contract.NewSymptom) (contract.Symptom, error) {
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.Symptom{}, err
	}
	row, err := s.addSymptom(ctx, a, in, nil)
	if err != nil {
		return contract.Symptom{}, err
	}
	return s.oneSymptom(s.Tenant(ctx, a), row)
}

func (s *Service) oneSymptom(t store.Tenant, row store.SymptomReport) (contract.Symptom, error) {
	views, err := s.symptomViews(t, []store.SymptomReport{row})
	if err != nil {
		return contract.Symptom{}, err
	}
	return views[0], nil
}

// Symptoms lists complaints, open ones first, then the newest.
func (s *Service) Symptoms(ctx context.Context, a organisation.Actor) ([]contract.Symptom, error) {
	t := s.Tenant(ctx, a)
	rows, err := t.Symptoms(newestVisits)
	if err != nil {
		return nil, err
	}
	return s.symptomViews(t, rows)
}

func (s *Service) symptomViews(t store.Tenant, rows []store.SymptomReport) ([]contract.Symptom, error) {
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return nil, err
	}
	sites, err := store.Where[store.Site](t, "id", store.Keys(rows, func(x store.SymptomReport) uuid.UUID { return x.SiteID }), "id")
	if err != nil {
		return nil, err
	}
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	about := []uuid.UUID{}
	for _, x := range rows {
		if x.UnitID != nil {
			about = append(about, *x.UnitID)
		}
	}
	r, err := load.With(t, c, append([]uuid.UUID{}, about...), false)
	if err != nil {
		return nil, err
	}
	unit := store.Index(r.Rows.Units, func(u store.Unit) uuid.UUID { return u.ID })
	files, err := store.Where[store.Attachment](t, "entity_id", store.Keys(rows, func(x store.SymptomReport) uuid.UUID { return x.ID }), "at, id")
	if err != nil {
		return nil, err
	}
	of := store.By(files, func(x store.Attachment) uuid.UUID { return x.EntityID })
	links, err := store.Where[store.GuestLink](t, "id", store.Keys(rows, func(x store.SymptomReport) uuid.UUID { return optional.Value(x.LinkID) }), "id")
	if err != nil {
		return nil, err
	}
	link := store.Index(links, func(x store.GuestLink) uuid.UUID { return x.ID })
	out := []contract.Symptom{}
	for _, x := range rows {
		v := contract.Symptom{
			ID: x.ID, Kind: contract.SymptomKind(x.Kind), Site: site[x.SiteID].Name, UnitID: x.UnitID, Note: x.Note, Reporter: x.Reporter,
			Day: x.Day.Day(), Status: contract.SymptomStatus(x.Status), ForecastShare: x.ForecastShare, LimitShare: &c.Limit,
			TriageNote: x.TriageNote, CoilWasCause: x.CoilWasCause, Photos: []contract.Attachment{}, Advice: symptomAdvice(x, c.Limit),
		}
		if x.UnitID != nil {
			v.Tag = new(unit[*x.UnitID].Tag)
		}
		if x.LinkID != nil {
			v.Link = new(link[*x.LinkID].Name)
		}
		for _, f := range of[x.ID] {
			v.Photos = append(v.Photos, organisation.AttachmentView(f, organisation.Names{}))
		}
		out = append(out, v)
	}
	return out, nil
}

// symptomAdvice says where to look first: at the coil when its forecast soil is near the limit, else elsewhere.
func symptomAdvice(x store.SymptomReport, limit float64) string {
	where := elsewhere[x.Kind]
	switch {
	case x.ForecastShare == nil && x.UnitID == nil:
		return "Find out which unit it is; then the forecast soil of its coil comes first."
	case x.ForecastShare == nil:
		return "Nothing is known of its coil: look at the coil first, then at " + where + "."
	case *x.ForecastShare >= limit:
		return fmt.Sprintf("The coil is thought to be %.0f %% blocked, over the limit of %.0f %%: bring its clean forward.", 100**x.ForecastShare, 100*limit)
	case *x.ForecastShare >= nearLimit*limit:
		return fmt.Sprintf("The coil is thought to be %.0f %% blocked, near the limit of %.0f %%: bring its clean forward, and look at %s.", 100**x.ForecastShare, 100*limit, where)
	}
	return fmt.Sprintf("The coil is thought to be only %.0f %% blocked (limit %.0f %%): look elsewhere first, at %s.", 100**x.ForecastShare, 100*limit, where)
}

// Triage decides on a complaint: the clean is brought forward, the trouble is looked for elsewhere, or it is closed.
func (s *Service) Triage(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.Triage) (contract.Symptom, error) {
	var out contract.Symptom
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	note := strings.TrimSpace(in.Note)
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.SymptomReport](t, id)
		if err != nil {
			return err
		}
		if err := organisation.SeesSite(t, row.SiteID); err != nil {
			return err
		}
		if row.Status == "closed" {
			return organisation.Conflict{Reason: "this was already closed"}
		}
		switch in.Decision {
		case contract.TriageDecisionBringForward:
			row.Status = "brought_forward"
			if err := s.bringForward(t, row, in.Day); err != nil {
				return err
			}
		case contract.TriageDecisionElsewhere:
			row.Status = "elsewhere"
		case contract.TriageDecisionClose:
			if in.CoilWasCause == nil && row.UnitID != nil {
				return invalid.At("/coil_was_cause", "say whether the coil was the cause")
			}
			row.Status, row.CoilWasCause = "closed", in.CoilWasCause
		}
		if in.Decision != contract.TriageDecisionBringForward && note == "" {
			return invalid.At("/note", "say why, so that others can follow it later")
		}
		row.TriageNote = note
		if err := store.Save(t, id, &row); err != nil {
			return err
		}
		entity, at := "site", row.SiteID
		if row.UnitID != nil {
			entity, at = "unit", *row.UnitID
		}
		if err := t.Record(s.Stamp(), a.AccountID, entity, at, "symptom, "+row.Status, organisation.AuditDetail{Note: note}); err != nil {
			return err
		}
		out, err = s.oneSymptom(t, row)
		return err
	})
	return out, err
}

// bringForward makes the deep clean of the unit's worst coil due on a day.
func (s *Service) bringForward(t store.Tenant, row store.SymptomReport, day *calendar.Day) error {
	if row.UnitID == nil {
		return invalid.At("/decision", "say first which unit it is: report it again with its tag")
	}
	r, err := load.Units(t, []uuid.UUID{*row.UnitID})
	if err != nil {
		return err
	}
	if len(r.Rows.Units) == 0 {
		return organisation.ErrNotFound
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return err
	}
	to := d.Today
	if day != nil {
		to = *day
	}
	if to < d.Today {
		return invalid.At("/day", "is in the past")
	}
	worst := 0
	for i, c := range d.Coils {
		if c.Blocked > d.Coils[worst].Blocked {
			worst = i
		}
	}
	for _, task := range d.Coils[worst].Tasks {
		if task.Kind == string(contract.TaskKindDeep) {
			if err := t.BringForward(task.ID, to); err != nil {
				return err
			}
		}
	}
	return s.learner.Refresh(t, []uuid.UUID{*row.UnitID})
}
