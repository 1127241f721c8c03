package soil

// Family says which removal figures a kind of soil follows.
type Family string

// The families; Mixed takes the mean of the other two.
const (
	DustLike   Family = "dust_like"
	GreaseLike Family = "grease_like"
	Mixed      Family = "mixed"
)

// Kind is a kind of soil with its start values (assumption: replaced by an organisation's own).
type Kind struct {
	Code        string       `json:"code"`
	Name        string       `json:"name"`
	Family      Family       `json:"family"`
	Penetration float64      `json:"penetration"` // share that goes into the core, in [0, 1]
	Months      MonthWeights `json:"month_weights"`
}

// Kinds are the start values, in the order of the pick list.
var Kinds = []Kind{
	{"dust", "Dry dust", DustLike, .30, Even},
	{"lint", "Lint or hair", DustLike, .10, Even},
	{"grease", "Grease", GreaseLike, .45, Even},
	{"leaf_grass", "Leaf and grass", DustLike, .15, LeafFall},
	{"seed_fluff", "Seed fluff", DustLike, .15, GrowingSeason},
	{"sand", "Sand", DustLike, .35, Even},
	{"insects", "Insects or webs", DustLike, .10, Even},
	{"biofilm", "Biofilm, brown or slimy", GreaseLike, .50, Even},
	{"salt", "Salt", DustLike, .30, Even},
	{"mud", "Mud, wetted and dried", GreaseLike, .80, Even},
	{"residue", "Unexplained residue", Mixed, .30, Even},
	{"mixed", "Mixed", Mixed, .30, Even},
}

// KindByCode finds a start kind.
func KindByCode(code string) (Kind, bool) {
	for _, k := range Kinds {
		if k.Code == code {
			return k, true
		}
	}
	return Kind{}, false
}
