package method

// Choice is one school's answer to a question of practice.
type Choice struct {
	Code string `json:"code"`
	Text string `json:"text"`
	// Why is the school's own reason.
	Why string `json:"why"`
}

// Question is a matter on which practitioners differ. The organisation picks an answer; a site or a unit may differ.
type Question struct {
	Code    string   `json:"code"`
	Text    string   `json:"text"`
	Choices []Choice `json:"choices"`
	Default string   `json:"default"`
	// Why is the reason of the default.
	Why string `json:"why"`
	// Recorded is true where a visit may say that it was done another way here.
	Recorded bool `json:"recorded"`
}

// Rules are the answers in force, by question; what is not answered takes the default.
type Rules map[string]string

// Answer is the choice in force for a question.
func (r Rules) Answer(question string) string {
	if a, ok := r[question]; ok {
		return a
	}
	for _, q := range Questions {
		if q.Code == question {
			return q.Default
		}
	}
	return ""
}

// QuestionByCode finds a question.
func QuestionByCode(code string) (Question, bool) {
	for _, q := range Questions {
		if q.Code == code {
			return q, true
		}
	}
	return Question{}, false
}

// Has reports whether a choice is one of the question's.
func (q Question) Has(choice string) bool {
	for _, c := range q.Choices {
		if c.Code == choice {
			return true
		}
	}
	return false
}

// Questions of practice (common practice, no source), in the order of the work.
var Questions = []Question{
	{"who", "Who does what", []Choice{
		{"split", "Site staff wipe grilles, technicians clean coils", "it gets done between visits, and the tick is evidence"},
		{"all_technician", "Technicians do all of it", "one hand, one standard"},
	}, "split", "with the site's tick as evidence", false},
	{"proof_of_dead", "Proof that it is dead", []Choice{
		{"meter", "Meter on three pairs", "nothing else shows a live wire"},
		{"hear", "Hear it stop", "quick, but other circuits stay live"},
		{"unplugged", "Plug in the hand", "what is unplugged and in sight cannot come back"},
	}, "meter", "for plug-in units the plug in the hand counts too", false},
	{"gloves", "Gloves, eyes, mask", []Choice{
		{"by_cleaner", "By the cleaner's data and the place", "worn where there is a reason, so they are worn"},
		{"always", "Always", "nobody has to judge"},
		{"dust_indoors", "A mask for dust indoors only", "least in the way"},
	}, "by_cleaner", "work stops when they are missing", false},
	{"panels", "Panels, guards and fan come off", []Choice{
		{"deep", "For a deep clean always, for a light one never", "a deep clean behind a guard is not one"},
		{"always", "Always", "all faces are seen each time"},
		{"closed_only", "Only where the design is closed", "less is broken and lost"},
	}, "deep", "a deep clean behind a guard is not one", false},
	{"in_place", "In place or taken out", []Choice{
		{"by_place", "By place", "out where dust or water would do harm or both faces are needed"},
		{"in_place", "In place, with containment", "nothing is moved or tipped"},
		{"take_out", "Taken out wherever it can be", "both faces are reached and nothing gets wet"},
	}, "by_place", "near glasses or food, or where both faces are needed, out", false},
	{"base_debris", "Debris in the base comes out", []Choice{
		{"before", "Before any cleaner", "it is not washed into the coil"},
		{"end", "At the end", "all of it at once"},
	}, "before", "it is not washed into the coil", false},
	{"dry_first", "Dry or wet first", []Choice{
		{"dry", "Dry debris and brushing first", "less mess, and no mud in the core"},
		{"pre_rinse", "Pre-rinse first", "dust is bound"},
		{"chemistry", "Straight to the cleaner", "quickest"},
	}, "dry", "less mess, no mud", false},
	{"brush_order", "Brush and vacuum", []Choice{
		{"both", "Both at once", "what comes loose is gone at once"},
		{"brush_first", "Brush, then vacuum", "both hands for the brush"},
		{"vacuum_first", "Vacuum, then brush", "the loose part is not rubbed in"},
	}, "both", "indoors at once; outdoors leaves first", true},
	{"air", "Air through a condenser", []Choice{
		{"against", "Only against the airflow, with a free way out", "the core is out of reach otherwise, and the dirt leaves where it came in"},
		{"yes", "Gently, from wherever it goes", "the core is out of reach otherwise"},
		{"never", "Never", "it drives dirt on to fan and compressor"},
	}, "against", "both sides open or the unit outdoors; else brush and vacuum: each school is right where it stands", false},
	{"direction", "Direction of the rinse", []Choice{
		{"inside_out", "From inside out, then a light outer pass", "against the airflow dirt leaves where it came in"},
		{"both", "From both sides", "what one side leaves the other takes"},
		{"outside", "From outside, downward, closed", "nothing is opened"},
	}, "inside_out", "closed: downward only", false},
	{"pressure", "Pressure and tip of the rinse", []Choice{
		{"low", "Low pressure, square to the fins", "fins stay straight"},
		{"garden", "Garden hose only", "what every site has"},
		{"any", "Any tip, with care", "experience decides"},
	}, "low", "the tip used is written down", true},
	{"plug_in_chemistry", "Cleaner on plug-in refrigeration", []Choice{
		{"layered_aerosol", "Dry; an aerosol for layered coils away from food", "dry does no harm, but does not reach inside layers"},
		{"never", "Never", "food, electrics and floors"},
		{"allowed", "Where the data sheet allows it", "grease does not come off dry"},
	}, "layered_aerosol", "dry; an aerosol where the coil is layered and food is away", false},
	{"strength", "Strength or amount", []Choice{
		{"by_soil", "Strength by the soil, weakest that is enough", "less is bought and less is rinsed"},
		{"fixed", "One strength, amount by the foam", "nobody mixes wrongly"},
		{"weakest", "The weakest that works at all", "least harm to fins"},
	}, "by_soil", "weakest that is enough; the end-point decides the amount", false},
	{"chemistry_side", "Side the cleaner starts from", []Choice{
		{"inside", "Inside, a light coat outside", "foam seen to cross has been through"},
		{"outside", "Outside", "the dirt sits there"},
		{"both", "Both", "nothing is missed"},
	}, "inside", "foam should be seen to cross", false},
	{"no_rinse", "Is a no-rinse cleaner rinsed", []Choice{
		{"by_label", "As its label says; after heavy soil, yes", "the dirt has to go somewhere"},
		{"always", "Always", "nothing is left behind"},
		{"never", "Never", "condensate does it"},
	}, "by_label", "after heavy soil it is", false},
	{"dwell", "How long it stands", []Choice{
		{"clock_and_foam", "By foam, within the cleaner's times", "white and still foam is spent, and past the maximum it harms"},
		{"clock", "By the clock", "the same for everybody"},
		{"foam", "Until the foam stays white", "the coil says when"},
	}, "clock_and_foam", "foam colour as the end-point, never past the maximum", false},
	{"rinse_end", "When rinsing ends", []Choice{
		{"clear_and_light", "Clear run-off and light through", "clear water alone can run round a plug of dirt"},
		{"ten_minutes", "Ten minutes a coil", "nobody stops early"},
		{"clear", "Clear run-off", "what comes out is what is in"},
		{"light", "Light through", "the core is seen"},
	}, "clear_and_light", "both", false},
	{"slabs", "Two slabs", []Choice{
		{"by_core", "Parted when the core says so, with consent", "the gap packs where nothing reaches"},
		{"always", "Parted and each cleaned", "the gap packs where nothing reaches"},
		{"leave", "Left together", "a broken bend is the crew's to pay"},
	}, "by_core", "with consent and extra time", false},
	{"coating_indoors", "A slight coat on an indoor coil", []Choice{
		{"leave", "Left; pan and drain treated", "water near people and electrics for little gain"},
		{"clean", "Cleaned", "it only grows"},
	}, "leave", "below the limit; looked at again next visit", false},
	{"wheel", "Blower wheel or fan", []Choice{
		{"in_place", "Washed in place, out when it does not come clean", "balance stays"},
		{"out", "Taken out", "blades are reached all round"},
		{"left", "Left", "not part of the coil"},
	}, "in_place", "out when the score after says so", true},
	{"standing_water", "Standing water", []Choice{
		{"vacuumed", "Vacuumed out", "nothing is left to grow in"},
		{"replaced", "Replaced by clear water", "the drain is seen to run"},
		{"left", "Left", "it evaporates"},
	}, "vacuumed", "nothing is left to grow in", true},
	{"pan", "Pan treatment", []Choice{
		{"tablets", "Tablets every 91 d where water stands", "works between visits"},
		{"cleaner", "Cleaned with a cleaner", "seen to be clean"},
		{"both", "Both", "clean, and stays so"},
		{"none", "None", "a dry pan needs none"},
	}, "tablets", "each 91 d where water stands", true},
	{"how_clean", "How clean is clean", []Choice{
		{"limit", "The score as left within the organisation's limit", "measured, not felt"},
		{"perfect", "Every part clean", "what is left is where the next soil starts"},
		{"better", "Much better is enough", "the last tenth costs as much as the rest"},
	}, "limit", "measured, not felt", false},
	{"capacitor", "Testing a capacitor", []Choice{
		{"off", "Off and discharged", "nothing live is touched"},
		{"load", "Under load", "nothing is unplugged; licensed people only"},
	}, "off", "under load: licensed people", true},
	{"readings", "Readings", []Choice{
		{"both", "Before and after", "only a pair shows what the clean brought"},
		{"after", "After only", "quicker"},
	}, "both", "only a pair shows what the clean brought", false},
	{"running_look", "Look while it runs", []Choice{
		{"first", "Look and read while it runs, then isolate", "noise, heat and readings are only there while it runs"},
		{"isolate_first", "Isolate at once", "nothing turns while people get ready"},
	}, "first", "only a running unit can be read before the clean", false},
	{"tipping", "Tipping a fridge", []Choice{
		{"two", "With two people", "it falls on whoever is alone"},
		{"strapped", "Alone, strapped, a little way", "there is not always a second person"},
	}, "two", "tip-over hurts", true},
	{"fan", "Fan on its top panel", []Choice{
		{"propped", "Propped beside the cabinet, leads on", "no plug is drawn, nothing is wired back wrong"},
		{"out", "Unplugged and laid aside", "nothing hangs on a lead"},
	}, "propped", "the lead is short: it is supported, never hung", true},
	{"debris", "What comes out of the base", []Choice{
		{"bagged", "Bagged and taken away", "nothing blows back in"},
		{"site", "Into the site's own waste, as agreed", "less to carry"},
	}, "bagged", "nothing blows back in", true},
	{"stroke", "Stroke of brush and spray", []Choice{
		{"down", "Downward, along the fins", "dirt falls away from what is done"},
		{"up", "From the bottom up", "what runs down over dry soil leaves streaks"},
	}, "down", "along the fins either way", true},
	{"rinse_water", "Water for rinsing", []Choice{
		{"cold", "As it comes", "it is there"},
		{"warm", "Warm where there is any", "grease and foam come off sooner"},
	}, "cold", "warm helps, nobody waits for it", true},
	{"leftovers", "Mix that is left over", []Choice{
		{"next", "Used on the next unit the same day, labelled", "nothing is wasted"},
		{"data_sheet", "Disposed of as the data sheet says", "what stands loses strength, and nobody knows what is in it"},
	}, "next", "concentrate goes back into its own container either way; never another cleaner on top", true},
	{"drain_by", "A drain is cleared with", []Choice{
		{"water", "Water and a wet vacuum", "what blocked it is caught"},
		{"air", "Air, gently", "quick"},
		{"product", "A drain treatment", "slime comes off the wall of the tube"},
	}, "water", "what blocked it is caught; no mouth on a drain tube", true},
	{"season", "Season of outdoor deep cleans", []Choice{
		{"before_load", "In spring, before the load", "clean when it counts"},
		{"any", "Any time", "crews are evenly busy"},
	}, "before_load", "before the cooling season", false},
	{"interval", "What leads the interval", []Choice{
		{"cost", "Least cost, days over the limit priced", "neither too often nor too late; what the limit is worth is a price"},
		{"limit", "The limit; the least cost may only shorten it", "a coil over the limit is a failure, whatever it costs"},
		{"found", "What was found, step by step", "the coil decides"},
		{"habit", "Habit by class", "everybody knows when"},
	}, "cost", "all four are shown side by side; one leads the proposal", false},
}

// Ban is a rule that rules something out.
type Ban struct {
	Code string `json:"code"`
	// Hard bans cannot be overridden. Others belong to a house rule (Question) and ask why.
	Hard     bool   `json:"hard"`
	Question string `json:"question,omitempty"`
	Text     string `json:"text"`
}

// Bans by code (common practice, no source, but for the pH bounds of UN GHS 3.2, from memory).
var Bans = []Ban{
	{"pressure_washer", true, "", "No pressure washer: it lays fins flat and drives dirt in."},
	{"slanted_spray", true, "", "No spraying at a slant into open fins: it folds them."},
	{"fan_running", true, "", "Never with the fan running: fingers and blades, and foam where it should not go."},
	{"alkaline_microchannel", true, "", "Strong alkaline eats microchannel coils."},
	{"not_on_microchannel", true, "", "Its data do not allow it on microchannel coils."},
	{"alkaline_indoors", true, "", "Strong alkaline is for outdoors only: fumes, people, and rinse water that has nowhere to go."},
	{"not_indoors", true, "", "Its data do not allow it indoors."},
	{"acid", true, "", "Acid is not used on coils."},
	{"near_food", true, "", "Its data do not allow it near food or glasses; take the coil out, or clear the place."},
	{"closed_cabinet", true, "", "No blowing into a closed cabinet backed on a wall: the dirt goes on to fan and compressor."},
	{"mixing_head", true, "", "A ready-to-use cleaner through a mixing head is thinned."},
	{"frost", true, "", "No wet work outdoors below 4 °C."},
	{"ignition", true, "", "An ignition source at a flammable refrigerant."},
	{"flammable_spray", true, "", "A flammable spray at a flammable refrigerant."},
	{"unsuited", true, "", "The method does not suit this coil."},
	{"wrong_place", true, "", "The method does not suit this place."},
	{"no_water", true, "", "There is no running water here."},
	{"fixed", true, "", "The coil cannot be carried out."},
	{"single_slab", true, "", "There is one slab only."},
	{"cleaner_form", true, "", "The method does not take this cleaner."},
	{"sealed_plug_in", true, "", "No hose, foam or spray on sealed plug-in refrigeration, wherever it stands: water and foam reach its electrics."},
	{"alkaline_indoor_coil", true, "", "Strong alkaline is for coils under the sky that give off heat, not for one that carries a room's air."},
	{"alkaline_construction", true, "", "Strong alkaline is for tube-and-fin coils only."},
	{"indoor_coil", true, "", "An evaporator in an outdoor cabinet is an indoor coil: what it carries is breathed. Its data do not allow this cleaner there."},
	{"air_into_room", true, "", "No air through a coil that carries a room's air: the dirt goes into the duct and the room."},
	{"kit", true, "", "What it takes is not in the crew's kit."},
	{"air_never", false, "air", "Your rule: no air through condensers."},
	{"air_way_out", false, "air", "Air only with both sides open or the unit outdoors."},
	{"plug_in_dry", false, "plug_in_chemistry", "Your rule: plug-in refrigeration stays dry."},
	{"plug_in_layered", false, "plug_in_chemistry", "A cleaner at plug-in refrigeration only as an aerosol on a layered coil away from food."},
	{"slabs_left", false, "slabs", "Your rule: slabs stay together."},
	{"core_clean", false, "slabs", "The core does not call for parting the slabs."},
	{"stays_in_place", false, "in_place", "Your rule: coils are cleaned in place."},
	{"slabs_parted", false, "slabs", "Your rule: slabs are parted and each is cleaned."},
	{"deep_opened", false, "panels", "A deep clean opens the unit: behind a guard it is not one."},
	{"light_closed", false, "panels", "Panels stay on for a light clean."},
	{"coating_left", false, "coating_indoors", "A slight coat indoors is left; treat pan and drain, and look again."},
	{"outside_only", false, "direction", "Your rule: rinse from outside, downward, closed."},
}

// BanByCode finds a ban.
func BanByCode(code string) (Ban, bool) {
	for _, b := range Bans {
		if b.Code == code {
			return b, true
		}
	}
	return Ban{}, false
}
