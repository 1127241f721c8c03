package e2e

import (
	"testing"
)
func TestZZToday(t *testing.T) {
	p, _, _ := phone(t)
	signIn(t, p, "technician")
	ok(t, p.Go("/"))
	ok(t, p.WaitText("Kept on this phone: all"))
	shot(t, p, "today1")
	ok(t, p.Eval(`document.querySelectorAll('article')[0].scrollIntoView()`, nil))
	shot(t, p, "today2")
	ok(t, p.Eval(`document.querySelectorAll('article')[2].scrollIntoView()`, nil))
	shot(t, p, "today3")
	ok(t, p.ClickNth("Not done …", 0))
	shot(t, p, "today4")
	ok(t, p.Go("/scan"))
	ok(t, p.WaitText("Find a unit"))
	ok(t, p.Fill("Tag, or the code on the label", "FA-IM", 0))
	ok(t, p.WaitText("FA-IM-2"))
	shot(t, p, "scan")
	fits(t, p, "scan")
	bigEnough(t, p, "scan")
	accessible(t, p, "scan")
}
