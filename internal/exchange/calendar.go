package exchange

import (
	"time"

	ics "github.com/arran4/golang-ical"
)

// CalendarEntry is a round as a calendar shows it.
type CalendarEntry struct {
	// UID stays the same however often the round changes; Sequence counts the changes.
	UID         string
	Sequence    int
	Starts      time.Time
	Ends        time.Time
	Changed     time.Time
	Summary     string
	Location    string
	Description string
	CalledOff   bool
}

// Calendar is a crew's rounds as iCalendar (RFC 5545), lines ended as the standard wants them. The same rounds give the
// same bytes.
func Calendar(name string, entries []CalendarEntry) []byte {
	c := ics.NewCalendarFor("Next Round")
	c.SetMethod(ics.MethodPublish)
	c.SetXWRCalName(name)
	for _, e := range entries {
		v := c.AddEvent(e.UID)
		v.SetDtStampTime(e.Changed)
		v.SetModifiedAt(e.Changed)
		v.SetStartAt(e.Starts)
		v.SetEndAt(e.Ends)
		v.SetSequence(e.Sequence)
		v.SetSummary(e.Summary)
		v.SetLocation(e.Location)
		v.SetDescription(e.Description)
		v.SetStatus(ics.ObjectStatusConfirmed)
		if e.CalledOff {
			v.SetStatus(ics.ObjectStatusCancelled)
		}
	}
	return []byte(c.Serialize(ics.WithNewLineWindows))
}
