package standin

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"path"
	"slices"
	"strings"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// The Ridge's memory.
const (
	ridgeName         = 16
	ridgeWaypoints    = 2000
	ridgeRoutes       = 100
	ridgeRoutePoints  = 200
	ridgeTracks       = 100
	ridgeTrackPoints  = 10000
	ridgeFile         = 16 << 20
	ridgeStep         = 1e-6
	ridgeAlphabet     = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789 .,+()_-"
	ridgeGPX          = "http://www.topografix.com/GPX/1/1"
	ridgeFolder       = "RIDGE"
	ridgeWaypointsDir = "WAYPOINTS"
	ridgeRoutesDir    = "ROUTES"
	ridgeTracksDir    = "TRACKS"
)

type ridgePoint struct {
	Lat  *float64 `xml:"lat,attr"`
	Lon  *float64 `xml:"lon,attr"`
	Ele  *float64 `xml:"ele"`
	Time string   `xml:"time"`
	Name string   `xml:"name"`
	Desc string   `xml:"desc"`
	Sym  string   `xml:"sym"`
}

type ridgeDoc struct {
	XMLName   xml.Name     `xml:"gpx"`
	Version   string       `xml:"version,attr"`
	Waypoints []ridgePoint `xml:"wpt"`
	Routes    []struct {
		Name   string       `xml:"name"`
		Desc   string       `xml:"desc"`
		Points []ridgePoint `xml:"rtept"`
	} `xml:"rte"`
	Tracks []struct {
		Name     string `xml:"name"`
		Desc     string `xml:"desc"`
		Segments []struct {
			Points []ridgePoint `xml:"trkpt"`
		} `xml:"trkseg"`
	} `xml:"trk"`
}

type ridge struct {
	card  fs.FS
	shown *Shown
}

// Ridge is the handheld. It loads GPX 1.1 from the three folders under RIDGE, in the order of the file names,
// and only the kind of item that belongs into a folder. It cuts names, shows letters that it has not as a low
// line, and leaves out without a word what its memory has no room for.
func Ridge(card fs.FS) (*Shown, error) {
	r := &ridge{card, &Shown{Unit: "ridge", Data: &nav.Dataset{}, Limits: map[nav.Kind]int{
		nav.Waypoints: ridgeWaypoints, nav.Routes: ridgeRoutes, nav.Tracks: ridgeTracks}}}
	root, err := r.folder(".", ridgeFolder)
	if err != nil {
		return nil, err
	}
	if root == "" {
		return nil, errors.New("the card holds no folder RIDGE: the unit shows nothing")
	}
	for _, part := range []struct {
		dir  string
		load func(file string, doc *ridgeDoc)
	}{{ridgeWaypointsDir, r.waypoints}, {ridgeRoutesDir, r.routes}, {ridgeTracksDir, r.tracks}} {
		dir, err := r.folder(root, part.dir)
		if err != nil || dir == "" {
			continue
		}
		entries, err := fs.ReadDir(card, dir)
		if err != nil {
			return nil, err
		}
		slices.SortFunc(entries, func(a, b fs.DirEntry) int {
			return strings.Compare(strings.ToLower(a.Name()), strings.ToLower(b.Name()))
		})
		for _, e := range entries {
			file := path.Join(dir, e.Name())
			if e.IsDir() || strings.HasPrefix(e.Name(), ".") {
				continue
			}
			doc, err := r.open(file)
			if err != nil {
				r.ignore(file, err.Error())
				continue
			}
			part.load(file, doc)
		}
	}
	return r.shown, nil
}

func (r *ridge) ignore(file, why string) {
	r.shown.Ignored = append(r.shown.Ignored, Ignored{file, why})
}

// folder finds a folder whatever its case, as a card's file system does.
func (r *ridge) folder(in, name string) (string, error) {
	entries, err := fs.ReadDir(r.card, in)
	if err != nil {
		return "", err
	}
	for _, e := range entries {
		if e.IsDir() && strings.EqualFold(e.Name(), name) {
			return path.Join(in, e.Name()), nil
		}
	}
	return "", nil
}

func (r *ridge) open(file string) (*ridgeDoc, error) {
	if !strings.EqualFold(path.Ext(file), ".gpx") {
		return nil, errors.New("is not called .gpx")
	}
	text, err := fs.ReadFile(r.card, file)
	if err != nil {
		return nil, errors.New("can't be read")
	}
	if len(text) > ridgeFile {
		return nil, fmt.Errorf("is larger than %d bytes", ridgeFile)
	}
	doc := &ridgeDoc{}
	if err := xml.Unmarshal(text, doc); err != nil {
		return nil, fmt.Errorf("is not sound XML of the kind that it takes (%v)", err)
	}
	if doc.Version != "1.1" || doc.XMLName.Space != ridgeGPX {
		return nil, fmt.Errorf("is GPX of version %q, not 1.1", doc.Version)
	}
	return doc, nil
}

// text is how the unit's screen writes a text.
func (r *ridge) text(s string, length int) string {
	out := make([]rune, 0, length)
	for _, c := range s {
		if len(out) == length {
			break
		}
		if !strings.ContainsRune(ridgeAlphabet, c) {
			c = '_'
		}
		out = append(out, c)
	}
	return string(out)
}

func (r *ridge) point(p *ridgePoint) (nav.Point, bool) {
	if p.Lat == nil || p.Lon == nil || math.Abs(*p.Lat) > 90 || math.Abs(*p.Lon) > 180 {
		return nav.Point{}, false
	}
	step := func(v float64) float64 { return math.Round(v/ridgeStep) / (1 / ridgeStep) }
	out := nav.At(step(*p.Lat), step(*p.Lon))
	if p.Ele != nil {
		out.SetHeight(*p.Ele, 0, nav.DatumUnstated)
	}
	if t, err := time.Parse(time.RFC3339Nano, strings.TrimSpace(p.Time)); err == nil {
		out.SetTime(t.UnixNano(), instant.Seconds)
	}
	return out, true
}

func (r *ridge) waypoint(p *ridgePoint) (nav.Waypoint, bool) {
	at, ok := r.point(p)
	w := nav.Waypoint{Point: at}
	w.Name, w.Desc, w.Style.Symbol = r.text(p.Name, ridgeName), p.Desc, p.Sym
	return w, ok
}

func (r *ridge) waypoints(file string, doc *ridgeDoc) {
	over := 0
	for i := range doc.Waypoints {
		w, ok := r.waypoint(&doc.Waypoints[i])
		switch {
		case !ok:
			r.ignore(file, fmt.Sprintf("waypoint %d has no position that it can show", i+1))
		case len(r.shown.Data.Waypoints) == ridgeWaypoints:
			over++
		default:
			r.shown.Data.Waypoints = append(r.shown.Data.Waypoints, w)
		}
	}
	if over > 0 {
		r.ignore(file, fmt.Sprintf("%d waypoints: its memory of %d is full", over, ridgeWaypoints))
	}
	if n := len(doc.Routes) + len(doc.Tracks); n > 0 {
		r.ignore(file, fmt.Sprintf("%d routes and tracks: it takes only waypoints from this folder", n))
	}
}

func (r *ridge) routes(file string, doc *ridgeDoc) {
	for i := range doc.Routes {
		src := &doc.Routes[i]
		if len(r.shown.Data.Routes) == ridgeRoutes {
			r.ignore(file, fmt.Sprintf("route %q: its memory of %d routes is full", src.Name, ridgeRoutes))
			continue
		}
		var out nav.Route
		out.Name, out.Desc = r.text(src.Name, ridgeName), src.Desc
		for j := range src.Points {
			if w, ok := r.waypoint(&src.Points[j]); ok && len(out.Points) < ridgeRoutePoints {
				out.Points = append(out.Points, w)
			}
		}
		if n := len(src.Points) - len(out.Points); n > 0 {
			r.ignore(file, fmt.Sprintf("route %q: %d points", src.Name, n))
		}
		r.shown.Data.Routes = append(r.shown.Data.Routes, out)
	}
	if n := len(doc.Waypoints) + len(doc.Tracks); n > 0 {
		r.ignore(file, fmt.Sprintf("%d waypoints and tracks: it takes only routes from this folder", n))
	}
}

func (r *ridge) tracks(file string, doc *ridgeDoc) {
	for i := range doc.Tracks {
		src := &doc.Tracks[i]
		if len(r.shown.Data.Tracks) == ridgeTracks {
			r.ignore(file, fmt.Sprintf("track %q: its memory of %d tracks is full", src.Name, ridgeTracks))
			continue
		}
		var out nav.Track
		out.Name, out.Desc = r.text(src.Name, ridgeName), src.Desc
		total, kept := 0, 0
		for _, s := range src.Segments {
			var seg nav.Segment
			for j := range s.Points {
				total++
				if p, ok := r.point(&s.Points[j]); ok && kept < ridgeTrackPoints {
					seg.Points = append(seg.Points, p)
					kept++
				}
			}
			if len(seg.Points) > 0 {
				out.Segments = append(out.Segments, seg)
			}
		}
		if total > kept {
			r.ignore(file, fmt.Sprintf("track %q: %d points", src.Name, total-kept))
		}
		r.shown.Data.Tracks = append(r.shown.Data.Tracks, out)
	}
	if n := len(doc.Waypoints) + len(doc.Routes); n > 0 {
		r.ignore(file, fmt.Sprintf("%d waypoints and routes: it takes only tracks from this folder", n))
	}
}
