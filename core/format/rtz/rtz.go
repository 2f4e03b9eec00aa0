// Package rtz reads and writes the marine route exchange format, versions 1.0 to 1.2 (IEC 61174:2015, annex S): one
// route a file, with radii and cross-track limits in nautical miles, speeds in knots and depths in metres.
package rtz

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// versions are those that are read and written, the usual one first.
var versions = []string{"1.1", "1.2", "1.0"}

// Format is the route exchange format.
var Format = &format.Format{
	Name:       "rtz",
	Title:      "marine route exchange RTZ (IEC 61174)",
	Extensions: []string{".rtz"},
	Brief:      "one route, with the limits of its legs and its times",
	Sniff: func(h *format.Head) bool {
		return h.Root.Local == "route" && strings.HasPrefix(h.Root.Space, spaces)
	},
	Read:     read,
	Write:    write,
	Holds:    format.Plainly(declaration),
	Keeps:    "rtz",
	Versions: versions,
}

const spaces = "http://www.cirm.org/RTZ/" // and 1/0, 1/1 or 1/2 behind

// The fields in which the attributes of the format are kept: those of a leg and of the defaults with a word in front.
const (
	legPrefix     = "leg "
	defaultPrefix = "default "
)

// versionPrefix stands before a version of the format in what is known of a source.
const versionPrefix = "rtz:"

// legKeys and infoKeys are the attributes of a leg, and of a route beside its name, in the order of the schema.
var (
	legKeys = []string{"starboardXTD", "portsideXTD", "safetyContour", "safetyDepth", "geometryType", "speedMin",
		"speedMax", "draughtForward", "draughtAft", "staticUKC", "dynamicUKC",
		"masthead", "legReport", "legInfo", "legNote1", "legNote2"}
	infoKeys = []string{"routeAuthor", "routeStatus", "validityPeriodStart", "validityPeriodStop", "vesselName",
		"vesselMMSI", "vesselIMO", "vesselVoyage", "vesselDisplacement", "vesselCargo",
		"vesselGM", "optimizationMethod", "vesselMaxRoll", "vesselMaxWave", "vesselMaxWind", "vesselSpeedMax",
		"vesselServiceMin", "vesselServiceMax", "routeChangesHistory"}
	timeKeys = []string{"etd", "etdWindowBefore", "etdWindowAfter", "eta", "etaWindowBefore", "etaWindowAfter", "stay",
		"speed", "speedWindow", "windSpeed", "windDirection", "currentSpeed",
		"currentDirection", "windLoss", "waveLoss", "totalLoss", "rpm", "pitch", "fuel", "relFuelSave", "absFuelSave", "Note"}
)

type reader struct {
	*xmlscan.Scanner
	src   *format.Source
	opt   *format.ReadOptions
	d     *nav.Dataset
	route nav.Route
	ids   map[string]int // of the waypoints, into the route's points
	timed string         // the word of the schedule whose times were taken
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{src: src, opt: opt, d: &nav.Dataset{}, ids: map[string]int{}}
	err := r.document()
	format.TellEncoding(r.Scanner, r.d)
	r.dropOrdinals()
	if len(r.route.Points) > 0 || r.route.Name != "" {
		r.d.Routes = []nav.Route{r.route}
	}
	if x, ok := errors.AsType[*xmlscan.Error](err); ok {
		err = &format.Error{Path: src.Path, Line: x.Line, Col: x.Col, Msg: x.Msg, Cut: x.Cut, Advice: x.Advice}
	}
	return r.d, err
}

// dropOrdinals takes away the ids of points that are numbered from 1 on: they say nothing.
func (r *reader) dropOrdinals() {
	for i := range r.route.Points {
		if id, _ := nav.Get(r.route.Points[i].Fields, "id"); id != strconv.Itoa(i+1) {
			return
		}
	}
	for i := range r.route.Points {
		w := &r.route.Points[i]
		w.Fields = slices.DeleteFunc(w.Fields, func(f nav.Field) bool { return f.Key == "id" })
	}
}

func (r *reader) document() (err error) {
	if r.Scanner, err = xmlscan.New(r.src.Reader(), xmlscan.Limits{Depth: r.opt.Nesting(), Size: r.src.Size}); err != nil {
		return err
	}
	format.TellUnread(r.Scanner, r.d)
	if err := r.Root("route"); err != nil {
		return err
	}
	if version := r.AttrString("version"); slices.Contains(versions, version) {
		r.d.Meta.Version = versionPrefix + version
	}
	if r.Local() != "route" {
		return r.Errorf("the outermost element is <%s>, not <route>", r.Local())
	}
	return r.Children(func(local string) error {
		switch local {
		case "routeInfo":
			r.route.Name = r.AttrString("routeName")
			r.fields(&r.route.Fields, "", "routeName")
			return r.Children(func(string) error { return r.keep(&r.route.Kept, "routeInfo") })
		case "waypoints":
			return r.Children(r.waypoint)
		case "schedules":
			return r.Children(r.schedule)
		case "extensions":
			return r.Children(func(string) error { return r.keep(&r.route.Kept, "") })
		}
		return r.keep(&r.route.Kept, "")
	})
}

// fields takes the attributes of the current start tag as fields, but for some.
func (r *reader) fields(to *[]nav.Field, prefix string, but ...string) {
	for _, a := range r.Attrs() {
		name := string(a.Name)
		if strings.HasPrefix(name, "xmlns") || strings.Contains(name, ":") || contains(but, name) {
			continue
		}
		if value, err := r.AttrValue(a); err == nil && len(value) > 0 {
			f := nav.Field{Key: prefix + name, Value: r.String(value)}
			f.Literal = types[name] == number && decimal.IsNumber(f.Value)
			*to = append(*to, f)
		}
	}
}

func contains(words []string, word string) bool {
	for _, w := range words {
		if w == word {
			return true
		}
	}
	return false
}

func (r *reader) keep(to *[]nav.Kept, where string) error {
	text, used, err := r.Capture(nil)
	if err != nil {
		return err
	}
	k := nav.Kept{Format: "rtz", Where: where, Text: text}
	for _, u := range used {
		k.Spaces = append(k.Spaces, nav.Space{Prefix: u.Prefix, URI: u.URI})
	}
	*to = append(*to, k)
	return nil
}

func (r *reader) waypoint(local string) error {
	switch local {
	case "defaultWaypoint":
		r.fields(&r.route.Fields, defaultPrefix)
		return r.Children(func(local string) error {
			if local == "leg" {
				r.fields(&r.route.Fields, defaultPrefix+legPrefix)
				return r.Empty()
			}
			return r.keep(&r.route.Kept, "defaultWaypoint")
		})
	case "waypoint":
	default:
		return r.keep(&r.route.Kept, "waypoints")
	}
	var w nav.Waypoint
	id := r.AttrString("id")
	w.Name = r.AttrString("name")
	r.fields(&w.Fields, "", "name")
	line, col := r.Pos()
	raw, why := "", "has no <position>"
	err := r.Children(func(local string) error {
		switch local {
		case "position":
			lat, lon := r.AttrString("lat"), r.AttrString("lon")
			raw = lat + " " + lon
			line, col = r.Pos()
			w.Exact, why = format.SetPosition(&w.Point, []byte(lat), []byte(lon))
			return r.Empty()
		case "leg":
			r.fields(&w.Fields, legPrefix)
			return r.Children(func(string) error { return r.keep(&w.Kept, "leg") })
		case "extensions":
			return r.Children(func(string) error { return r.keep(&w.Kept, "") })
		}
		return r.keep(&w.Kept, "waypoint")
	})
	if err != nil {
		return err
	}
	if why != "" {
		r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: nav.Routes, Name: r.route.Name, Number: len(r.route.Points) +
			len(r.d.Rejects) + 1, Raw: strings.TrimSpace(raw), Why: why, Line: line, Col: col})
		return nil
	}
	if _, ok := r.ids[id]; !ok && id != "" {
		r.ids[id] = len(r.route.Points)
	}
	r.route.Points = append(r.route.Points, w)
	return nil
}

// inSchedule is where it is kept what a schedule has beside the times that were taken.
const inSchedule = "schedule"

// schedule takes the times of the first schedule, the manual before the calculated ones.
func (r *reader) schedule(local string) error {
	if local != "schedule" {
		return r.keep(&r.route.Kept, "schedules")
	}
	if r.timed != "" { // a route has one time at each point
		line, col := r.Pos()
		r.d.Note(nav.ProblemTimes, "the times are those of the first schedule; further ones are kept for route exchange",
			line, col)
		return r.keep(&r.route.Kept, "schedules")
	}
	r.PassAttr("id") // which no other element refers to
	if name := r.AttrString("name"); name != "" {
		r.route.Fields = append(r.route.Fields, nav.Field{Key: "schedule", Value: name})
	}
	return r.Children(func(local string) error {
		if local != "manual" && local != "calculated" || r.timed == "manual" {
			line, col := r.Pos()
			r.d.Note(nav.ProblemTimes, fmt.Sprintf("the times are those of the manual schedule; the %s one is kept for route "+
				"exchange", local), line, col)
			return r.keep(&r.route.Kept, inSchedule)
		}
		if r.timed != "" {
			for i := range r.route.Points {
				r.route.Points[i].ClearTime()
			}
		}
		r.timed = local
		return r.Children(func(local string) error {
			if local == "scheduleElement" || local == "sheduleElement" { // the schema of 1.0 spells it so
				r.times()
				return r.Empty()
			}
			return r.Skip()
		})
	})
}

// times takes one element of a schedule: the arrival is the time of the point, or else the departure less the stay
// before it; all else are fields.
func (r *reader) times() {
	at, ok := r.ids[r.AttrString("waypointId")]
	if !ok {
		line, col := r.Pos()
		r.d.Note(nav.ProblemPlaces, "a time in the schedule belongs to a waypoint that doesn't exist", line, col)
		return
	}
	w := &r.route.Points[at]
	taken := "eta"
	if r.AttrString("eta") == "" {
		taken = "etd"
	}
	if text := r.AttrString(taken); text != "" {
		var clock instant.Clock
		format.SetTime(&w.Point, []byte(text), &clock, r.opt, r.d, r.Pos)
		if !w.HasTime() {
			taken = ""
		}
	}
	var stay time.Duration
	if taken == "etd" && at > 0 { // one arrives before one stays
		if stay, _ = nav.ParseISODuration(r.AttrString("stay")); stay > 0 {
			w.SetTime(w.UnixNano()-int64(stay), w.TimeMark())
		}
		taken = "" // it is kept as what it is
	}
	prefix := r.timed + " "
	for i := len(w.Fields) - 1; i >= 0; i-- { // of the other sort of schedule
		if strings.HasPrefix(w.Fields[i].Key, "calculated ") {
			w.Fields = append(w.Fields[:i], w.Fields[i+1:]...)
		}
	}
	r.fields(&w.Fields, prefix, "waypointId", taken)
}
