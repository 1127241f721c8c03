package defaults

import "nextround/core/procedure"

// Common is the order of the work every class shares (common practice, no source). Which job a step belongs to stands with its code in the
// core; what a unit or a plan has no use for falls away by its conditions.
var common = []procedure.Step{
	{Code: "identify", Phase: procedure.Arrive, Text: "Find the unit and read its tag", Why: "the right unit gets the right clock", Form: "access"},
	{Code: "reach", Phase: procedure.Arrive, Text: "See that every side can be reached, and how", Why: "a side nobody planned for is a side nobody cleans", Note: "what stands in the way", Form: "access"},
	{Code: "watch_items", Phase: procedure.Arrive, Text: "Look at what is being watched, beside its picture", Why: "slow changes are only seen against what was there", Form: "watch", When: []string{"watched"}},
	{Code: "running_look", Phase: procedure.Arrive, Text: "Look, listen and feel while it runs", Why: "noise, vibration and a hot compressor are gone once it is off", When: []string{"running_look=first"}},
	{Code: "readings_before", Phase: procedure.Arrive, Text: "Read the unit while it runs, with the ambient beside it", Why: "only a pair shows what the clean brought", Form: "readings_before", When: []string{"running_look=first", "deep|symptom", "readings=both|symptom"}},
	{Code: "goods_out", Phase: procedure.Arrive, Text: "Read the goods' temperature and agree where they go", Why: "food warms while the cooler is off: at or below 5 °C, never above it for more than 4 h", Form: "readings_before", When: []string{"cooled_goods"}},

	{Code: "tell_occupants", Phase: procedure.Safe, Gate: true, Text: "Tell the people here", Why: "nobody switches it back on, and nobody slips"},
	{Code: "two_people", Phase: procedure.Safe, Gate: true, Text: "Two people are here", Why: "it can tip, or is too heavy for one", When: []string{"two_people"}},
	{Code: "ladder", Phase: procedure.Safe, Gate: true, Text: "Foot the ladder; keep clear of the edge", Why: "falls are what hurts most", When: []string{"ladder"}},
	{
		Code: "ppe_open", Phase: procedure.Safe, Gate: true, Text: "Put on what opening asks for: gloves, eyes", Why: "grille edges and fins cut", Cautions: []string{"Missing? Stop here."},
		Ways: []procedure.Way{
			{When: []string{"gloves=always"}, Text: "Put on gloves, eye protection and dust mask"},
			{When: []string{"gloves=by_cleaner", "indoors"}, Text: "Put on what opening asks for: gloves, eyes; a mask for the dust"},
			{When: []string{"gloves=dust_indoors", "indoors"}, Text: "Put on a dust mask; gloves at sharp edges"},
		},
	},
	{Code: "no_ignition", Phase: procedure.Safe, Gate: true, Text: "No ignition source near; air the place", Why: "its refrigerant burns", When: []string{"flammable"}},
	{Code: "nests", Phase: procedure.Safe, Gate: true, Text: "Look for nests before a panel is pulled", Why: "stings, and a shock at a live part", When: []string{"outdoors", "!light|panels=always"}},
	{
		Code: "isolate", Phase: procedure.Safe, Gate: true, Text: "Isolate at the breaker or disconnect", Why: "a thermostat or keypad alone leaves other circuits live", Cautions: []string{"One hand only at a live disconnect."}, Form: "isolation",
		Ways: []procedure.Way{
			{When: []string{"look|hose_down", "!light", "!deep"}, Text: "Isolate and lock it; see that nothing turns"},
			{When: []string{"look|hose_down", "!light", "!deep", "proof_heard"}, Text: "Isolate it; hear it stop"},
			{When: []string{"plug_in"}, Text: "Pull the plug; keep it in your hand or in sight"},
		},
	},
	{Code: "lock_tag", Phase: procedure.Safe, Gate: true, Text: "Lock or tag it", Why: "somebody else will find it off and put it on", Form: "isolation", When: []string{"!proof_plug"}},
	{Code: "open_electrics", Phase: procedure.Safe, Text: "Open the electrical cover", Why: "capacitors and terminals are behind it", Cautions: []string{"Touch nothing yet: it is not proved dead."}, When: []string{"opens_electrics"}},
	{Code: "discharge", Phase: procedure.Safe, Gate: true, Text: "Discharge the capacitors", Why: "capacitors bite after the power is gone", Form: "isolation", When: []string{"opens_electrics"}},
	{
		Code: "prove_dead", Phase: procedure.Safe, Gate: true, Text: "Prove it dead: L1–L2, L1–ground, L2–ground, meter tried on a live source before and after", Why: "a meter that is broken also reads nothing", Form: "isolation",
		Ways: []procedure.Way{
			{When: []string{"proof_plug"}, Text: "Prove it dead: plug in the hand, fan and compressor still", Why: "what is unplugged and in sight cannot come back"},
			{When: []string{"proof_heard"}, Text: "Prove it dead: heard to stop, and nothing turns", Why: "nothing electrical is opened here"},
		},
	},
	{Code: "photo_wiring", Phase: procedure.Safe, Gate: true, Text: "Photograph the wiring before a plug is drawn", Why: "it has to go back the same way", Photo: "wiring", Cautions: []string{"The low-voltage lead blows a fuse when it touches metal."}, When: []string{"opens_electrics"}},

	{Code: "first_look", Phase: procedure.Look, Text: "First look: grade what shows before anything is moved", Why: "it trains the eye; first looks mislead", Form: "first_look", Photo: "each side as found"},
	{
		Code: "open_up", Phase: procedure.Look, Text: "Open up: panels, guards, fixings in the order they come off", Why: "a coil behind a guard is not seen", Cautions: []string{"Nothing may hang or load a panel held by hooks alone.", "Do not bend refrigerant tubes."}, Photo: "each panel before it comes off", Form: "count",
		When: []string{"!light|deep|look|panels=always", "!panels=closed_only|guards|look|light"},
	},
	{Code: "opened_look", Phase: procedure.Look, Text: "Opened up: grade each side, light through the fins", Why: "this is the finding the next interval rests on", Form: "opened_up", Photo: "each side before", Ways: []procedure.Way{
		{When: []string{"light", "!deep"}, Text: "Grade each side, with a light through the fins where it can be seen"},
		{When: []string{"hose_down", "!light", "!deep"}, Text: "Grade each side from outside"},
	}},
	{Code: "parts", Phase: procedure.Look, Text: "Note parts and wear: filter size, capacitor, contactor, motor, chafing tubes", Why: "the next visit brings the right part", Form: "parts", Note: "sizes and ratings"},
	{Code: "advice", Phase: procedure.Look, Text: "Choose the work plan: its passes in order", Why: "the best comes first; what is ruled out says by which rule", Form: "advice", Ways: []procedure.Way{
		{When: []string{"hose_down", "!light", "!deep"}, Text: "Confirm the plan: closed hose-down, from outside, downward"},
		{When: []string{"plug_in", "plug_in_chemistry=never"}, Cautions: []string{"House rule: no cleaner and no water on plug-in refrigeration."}},
		{When: []string{"plug_in", "plug_in_chemistry=allowed"}, Cautions: []string{"House rule: a cleaner where its data sheet allows it."}},
	}},

	{Code: "carry_out", Phase: procedure.Dry, Text: "Carry it out with two people", Why: "outdoors both faces are reached, and dust harms nobody", Cautions: []string{"Keep it upright.", "Lift with the legs, clear the way first."}, When: []string{"taken_out"}},
	{
		Code: "base_debris", Phase: procedure.Dry, Text: "Lift dry debris out of base and trough into a bag", Why: "it is not washed into the coil", When: []string{"base_trough"},
		Ways: []procedure.Way{
			{When: []string{"debris=site"}, Text: "Lift dry debris out of base and trough into the site's own waste, as agreed"},
			{When: []string{"base_debris=end"}, Phase: procedure.Check, Why: "all of it at once"},
		},
	},
	{
		Code: "loosen_dry", Phase: procedure.Dry, Text: "Brush along the fins, into a running vacuum", Why: "dust that gets wet first is mud", Cautions: []string{"Fan off and still: fingers and blades."}, Form: "between",
		When: []string{"dry_first=dry|!wet|light|dry", "!planned|dry|light"},
		Ways: []procedure.Way{
			{When: []string{"brush_order=brush_first"}, Text: "Brush along the fins, then vacuum"},
			{When: []string{"brush_order=vacuum_first"}, Text: "Vacuum, then brush along the fins"},
			{When: []string{"stroke=up"}, Cautions: []string{"Stroke from the bottom up."}},
			{When: []string{"indoors"}, Cautions: []string{"Dust mask indoors."}},
		},
	},
	{
		Code: "air_through", Phase: procedure.Dry, Text: "Air through the core, against the airflow, gently", Why: "the core is out of reach otherwise", Cautions: []string{"Eyes covered; a free way out for the dust."}, Form: "between", When: []string{"air", "!air=never"},
		Ways: []procedure.Way{{When: []string{"air=yes"}, Text: "Air through the core, gently, from where it can be reached"}},
	},

	{Code: "contain", Phase: procedure.Wet, Text: "Catch the rinse: bucket, sheet or bag", Why: "residue stays off floors, drains and people", When: []string{"wet"}},
	{Code: "ppe_cleaner", Phase: procedure.Wet, Gate: true, Text: "Put on what the cleaner asks for", Why: "burns start unnoticed", Cautions: []string{"Skin contact: rinse at once, then follow the data sheet.", "Never mix cleaners; never near food or glasses."}, When: []string{"cleaner"}},
	{Code: "corrosive", Phase: procedure.Wet, Gate: true, Text: "Alkaline: goggles, chemical gloves, running water at hand", Why: "it burns and keeps corroding until it is rinsed off", When: []string{"cleaner", "corrosive"}},
	{Code: "part_slabs", Phase: procedure.Wet, Gate: true, Text: "Part the slabs: consent and extra time agreed", Why: "the gap packs where nothing reaches; a broken bend is the crew's to pay", When: []string{"slabs", "wet", "slabs=always|core_packed", "!slabs=leave"}},
	{Code: "pre_rinse", Phase: procedure.Wet, Text: "Pre-rinse with water", Why: "loose soil takes no cleaner", When: []string{"wet", "outdoors|taken_out|pre_rinse", "!planned|pre_rinse", "!dry_first=chemistry|pre_rinse", "!dry_first=dry|pre_rinse|leaf"}},
	{
		Code: "apply_cleaner", Phase: procedure.Wet, Text: "Dose, apply, and let it stand: foam white and still ends it, its maximum at the latest", Why: "time does the work; past its maximum it harms", Form: "dwell", When: []string{"cleaner"},
		Ways: []procedure.Way{
			{When: []string{"dwell=clock"}, Text: "Dose, apply, and let it stand by the clock"},
			{When: []string{"dwell=foam"}, Text: "Dose, apply, and let it stand until the foam stays white"},
			{When: []string{"chemistry_side=inside"}, Cautions: []string{"Inside first, a light coat outside: foam should be seen to cross."}},
			{When: []string{"chemistry_side=outside"}, Cautions: []string{"From outside."}},
			{When: []string{"chemistry_side=both"}, Cautions: []string{"From inside and from outside."}},
			{When: []string{"strength=by_soil"}, Cautions: []string{"Strength as the plan says: by the soil, the weakest that is enough."}},
			{When: []string{"strength=fixed"}, Cautions: []string{"One strength; the foam decides how much."}},
			{When: []string{"strength=weakest"}, Cautions: []string{"The weakest its label allows."}},
			{When: []string{"stroke=up"}, Cautions: []string{"From the bottom up, so that runs leave no streaks."}},
		},
	},
	{
		Code: "rinse_end", Phase: procedure.Wet, Text: "Rinse until the run-off is clear and light comes through", Why: "soap left in corrodes and catches dust", Form: "rinse",
		When: []string{"wet", "!no_rinse_cleaner|heavy_soil|no_rinse=always", "!no_rinse_cleaner|!no_rinse=never"},
		Ways: []procedure.Way{
			{When: []string{"rinse_end=ten_minutes"}, Text: "Rinse for ten minutes a coil"},
			{When: []string{"rinse_end=clear"}, Text: "Rinse until the run-off is clear"},
			{When: []string{"rinse_end=light"}, Text: "Rinse until light comes through"},
			{When: []string{"plug_in"}, Text: "Wipe off and catch what runs; nothing is rinsed here"},
			{When: []string{"hose_down", "!deep"}, Text: "Rinse from outside, downward, not through, until the run-off is clear"},
			{When: []string{"direction=inside_out", "deep", "!plug_in"}, Cautions: []string{"From inside out, then lightly from outside."}},
			{When: []string{"direction=both", "deep", "!plug_in"}, Cautions: []string{"From both sides, inside first."}},
			{When: []string{"direction=outside", "deep", "!plug_in"}, Cautions: []string{"From outside, downward."}},
			{When: []string{"pressure=low", "!plug_in"}, Cautions: []string{"Low pressure, square to the fins."}},
			{When: []string{"pressure=garden", "!plug_in"}, Cautions: []string{"Garden hose only."}},
			{When: []string{"pressure=any", "!plug_in"}, Cautions: []string{"Any tip, with care; write down which."}},
			{When: []string{"rinse_water=warm", "!plug_in"}, Cautions: []string{"Warm water where there is any."}},
		},
	},

	{Code: "wheel", Phase: procedure.Check, Text: "Wash the wheel in place, blade by blade; turn it by hand and grade it", Why: "a fouled wheel moves less air than a fouled coil", Cautions: []string{"Fingers and blades."}, When: []string{"wheel", "!wheel=left"}, Form: "surfaces", Ways: []procedure.Way{
		{When: []string{"wheel=out"}, Text: "Take the wheel out, wash it all round and grade it", Cautions: []string{"Mark how it sits: balance."}},
	}},
	{Code: "fan_blades", Phase: procedure.Check, Text: "Clean the fan blades; turn by hand", Why: "a dirty blade is out of balance and moves less air", Cautions: []string{"Fingers and blades."}, When: []string{"!wheel"}, Form: "surfaces"},
	{
		Code: "vacuum_water", Phase: procedure.Check, Text: "Vacuum out standing water", Why: "nothing is left to grow in", When: []string{"pan", "!standing_water=left"},
		Ways: []procedure.Way{{When: []string{"standing_water=replaced"}, Text: "Replace standing water by clear water", Why: "the drain is seen to run"}},
	},
	{
		Code: "drain_pan", Phase: procedure.Check, Text: "Clear drain and pan with water and a wet vacuum; see that it runs on", Why: "a pan that stands grows slime and floods", Cautions: []string{"No mouth on a drain tube."}, When: []string{"pan"}, Form: "surfaces",
		Ways: []procedure.Way{
			{When: []string{"drain_by=air"}, Text: "Clear the drain with air, gently; see that it runs on"},
			{When: []string{"drain_by=product"}, Text: "Clear the drain with a drain treatment; see that it runs on"},
		},
	},
	{Code: "clean_pan", Phase: procedure.Check, Text: "Clean the pan with a cleaner", Why: "seen to be clean", When: []string{"pan", "pan=cleaner|pan=both"}},
	{Code: "tablets", Phase: procedure.Check, Text: "New pan tablets", Why: "they work between visits", When: []string{"pan|tablet", "tablet|deep", "pan=tablets|pan=both"}},
	{Code: "drain_flush", Phase: procedure.Check, Text: "Flush the drain; see that it runs on", Why: "it is clear until it is not", Cautions: []string{"No mouth on a drain tube."}, When: []string{"drain"}},
	{Code: "pump_test", Phase: procedure.Check, Text: "Pour clear water in: pump and float start, the reservoir empties", Why: "a stuck float floods the room", When: []string{"pump"}},
	{Code: "filters", Phase: procedure.Check, Text: "Filters washed and fully dried; torn ones replaced", Why: "they are the coil's only guard; damp filters smell", When: []string{"filter"}, Form: "surfaces"},
	{Code: "grille_wash", Phase: procedure.Check, Text: "Grille off; washed in hot soapy water, dried", Why: "the grille is the filter", Cautions: []string{"Very sharp edges."}, When: []string{"grille"}, Form: "surfaces"},
	{Code: "flush_sprayer", Phase: procedure.Check, Text: "Flush the sprayer; concentrate back into its own container, upright", Why: "residue dries and blocks it", When: []string{"cleaner", "!aerosol"}, Ways: []procedure.Way{
		{When: []string{"leftovers=next"}, Cautions: []string{"Mix that is left: label it, use it today, never another cleaner on top."}},
		{When: []string{"leftovers=data_sheet"}, Cautions: []string{"Mix that is left: disposed of as the data sheet says."}},
	}},
	{Code: "capacitor_test", Phase: procedure.Check, Text: "Test the capacitor, off and discharged", Why: "a weak one fails on the next hot day", Form: "readings_after", When: []string{"opens_electrics", "capacitor=off"}},
	{Code: "electrics_dust", Phase: procedure.Check, Text: "Electrical box: dust brushed out, terminals tight", Why: "dust and loose terminals get hot", When: []string{"opens_electrics"}},
	{Code: "pipes_wires", Phase: procedure.Check, Text: "Check wires, pressure-switch leads, pipes and insulation for chafing; ties replaced", Why: "chafing is the next leak"},
	{Code: "fins", Phase: procedure.Check, Text: "Straighten bent fins", Why: "bent fins block like dirt"},
	{Code: "as_left", Phase: procedure.Check, Text: "Grade each side as left, light through", Why: "what is left is where the next soil starts", Form: "as_left", Photo: "each side after", Ways: []procedure.Way{
		{When: []string{"how_clean=perfect"}, Cautions: []string{"Every part clean: go back to what is not."}},
		{When: []string{"how_clean=limit"}, Cautions: []string{"Within the limit is clean enough; over it, say so."}},
		{When: []string{"how_clean=better"}, Cautions: []string{"Clearly better than found is enough."}},
		{When: []string{"coating_indoors=leave", "indoors", "!plug_in", "deep"}, Cautions: []string{"A slight coat on an indoor coil may stay: pan and drain are treated."}},
	}},

	{Code: "count_back", Phase: procedure.Close, Gate: true, Text: "Count tools, screws, plugs and panels back", Why: "what is missing is inside", Form: "count"},
	{Code: "close_up", Phase: procedure.Close, Text: "Close in the right panel order", Why: "a panel left out bypasses the coil", Ways: []procedure.Way{
		{When: []string{"look", "!light", "!deep", "!hose_down"}, Text: "Close up, tools counted; power back on"},
	}},
	{Code: "dry_seen", Phase: procedure.Close, Gate: true, Text: "See that electrics are dry", Why: "water and power meet once", When: []string{"wet"}},
	{Code: "restore_power", Phase: procedure.Close, Text: "Take lock and tag off; restore power", Why: "who locked it opens it", Ways: []procedure.Way{
		{When: []string{"plug_in"}, Text: "Plug it in again", Why: "who pulled the plug puts it back", Cautions: []string{"Earthed outlet, no adapter."}},
	}},
	{Code: "capacitor_load", Phase: procedure.Close, Text: "Test the capacitor under load", Why: "nothing is unplugged", Form: "readings_after", Cautions: []string{"Live work: licensed people only."}, When: []string{"opens_electrics", "capacitor=load"}},
	{Code: "readings_after", Phase: procedure.Close, Text: "Read again once it has settled", Why: "the pair is the proof", Form: "readings_after"},

	{Code: "site_tick", Phase: procedure.Tell, Text: "Go through the light tasks with the site's staff; see their ticks", Why: "what is done between visits is evidence, too", When: []string{"grille|filter", "who=split"}},
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
	},
	"reach_in": {
		{"goods_out", procedure.Step{Code: "empty_and_tape", Phase: procedure.Arrive, Text: "Empty it, tape the doors, move it with two people", Why: "it tips", Cautions: []string{"Tip-over: never alone.", "Mind the floor."}, Ways: []procedure.Way{
			{When: []string{"tipping=strapped"}, Text: "Empty it, tape the doors, strap it; tip it only as far as it holds by itself", Cautions: []string{"Anything heavier: a second person."}},
		}}},
		{"open_up", procedure.Step{Code: "find_coil", Phase: procedure.Look, Text: "Find the coil: back grid, rear bottom, kick plate, belly or rolled layers", Why: "each is cleaned another way"}},
		{"drain_pan", procedure.Step{Code: "defrost_drain", Phase: procedure.Check, Text: "Clear the defrost drain tube", Why: "it is in the way and blocks next", Cautions: []string{"No mouth on a drain tube."}}},
		{"dry_seen", procedure.Step{Code: "let_rest", Phase: procedure.Close, Text: "Tipped? Let it rest before power", Why: "oil has to run back into the compressor"}},
		{"close_up", procedure.Step{Code: "floor_behind", Phase: procedure.Close, Text: "Clean the floor behind and keep the gap to the wall", Why: "it is where the next dust comes from"}},
	},
	"outdoor_condensing": {
		{"reach", procedure.Step{Code: "vegetation", Phase: procedure.Arrive, Text: "Cut back plants; see what blows here", Why: "the cause grows back faster than the dirt"}},
		{"open_up", procedure.Step{Code: "fan_top", Phase: procedure.Look, Text: "Lift the top with the fan and prop it, leads on; rain shield and louvres off, control wires protected", Why: "the inside is the clean way in", Cautions: []string{"The lead of the fan is short: support the top."}, Ways: []procedure.Way{
			{When: []string{"fan=out"}, Text: "Unplug the fan and lay the top aside; rain shield and louvres off, control wires protected"},
		}}},
		{"fan_top", procedure.Step{Code: "wall_side", Phase: procedure.Look, Text: "Look at the side nearest the wall first", Why: "it is the dirtiest and the last to be reached"}},
		{"opened_look", procedure.Step{Code: "slab_gap", Phase: procedure.Look, Text: "Two slabs: look between them", Why: "the gap packs where nothing reaches", When: []string{"slabs"}}},
		{"base_debris", procedure.Step{Code: "trough", Phase: procedure.Dry, Text: "Clear the bottom trough; look for rust", Why: "leaves rot there and hold water", Form: "surfaces"}},
	},
	"packaged_unit": {
		{"open_up", procedure.Step{Code: "screens", Phase: procedure.Look, Text: "Take screens and lattice off", Why: "they hide most of the face"}},
		{"drain_pan", procedure.Step{Code: "washed_through", Phase: procedure.Check, Text: "Look into the compressor compartment", Why: "dirt washes through its opening"}},
	},
	"wall_unit": {
		{"first_look", procedure.Step{Code: "pan_plug", Phase: procedure.Look, Text: "Empty the tray before a bag hangs", Why: "it spills when the cover moves"}},
		{"open_up", procedure.Step{Code: "cover_and_bag", Phase: procedure.Look, Text: "Front cover off, bag under the unit, electronics covered", Why: "the wash runs to the bucket, not down the wall"}},
		{"opened_look", procedure.Step{Code: "back_coil", Phase: procedure.Look, Text: "Look at the back coil and the wheel under it", Why: "the front coil is the clean one"}},
	},
	"cassette": {
		{"reach", procedure.Step{Code: "tape_off", Phase: procedure.Arrive, Text: "Tape off below", Why: "people walk under ladders"}},
		{"first_look", procedure.Step{Code: "pan_plug", Phase: procedure.Look, Text: "Drain the pan by its plug into a bucket", Why: "before anything hangs: a full pan comes down with the first screw"}},
		{"pan_plug", procedure.Step{Code: "bag_up", Phase: procedure.Look, Text: "Hang the draw-string bag, funnel to a bucket", Why: "the coil ring drips all round", Cautions: []string{"Nothing hangs on a panel held by hooks alone."}}},
		{"drain_pan", procedure.Step{Code: "foam_pan", Phase: procedure.Check, Text: "Lower the foam pan level; clean pump and float switch", Why: "the foam breaks, and a stuck float floods the room"}},
	},
	"ceiling_room_cooler": {
		{"first_look", procedure.Step{Code: "pan_plug", Phase: procedure.Look, Text: "Empty the drip tray into a bucket", Why: "it spills when the unit is opened"}},
		{"restore_power", procedure.Step{Code: "drain_test", Phase: procedure.Close, Text: "Drain test: reservoir, pump and water sensor", Why: "the test needs power: powered, but off at the keypad, hands out", Cautions: []string{"Everything is closed; nothing is touched."}}},
	},
	"through_wall": {
		{"open_up", procedure.Step{Code: "slide_chassis", Phase: procedure.Look, Text: "Slide the chassis out of the sleeve, two people, and carry it outdoors", Why: "both coil faces are reached only outdoors", Cautions: []string{"Two people.", "Fan housing freed, not forced.", "Thermostat plug drawn first."}}},
		{"close_up", procedure.Step{Code: "seal_sleeve", Phase: procedure.Close, Text: "Seal against the sleeve; screws not overtightened; thermostat plug back", Why: "air round the chassis is not cooled"}},
	},
	"air_handler": {
		{"open_up", procedure.Step{Code: "filter_out", Phase: procedure.Look, Text: "Filter out; note its size", Why: "dust settles on coil, wheel and pan alike", Note: "filter size", Form: "parts"}},
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
