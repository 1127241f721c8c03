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

// ExampleEntries are a round that was changed once, over the hour that the clocks go forward, and one withdrawn; with all
// that has to be escaped.
func ExampleEntries() []CalendarEntry {
	at := func(hour int) time.Time { return time.Date(2026, time.March, 29, hour, 30, 0, 0, time.UTC) }
	return []CalendarEntry{
		{
			UID: "01a20bbc-3b1f-7569-b022-a755ea24ba1a@nextround", Sequence: 2, Starts: at(0), Ends: at(8), Changed: at(7),
			Summary: "Crew Tern: Harbour Office, Küche; tower", Location: "1 Harbour Street, \\ quay",
			Description: "1. Harbour Office, arrive 07:40\n   - HO-PU-1, deep clean (2 people, water 20 L: none there)\nLocal codes, the maker's manual and the safety data sheet come first, and this line is longer than seventy-five octets.",
		},
		{
			UID: "01a20bbc-3b1f-7569-b022-a755ea24ba1b@nextround", Sequence: 3, Starts: at(9), Ends: at(10), Changed: at(8),
			Summary: "Withdrawn: Crew Tern: Maritime Museum", CalledOff: true,
		},
	}
}
