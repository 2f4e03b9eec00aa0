package table

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// findDatums finds the column whose cells name datums, whatever its title is; -1 is none.
func (f *found) findDatums(rows [][]string) int {
	for i := range f.titles {
		names := 0
		for _, cells := range rows[f.header+1:] {
			if i >= len(cells) || strings.TrimSpace(cells[i]) == "" {
				continue
			}
			if crs.OfDatum(cells[i]) == nil {
				names = -1
				break
			}
			names++
		}
		if names > 0 {
			return i
		}
	}
	return -1
}

// namesDatums says whether the values of a field are names of datums, so that its title is known again by them.
func namesDatums(d *nav.Dataset, key string) bool {
	some := false
	for fields := range d.AllFields() {
		if v, ok := nav.Get(fields, key); ok {
			if crs.OfDatum(v) == nil {
				return false
			}
			some = true
		}
	}
	return some
}

// systemName is the name of a coordinate system in a heading: EPSG:25832, UTM 32S.
var systemName = pattern.New(`(?i)\bEPSG ?[: ]? ?(\d{4,5})\b|\bUTM ?(?:zone ?)?(\d{1,2}) ?([NS])\b`)

// inNamedSystem gives options with the coordinate system that the headings of eastings and northings name, or a line
// above them, where the user names none; say words that.
func (f *found) inNamedSystem(rows [][]string, opt *format.ReadOptions) (with *format.ReadOptions, say string,
	err error) {
	if opt.System != nil || !f.has("easting", "northing") && !f.has("x", "y") || f.has("zone") {
		return opt, "", nil
	}
	var texts []string
	for _, word := range []string{"easting", "northing", "x", "y"} {
		for _, i := range f.at[word] {
			if i < len(f.titles) {
				texts = append(texts, f.titles[i])
			}
		}
	}
	for _, cells := range rows[:max(f.header, 0)] {
		texts = append(texts, strings.Join(cells, " "))
	}
	code := ""
	for _, m := range systemName.FindAllStringSubmatch(strings.Join(texts, "\n"), -1) {
		this := m[1]
		if this == "" {
			this = map[string]string{"N": "326", "S": "327"}[strings.ToUpper(m[3])] + ("0" + m[2])[len(m[2])-1:]
		}
		if code != "" && code != this {
			return nil, "", advice.Errorf(advice.NameSystemIn, "has projected coordinates in the columns %s and %s, whose "+
				"headings name two systems, %s and %s", f.title(f.at["easting"][0]), f.title(f.at["northing"][0]), code, this)
		}
		code = this
	}
	if code == "" {
		return opt, "", nil
	}
	system, err := crs.Find(code)
	if err != nil {
		return nil, "", err
	}
	named := *opt
	named.System = system
	return &named, fmt.Sprintf("; in %v, as the heading says", system), nil
}

// datums settles whether the rows name the datums of their positions, and reads them so where that is asked for.
func (r *reader) datums(rows [][]string, opt *format.ReadOptions) error {
	r.datum = -1
	if opt.DatumColumn == "" {
		r.doubtDatum(rows, opt)
		return nil
	}
	r.datum = slices.IndexFunc(r.titles, func(t string) bool {
		return headings.Folded(t) == headings.Folded(opt.DatumColumn)
	})
	switch {
	case r.datum < 0:
		return fmt.Errorf("there is no column %q that names the datum of each row", opt.DatumColumn)
	case r.east >= 0:
		return fmt.Errorf("the column %s gives datums for latitudes and longitudes, but the table has eastings and northings",
			r.title(r.datum))
	}
	r.systems = map[string]*crs.System{}
	r.simple = false
	return nil
}

// doubtDatum notes a datum that is named somewhere, and that positions are not read in.
func (r *reader) doubtDatum(rows [][]string, opt *format.ReadOptions) {
	if opt.System != nil || r.east >= 0 {
		return
	}
	if r.names >= 0 {
		for _, cells := range rows[r.header+1:] {
			if r.names < len(cells) {
				if s := crs.OfDatum(cells[r.names]); s.Shifted() {
					r.elsewhere, r.where = s, fmt.Sprintf("the column %s names datums such as %s", r.title(r.names), s.Name)
					r.how = "column:" + r.bare(r.names)
					return
				}
			}
		}
		return
	}
	for _, word := range []string{"lat", "lon", "position"} {
		for _, i := range r.at[word] {
			if i < len(r.titles) {
				if s := crs.Named(r.titles[i]); s.Shifted() {
					r.elsewhere, r.where = s, fmt.Sprintf("the heading %s names the datum %s", r.title(i), s.Name)
					return
				}
			}
		}
	}
	for _, cells := range rows[:max(r.header, 0)] {
		if s := crs.Named(strings.Join(cells, " ")); s.Shifted() {
			r.elsewhere, r.where = s, fmt.Sprintf("a line above the table names the datum %s", s.Name)
			return
		}
	}
}

// otherDatum says, once there are positions, what reading them in the datum that is named would change.
func (r *reader) otherDatum() {
	s := r.elsewhere
	if s == nil {
		return
	}
	off := ""
	if all := r.spots(false); len(all) > 0 {
		p := r.point(all[0])
		if lat, lon, ok := s.Inverse(p.Lon, p.Lat); ok && s.Shift != nil {
			off = fmt.Sprintf(", which would be %s away", measure.Metric.Length(geodesy.Distance(p.Lat, p.Lon, lat, lon)))
		}
	}
	how := r.how
	if how == "" {
		how = fmt.Sprint(s.Code)
	}
	r.doubt(r.header+2, "%s, but the positions were read as WGS 84%s", r.where, off).AdviseAbout(advice.NameDatum,
		quoted(how))
}

// inDatum brings a position of a row from the datum that the row names to WGS 84.
func (r *reader) inDatum(p *nav.Point, name string) string {
	name = strings.TrimSpace(name)
	s, known := r.systems[name]
	if !known {
		if s = crs.OfDatum(name); s != nil && r.opt.Shift != nil && s.Shifted() &&
			(r.d.Shifted == "" || r.d.Shifted == s.Geographic.Datum) {
			s, r.d.Shifted = s.WithShift(r.opt.Shift), s.Geographic.Datum
		}
		r.systems[name] = s
	}
	switch {
	case name == "":
		return "the row names no datum"
	case s == nil:
		return fmt.Sprintf("%q is not the name of a known datum", clip(name))
	case s.Shift == nil:
		return fmt.Sprintf("no datum shift from %s to WGS 84 is known", s.Name)
	case !s.Shifted():
		return ""
	}
	lat, lon, ok := s.Inverse(p.Lon, p.Lat)
	if !ok {
		return fmt.Sprintf("is out of range for %v", s)
	}
	*p = nav.At(lat, lon)
	return ""
}
