package chain

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"
	"unicode"

	"gyrolith/core/export"
	"gyrolith/core/figure"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/template"
)

// OnePer says of what an output makes a file each.
type OnePer string

// An output is one file, or one for each item, each day in the zone of the times, or each group.
const (
	OnePerItem  OnePer = "item"
	OnePerDay   OnePer = "day"
	OnePerGroup OnePer = "group"
)

// Parting is the parameter with which an output makes a file of each part of the data.
func (e *End) Parting() param.Table {
	return param.Table{param.Word("one-per", &e.OnePer, []OnePer{OnePerItem, OnePerDay, OnePerGroup}, "PART",
		"one file per `PART` of the data: item, day or group; the name contains {item}, {date} or {group}")}.In("Writing")
}

// DataWords are what a name may have of the data, in braces.
var DataWords = []string{"item", "date", "time", "group", "length", "author"}

// Part is a part of data that becomes a file of its own.
type Part struct {
	Data  *nav.Dataset
	words map[string]string
}

// Fill puts the words of the data into a name. What comes of them is no path of its own.
func (p *Part) Fill(name string) string {
	return template.Replace(name, func(word string) (string, bool) {
		return fileWord(p.words[word], word == "group"), slices.Contains(DataWords, word)
	})
}

// fileWord makes a text the part of a file's name that any system takes; groups keep their folders.
func fileWord(text string, folders bool) string {
	if folders {
		var parts []string
		for part := range strings.SplitSeq(text, "/") {
			parts = append(parts, fileWord(part, false))
		}
		return path.Join(parts...)
	}
	text = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || strings.ContainsRune(`/\:*?"<>|{}`, r) ||
			r == unicode.ReplacementChar {
			return '-'
		}
		return r
	}, strings.Join(strings.Fields(text), " "))
	const most = 80
	if r := []rune(text); len(r) > most {
		text = string(r[:most])
	}
	if text = strings.Trim(text, " ."); text == "" {
		return "unnamed"
	}
	return text
}

// wordsOf are what a name can say of data: the first date and time in a zone, the length of its lines, its author, and
// the name and group of its first item.
func wordsOf(d *nav.Dataset, zone *time.Location, system measure.System) map[string]string {
	words := map[string]string{"date": "undated", "time": "undated", "author": d.Meta.Author}
	var total nav.Summary
	first := true
	d.Each(func(_ nav.Kind, it *nav.Item) {
		if first {
			words["item"], words["group"], first = it.Name, it.Group, false
		}
	})
	for _, it := range figure.Items(d) {
		total.Join(it.Summary())
	}
	if total.Times > 0 {
		at := total.First.Time().In(zone)
		words["date"], words["time"] = at.Format(time.DateOnly), at.Format("15.04.05")
	}
	words["length"] = system.Length(total.Length)
	return words
}

// parts takes data apart. The parts share what describes the whole file.
func parts(d *nav.Dataset, by OnePer, zone *time.Location, system measure.System) (out []*Part) {
	known := map[string]*nav.Dataset{}
	of := func(key string) *nav.Dataset {
		p := known[key]
		if p == nil {
			p = &nav.Dataset{Meta: d.Meta}
			known[key] = p
			out = append(out, &Part{Data: p, words: map[string]string{"date": key, "group": key}})
		}
		return p
	}
	n := 0
	key := func(it *nav.Item) string {
		if by == OnePerGroup {
			return it.Group
		}
		n++
		return fmt.Sprint(n)
	}
	if by == OnePerDay {
		days(d, zone, of)
	} else {
		for i := range d.Waypoints {
			p := of(key(&d.Waypoints[i].Item))
			p.Waypoints = append(p.Waypoints, d.Waypoints[i])
		}
		for i := range d.Routes {
			p := of(key(&d.Routes[i].Item))
			p.Routes = append(p.Routes, d.Routes[i])
		}
		for i := range d.Tracks {
			p := of(key(&d.Tracks[i].Item))
			p.Tracks = append(p.Tracks, d.Tracks[i])
		}
		for i := range d.Areas {
			p := of(key(&d.Areas[i].Item))
			p.Areas = append(p.Areas, d.Areas[i])
		}
	}
	for _, p := range out {
		asked := p.words
		p.words = wordsOf(p.Data, zone, system)
		if by == OnePerDay {
			p.words["date"] = asked["date"]
		}
		if by == OnePerGroup {
			p.words["group"] = asked["group"]
		}
	}
	return out
}

// days sorts data by the day of their times. A track over midnight is cut there, and each part has its own day; what
// has no time is undated.
func days(d *nav.Dataset, zone *time.Location, of func(day string) *nav.Dataset) {
	day := func(p *nav.Point) string {
		if !p.HasTime() {
			return "undated"
		}
		return p.Time().In(zone).Format(time.DateOnly)
	}
	for i := range d.Waypoints {
		p := of(day(&d.Waypoints[i].Point))
		p.Waypoints = append(p.Waypoints, d.Waypoints[i])
	}
	for i := range d.Routes {
		s := d.Routes[i].Summary()
		p := of(day(&s.First))
		p.Routes = append(p.Routes, d.Routes[i])
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		s := t.Summary()
		last := day(&s.First)
		parts, order := map[string]*nav.Track{}, []string{}
		for j := range t.Segments {
			segment := &t.Segments[j]
			for from := 0; from < len(segment.Points); {
				if segment.Points[from].HasTime() {
					last = day(&segment.Points[from])
				}
				to := from + 1
				for to < len(segment.Points) && (!segment.Points[to].HasTime() || day(&segment.Points[to]) == last) {
					to++
				}
				part := parts[last]
				if part == nil {
					part = &nav.Track{Item: t.Item}
					parts[last], order = part, append(order, last)
				}
				piece := *segment
				piece.Points = segment.Points[from:to:to]
				part.Segments = append(part.Segments, piece)
				from = to
			}
		}
		for _, key := range order {
			p := of(key)
			p.Tracks = append(p.Tracks, *parts[key])
		}
	}
	for i := range d.Areas {
		p := of("undated")
		p.Areas = append(p.Areas, d.Areas[i])
	}
}

// writeParts makes the files of an end that makes several, or whose name tells of the data.
func (e *End) writeParts(ctx context.Context, w *Work, name string, sink export.Sink) (*export.Made, error) {
	zone := w.Zone
	if zone == nil {
		zone = time.UTC
	}
	system := measure.Metric
	if m, ok := e.Output.(Measuring); ok {
		system = m.Measures()
	}
	all := []*Part{{Data: w.Data, words: wordsOf(w.Data, zone, system)}}
	if e.OnePer != "" {
		all = parts(w.Data, e.OnePer, zone, system)
	}
	taken := map[string]int{}
	var out *export.Made
	for _, p := range all {
		to := p.Fill(name)
		for n := 2; taken[strings.ToLower(to)] > 0; n++ { // items of one name
			ext := path.Ext(p.Fill(name))
			to = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(p.Fill(name), ext), n, ext)
		}
		taken[strings.ToLower(to)]++
		part := *w
		part.Data = p.Data
		made, err := e.Output.Write(ctx, &part, to, sink)
		if err != nil {
			return nil, &Error{End: e, Err: err}
		}
		switch {
		case made == nil:
		case out == nil:
			out = made
		default:
			out.Files = append(out.Files, made.Files...)
			out.Bytes += made.Bytes
			out.Points += made.Points
			out.Ledger = append(out.Ledger, made.Ledger...)
			out.Findings = append(out.Findings, made.Findings...)
			for k := range made.Items {
				out.Items[k] += made.Items[k]
			}
		}
	}
	return out, nil
}

// check finds parts that would all have one name.
func (o OnePer) check(name string) error {
	word := map[OnePer]string{OnePerItem: "item", OnePerDay: "date", OnePerGroup: "group"}[o]
	if o == "" || template.Has(name, word) {
		return nil
	}
	return param.Errorf("one-per", "makes one file per %s, but the name %s has no {%s} to tell them apart", o, name, word)
}
