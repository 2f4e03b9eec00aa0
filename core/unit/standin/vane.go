package standin

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// The Vane's memory, as docs/formats/vane-plan.md has it.
const (
	vaneFixes    = 200
	vanePlans    = 20
	vaneLegs     = 40
	vaneClosures = 30
	vaneCorners  = 100
)

// The lines of a plan.
var (
	vaneFix = pattern.New(
		`^(?:FIX|LEG) +([A-Z0-9]{1,5}) +([NS])(\d{2}\.\d{6}) +([EW])(\d{3}\.\d{6}) +(A-?\d{1,5}|F\d{3}|-) +(POINT|FIELD|` +
			`BEACON|REPORT|OBSTACLE)$`)
	vaneAt    = pattern.New(`^AT +([NS])(\d{2}\.\d{6}) +([EW])(\d{3}\.\d{6})$`)
	vaneLevel = pattern.New(`^(FLOOR|CEILING) +(?:([AGF])(-?\d{1,5})|(GND|UNL))$`)
	vaneWhen  = pattern.New(`^(FROM|UNTIL) +(\S+)$`)
	vaneNamed = pattern.New(`^(PLAN|CLOSURE) +([ -~]{1,30})$`)
	vaneSum   = pattern.New(`^SUM (\d+) ([0-9A-F]{4})$`)
)

// Vane is the flight unit. It loads the plans of the folder VANE in the order of their names, leaves out those whose
// sum does not fit, and draws no holes.
func Vane(card fs.FS) (*Shown, error) {
	shown := &Shown{Unit: "vane", Data: &nav.Dataset{}, Words: map[nav.Kind]string{nav.Waypoints: "fixes",
		nav.Routes: "plans", nav.Areas: "closures"},
		Limits: map[nav.Kind]int{nav.Waypoints: vaneFixes, nav.Routes: vanePlans, nav.Areas: vaneClosures}}
	dir, err := anyCase(card, "VANE")
	if err != nil {
		return nil, err
	}
	if dir == "" {
		return nil, errors.New("the card holds no folder VANE: the unit shows nothing")
	}
	entries, err := fs.ReadDir(card, dir)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(entries, func(a, b fs.DirEntry) int {
		return strings.Compare(strings.ToUpper(a.Name()), strings.ToUpper(b.Name()))
	})
	for _, e := range entries {
		if e.IsDir() || !strings.EqualFold(path.Ext(e.Name()), ".vpl") || strings.HasPrefix(e.Name(), ".") {
			continue
		}
		file := path.Join(dir, e.Name())
		plan, err := vaneFile(card, file)
		if err != nil {
			shown.Ignored = append(shown.Ignored, Ignored{file, err.Error()})
			continue
		}
		shown.takePlan(file, plan)
	}
	return shown, nil
}

// takePlan adds a file's contents as far as there is room.
func (s *Shown) takePlan(file string, plan *nav.Dataset) {
	room := func(have, most, more int, what string) int {
		n := min(most-have, more)
		if n < more {
			s.Ignored = append(s.Ignored, Ignored{file, fmt.Sprintf("%d %s: its memory of %d is full", more-n, what, most)})
		}
		return n
	}
	d := s.Data
	d.Waypoints = append(d.Waypoints, plan.Waypoints[:room(len(d.Waypoints), vaneFixes, len(plan.Waypoints), "fixes")]...)
	for i := range plan.Routes {
		r := &plan.Routes[i]
		if n := len(r.Points); n > vaneLegs {
			s.Ignored = append(s.Ignored, Ignored{file, fmt.Sprintf("plan %q: %d legs", r.Name, n-vaneLegs)})
			r.Points = r.Points[:vaneLegs]
		}
	}
	for i := range plan.Areas {
		a := &plan.Areas[i]
		if n := len(a.Outline); n > vaneCorners {
			s.Ignored = append(s.Ignored, Ignored{file, fmt.Sprintf("closure %q: %d corners", a.Name, n-vaneCorners)})
			a.Outline = a.Outline[:vaneCorners]
		}
	}
	d.Routes = append(d.Routes, plan.Routes[:room(len(d.Routes), vanePlans, len(plan.Routes), "plans")]...)
	d.Areas = append(d.Areas, plan.Areas[:room(len(d.Areas), vaneClosures, len(plan.Areas), "closures")]...)
}

// vaneFile reads one plan.
func vaneFile(card fs.FS, file string) (*nav.Dataset, error) {
	raw, err := fs.ReadFile(card, file)
	if err != nil {
		return nil, errors.New("can't be read")
	}
	lines := strings.Split(strings.ReplaceAll(string(raw), "\r", ""), "\n")
	if strings.TrimSpace(lines[0]) != "VANE PLAN 1" {
		return nil, errors.New("is no plan of version 1")
	}
	first, second, last := 0, 0, -1
	for i, l := range lines {
		if m := vaneSum.FindStringSubmatch(l); m != nil {
			if m[1] != strconv.Itoa(i) || m[2] != fmt.Sprintf("%02X%02X", second, first) {
				return nil, errors.New("has a wrong sum")
			}
			last = i
			break
		}
		for _, c := range []byte(l + "\n") {
			first = (first + int(c)) % 255
			second = (second + first) % 255
		}
	}
	if last < 0 {
		return nil, errors.New("ends without a sum")
	}
	d := &nav.Dataset{}
	state, hole := "", false
	for i, l := range lines[1:last] {
		bad := func() (*nav.Dataset, error) { return nil, fmt.Errorf("has a line %d that makes no sense", i+2) }
		l = strings.TrimSpace(l)
		word, _, _ := strings.Cut(l, " ")
		switch {
		case l == "":
		case vaneNamed.MatchString(l) && state == "":
			m := vaneNamed.FindStringSubmatch(l)
			if state = m[1]; state == "PLAN" {
				d.Routes = append(d.Routes, nav.Route{Item: nav.Item{Name: m[2]}})
			} else {
				d.Areas = append(d.Areas, nav.Area{Item: nav.Item{Name: m[2]}})
				hole = false
			}
		case word == "FIX" && state == "", word == "LEG" && state == "PLAN":
			m := vaneFix.FindStringSubmatch(l)
			if m == nil {
				return bad()
			}
			w, ok := vanePoint(m)
			if !ok {
				return bad()
			}
			if state == "" {
				d.Waypoints = append(d.Waypoints, w)
			} else {
				r := &d.Routes[len(d.Routes)-1]
				r.Points = append(r.Points, w)
			}
		case l == "END" && state != "":
			state = ""
		case state == "CLOSURE":
			if l == "HOLE" {
				hole = true
				continue
			}
			if !vaneCorner(&d.Areas[len(d.Areas)-1], l, hole) {
				return bad()
			}
		default:
			return bad()
		}
	}
	if state != "" {
		return nil, errors.New("ends in the middle of a " + strings.ToLower(state))
	}
	return d, nil
}

func vaneDegrees(letter, digits string) float64 {
	v, _ := strconv.ParseFloat(digits, 64)
	if letter == "S" || letter == "W" {
		return -v
	}
	return v
}

func vanePoint(m []string) (w nav.Waypoint, ok bool) {
	lat, lon := vaneDegrees(m[2], m[3]), vaneDegrees(m[4], m[5])
	if lat < -90 || lat > 90 || lon < -180 || lon > 180 {
		return w, false
	}
	w.Name, w.Point = m[1], nav.At(lat, lon)
	v, _ := strconv.ParseFloat(m[6][1:], 64)
	switch m[6][0] {
	case 'A':
		w.SetHeight(v*0.3048, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	case 'F':
		w.SetHeight(v*30.48, decimal.PrecisionOf(1), nav.PressureLevel)
	}
	if m[7] != "POINT" {
		w.Style.Symbol = m[7]
	}
	return w, true
}

// vaneCorner takes a line of a closure in.
func vaneCorner(a *nav.Area, l string, hole bool) bool {
	if m := vaneAt.FindStringSubmatch(l); m != nil {
		lat, lon := vaneDegrees(m[1], m[2]), vaneDegrees(m[3], m[4])
		if lat < -90 || lat > 90 || lon < -180 || lon > 180 {
			return false
		}
		if !hole { // it draws no holes
			a.Outline = append(a.Outline, nav.At(lat, lon))
		}
		return true
	}
	if m := vaneLevel.FindStringSubmatch(l); m != nil {
		text := m[4]
		switch m[2] {
		case "A":
			text = m[3] + "ft"
		case "G":
			text = m[3] + "ft AGL"
		case "F":
			text = "FL" + m[3]
		}
		a.Fields = append(a.Fields, nav.Field{Key: strings.ToLower(m[1]), Value: text})
		return true
	}
	if m := vaneWhen.FindStringSubmatch(l); m != nil {
		if _, err := time.Parse(time.RFC3339, m[2]); err != nil {
			return false
		}
		a.Fields = append(a.Fields, nav.Field{Key: "valid " + strings.ToLower(m[1]), Value: m[2]})
		return true
	}
	return false
}
