package fieldwork

import (
	"sort"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// visitForm is a stored visit as it would be sent: what an amendment starts from and a file of visits is made of.
func visitForm(r *dossier.Facts, v store.Visit) contract.NewVisit {
	out := contract.NewVisit{
		UnitID: v.UnitID, Day: v.Day.Day(), Outcome: contract.Outcome(v.Outcome), CautionsRead: v.CautionsRead,
		People: []contract.VisitPerson{}, Coils: []contract.VisitCoil{},
	}
	if v.Note != "" {
		out.Note = &v.Note
	}
	for _, p := range r.VisitPeople[v.ID] {
		out.People = append(out.People, contract.VisitPerson{PersonID: p.PersonID, Minutes: p.Minutes})
	}
	for _, c := range r.Coils[v.UnitID] {
		coil := contract.VisitCoil{CoilID: c.ID, Sides: []contract.VisitSide{}, Treatments: []contract.VisitTreatment{}}
		for _, s := range r.Surfaces[c.ID] {
			if side, ok := sideForm(r, v.ID, s.ID); ok {
				coil.Sides = append(coil.Sides, side)
			}
		}
		for _, t := range r.Treatments[v.ID] {
			if t.CoilID == c.ID {
				coil.Treatments = append(coil.Treatments, treatmentForm(r, t, r.Surfaces[c.ID]))
			}
		}
		if len(coil.Sides) > 0 {
			out.Coils = append(out.Coils, coil)
		}
	}
	detailForm(r, &out, v)
	return out
}

// detailForm fills in what belongs to a visit beside findings and treatments. What it opened, parts and watch items,
// is the unit's now and not sent again.
func detailForm(r *dossier.Facts, out *contract.NewVisit, v store.Visit) {
	d, ok := r.Details[v.ID]
	if !ok {
		return
	}
	out.ProcedureVersion, out.StartedAt, out.FinishedAt, out.ToldWhom = v.ProcedureVersion, v.StartedAt, v.FinishedAt, optional.Text(v.ToldWhom)
	choices := map[string]string{}
	if v.Choices.Into(&choices) == nil && len(choices) > 0 {
		out.Choices = &choices
	}
	if len(v.Jobs) > 0 {
		out.Jobs = &[]contract.VisitJob{}
		for _, j := range v.Jobs {
			*out.Jobs = append(*out.Jobs, contract.VisitJob(j))
		}
	}
	out.Surfaces = optional.List(r.PartLooks[v.ID], func(x store.PartLook) contract.PartLook {
		return contract.PartLook{Part: contract.UnitPart(x.Part), Grade: x.Grade, Seen: new(contract.Seen(x.Seen)), Left: x.LeftGrade}
	})
	if v.Source == "phone" {
		out.Source = new(contract.NewVisitSource(v.Source))
	}
	out.Steps = optional.List(d.Steps, func(x store.StepResult) contract.StepResult {
		return contract.StepResult{Step: x.Step, State: contract.StepResultState(x.State), Reason: optional.Text(x.Reason), At: x.At}
	})

	for _, x := range d.Isolation {
		out.Isolation = &contract.Isolation{
			Point: x.Point, Means: contract.IsolationMeans(x.Means), Secured: contract.IsolationSecured(x.Secured), Discharged: x.Discharged,
			MeterTried: x.MeterTried, L1L2V: x.L1L2V, L1GroundV: x.L1GroundV, L2GroundV: x.L2GroundV, PersonID: x.PersonID, At: x.At,
		}
	}
	out.Readings = optional.List(d.Readings, func(x store.Reading) contract.NewReading {
		y := contract.NewReading{
			Phase: contract.NewReadingPhase(x.Phase), Kind: x.Kind, Value: x.Value, Typed: optional.Text(x.Typed), Source: contract.NewReadingSource(x.Source),
			CoilID: x.CoilID, Cause: optional.Text(x.Cause), Context: &contract.ReadingContext{},
		}
		if x.Context.Into(y.Context) != nil {
			y.Context = nil
		} else {
			y.Context.Table = nil
		}
		return y
	})

	out.Watched = optional.List(d.Looks, func(x store.WatchLook) contract.WatchLook {
		return contract.WatchLook{WatchID: x.WatchItemID, State: contract.WatchLookState(x.State), Note: optional.Text(x.Note)}
	})

	out.Advised = optional.List(d.Advice, func(x store.AdviceGiven) contract.AdviceGiven {
		return contract.AdviceGiven{Text: x.Text, Answer: contract.AdviceGivenAnswer(x.Answer)}
	})

	out.NewWatch = optional.List(d.Opened, func(x store.WatchItem) contract.NewWatchItem {
		return contract.NewWatchItem{What: x.What, SurfaceID: x.SurfaceID}
	})

	var parts []contract.PartCard
	if v.PartsNoted.Into(&parts) == nil && len(parts) > 0 {
		out.Parts = &parts
	}

	out.Counts = optional.List(d.Counts, func(x store.CountBack) contract.CountBack {
		return contract.CountBack{What: contract.CountBackWhat(x.What), Taken: x.Taken, Back: x.Back, Why: optional.Text(x.Why)}
	})

	out.Exceptions = optional.List(d.Exceptions, func(x store.RuleException) contract.RuleException {
		return contract.RuleException{Ban: x.Ban, Reason: x.Reason}
	})

	cells := store.By(d.Cells, func(x store.FindingCell) uuid.UUID { return x.FindingID })
	for i := range out.Coils {
		for k := range out.Coils[i].Sides {
			side := &out.Coils[i].Sides[k]
			for _, f := range r.Findings[[2]uuid.UUID{v.ID, side.SurfaceID}] {
				if look := lookOf(side, f.Phase); look != nil {
					look.Cells = optional.List(cells[f.ID], func(x store.FindingCell) contract.FaceCell {
						return contract.FaceCell{Row: x.RowNo, Column: x.ColumnNo, Grade: x.Grade, WhyNot: optional.Text(x.WhyNot)}
					})
				}
			}
		}
	}
}

// lookOf is a side's look of a phase.
func lookOf(side *contract.VisitSide, phase string) *contract.Look {
	switch phase {
	case dossier.PhaseFirstLook:
		return side.FirstLook
	case dossier.PhaseOpenedUp:
		return side.Found
	case dossier.PhaseAsLeft:
		return side.Left
	}
	return nil
}

func sideForm(r *dossier.Facts, visit, surface uuid.UUID) (contract.VisitSide, bool) {
	key := [2]uuid.UUID{visit, surface}
	at, ok := r.Reached[key]
	side := contract.VisitSide{SurfaceID: surface, Reached: at.Reached}
	if at.WhyNot != "" {
		side.WhyNot = &at.WhyNot
	}
	for _, f := range r.Findings[key] {
		look := &contract.Look{Grade: f.Grade, Seen: contract.Seen(f.Seen), BlockedShare: f.BlockedShare}
		switch f.Phase {
		case dossier.PhaseFirstLook:
			side.FirstLook = look
		case dossier.PhaseOpenedUp:
			side.Found = look
		case dossier.PhaseAsLeft:
			side.Left = look
		}
		for _, x := range r.FindingSoils[f.ID] {
			side.SoilIds = new(append(optional.Value(side.SoilIds), x.SoilID))
		}
	}
	return side, ok
}

func treatmentForm(r *dossier.Facts, t store.Treatment, surfaces []store.Surface) contract.VisitTreatment {
	out := contract.VisitTreatment{
		Work: contract.TaskKind(t.Work), MethodID: t.MethodID, Direction: contract.Direction(t.Direction), CleanerID: t.CleanerID,
		WaterParts: t.WaterParts, Amount: amountTyped(t.AmountTyped), SurfaceIds: []uuid.UUID{}, SettingID: t.SettingID,
		PlannedL: t.PlannedL, LoadedL: t.LoadedL, ToppedUpL: t.ToppedUpL, ReturnedL: t.ReturnedL, MixL: t.MixL, RinseL: t.RinseL,
		DwellS: t.DwellS, OverDwell: optional.Text(t.OverDwell), Tip: optional.Text(t.Tip), TakenOut: takenOut(t),
	}
	if t.AfterGrade != nil && t.AfterSeen != nil {
		out.After = &contract.PassLook{Grade: *t.AfterGrade, Seen: contract.Seen(*t.AfterSeen)}
	}
	for _, e := range t.EndPoints {
		out.EndPoints = new(append(optional.Value(out.EndPoints), contract.EndPoint(e)))
	}
	for _, s := range surfaces {
		if r.Treated[t.ID][s.ID] {
			out.SurfaceIds = append(out.SurfaceIds, s.ID)
		}
	}
	return out
}

// amountTyped reads back an amount as it was typed, such as 1.5 US gal.
func amountTyped(text string) *contract.Amount {
	number, unit, ok := strings.Cut(text, " ")
	v, err := strconv.ParseFloat(number, 64)
	if !ok || err != nil {
		return nil
	}
	for code, name := range dossier.AmountUnits {
		if name == unit {
			return &contract.Amount{Value: v, Unit: code}
		}
	}
	return nil
}

// sameVisit names what a visit says, as far as a file of visits can say it: without regard to the order of its lists, to
// whether cautions were read, and to what only a visit led step by step holds.
func sameVisit(v contract.NewVisit) string {
	v = contract.NewVisit{UnitID: v.UnitID, Day: v.Day, Outcome: v.Outcome, Note: v.Note, People: v.People, Coils: v.Coils}
	v.Note = optional.Text(optional.Trim(v.Note))
	v.People = append([]contract.VisitPerson{}, v.People...)
	sort.Slice(v.People, func(i, j int) bool { return v.People[i].PersonID.String() < v.People[j].PersonID.String() })
	coils := append([]contract.VisitCoil{}, v.Coils...)
	sort.Slice(coils, func(i, j int) bool { return coils[i].CoilID.String() < coils[j].CoilID.String() })
	for i := range coils {
		sides := append([]contract.VisitSide{}, coils[i].Sides...)
		sort.Slice(sides, func(a, b int) bool { return sides[a].SurfaceID.String() < sides[b].SurfaceID.String() })
		for k := range sides {
			sides[k] = contract.VisitSide{
				SurfaceID: sides[k].SurfaceID, Reached: sides[k].Reached, WhyNot: sides[k].WhyNot, Found: plainLook(sides[k].Found),
				FirstLook: plainLook(sides[k].FirstLook), Left: plainLook(sides[k].Left), SoilIds: sorted(sides[k].SoilIds, uuid.UUID.String),
			}
		}
		treatments := append([]contract.VisitTreatment{}, coils[i].Treatments...)
		for k := range treatments {
			t := treatments[k]
			treatments[k] = contract.VisitTreatment{
				Work: t.Work, MethodID: t.MethodID, Direction: t.Direction, CleanerID: t.CleanerID, WaterParts: t.WaterParts, Amount: t.Amount,
				SurfaceIds: t.SurfaceIds, EndPoints: t.EndPoints, DwellS: t.DwellS, Tip: t.Tip, LoadedL: t.LoadedL, ToppedUpL: t.ToppedUpL, ReturnedL: t.ReturnedL,
				TakenOut: t.TakenOut,
			}
			treatments[k].SurfaceIds = optional.Value(sorted(&treatments[k].SurfaceIds, uuid.UUID.String))
			treatments[k].EndPoints = sorted(treatments[k].EndPoints, func(e contract.EndPoint) string { return string(e) })
		}
		sort.Slice(treatments, func(a, b int) bool { return organisation.HashOf(treatments[a]) < organisation.HashOf(treatments[b]) })
		coils[i].Sides, coils[i].Treatments = sides, treatments
	}
	v.Coils = coils
	return organisation.HashOf(v)
}

func plainLook(l *contract.Look) *contract.Look {
	if l == nil {
		return nil
	}
	return &contract.Look{Grade: l.Grade, Seen: l.Seen}
}

func sorted[T any](in *[]T, key func(T) string) *[]T {
	if in == nil || len(*in) == 0 {
		return nil
	}
	out := append([]T{}, *in...)
	sort.Slice(out, func(i, j int) bool { return key(out[i]) < key(out[j]) })
	return &out
}

// takenOut is absent where the coil stayed in its place.
func takenOut(t store.Treatment) *bool {
	if !t.TakenOut {
		return nil
	}
	return new(true)
}
