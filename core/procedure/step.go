package procedure

// Step is one thing to do, with its reason.
type Step struct {
	Code     string   `json:"code"`
	Phase    Phase    `json:"phase"`
	Text     string   `json:"text"`
	Why      string   `json:"why"`
	Cautions []string `json:"cautions,omitempty"`
	// Gate steps cannot be passed in silence: skipping one needs a reason, which reaches the manager.
	Gate bool `json:"gate,omitempty"`
	// Photo says what to photograph, Note what to write down.
	Photo string `json:"photo,omitempty"`
	Note  string `json:"note,omitempty"`
	// Form is the part of the visit's record that belongs to the step.
	Form string `json:"form,omitempty"`
	// When lists conditions that must all hold: a tag or "question=answer", with ! for "not", alternatives parted by |.
	When []string `json:"when,omitempty"`
	// Jobs are the kinds of job the step belongs to; left out, those usual for its code.
	Jobs []Job `json:"jobs,omitempty"`
	// Ways are how the step is done where conditions hold; each that holds changes the step in turn.
	Ways []Way `json:"ways,omitempty"`
	// Proof is how the unit is proved dead here: see ProofOf. Compile sets it on the steps of the isolation form.
	Proof string `json:"proof,omitempty"`
	// Ticks are the end-points without which a rinse is not ended: see RinseTicks. Compile sets them on the step of the rinse.
	Ticks []string `json:"ticks,omitempty"`
}

// Way is how a step is done where its conditions hold. What is left out stays as it was; cautions are added.
type Way struct {
	When     []string `json:"when"`
	Text     string   `json:"text,omitempty"`
	Why      string   `json:"why,omitempty"`
	Phase    Phase    `json:"phase,omitempty"`
	Cautions []string `json:"cautions,omitempty"`
}

// Forms are the parts of the record a step may carry.
var Forms = []string{
	"access", "isolation", "first_look", "opened_up", "advice", "dwell", "rinse", "as_left", "readings_before", "readings_after",
	"count", "watch", "parts", "told", "surfaces", "between",
}

// Tags are what a unit, a place, a visit and its plan are like; conditions of steps are held against them. The kinds of job are tags, too.
var Tags = []string{
	// of the unit and its place
	"indoors", "outdoors", "roof", "plug_in", "slabs", "flammable", "near_food", "occupied", "ladder", "two_people", "guards", "watched", "symptom",
	"pan", "cooled_goods", "base_trough", "wheel", "opens_electrics", "filter", "grille", "tablet", "drain", "pump",
	// of what was found
	"grease", "leaf", "biofilm", "heavy_soil", "core_packed",
	// of the plan, once there is one
	"planned", "wet", "dry", "air", "pre_rinse", "cleaner", "corrosive", "aerosol", "no_rinse_cleaner", "taken_out",
	// how it is proved dead: see ProofOf
	"proof_meter", "proof_plug", "proof_heard",
}

// SoilTags maps the code of a soil found to the tag it brings.
var SoilTags = map[string]string{"grease": "grease", "leaf_grass": "leaf", "seed_fluff": "leaf", "biofilm": "biofilm"}
