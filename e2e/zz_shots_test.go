package e2e

import (
	"testing"

	"nextround/e2e/journey"
)

func TestZZShots(t *testing.T) {
	p, a := window(t, 1280, 800, false)
	signIn(t, p, "manager")
	ok(t, p.Go("/house-rules/practice"))
	ok(t, p.WaitText("of 35 differ"))
	shot(t, p, "practice0")
	ok(t, p.ClickNth("Change", 8))
	ok(t, p.Fill("trial-unit", "CC-BC-1", 0))
	ok(t, p.WaitText("In force for CC-BC-1."))
	shot(t, p, "practice1")
	open(t, p, "FS-CA-2")
	ok(t, p.Eval(`[...document.querySelectorAll('h2')].find(h => h.innerText.includes('Wheel'))?.scrollIntoView()`, nil))
	shot(t, p, "unit-parts")
	ok(t, p.Go("/stock"))
	ok(t, p.WaitText("Stock"))
	shot(t, p, "stock")
	var visit string
	a.Store.DB.Raw("SELECT v.id FROM visit v JOIN unit u ON u.id = v.unit_id WHERE u.tag = 'FS-CA-2' ORDER BY v.day DESC LIMIT 1").Scan(&visit)
	ok(t, p.Go("/visits/"+visit))
	ok(t, p.WaitText("FS-CA-2"))
	shot(t, p, "record")
	ok(t, p.Go("/bench"))
	ok(t, p.WaitText("Work plan"))
	shot(t, p, "bench")
}

func TestZZPhone(t *testing.T) {
	p, a, _ := phone(t)
	signIn(t, p, "technician")
	var unit string
	a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'FN-DC-1'").Scan(&unit)
	ok(t, p.Go("/units/"+unit+"/work?job=light"))
	ok(t, p.WaitText("What this visit is for"))
	shot(t, p, "phone-light")
	l := journey.Led{Page: p, Sides: 1, Means: "Plug", Soil: "Lint or hair"}
	ok(t, l.Until("isolate"))
	shot(t, p, "phone-isolate")
	ok(t, l.Until("opened_look"))
	ok(t, p.Check("Reached", 0))
	ok(t, l.Until("advice"))
	shot(t, p, "phone-plan")
	ok(t, l.Until("as_left"))
	shot(t, p, "phone-left")
	a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'FS-CA-2'").Scan(&unit)
	ok(t, p.Go("/units/"+unit+"/work?job=companion"))
	ok(t, p.WaitText("What this visit is for"))
	ok(t, l.Until("filters"))
	shot(t, p, "phone-companion")
}
