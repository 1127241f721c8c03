package visit

import (
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/optional"
)

// Ask is a finding that is rare enough to be asked about once.
type Ask struct {
	Key  string `json:"key"`
	Step string `json:"step"`
	Text string `json:"text"`
}

// asks are the sides that carried a Blanket or more, were worked on dry only, and are said to be left bare: brush and vacuum
// reach the face, and seldom leave a coil so (common practice, no source).
func asks(f *Facts, req contract.NewVisit) []Ask {
	out := []Ask{}
	for _, c := range req.Coils {
		wet := map[string]bool{}
		treated := map[string]bool{}
		for _, t := range c.Treatments {
			for _, id := range t.SurfaceIds {
				treated[id.String()] = true
				if f.Methods[t.MethodID].Wet || optional.Value(t.TakenOut) {
					wet[id.String()] = true
				}
			}
		}
		for _, s := range c.Sides {
			key := s.SurfaceID.String()
			if s.Found == nil || s.Left == nil || !treated[key] || wet[key] || soil.Grade(s.Found.Grade) < soil.Blanket || s.Left.Grade > 0 {
				continue
			}
			out = append(out, Ask{
				Key: "bare:" + key, Step: "as_left",
				Text: f.sideName(c.CoilID, s.SurfaceID) + "found under a Blanket, cleaned dry, and left bare? Dry work seldom leaves it so. Look once more, with a light.",
			})
		}
	}
	return out
}
