package heat

import (
	"slices"
	"strings"
)

// Safety classes of ISO 817 / ASHRAE 34 (from memory): classes 2L, 2 and 3 burn, class 1 does not. Codes are written as
// plainCode leaves them; common names stand beside them.
var (
	burning = []string{
		"32", "50", "143A", "152A", "170", "290", "600", "600A", "717", "1150", "1270", "1234YF", "1234ZE", "444B", "446A", "447B", "452B", "454A",
		"454B", "454C", "455A", "457A", "459A", "516A",
		"PROPANE", "PROPYLENE", "PROPENE", "ISOBUTANE", "BUTANE", "ETHANE", "ETHYLENE", "METHANE", "AMMONIA",
	}
	notBurning = []string{
		"22", "123", "134A", "404A", "407A", "407C", "407F", "410A", "417A", "422D", "427A", "438A", "448A", "449A", "450A", "452A", "507", "507A",
		"513A", "744", "CO2", "CARBONDIOXIDE", "1233ZD", "1336MZZ",
	}
)

// Burns reports whether a refrigerant burns, by its code or common name however spelt; known is false where the tables do
// not say. Whoever asks for safety counts one that is not known as burning.
//
// Source: ISO 817 safety classes, from memory. The plate on the unit and its manual come first.
func Burns(refrigerant string) (burns, known bool) {
	code := plainCode(refrigerant)
	for _, prefix := range []string{"HFC", "HCFC", "HFO", "HC"} {
		if rest, ok := strings.CutPrefix(code, prefix); ok && rest != "" && rest[0] >= '0' && rest[0] <= '9' {
			code = rest
		}
	}
	if slices.Contains(burning, code) || slices.Contains(burning, strings.TrimSuffix(code, "E")) && strings.HasPrefix(code, "1234") {
		return true, true
	}
	return false, slices.Contains(notBurning, code)
}
