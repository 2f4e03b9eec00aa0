package unit

import (
	"fmt"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// segments parts tracks that have more segments than the unit takes.
func (f *Fitted) segments(p *Profile) {
	most := p.Tracks.Segments
	if most == 0 {
		return
	}
	var out []nav.Track
	for _, t := range f.Data.Tracks {
		n := (len(t.Segments) + most - 1) / most
		if n <= 1 {
			out = append(out, t)
			continue
		}
		for k := range n {
			part := nav.Track{Item: t.Item, Segments: t.Segments[k*most : min((k+1)*most, len(t.Segments))]}
			part.Name = partName(t.Name, k, n)
			out = append(out, part)
		}
		f.Ledger.Changed(nav.Tracks, t.Name, "split", fmt.Sprintf("%d segments", len(t.Segments)),
			fmt.Sprintf("%d tracks", n),
			fmt.Sprintf("%s accepts %d in a track", p.Name, most))
	}
	f.Data.Tracks = out
}

// points thins lines that have more points than the unit takes, or parts them so that no point is lost. A part of a
// route begins with the point that the one before ends with, and so does one of a track's segment.
func (f *Fitted) points(p *Profile) {
	d := f.Data
	if most := p.Routes.Points; most > 1 {
		var out []nav.Route
		for _, r := range d.Routes {
			switch {
			case len(r.Points) <= most:
				out = append(out, r)
			case p.Routes.Over == "thin":
				out = append(out, f.thinRoute(r, p))
			default:
				out = append(out, f.splitRoute(r, p)...)
			}
		}
		d.Routes = out
	}
	if most := p.Tracks.Points; most > 1 {
		var out []nav.Track
		for _, t := range d.Tracks {
			switch {
			case t.Len() <= most:
				out = append(out, t)
			case p.Tracks.Over == "thin" && most >= 2*len(t.Segments):
				out = append(out, f.thinTrack(t, p))
			default:
				parts := splitTrack(t, most)
				for k := range parts {
					parts[k].Name = partName(t.Name, k, len(parts))
				}
				out = append(out, parts...)
				f.Ledger.Changed(nav.Tracks, t.Name, "split", fmt.Sprintf("%d points", t.Len()),
					fmt.Sprintf("%d tracks", len(parts)),
					fmt.Sprintf("%s accepts %d points in a track", p.Name, most))
			}
		}
		d.Tracks = out
	}
	if most := p.Areas.Points; most > 2 {
		for i := range d.Areas {
			if a := &d.Areas[i]; a.Len() > most {
				f.thinArea(a, p)
			}
		}
	}
}

// partName is the name of a part of a line: numbered, so that the parts are read in their order.
func partName(name string, k, of int) string {
	if name == "" || of < 2 {
		return name
	}
	return fmt.Sprintf("%s %d", name, k+1)
}

func (f *Fitted) splitRoute(r nav.Route, p *Profile) (out []nav.Route) {
	most := p.Routes.Points
	for from := 0; from < len(r.Points)-1; from += most - 1 {
		piece := nav.Route{Item: r.Item, Points: r.Points[from:min(from+most, len(r.Points))]}
		out = append(out, piece)
	}
	for k := range out {
		out[k].Name = partName(r.Name, k, len(out))
	}
	f.Ledger.Changed(nav.Routes, r.Name, "split", fmt.Sprintf("%d points", len(r.Points)),
		fmt.Sprintf("%d routes", len(out)),
		fmt.Sprintf("%s accepts %d points in a route", p.Name, most))
	return
}

func splitTrack(t nav.Track, most int) []nav.Track {
	var parts []nav.Track
	room := 0
	for _, s := range t.Segments {
		for from := 0; from < len(s.Points); {
			if room < 2 {
				parts = append(parts, nav.Track{Item: t.Item})
				room = most
			}
			to := min(from+room, len(s.Points))
			last := &parts[len(parts)-1]
			last.Segments = append(last.Segments, s.Piece(from, to))
			room -= to - from
			if to == len(s.Points) {
				break
			}
			from = to - 1
		}
	}
	return parts
}

// thinned notes how many points went and how far the line is off for it.
func (f *Fitted) thinned(kind nav.Kind, name string, from, to int, lines [][]nav.Point, kept [][]int, p *Profile) {
	far, height := 0.0, 0.0
	for i, line := range lines {
		aside, up := shape.Farthest(line, kept[i])
		far, height = max(far, aside), max(height, up)
	}
	within := fmt.Sprintf("the line stays within %.1f m", far)
	if height > 0 {
		within += fmt.Sprintf(", and its heights within %.1f m", height)
	}
	f.Ledger = append(f.Ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: "thinned",
		Old: fmt.Sprintf("%d points", from), New: fmt.Sprintf("%d points", to),
		Why: fmt.Sprintf("%s accepts %d; %s", p.Name, p.Of(kind).Points, within), Count: from - to,
		Loss: true})
}

func (f *Fitted) thinRoute(r nav.Route, p *Profile) nav.Route {
	line := r.Line()
	withoutHeights(line, p)
	kept := shape.ThinKeeping(line, func(i int) bool { return r.Points[i].Name != "" }, 0, p.Routes.Points)
	kept = shape.Fill(line, kept, p.Routes.Points)
	out := nav.Route{Item: r.Item}
	for _, i := range kept {
		out.Points = append(out.Points, r.Points[i])
	}
	f.thinned(nav.Routes, r.Name, len(line), len(out.Points), [][]nav.Point{line}, [][]int{kept}, p)
	return out
}

// withoutHeights takes heights away that the unit does not show, so that they do not count where a line is thinned.
func withoutHeights(line []nav.Point, p *Profile) {
	if p.ShowsA("heights") {
		return
	}
	for i := range line {
		line[i].ClearHeight()
	}
}

func total(kept [][]int) (n int) {
	for _, k := range kept {
		n += len(k)
	}
	return
}

// longest gives the number of the line with most points.
func longest(lines [][]nav.Point) (at int) {
	for i := range lines {
		if len(lines[i]) > len(lines[at]) {
			at = i
		}
	}
	return
}

func (f *Fitted) thinTrack(t nav.Track, p *Profile) nav.Track {
	var lines [][]nav.Point
	for i := range t.Segments {
		line := t.Segments[i].Points
		if !p.ShowsA("heights") {
			line = slices.Clone(line)
			withoutHeights(line, p)
		}
		lines = append(lines, line)
	}
	kept := shape.ThinTo(lines, p.Tracks.Points)
	if room := p.Tracks.Points - total(kept); room > 0 { // the longest has it
		i := longest(lines)
		kept[i] = shape.Fill(lines[i], kept[i], len(kept[i])+room)
	}
	out := nav.Track{Item: t.Item}
	for i, indices := range kept {
		out.Segments = append(out.Segments, t.Segments[i].Pick(indices))
	}
	f.thinned(nav.Tracks, t.Name, t.Len(), out.Len(), lines, kept, p)
	return out
}

func (f *Fitted) thinArea(a *nav.Area, p *Profile) {
	var lines [][]nav.Point
	for _, ring := range a.Rings() {
		if len(ring) > 0 {
			lines = append(lines, append(slices.Clone(ring), ring[0]))
		}
	}
	before := a.Len()
	kept := shape.ThinTo(lines, p.Areas.Points+len(lines))
	a.Holes = nil
	for i, indices := range kept {
		var ring []nav.Point
		for _, k := range indices[:len(indices)-1] {
			ring = append(ring, lines[i][k])
		}
		if i == 0 {
			a.Outline = ring
		} else if len(ring) > 2 {
			a.Holes = append(a.Holes, ring)
		}
	}
	f.thinned(nav.Areas, a.Name, before, a.Len(), lines, kept, p)
}
