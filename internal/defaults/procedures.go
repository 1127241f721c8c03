package defaults

import "nextround/core/procedure"

// Common is the order of the work every class shares (common practice, no source).
var common = []procedure.Step{
	{Code: "identify", Phase: procedure.Arrive, Text: "Find the unit and read its tag", Why: "the right unit gets the right clock", Form: "access"},
	{Code: "reach", Phase: procedure.Arrive, Text: "See that every side can be reached, and how", Why: "a side nobody planned for is a side nobody cleans", Note: "what stands in the way", Form: "access"},
	{Code: "watch_items", Phase: procedure.Arrive, Text: "Look at what is being watched, beside its picture", Why: "slow changes are only seen against what was there", Form: "watch", When: []string{"watched"}},
	{Code: "goods_out", Phase: procedure.Arrive, Text: "Read the goods' temperature and agree where they go", Why: "food warms while the cooler is off: at or below 5 °C, never above it for more than 4 h", Form: "readings_before", When: []string{"cooled_goods"}},
	{Code: "readings_before", Phase: procedure.Arrive, Text: "Read the unit while it runs, with the ambient beside it", Why: "only a pair shows what the clean brought", Form: "readings_before"},

	{Code: "tell_occupants", Phase: procedure.Safe, Gate: true, Text: "Tell the people here", Why: "nobody switches it back on, and nobody slips"},
	{Code: "isolate", Phase: procedure.Safe, Gate: true, Text: "Isolate at the breaker, disconnect or plug", Why: "a thermostat or keypad alone leaves other circuits live", Cautions: []string{"One hand only at a live disconnect."}, Form: "isolation"},
	{Code: "lock_tag", Phase: procedure.Safe, Gate: true, Text: "Lock or tag it; keep a plug in sight", Why: "somebody else will find it off and put it on", Form: "isolation"},
	{Code: "discharge", Phase: procedure.Safe, Gate: true, Text: "Discharge the capacitors", Why: "capacitors bite after the power is gone", Form: "isolation"},
	{Code: "prove_dead", Phase: procedure.Safe, Gate: true, Text: "Prove it dead: L1–L2, L1–ground, L2–ground, meter tried on a live source before and after", Why: "a meter that is broken also reads nothing", Form: "isolation"},
	{Code: "ppe_open", Phase: procedure.Safe, Gate: true, Text: "Put on what opening asks for: gloves, eyes", Why: "grille edges and fins cut", Cautions: []string{"Missing? Stop here."}},
	{Code: "ladder", Phase: procedure.Safe, Gate: true, Text: "Foot the ladder; keep clear of the edge", Why: "falls are what hurts most", When: []string{"ladder"}},
	{Code: "two_people", Phase: procedure.Safe, Gate: true, Text: "Two people are here", Why: "it can tip, or is too heavy for one", When: []string{"two_people"}},
	{Code: "no_ignition", Phase: procedure.Safe, Gate: true, Text: "No ignition source near; air the place", Why: "its refrigerant burns", When: []string{"flammable"}},
	{Code: "nests", Phase: procedure.Safe, Gate: true, Text: "Look for nests before a panel is pulled", Why: "stings, and a shock at a live part"},

	{Code: "open_up", Phase: procedure.Look, Text: "Open up: panels, guards, fixings in the order they come off", Why: "a coil behind a guard is not seen", Cautions: []string{"Nothing may hang or load a panel held by hooks alone.", "Do not bend refrigerant tubes."}, Photo: "each panel before it comes off", Form: "count"},
	{Code: "photo_wiring", Phase: procedure.Look, Gate: true, Text: "Photograph the wiring before a plug is drawn", Why: "it has to go back the same way", Photo: "wiring", Cautions: []string{"The low-voltage lead blows a fuse when it touches metal."}},
	{Code: "first_look", Phase: procedure.Look, Text: "First look: score what shows before anything is moved", Why: "it trains the eye; first looks mislead", Form: "first_look", Photo: "each side as found"},
	{Code: "opened_look", Phase: procedure.Look, Text: "Opened up: score each side, light through the fins", Why: "this is the finding the next interval rests on", Form: "opened_up", Photo: "each side before"},
	{Code: "parts", Phase: procedure.Look, Text: "Note parts and wear: filter size, capacitor, contactor, motor, chafing tubes", Why: "the next visit brings the right part", Form: "parts", Note: "sizes and ratings"},

	{Code: "base_debris", Phase: procedure.Dry, Text: "Lift dry debris out of base and trough into a bucket", Why: "it is not washed into the coil"},
	{Code: "loosen_dry", Phase: procedure.Dry, Text: "Loosen dry: brush along the fins, vacuum, or air against the airflow", Why: "dust that gets wet first is mud", Cautions: []string{"Dust mask indoors.", "Fan off and still: fingers and blades."}},

	{Code: "advice", Phase: procedure.Wet, Text: "Choose method and cleaner from coil, soil and place", Why: "what is ruled out says by which rule", Form: "advice"},
	{Code: "why_dry", Phase: procedure.Wet, Text: "Stay dry, and say why", Why: "water here does more harm than the dirt", When: []string{"!wet"}, Form: "advice"},
	{Code: "contain", Phase: procedure.Wet, Text: "Catch the rinse: bucket, sheet or bag", Why: "residue stays off floors, drains and people", When: []string{"wet"}},
	{Code: "ppe_cleaner", Phase: procedure.Wet, Gate: true, Text: "Put on what the cleaner asks for", Why: "burns start unnoticed", Cautions: []string{"Skin contact: rinse at once, then follow the data sheet.", "Never mix cleaners; never near food or glasses."}, When: []string{"wet"}},
	{Code: "corrosive", Phase: procedure.Wet, Gate: true, Text: "Alkaline: goggles, chemical gloves, running water at hand", Why: "it burns and keeps corroding until it is rinsed off", When: []string{"corrosive"}},
	{Code: "pre_rinse", Phase: procedure.Wet, Text: "Pre-rinse with water", Why: "loose soil takes no cleaner", When: []string{"wet", "deep"}},
	{Code: "apply_cleaner", Phase: procedure.Wet, Text: "Dose, apply, and let it stand", Why: "time does the work; past its maximum it harms", Form: "dwell", When: []string{"wet"}},
	{Code: "rinse_end", Phase: procedure.Wet, Text: "Rinse to the end-point: clear run-off and light through", Why: "soap left in corrodes and catches dust", Form: "rinse", When: []string{"wet"}},
	{Code: "flush_sprayer", Phase: procedure.Wet, Text: "Flush the sprayer; concentrate back into its own container, upright", Why: "residue dries and blocks it", When: []string{"wet"}},

	{Code: "drain_pan", Phase: procedure.Check, Text: "Empty standing water; see that drain and pan run on", Why: "a pan that stands grows slime and floods", Cautions: []string{"No mouth on a drain tube."}},
	{Code: "fan_blades", Phase: procedure.Check, Text: "Clean fan blades or wheel; turn by hand", Why: "a dirty blade is out of balance and moves less air", Cautions: []string{"Fingers and blades."}},
	{Code: "pipes_wires", Phase: procedure.Check, Text: "Check wires, pressure-switch leads and pipes for chafing", Why: "chafing is the next leak"},
	{Code: "fins", Phase: procedure.Check, Text: "Straighten bent fins", Why: "bent fins block like dirt"},
	{Code: "as_left", Phase: procedure.Check, Text: "Score each side as left, light through", Why: "what is left is where the next soil starts", Form: "as_left", Photo: "each side after"},

	{Code: "count_back", Phase: procedure.Close, Gate: true, Text: "Count tools, screws, plugs and panels back", Why: "what is missing is inside", Form: "count"},
	{Code: "close_up", Phase: procedure.Close, Text: "Close in the right panel order", Why: "a panel left out bypasses the coil"},
	{Code: "dry_seen", Phase: procedure.Close, Gate: true, Text: "See that electrics are dry", Why: "water and power meet once"},
	{Code: "restore_power", Phase: procedure.Close, Text: "Take lock and tag off; restore power", Why: "who locked it opens it", Cautions: []string{"Earthed outlet, no adapter."}},
	{Code: "readings_after", Phase: procedure.Close, Text: "Read again once it has settled", Why: "the pair is the proof", Form: "readings_after"},

	{Code: "tell_site", Phase: procedure.Tell, Text: "Tell the site: found, done, left and why, advised, next date", Why: "they see the unit every day", Form: "told"},
}

// own are the steps a class adds, each after a step of the common order; an empty after puts it first in its phase.
type own struct {
	after string
	step  procedure.Step
}

var ownSteps = map[string][]own{
	"undercounter_cooler": {
		{"goods_out", procedure.Step{Code: "slide_out", Phase: procedure.Arrive, Text: "See whether it slides out; the rear panel hides coil, fan and compressor", Why: "built in tight it breathes through two low grilles only"}},
		{"first_look", procedure.Step{Code: "grilles_apart", Phase: procedure.Look, Text: "Tell the air-in from the air-out grille", Why: "air goes against the airflow, in at the out grille"}},
		{"loosen_dry", procedure.Step{Code: "through_core", Phase: procedure.Dry, Text: "Reach the core: narrow vacuum from behind", Why: "a thick coil of many passes: a brush cleans only its face"}},
	},
	"display_cooler": {
		{"open_up", procedure.Step{Code: "grille_wash", Phase: procedure.Look, Text: "Take the front grille off; wash it in hot soapy water, let it dry", Why: "the grille is the filter", Cautions: []string{"Very sharp edges."}}},
		{"loosen_dry", procedure.Step{Code: "brush_into_vacuum", Phase: procedure.Dry, Text: "Brush into a running vacuum, right at the coil", Why: "fan and compressor stand right behind: what is loosened lands on them"}},
	},
	"reach_in": {
		{"goods_out", procedure.Step{Code: "empty_and_tape", Phase: procedure.Arrive, Text: "Empty it, tape the doors, move it with two people", Why: "it tips", Cautions: []string{"Tip-over: never alone.", "Mind the floor."}}},
		{"open_up", procedure.Step{Code: "find_coil", Phase: procedure.Look, Text: "Find the coil: back grid, rear bottom, kick plate, belly or rolled layers", Why: "each is cleaned another way"}},
		{"drain_pan", procedure.Step{Code: "defrost_drain", Phase: procedure.Check, Text: "Clear the defrost drain tube", Why: "it is in the way and blocks next", Cautions: []string{"No mouth on a drain tube."}}},
		{"dry_seen", procedure.Step{Code: "let_rest", Phase: procedure.Close, Text: "Tipped? Let it rest before power", Why: "oil has to run back into the compressor"}},
		{"close_up", procedure.Step{Code: "floor_behind", Phase: procedure.Close, Text: "Clean the floor behind and keep the gap to the wall", Why: "it is where the next dust comes from"}},
	},
	"outdoor_condensing": {
		{"reach", procedure.Step{Code: "vegetation", Phase: procedure.Arrive, Text: "Cut back plants; see what blows here", Why: "the cause grows back faster than the dirt"}},
		{"open_up", procedure.Step{Code: "fan_top", Phase: procedure.Look, Text: "Lift the top with the fan; rain shield and louvres off, control wires protected", Why: "the inside is the clean way in", Cautions: []string{"The lead of the fan is short: support the top."}}},
		{"opened_look", procedure.Step{Code: "wall_side", Phase: procedure.Look, Text: "Look at the side nearest the wall first", Why: "it is the dirtiest and the last to be reached"}},
		{"base_debris", procedure.Step{Code: "trough", Phase: procedure.Dry, Text: "Clear the bottom trough; look for rust", Why: "leaves rot there and hold water"}},
		{"opened_look", procedure.Step{Code: "slab_gap", Phase: procedure.Look, Text: "Two slabs: look between them", Why: "the gap packs where nothing reaches", When: []string{"slabs"}}},
	},
	"packaged_unit": {
		{"open_up", procedure.Step{Code: "screens", Phase: procedure.Look, Text: "Take screens and lattice off", Why: "they hide most of the face"}},
		{"drain_pan", procedure.Step{Code: "washed_through", Phase: procedure.Check, Text: "Look into the compressor compartment", Why: "dirt washes through its opening"}},
		{"fan_blades", procedure.Step{Code: "filters", Phase: procedure.Check, Text: "Filters: washed and dry, or new", Why: "a torn filter feeds the coil"}},
	},
	"wall_unit": {
		{"open_up", procedure.Step{Code: "cover_and_bag", Phase: procedure.Look, Text: "Front cover off, bag under the unit, electronics covered", Why: "the wash runs to the bucket, not down the wall"}},
		{"opened_look", procedure.Step{Code: "back_coil", Phase: procedure.Look, Text: "Look at the back coil and the wheel under it", Why: "the front coil is the clean one"}},
		{"fan_blades", procedure.Step{Code: "wheel", Phase: procedure.Check, Text: "Wash the wheel blade by blade; score it", Why: "yearly service alone lets the wheel foul over the years"}},
		{"fan_blades", procedure.Step{Code: "filters", Phase: procedure.Check, Text: "Filters washed, dried fully, torn ones replaced", Why: "damp filters smell"}},
	},
	"cassette": {
		{"reach", procedure.Step{Code: "tape_off", Phase: procedure.Arrive, Text: "Tape off below", Why: "people walk under ladders"}},
		{"open_up", procedure.Step{Code: "bag_up", Phase: procedure.Look, Text: "Hang the draw-string bag, funnel to a bucket", Why: "the coil ring drips all round"}},
		{"drain_pan", procedure.Step{Code: "foam_pan", Phase: procedure.Check, Text: "Lower the foam pan level; clean pump and float switch", Why: "the foam breaks, and a stuck float floods the room"}},
		{"fan_blades", procedure.Step{Code: "filters", Phase: procedure.Check, Text: "Filters washed, dried fully, torn ones replaced", Why: "they are the coil's only guard"}},
	},
	"ceiling_room_cooler": {
		{"drain_pan", procedure.Step{Code: "drain_test", Phase: procedure.Check, Text: "Drain test: reservoir, pump and water sensor", Why: "the test needs power: powered, but off at the keypad, hands out", Cautions: []string{"The only step with power on: nothing is open, nothing is touched."}}},
		{"fan_blades", procedure.Step{Code: "filters", Phase: procedure.Check, Text: "Filters above the coil: washed and dry", Why: "they feed the tray"}},
	},
	"through_wall": {
		{"open_up", procedure.Step{Code: "slide_chassis", Phase: procedure.Look, Text: "Slide the chassis out of the sleeve, two people, and carry it outdoors", Why: "both coil faces are reached only outdoors", Cautions: []string{"Two people.", "Fan housing freed, not forced."}}},
		{"drain_pan", procedure.Step{Code: "tablets", Phase: procedure.Check, Text: "Base pan: empty, new tablets", Why: "water lies in the base pan"}},
		{"loosen_dry", procedure.Step{Code: "detergent_first", Phase: procedure.Dry, Text: "Mild detergent before any other solution", Why: "most of it comes off with that"}},
	},
	"air_handler": {
		{"open_up", procedure.Step{Code: "filter_out", Phase: procedure.Look, Text: "Filter out; note its size", Why: "dust settles on coil, wheel and pan alike", Note: "filter size"}},
		{"fan_blades", procedure.Step{Code: "wheel", Phase: procedure.Check, Text: "Look at the blower wheel and score it", Why: "a fouled wheel moves less air than a fouled coil"}},
		{"close_up", procedure.Step{Code: "filter_in", Phase: procedure.Close, Text: "New or dry filter in, arrow with the air", Why: "no filter, no clean coil"}},
	},
	"remote_condenser": {
		{"readings_before", procedure.Step{Code: "head_control", Phase: procedure.Arrive, Text: "Say whether a head-pressure control is at work", Why: "in cool weather it hides the soil", Form: "readings_before"}},
		{"opened_look", procedure.Step{Code: "each_bank", Phase: procedure.Look, Text: "Each bank on its own", Why: "one clean bank hides a blocked one"}},
	},
	"unit_cooler": {
		{"goods_out", procedure.Step{Code: "defrost", Phase: procedure.Arrive, Text: "Defrost fully before anything is done", Why: "ice bends fins and hides soil"}},
		{"contain", procedure.Step{Code: "cover_food", Phase: procedure.Wet, Gate: true, Text: "Food out or covered", Why: "nothing of this may reach it", When: []string{"wet"}}},
		{"rinse_end", procedure.Step{Code: "food_safe_rinse", Phase: procedure.Wet, Text: "Rinse to food-safe: no smell, no film", Why: "the room's air goes over the food", When: []string{"wet"}}},
	},
	"ice_machine": {
		{"goods_out", procedure.Step{Code: "bin_closed", Phase: procedure.Arrive, Text: "Bin closed and covered", Why: "ice is food"}},
		{"loosen_dry", procedure.Step{Code: "brush_into_vacuum", Phase: procedure.Dry, Text: "Brush into a running vacuum", Why: "nothing may fall into the bin or on to the fan"}},
		{"opened_look", procedure.Step{Code: "behind_face", Phase: procedure.Look, Text: "Light through: the core, not only the face", Why: "salt and film pack behind a clean face"}},
	},
}

// Procedure is a class's template; a class of the organisation's own gets the common order.
func Procedure(class string) []procedure.Step {
	out := append([]procedure.Step{}, common...)
	for _, o := range ownSteps[class] {
		at := len(out)
		for i, s := range out {
			if s.Code == o.after {
				at = i + 1
			}
		}
		out = append(out[:at], append([]procedure.Step{o.step}, out[at:]...)...)
	}
	return out
}

// ProcedureReason stands beside the first version of every template.
const ProcedureReason = "the usual order of the work (common practice, no source)"
