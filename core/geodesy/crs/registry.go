package crs

import (
	_ "embed" // the tables
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/pattern"
)

//go:embed registry/geographic.tsv
var geographicTable string

//go:embed registry/projected.tsv
var projectedTable string

//go:embed registry/shifts.tsv
var shiftTable string

// Source names the registry that the systems are from.
var Source = sync.OnceValue(func() string {
	head, _, _ := strings.Cut(geographicTable, ";")
	return strings.TrimPrefix(head, "# ")
})

func lines(table string, visit func(cells []string) bool) {
	for line := range strings.Lines(table) {
		if !strings.HasPrefix(line, "#") && !visit(strings.Split(strings.TrimSuffix(line, "\n"), "\t")) {
			return
		}
	}
}

// float reads a number of the tables, which the tests read whole.
func float(text string) float64 {
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		panic("registry: " + err.Error())
	}
	return v
}

func integer(text string) int { return int(float(text)) }

var shifts = sync.OnceValue(func() map[int]*Shift {
	out := map[int]*Shift{0: {}}
	lines(shiftTable, func(c []string) bool {
		s := &Shift{Code: integer(c[0]), Name: c[1], Accuracy: float(c[2])}
		for i, v := range strings.Fields(c[3]) {
			s.Values[i] = float(v)
		}
		out[s.Code] = s
		return true
	})
	return out
})

func parseArea(text, name string) Area {
	v := strings.Fields(text)
	return Area{float(v[0]), float(v[1]), float(v[2]), float(v[3]), name}
}

// geographicSystems are those of latitude and longitude, by their code.
var geographicSystems = sync.OnceValue(func() map[int]*System {
	out := map[int]*System{}
	lines(geographicTable, func(c []string) bool {
		s := &System{Code: integer(c[0]), Name: c[1], Area: parseArea(c[8], ""), Measure: 1, Shift: shifts()[integer(c[9])],
			Geographic: &Geographic{Code: integer(c[0]), Name: c[1], Datum: c[2], Alias: c[3], Ellipsoid: c[4],
				SemiMajor: float(c[5]), InverseFlattening: float(c[6]), Meridian: float(c[7])}}
		out[s.Code] = s
		return true
	})
	return out
})

// projectedOf reads a row of the table.
func projectedOf(c []string) *System {
	v := strings.Fields(c[4])
	return &System{Code: integer(c[0]), Name: c[1], Geographic: geographicSystems()[integer(c[2])].Geographic,
		Method: Method(integer(c[3])),
		Parameters: Parameters{float(v[0]), float(v[1]), float(v[2]), float(v[3]), float(v[4]), float(v[5]), float(v[6]),
			float(v[7]), float(v[8])},
		Measure: float(c[5]), Area: parseArea(c[6], c[7]), Shift: shifts()[integer(c[8])]}
}

// All visits every system, those of latitude and longitude first, by their numbers.
func All(visit func(*System) bool) {
	var codes []int
	for code := range geographicSystems() {
		codes = append(codes, code)
	}
	slices.Sort(codes)
	for _, code := range codes {
		s := *geographicSystems()[code]
		if s.ready() == nil && !visit(&s) {
			return
		}
	}
	lines(projectedTable, func(c []string) bool {
		s := projectedOf(c)
		return s.ready() != nil || visit(s)
	})
}

// Find gives the system of a number, written as 25832 or EPSG:25832.
func Find(word string) (*System, error) {
	number := strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(word)), "EPSG:")
	code, err := strconv.Atoi(number)
	switch codes := called(word); {
	case len(codes) == 1:
		code = codes[0]
	case len(codes) > 1:
		return nil, advice.Errorf(advice.FindSystem, "%q is north or south: add N or S", word)
	case err != nil:
		return nil, advice.Errorf(advice.FindSystem, "%q is not a coordinate system: give an EPSG number such as "+
			"32732, utm, or the path of a .prj file", word)
	}
	s := byCode(code)
	if s == nil {
		return nil, advice.Errorf(advice.FindSystem, "EPSG:%d is not a known system", code)
	}
	return s, s.ready()
}

// NumberIn finds the EPSG number that the name of a system or a link to it ends with, in the forms of the OGC too:
// urn:ogc:def:crs:EPSG::32732, http://www.opengis.net/def/crs/EPSG/0/4326, EPSG:4326, epsg/4326/wkt. It is "" where
// there is none.
func NumberIn(name string) string {
	if m := numbered.FindStringSubmatch(name); m != nil {
		return m[1]
	}
	return ""
}

var numbered = pattern.New(`(?i)EPSG(?:\.xml)?(?:#|[:/]+(?:[\d.]*[:/]+)?)(\d+)(?:/[a-z]\w*)?/?\s*$`)

// byCode finds a system in the tables, without its constants; nil if there is none.
func byCode(code int) (found *System) {
	if g, ok := geographicSystems()[code]; ok {
		s := *g
		return &s
	}
	prefix := "\n" + strconv.Itoa(code) + "\t"
	i := strings.Index(projectedTable, prefix)
	if i < 0 {
		return nil
	}
	line, _, _ := strings.Cut(projectedTable[i+1:], "\n")
	return projectedOf(strings.Split(line, "\t"))
}

// OfUTM is the system of a zone of UTM on WGS 84.
func OfUTM(u geodesy.UTM) *System {
	code := 32600 + u.Zone
	if u.South {
		code = 32700 + u.Zone
	}
	s := byCode(code)
	if err := s.ready(); err != nil {
		panic(err)
	}
	return s
}

// World is WGS 84 itself.
func World() *System {
	s := byCode(4326)
	if err := s.ready(); err != nil {
		panic(err)
	}
	return s
}

var zoneName = pattern.New(`^(?:wgs ?84)? ?/? ?(?:utm)? ?(?:zone)? ?([1-9]|[1-5]\d|60) ?(n|s|north|south|)$`)

// called gives the numbers of the systems that a usual name is for: WGS 84, and its zones of UTM, such as 32N, UTM 32.
func called(name string) []int {
	name = strings.ToLower(strings.TrimSpace(name))
	if strings.ReplaceAll(name, " ", "") == "wgs84" {
		return []int{4326}
	}
	m := zoneName.FindStringSubmatch(name)
	if m == nil || m[2] == "" && !strings.Contains(name, "utm") {
		return nil
	}
	zone, _ := strconv.Atoi(m[1])
	codes := []int{32600 + zone, 32700 + zone} // north and south
	return map[byte][]int{0: codes, 'n': codes[:1], 's': codes[1:]}[(m[2] + "\x00")[0]]
}

// Search finds the systems whose number, name, datum or area has all of the words, those first that they are a usual
// name of.
func Search(words []string) (found []*System) {
	named := called(strings.Join(words, " "))
	for _, code := range named {
		found = append(found, byCode(code))
	}
	All(func(s *System) bool {
		if slices.Contains(named, s.Code) {
			return true
		}
		text := strings.ToLower(fmt.Sprintf("epsg:%d %s %s %s %s %s", s.Code, s.Name, s.Geographic.Datum,
			s.Geographic.Ellipsoid, s.Area.Name, s.Method))
		for _, w := range words {
			if !strings.Contains(text, strings.ToLower(w)) {
				return true
			}
		}
		found = append(found, s)
		return true
	})
	return
}
