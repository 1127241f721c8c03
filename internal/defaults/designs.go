package defaults

// Design says where the coil of a class is and how it is reached.
type Design struct{ Coil, Access, Notes string }

// Designs by class (common practice, no source).
var Designs = map[string]Design{
	"undercounter_cooler": {
		"Condenser, fan and compressor stand together behind a panel at the rear.", "Slide it out, or take the rear panel off; the front shows two low grilles, one in and one out.",
		"A thick core of many passes: a brush reaches its face only. Built in tight, it breathes through the grilles alone.",
	},
	"display_cooler": {
		"Condenser low at the front, behind the grille; fan and compressor right behind it.", "Lift the front grille off.",
		"Often backed on a wall, so nothing is blown in. Brush into a running vacuum; wash the grille in hot soapy water. Very sharp edges.",
	},
	"reach_in": {
		"One of five: an open tube grid on the back; rear-bottom under a cover; under the front behind a kick plate; a belly coil seen only when it is tipped; a rolled coil of two or three layers.",
		"Look for a kick plate first, then at the back, then under a rear cover; tip it only with two people, emptied and its doors taped.",
		"The grid takes a wet rag; layers take a bendable brush from the rear. A tipped one rests before it is started.",
	},
	"outdoor_condensing": {
		"The coil wraps the cabinet behind guards or louvres; the top carries the fan.", "Lift the top, fan and all, and hold it up: its lead is short.",
		"The side nearest the wall is the dirtiest. One or two slabs; leaves lie in the bottom trough.",
	},
	"packaged_unit": {
		"Condenser and evaporator in one cabinet.", "Screens and lattice come off first; they hide most of the face.",
		"An opening joins the compressor compartment; dirt washes through it.",
	},
	"wall_unit": {
		"A front coil, a back coil, and the blower wheel under them.", "The front cover comes off; the back coil and the wheel are behind the front coil.",
		"The front is the clean one: look at the back and at the wheel.",
	},
	"cassette": {
		"The coil is a ring round the fan, above a foam pan.", "From a ladder: panel, then the pan, lowered level.", "Draw-string bag with a funnel to a bucket; pump and float switch in the pan.",
	},
	"ceiling_room_cooler": {
		"The coil is above filters and a drip tray.", "From a ladder: tray down, filters out.", "Reservoir, pump and water sensor: the drain test is made powered, but switched off at the keypad.",
	},
	"through_wall": {
		"Two coils on one chassis, one to the room and one outdoors.", "Slide the chassis out of its sleeve with two people; both faces are reached only outdoors, with the fan housing freed.",
		"Water lies in the base pan.",
	},
	"air_handler": {"The evaporator is behind panels, with blower, filter, pan and drain.", "Filter out, then the coil's panel.", "Dust settles on coil, wheel and pan alike."},
	"remote_condenser": {
		"Outdoors or in a plant room, one or more banks with fans.", "Guards off; each bank on its own.", "A head-pressure control hides soil in cool weather.",
	},
	"unit_cooler": {"The evaporator hangs inside the cold room.", "Defrosted fully; food out or covered; then the fan panel.", "Food-safe cleaners only; the room's air goes over the food."},
	"ice_machine": {"The condenser is low at the front, as in a display cooler.", "Bin closed and covered, then the grille.", "Look through the core with a light: salt and film pack behind a clean face."},
}
