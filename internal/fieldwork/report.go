package fieldwork

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/exchange"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// Words of the report, for people who do not clean coils.
var (
	gradeWords   = [...]string{"bare", "thinly filmed", "coated", "felted", "under a blanket of dirt", "blocked"}
	outcomeWords = map[contract.Outcome]string{
		contract.OutcomeDone: "was cleaned", contract.OutcomePartly: "was cleaned in part", contract.OutcomeNotFound: "was not found", contract.OutcomeNoAccess: "could not be reached",
	}
	answerWords = map[string]string{"not_told": "", "told": " (told)", "agreed": " (agreed)", "declined": " (declined by the site)"}
)

func gradeWord(g int) string {
	if g < 0 || g >= len(gradeWords) {
		return ""
	}
	return gradeWords[g]
}

// SiteReport tells the site in plain words what was found and done, what was left and why, what is advised, and when
// somebody comes next.
func (s *Service) SiteReport(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.SiteReport, error) {
	t := s.Tenant(ctx, a)
	record, err := s.visitRecord(t, id, a.US())
	if err != nil {
		return contract.SiteReport{}, err
	}
	sum := record.Summary
	r, err := load.Units(t, []uuid.UUID{sum.UnitID})
	if err != nil {
		return contract.SiteReport{}, err
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return contract.SiteReport{}, err
	}
	out := contract.SiteReport{
		VisitID: id, Site: sum.Site, Unit: fmt.Sprintf("%s, %s", d.Class.Name, sum.Tag), Day: sum.Day, Mail: optional.Text(d.Site.Mail),
		Title: fmt.Sprintf("%s %s", sum.Tag, outcomeWords[sum.Outcome]), Found: []string{}, Done: []string{}, Left: []string{}, Advised: []string{},
		Weekly: []string{}, Next: []string{}, Cautions: defaults.ReportDeferral,
	}
	reportSides(&out, sum)
	if reportPacked(&out, d, sum) {
		out.Title = sum.Tag + ": its face was cleaned; between the fins it is probably still packed"
	} else if sum.Outcome == contract.OutcomeDone && !cleaned(record.Visit) {
		out.Title = sum.Tag + " was looked after"
	}
	reportSurfaces(&out, record.Visit)
	for _, x := range optional.Value(record.Visit.NewWatch) {
		out.Found = append(out.Found, "We keep an eye on: "+strings.TrimSuffix(x.What, ".")+".")
	}
	for _, x := range optional.Value(record.Visit.Parts) {
		out.Found = append(out.Found, fmt.Sprintf("Part noted for later: %s, %s.", x.Kind, x.Specification))
	}
	reportReadings(&out, record)
	if sum.Note != "" && !sum.Outcome.Worked() {
		out.Left = append(out.Left, "What stood in the way: "+sum.Note+".")
	}
	for _, x := range optional.Value(record.Visit.Advised) {
		out.Advised = append(out.Advised, x.Text+answerWords[string(x.Answer)])
	}
	for _, task := range r.Companions[d.Unit.ID] {
		if task.Doer == string(contract.DoerSiteStaff) && !task.Paused {
			out.Weekly = append(out.Weekly, fmt.Sprintf("%s, every %d days.", companionWork[task.Kind], task.EveryDays))
		}
	}
	for _, c := range d.Coils {
		for _, task := range c.Tasks {
			// How the interval came about is for the organisation; the site hears what it rests on.
			why := "as is usual for such units"
			if len(r.Visits[d.Unit.ID]) > 1 {
				why = "by what visits found here"
			}
			out.Next = append(out.Next, fmt.Sprintf("%s clean of the %s: %s (every %d days, %s).", capital(task.Kind), c.Role, dayWords(task.Due.Day), task.EveryDays, why))
		}
	}
	out.Told = "Nobody was told on the spot."
	if whom := optional.Trim(record.Visit.ToldWhom); whom != "" {
		out.Told = "Told on the spot: " + whom + "."
	}
	return out, nil
}

func reportSides(out *contract.SiteReport, sum contract.VisitSummary) {
	for _, side := range sum.Sides {
		where := fmt.Sprintf("%s, %s", capital(string(side.CoilRole)), side.Side)
		switch {
		case !side.Reached:
			out.Left = append(out.Left, fmt.Sprintf("%s: not reached, %s. It stays due.", where, strings.TrimSuffix(side.WhyNot, ".")))
		case side.Found != nil:
			line := fmt.Sprintf("%s: %s (grade %d of 5)", where, gradeWord(side.Found.Grade), side.Found.Grade)
			if len(side.Soils) > 0 {
				line += ", " + strings.ToLower(strings.Join(side.Soils, " and "))
			}
			out.Found = append(out.Found, line+".")
			if side.Left != nil {
				out.Done = append(out.Done, fmt.Sprintf("%s: left %s (grade %d of 5).", where, gradeWord(side.Left.Grade), side.Left.Grade))
				if side.Left.Grade >= int(soil.Felt) {
					out.Left = append(out.Left, where+": still soiled; it did not come clean this time.")
				}
			}
		}
	}
	passes := []string{}
	for _, t := range sum.Treatments {
		line := fmt.Sprintf("%s clean of the %s: %s", capital(string(t.Work)), t.CoilRole, strings.ToLower(t.Method))
		if t.Cleaner != "" {
			line += " with " + strings.ToLower(t.Cleaner)
		}
		if optional.Value(t.TakenOut) {
			line += ", taken out"
		}
		if t.DwellS != nil {
			line += fmt.Sprintf(", left to stand %d min", int(math.Round(float64(*t.DwellS)/60)))
		}
		passes = append(passes, line+".")
	}
	out.Done = append(passes, out.Done...)
}

// cleaned says whether a visit treated a coil.
func cleaned(v contract.NewVisit) bool {
	return slices.ContainsFunc(v.Coils, func(c contract.VisitCoil) bool { return len(c.Treatments) > 0 })
}

// reportPacked tells of coils whose face was left fair while the core behind it is thought to be packed: they are not clean.
func reportPacked(out *contract.SiteReport, d dossier.Unit, sum contract.VisitSummary) (packed bool) {
	for _, c := range d.Coils {
		for _, side := range c.Sides {
			i := slices.IndexFunc(sum.Sides, func(x contract.SideLook) bool { return x.Side == side.Name && string(x.CoilRole) == c.Role })
			if i < 0 || sum.Sides[i].Left == nil || sum.Sides[i].Left.Grade >= int(soil.Coat) || !side.Trace.Known {
				continue
			}
			if side.Trace.Now.CoreGrade() >= soil.Felt {
				packed = true
				out.Left = append(out.Left, fmt.Sprintf("%s, %s: its face is fair now, but between the fins it is probably still packed. It needs more than this clean.", capital(c.Role), side.Name))
			}
		}
	}
	return packed
}

// reportSurfaces tells of wheel, pan, filter and the like.
func reportSurfaces(out *contract.SiteReport, v contract.NewVisit) {
	for _, p := range optional.Value(v.Surfaces) {
		name := wording.PartWords[string(p.Part)]
		out.Found = append(out.Found, fmt.Sprintf("%s: %s (grade %d of 5).", name, gradeWord(p.Grade), p.Grade))
		switch {
		case p.Left == nil && p.Grade >= int(soil.Felt):
			out.Left = append(out.Left, name+": soiled, and not cleaned this time.")
		case p.Left != nil:
			out.Done = append(out.Done, fmt.Sprintf("%s: left %s (grade %d of 5).", name, gradeWord(*p.Left), *p.Left))
		}
	}
}

func reportReadings(out *contract.SiteReport, record contract.VisitRecord) {
	for _, x := range record.Readings {
		if x.Verdict == "fail" {
			out.Left = append(out.Left, fmt.Sprintf("%s was out of limits %s the work; thought to be behind it: %s.", x.Name, x.Phase, strings.TrimSuffix(x.Cause, ".")))
		}
	}
	if p := record.Proof; p != nil && p.Judged && p.FellK > 0 {
		out.Done = append(out.Done, fmt.Sprintf("It sheds its heat %.1f K easier than before, about %.0f %% less energy for the same cooling.", p.FellK, 100*p.EnergyShare))
	}
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

func dayWords(d calendar.Day) string { return d.Time().Format("2 January 2006") }

// SiteReportFile is the report as PDF.
func (s *Service) SiteReportFile(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.SiteReport, []byte, error) {
	report, err := s.SiteReport(ctx, a, id)
	if err != nil {
		return report, nil, err
	}
	var b bytes.Buffer
	err = exchange.WriteReport(&b, reportSheet(report), s.Stamp())
	return report, b.Bytes(), err
}

func reportSheet(r contract.SiteReport) exchange.Report {
	return exchange.Report{
		Title: r.Title, Lines: []string{r.Site, r.Unit, dayWords(r.Day)},
		Parts: []exchange.ReportPart{
			{Head: "Found", Lines: r.Found},
			{Head: "Done", Lines: r.Done},
			{Head: "Left, and why", Lines: r.Left},
			{Head: "Advised", Lines: r.Advised},
			{Head: "What you can do", Lines: r.Weekly},
			{Head: "Next", Lines: r.Next},
		},
		Foot: r.Told + " " + r.Cautions,
	}
}

// reportText is the report as the text of a mail.
func reportText(r contract.SiteReport) string {
	sheet := reportSheet(r)
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n%s\n", sheet.Title, strings.Join(sheet.Lines, ", "))
	for _, p := range sheet.Parts {
		if len(p.Lines) > 0 {
			fmt.Fprintf(&b, "\n%s\n- %s\n", p.Head, strings.Join(p.Lines, "\n- "))
		}
	}
	fmt.Fprintf(&b, "\n%s\n", sheet.Foot)
	return b.String()
}

// MailSiteReport sends the report to the site, with the PDF. The mail is kept, and sent by a worker: what cannot be
// delivered at once is tried again.
func (s *Service) MailSiteReport(ctx context.Context, a organisation.Actor, id uuid.UUID, to string) (contract.Mail, error) {
	var out contract.Mail
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	to, err := outbox.MailAddress(to)
	if err != nil {
		return out, err
	}
	report, file, err := s.SiteReportFile(ctx, a, id)
	if err != nil {
		return out, err
	}
	mail := store.MailOut{
		Recipient: to, Subject: report.Title + ", " + dayWords(report.Day), Body: reportText(report), FileName: "report.pdf", File: file,
		VisitID: &id, AccountID: &a.AccountID, At: s.Stamp(),
	}
	return s.outbox.Send(ctx, s.Tenant(ctx, a), mail, func(t store.Tenant) error {
		return t.Record(s.Stamp(), a.AccountID, "visit", id, "report mailed", organisation.AuditDetail{Note: to})
	})
}
