package crs

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
)

// node is a keyword of well-known text with what stands in its brackets.
type node struct {
	word   string
	texts  []string // quoted texts and bare words, in order
	values []float64
	parts  []*node
}

func (n *node) part(words ...string) *node {
	for _, p := range n.parts {
		for _, w := range words {
			if p.word == w {
				return p
			}
		}
	}
	return nil
}

func (n *node) text() string {
	if n == nil || len(n.texts) == 0 {
		return ""
	}
	return n.texts[0]
}

func (n *node) value(i int) (float64, bool) {
	if n == nil || i >= len(n.values) {
		return 0, false
	}
	return n.values[i], true
}

// mostNesting bounds the brackets of well-known text.
const mostNesting = 32

// parseNode reads a keyword and its brackets.
func parseNode(s string, depth int) (n *node, rest string, err error) {
	cut := func(s string) string { return strings.TrimLeftFunc(s, unicode.IsSpace) }
	s = cut(s)
	i := strings.IndexAny(s, "[(")
	if i <= 0 || depth > mostNesting {
		return nil, "", errors.New("is not the well-known text of a coordinate system")
	}
	n = &node{word: strings.ToUpper(strings.TrimSpace(s[:i]))}
	s = s[i+1:]
	for {
		s = cut(s)
		switch {
		case s == "":
			return nil, "", fmt.Errorf("ends inside %s: it is incomplete", n.word)
		case s[0] == ']' || s[0] == ')':
			return n, s[1:], nil
		case s[0] == ',':
			s = s[1:]
		case s[0] == '"':
			end := strings.IndexByte(s[1:], '"')
			if end < 0 {
				return nil, "", fmt.Errorf("ends inside a name in %s: it is incomplete", n.word)
			}
			n.texts = append(n.texts, s[1:1+end])
			s = s[end+2:]
		default:
			end := strings.IndexAny(s, ",[]()\"")
			if end < 0 {
				return nil, "", fmt.Errorf("ends inside %s: it is incomplete", n.word)
			}
			if s[end] == '[' || s[end] == '(' {
				var p *node
				if p, s, err = parseNode(s, depth+1); err != nil {
					return nil, "", err
				}
				n.parts = append(n.parts, p)
				continue
			}
			word := strings.TrimSpace(s[:end])
			if v, err := strconv.ParseFloat(word, 64); err == nil {
				n.values = append(n.values, v)
			} else {
				n.texts = append(n.texts, word)
			}
			s = s[end:]
		}
	}
}

// wktMethods are the names of projections in well-known text, without regard to case, blanks and underscores (OGC
// 01-009 and the names that .prj files are known to have). A second method is meant where there is one standard
// parallel.
var wktMethods = map[string]Method{
	"transversemercator": TransverseMercator, "gausskruger": TransverseMercator,
	"transversemercatorsouthorientated": TransverseSouth,
	"lambertconformalconic":             Conformal2, "lambertconformalconic1sp": Conformal1,
	"lambertconformalconic2sp":        Conformal2,
	"lambertconformalconic2spbelgium": ConformalBelgium,
	"mercator":                        MercatorB, "mercator1sp": MercatorA,
	"mercator2sp": MercatorB, "mercatorauxiliarysphere": WebMercator,
	"popularvisualisationpseudomercator": WebMercator,
	"lambertazimuthalequalarea":          AzimuthalEqualArea, "albers": Albers, "albersconicequalarea": Albers,
	"albersequalarea":        Albers,
	"stereographicnorthpole": PolarStereoB, "stereographicsouthpole": PolarStereoB, "polarstereographic": PolarStereoA,
	"polarstereographicvarianta": PolarStereoA, "polarstereographicvariantb": PolarStereoB,
	"polarstereographicvariantc": PolarStereoC,
	"doublestereographic":        ObliqueStereo, "obliquestereographic": ObliqueStereo,
	"hotineobliquemercator": HotineA, "hotineobliquemercatorazimuthnaturalorigin": HotineA,
	"rectifiedskeworthomorphicnaturalorigin": HotineA, "hotineobliquemercatorvarianta": HotineA,
	"hotineobliquemercatorazimuthcenter": HotineB, "hotineobliquemercatorazimuthcentre": HotineB,
	"obliquemercator": HotineB, "rectifiedskeworthomorphiccenter": HotineB, "hotineobliquemercatorvariantb": HotineB,
	"swissobliquemercator": HotineB,
	"krovak":               KrovakNorth, "krovaknorthorientated": KrovakNorth, "cassini": CassiniSoldner,
	"cassinisoldner":       CassiniSoldner,
	"cylindricalequalarea": CylindricalEqualArea, "lambertcylindricalequalarea": CylindricalEqualArea,
}

// plain brings a name to its letters and digits.
func plain(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
}

// ErrNoShift is given for a system that is read whole but whose way to WGS 84 nobody states.
var ErrNoShift = errors.New("matches no known system and gives no datum shift")

// ParseWKT reads the well-known text of a .prj file (WKT 1, OGC 01-009). A system that matches one of the registry is
// that one. The error is ErrNoShift where the system is good but for the shift to WGS 84, and the system is then given
// as well.
func ParseWKT(text string) (*System, error) {
	text = strings.TrimPrefix(strings.TrimSpace(strings.TrimRight(text, "\x00")), "\ufeff")
	n, _, err := parseNode(text, 0)
	if err != nil {
		return nil, err
	}
	if n.word == "COMPD_CS" || n.word == "COMPOUNDCRS" {
		if n = n.part("PROJCS", "GEOGCS", "PROJCRS", "GEOGCRS"); n == nil {
			return nil, errors.New("is a compound system without a horizontal one")
		}
	}
	switch n.word {
	case "PROJCS", "GEOGCS":
	// WKT 2, of which only the number is taken
	case "PROJCRS", "GEOGCRS", "GEODCRS", "PROJECTEDCRS", "GEOGRAPHICCRS", "BOUNDCRS":
		if id := n.part("ID"); id != nil && strings.EqualFold(id.text(), "EPSG") && len(id.values) > 0 {
			return Find(strconv.Itoa(int(id.values[0])))
		}
		return nil, errors.New("is well-known text of the second version without an EPSG number at its end: give the " +
			"number, or save it as WKT 1")
	default:
		return nil, fmt.Errorf("describes a %s, not a projected or geographic system", n.word)
	}
	s, err := fromWKT(n)
	if err != nil {
		return nil, err
	}
	if err := s.ready(); err != nil {
		return nil, err
	}
	if found := s.match(authority(n)); found != nil && (found.Shift != nil || s.Shift == nil) {
		if found.Shift == nil {
			err = ErrNoShift
		}
		return found, errors.Join(found.ready(), err)
	}
	if s.Shift == nil {
		s.Shift = s.shiftOfDatum()
	}
	if s.Shift == nil {
		return s, ErrNoShift
	}
	return s, nil
}

// shiftOfDatum gives the shift that the registry has for the system's datum, where it knows it; nil if not.
func (s *System) shiftOfDatum() *Shift {
	datum := System{Geographic: s.Geographic, Measure: 1}
	var found *System
	for _, g := range geographicSystems() {
		if g.Shift != nil && g.alike(&datum, true) && (found == nil || g.Code < found.Code) {
			found = g
		}
	}
	if found == nil {
		return nil
	}
	return found.Shift
}

// authority gives the EPSG number that a system claims; 0 if none.
func authority(n *node) int {
	a := n.part("AUTHORITY")
	if a == nil || !strings.EqualFold(a.text(), "EPSG") {
		return 0
	}
	if len(a.texts) > 1 {
		code, _ := strconv.Atoi(a.texts[1])
		return code
	}
	v, _ := a.value(0)
	return int(v)
}

// fromWKT makes a system of a PROJCS or GEOGCS.
func fromWKT(n *node) (*System, error) {
	geo := n
	if n.word == "PROJCS" {
		if geo = n.part("GEOGCS"); geo == nil {
			return nil, errors.New("has a PROJCS without a GEOGCS")
		}
	}
	g, angle, err := geographicFromWKT(geo)
	if err != nil {
		return nil, err
	}
	s := &System{Name: n.text(), Geographic: g, Measure: angle, Area: Area{-180, -90, 180, 90, ""}}
	if t := geo.part("DATUM").part("TOWGS84"); t != nil && (len(t.values) == 3 || len(t.values) == 7) {
		s.Shift = &Shift{Name: "of the file's TOWGS84", Accuracy: -1}
		copy(s.Shift.Values[:], t.values)
	}
	if n.word == "GEOGCS" {
		return s, nil
	}
	s.Measure = 1
	if v, ok := n.part("UNIT").value(0); ok {
		if s.Measure = v; !(v > 1e-3 && v < 1e5) {
			return nil, fmt.Errorf("has a unit of lengths of %v m", v)
		}
	}
	name := n.part("PROJECTION").text()
	var ok bool
	if s.Method, ok = wktMethods[plain(name)]; !ok {
		return nil, fmt.Errorf("has the unknown projection %q", name)
	}
	s.settle(s.parameters(n, angle))
	return s, nil
}

// geographicFromWKT makes a geographic system of a GEOGCS, and gives the degrees that its unit of angles is.
func geographicFromWKT(geo *node) (g *Geographic, angle float64, err error) {
	datum := geo.part("DATUM")
	if datum == nil || datum.part("SPHEROID", "ELLIPSOID") == nil {
		return nil, 0, errors.New("has no DATUM with a SPHEROID")
	}
	ball := datum.part("SPHEROID", "ELLIPSOID")
	g = &Geographic{Name: geo.text(), Datum: datum.text(), Alias: datum.text(), Ellipsoid: ball.text()}
	var ok1, ok2 bool
	g.SemiMajor, ok1 = ball.value(0)
	g.InverseFlattening, ok2 = ball.value(1)
	if !ok1 || !ok2 {
		return nil, 0, errors.New("has a SPHEROID without its two numbers")
	}
	angle = 1
	if v, ok := geo.part("UNIT").value(0); ok {
		if angle = v / radian; math.Abs(angle-1) < 1e-9 {
			angle = 1
		}
		if !(angle > 1e-6 && angle < 60) {
			return nil, 0, fmt.Errorf("has a unit of angles of %v rad", v)
		}
	}
	if v, ok := geo.part("PRIMEM").value(0); ok {
		if g.Meridian = v * angle; !(math.Abs(g.Meridian) <= 180) {
			return nil, 0, fmt.Errorf("has a prime meridian of %v°", g.Meridian)
		}
	}
	return g, angle, nil
}

// parameters takes the parameters of a PROJCS, and gives their values as they stand there by their plain names.
func (s *System) parameters(n *node, angle float64) map[string]float64 {
	seen := map[string]float64{}
	s.Scale = 1
	for _, p := range n.parts {
		v, ok := p.value(0)
		if p.word != "PARAMETER" || !ok {
			continue
		}
		key := plain(p.text())
		seen[key] = v
		switch key {
		case "latitudeoforigin", "latitudeofcenter", "latitudeofcentre":
			s.Lat0 = v * angle
		case "centralmeridian", "longitudeofcenter", "longitudeofcentre", "longitudeoforigin":
			s.Lon0 = v * angle
		case "standardparallel1", "pseudostandardparallel1":
			s.Lat1 = v * angle
		case "standardparallel2":
			s.Lat2 = v * angle
		case "scalefactor":
			s.Scale = v
		case "azimuth":
			s.Azimuth = v * angle
		case "rectifiedgridangle", "xyplanerotation":
			s.Skew = v * angle
		case "falseeasting":
			s.FalseEast = v * s.Measure
		case "falsenorthing":
			s.FalseNorth = v * s.Measure
		}
	}
	return seen
}

// settle decides between methods that have one name in well-known text.
func (s *System) settle(seen map[string]float64) {
	_, parallel2 := seen["standardparallel2"]
	_, origin := seen["latitudeoforigin"]
	_, skew := seen["rectifiedgridangle"]
	if _, ok := seen["xyplanerotation"]; ok {
		skew = true
	}
	switch s.Method {
	case Conformal2:
		if !parallel2 || s.Scale != 1 && s.Lat1 == s.Lat2 { // one parallel, by whichever name
			s.Method = Conformal1
			if s.Lat1 != 0 {
				s.Lat0, s.Lat1 = s.Lat1, 0
			}
			s.Lat2 = 0
		}
	case MercatorB:
		if s.Lat1 == 0 {
			s.Method = MercatorA
		}
	case PolarStereoB:
		if !origin && s.Lat1 != 0 || s.Lat1 != 0 {
			s.Lat0, s.Lat1 = s.Lat1, 0
		}
	case PolarStereoA:
		if math.Abs(s.Lat0) != 90 && s.Scale == 1 {
			s.Method = PolarStereoB
		}
	case HotineA, HotineB:
		if !skew {
			s.Skew = s.Azimuth
			if s.Azimuth == 0 { // as the Swiss form has it
				s.Azimuth, s.Skew = 90, 90
			}
		}
		s.Lat1 = 0
	case KrovakNorth:
		s.Skew = 0 // the turn that makes its axes point east and north
		if s.Lat1 == 0 {
			s.Lat1 = 78.5
		}
		if seen["azimuth"] == 0 {
			s.Azimuth = 30.2881397527778
		}
		if s.Lat0 == 0 {
			s.Lat0 = 49.5
		}
	case WebMercator:
		s.Lat1 = 0
	}
}

// match finds the system of the registry that this one is: the number that it claims, if its figures are the same, or
// the one with the same datum, method and parameters.
func (s *System) match(claimed int) *System {
	if claimed != 0 {
		if c := byCode(claimed); c != nil && c.alike(s, false) {
			return c
		}
	}
	var found *System
	All(func(c *System) bool {
		if !c.alike(s, true) {
			return s.Projected() || !c.Projected() // geographic ones come first
		}
		// Of several that are the same, the one of that name; else rather not the one with its axes exchanged.
		if named := plain(c.Name) == plain(s.Name); named || found == nil || strings.Contains(found.Name, "N-E") {
			found = c
			return !named
		}
		return true
	})
	return found
}

// alike says whether two systems give the same coordinates, and with the datum whether they are on one.
func (s *System) alike(o *System, datum bool) bool {
	close := func(a, b, limit float64) bool { return math.Abs(a-b) <= limit }
	g, h := s.Geographic, o.Geographic
	if !close(g.SemiMajor, h.SemiMajor, 0.01) || !close(g.InverseFlattening, h.InverseFlattening, 1e-5) ||
		!close(g.Meridian, h.Meridian, 1e-6) ||
		s.Projected() != o.Projected() || !close(s.Measure, o.Measure, 1e-9*s.Measure) {
		return false
	}
	if !s.Projected() {
		return !datum || sameDatum(g, h)
	}
	p, q := s.Parameters, o.Parameters
	if s.Method == Conformal2 || s.Method == Albers { // either order of the parallels is the same cone
		if q.Lat1 < q.Lat2 != (p.Lat1 < p.Lat2) {
			q.Lat1, q.Lat2 = q.Lat2, q.Lat1
		}
	}
	same := s.Method == o.Method || s.Method == KrovakNorth && o.Method == Krovak
	return same && close(p.Lat0, q.Lat0, 1e-8) && close(p.Lon0, q.Lon0, 1e-8) && close(p.Lat1, q.Lat1, 1e-8) &&
		close(p.Lat2, q.Lat2, 1e-8) && close(p.Scale, q.Scale, 1e-10) &&
		close(p.Azimuth, q.Azimuth, 1e-7) && close(p.Skew, q.Skew, 1e-7) && close(p.FalseEast, q.FalseEast, 1e-3) &&
		close(p.FalseNorth, q.FalseNorth, 1e-3) &&
		(!datum || sameDatum(g, h))
}

func sameDatum(a, b *Geographic) bool {
	names := func(g *Geographic) []string {
		out := []string{plain(g.Datum), plain(g.Alias), plain(strings.TrimPrefix(g.Alias, "D_"))}
		if g.Code != 0 {
			out = append(out, plain(g.Name))
		}
		return out
	}
	for _, x := range names(a) {
		for _, y := range names(b) {
			if x != "" && x == y {
				return true
			}
		}
	}
	return false
}
