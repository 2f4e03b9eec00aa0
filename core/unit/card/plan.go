// Package card writes the cards of navigation units so that nothing on them is lost, reads them back as the unit would,
// and archives them.
package card

import (
	"bytes"
	"context"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Plan is what is to be written on a card.
type Plan struct {
	Profile *unit.Profile
	Meant   *nav.Dataset // the data as fitted to the unit
	Ledger  nav.Ledger   // what was changed and left out for it, and what its files could not hold
	Files   []File
	Shift   float64 // metres that a position was moved by in fitting, at most

	formats format.Formats
}

// File is one file of a card, by its path with slashes.
type File struct {
	Path    string
	Content []byte
}

// Make fits data to a unit and works out the files of the card in the formats that the profile wants. Source names the
// data's own file, for the names of files that hold many items.
func Make(ctx context.Context, d *nav.Dataset, p *unit.Profile, source string, formats format.Formats) (*Plan, error) {
	if err := p.CheckFormats(formats); err != nil {
		return nil, err
	}
	fitted := unit.Fit(d, p)
	plan := &Plan{Profile: p, Meant: fitted.Data, Ledger: fitted.Ledger, Shift: fitted.Shift, formats: formats}
	l := &layout{plan: plan, source: source, parts: map[string]*part{}, names: map[string]*unit.Namer{}}
	m := plan.Meant
	for i := range m.Waypoints {
		l.add(nav.Waypoints, &m.Waypoints[i].Item, i,
			func(d *nav.Dataset) { d.Waypoints = append(d.Waypoints, m.Waypoints[i]) })
	}
	for i := range m.Routes {
		l.add(nav.Routes, &m.Routes[i].Item, i, func(d *nav.Dataset) { d.Routes = append(d.Routes, m.Routes[i]) })
	}
	for i := range m.Tracks {
		l.add(nav.Tracks, &m.Tracks[i].Item, i, func(d *nav.Dataset) { d.Tracks = append(d.Tracks, m.Tracks[i]) })
	}
	for i := range m.Areas {
		l.add(nav.Areas, &m.Areas[i].Item, i, func(d *nav.Dataset) { d.Areas = append(d.Areas, m.Areas[i]) })
	}
	return plan, l.write(ctx)
}

// layout gathers what goes into which file.
type layout struct {
	plan   *Plan
	source string
	parts  map[string]*part
	order  []*part
	names  map[string]*unit.Namer // of the files of each folder
}

// part is one file before it is written.
type part struct {
	path   string
	format string
	kind   *unit.Kind
	data   *nav.Dataset
}

// add puts an item into its file: the one of its pattern, the same for several kinds where their patterns are.
func (l *layout) add(kind nav.Kind, item *nav.Item, i int, put func(*nav.Dataset)) {
	k := l.plan.Profile.Of(kind)
	length := k.FileName
	if length == 0 {
		length = unit.FileNameLength
	}
	ext := path.Ext(k.File)
	pattern := strings.TrimSuffix(k.File, ext)
	// One file for each item, each group, or all of them.
	key := path.Join(k.Folder, k.File)
	switch {
	case strings.Contains(pattern, "{name}") || strings.Contains(pattern, "{number}"):
		key += fmt.Sprintf("\x00%d %d", kind, i)
	case strings.Contains(pattern, "{group}"):
		key += "\x00" + item.Group
	}
	at := l.parts[key]
	if at == nil {
		fill := func(text string) string { return unit.FileName(text, length) }
		stem := strings.NewReplacer("{name}", fill(item.Name), "{source}", fill(l.source), "{group}",
			fill(strings.ReplaceAll(item.Group, "/", " ")), "{number}", fmt.Sprintf("%03d", i+1)).Replace(pattern)
		if l.names[k.Folder] == nil {
			l.names[k.Folder] = unit.NewNamer(unit.Text{})
		}
		l.names[k.Folder].Widen(max(length, len([]rune(stem))))
		at = &part{path: path.Join(k.Folder, l.names[k.Folder].Fit(stem, "unnamed")+ext), format: k.Format, kind: k,
			data: &nav.Dataset{Meta: l.plan.Meant.Meta}}
		l.parts[key] = at
		l.order = append(l.order, at)
	}
	put(at.data)
}

// write writes the files in memory, and takes what their formats can't hold into the ledger.
func (l *layout) write(ctx context.Context) error {
	p := l.plan.Profile
	for _, at := range l.order {
		if err := ctx.Err(); err != nil {
			return err
		}
		name, version, _ := strings.Cut(at.format, ":")
		if version == "" && p.Version > 0 {
			version = strconv.Itoa(p.Version)
		}
		target := &export.Target{Format: l.plan.formats.ByName(name), Version: version}
		if p.Table != nil {
			table, err := p.TableLayout()
			if err != nil {
				return err
			}
			target.Table = *table
		}
		var content bytes.Buffer
		done, err := target.Write(ctx, at.data, at.path, export.To(&content))
		if err != nil {
			return err
		}
		for _, e := range done.Ledger {
			if e.KindWord != "file" || !slices.Contains(l.plan.Ledger, e) { // what describes all of it is in every file
				l.plan.Ledger = append(l.plan.Ledger, e)
			}
		}
		if most := at.kind.Bytes; most > 0 && content.Len() > most {
			return advice.Errorf(advice.ChooseLess, "%s would have %d bytes, and %s takes files of %d",
				at.path, content.Len(), p.Name, most)
		}
		l.plan.Files = append(l.plan.Files, File{at.path, content.Bytes()})
	}
	return nil
}
