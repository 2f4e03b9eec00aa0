package nav

// The fields that say along which line a leg goes, as route exchange has them (IEC 61174, annex S): of the leg to a
// point, and of all legs of a route where a point does not say it.
const (
	FieldLegGeometry        = "leg geometryType"
	FieldDefaultLegGeometry = "default leg geometryType"

	// Loxodrome is the value for a line of constant course.
	Loxodrome = "Loxodrome"
)

// Loxodromic says whether the plan asks for a line of constant course from the point before to the one at i.
func (r *Route) Loxodromic(i int) bool {
	word, ok := Get(r.Points[i].Fields, FieldLegGeometry)
	if !ok {
		word, _ = Get(r.Fields, FieldDefaultLegGeometry)
	}
	return word == Loxodrome
}
