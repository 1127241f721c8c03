package fieldwork

import (
	"context"
	"fmt"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/method"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// What came back from the field stays on the list for this many days (assumption), at most so many lines.
const (
	attentionDays = 60
	mostAttention = 200
)

// Attention is what came back from the field and needs a decision: gates that were skipped, rules set aside, readings out
// of limits, counts that do not agree, dwells past their maximum, advice declined, watched things that got worse, and
// symptoms nobody decided on. The newest come first.
func (s *Service) Attention(ctx context.Context, a organisation.Actor) ([]contract.AttentionLine, error) {
	if err := a.Only(contract.RoleManager); err != nil {
		return nil, err
	}
	t := s.Tenant(ctx, a)
	since := s.Today(a.Org.Zone).Add(-attentionDays)
	rows, err := t.Attention(since, mostAttention)
	if err != nil {
		return nil, err
	}
	out := []contract.AttentionLine{}
	for _, r := range rows {
		out = append(out, contract.AttentionLine{
			Kind: contract.AttentionLineKind(r.Kind), UnitID: r.UnitID, VisitID: r.VisitID, Tag: r.Tag, Site: r.Site, Day: calendar.Day(r.Day),
			Text: attentionText(r), Reason: r.Reason,
		})
	}
	return out, nil
}

func attentionText(r store.AttentionRow) string {
	switch contract.AttentionLineKind(r.Kind) {
	case contract.AttentionLineKindGateSkipped:
		return "Skipped: " + r.Text
	case contract.AttentionLineKindException:
		b, _ := method.BanByCode(r.Text)
		return "Override: " + b.Text
	case contract.AttentionLineKindReading:
		f, _ := heat.FactsOf(heat.Kind(r.Text))
		return fmt.Sprintf("Out of limits: %s, %.4g %s", f.Name, r.Number, f.Unit)
	case contract.AttentionLineKindCount:
		return fmt.Sprintf("%.0f of the %s did not come back", r.Number, r.Text)
	case contract.AttentionLineKindOverDwell:
		return fmt.Sprintf("A cleaner stood %.0f min, past its maximum", r.Number/60)
	case contract.AttentionLineKindDeclined:
		return "The site declined: " + r.Text
	case contract.AttentionLineKindWorse:
		return "Got worse: " + r.Text
	case contract.AttentionLineKindReturned:
		return "Given back by its crew: " + wording.ReturnWords[r.Text]
	case contract.AttentionLineKindTwice:
		return "Two visits to it on that day: perhaps the same work, written down twice"
	case contract.AttentionLineKindSymptom:
		return "Reported: " + symptomWords[r.Text]
	}
	return r.Text
}

// symptomWords name the kinds of complaint.
var symptomWords = map[string]string{
	"not_cold": "not cold though turned down", "water": "water on the floor", "buzzing": "buzzing or clicking", "warm_goods": "goods are warming",
	"hot_compressor": "compressor hot", "stopped_after_mowing": "stopped right after mowing", "other": "something else",
}
