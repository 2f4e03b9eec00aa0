package unit

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/unit/standin"
)

// Plan is what is to be written on a card.
type Plan struct {
	Profile *Profile
	Meant   *nav.Dataset // the data as fitted to the unit
	Ledger  nav.Ledger   // what was changed and left out for it
	Files   []CardFile
}

// CardFile is one file of a card, by its path with slashes.
type CardFile struct {
	Path    string
	Content []byte
}

// MakePlan fits data to a unit and works out the files of the card. Source names the data's own file, for the
// names of files that hold many items.
func MakePlan(d *nav.Dataset, p *Profile, source string) (*Plan, error) {
	fitted := Fit(d, p)
	plan := &Plan{Profile: p, Meant: fitted.Data, Ledger: fitted.Ledger}
	l := &layout{plan: plan, source: source, parts: map[string]*part{}, names: map[string]*namer{}}
	m := plan.Meant
	for i := range m.Waypoints {
		l.add(nav.Waypoints, &m.Waypoints[i].Item, i, func(d *nav.Dataset) { d.Waypoints = append(d.Waypoints, m.Waypoints[i]) })
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
	return plan, l.write()
}

// layout gathers what goes into which file.
type layout struct {
	plan   *Plan
	source string
	parts  map[string]*part
	order  []*part
	names  map[string]*namer // of the files of each folder
}

// part is one file before it is written.
type part struct {
	path   string
	format string
	kind   *Kind
	data   *nav.Dataset
}

// add puts an item into its file: the one of its pattern, the same for several kinds where their patterns are.
func (l *layout) add(kind nav.Kind, item *nav.Item, i int, put func(*nav.Dataset)) {
	k := l.plan.Profile.Of(kind)
	length := k.FileName
	if length == 0 {
		length = fileNameLength
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
		fill := func(text string) string { return fileName(text, length) }
		stem := strings.NewReplacer("{name}", fill(item.Name), "{source}", fill(l.source), "{group}", fill(strings.ReplaceAll(item.Group, "/", " ")), "{number}", fmt.Sprintf("%03d", i+1)).Replace(pattern)
		if l.names[k.Folder] == nil {
			l.names[k.Folder] = newNamer(Text{})
		}
		l.names[k.Folder].text.Length = max(length, len([]rune(stem)))
		at = &part{path: path.Join(k.Folder, l.names[k.Folder].fit(stem, "unnamed")+ext), format: k.Format, kind: k, data: &nav.Dataset{}}
		l.parts[key] = at
		l.order = append(l.order, at)
	}
	put(at.data)
}

// write writes the files in memory.
func (l *layout) write() error {
	p := l.plan.Profile
	for _, at := range l.order {
		name, version, _ := strings.Cut(at.format, ":")
		f := all.Formats.ByName(name)
		if f == nil || f.Write == nil {
			return fmt.Errorf("the profile of %s wants the format %q, which is not written", p.Name, at.format)
		}
		if version == "" && p.Version > 0 {
			version = strconv.Itoa(p.Version)
		}
		opt := &format.WriteOptions{Version: version}
		if p.Table != nil {
			var err error
			if opt.Table, err = p.TableLayout(); err != nil {
				return err
			}
		}
		var content bytes.Buffer
		// The writer's own ledger repeats what fitting said already.
		if _, err := f.Write(&content, at.data, opt); err != nil {
			return err
		}
		if most := at.kind.Bytes; most > 0 && content.Len() > most {
			return fmt.Errorf("%s would have %d bytes, and %s takes files of %d; choose less with --take, or thin the lines with 'gyrolith clean --thin-to'", at.path, content.Len(), p.Name, most)
		}
		l.plan.Files = append(l.plan.Files, CardFile{at.path, content.Bytes()})
	}
	return nil
}

// TableLayout gives the layout of the profile's table.
func (p *Profile) TableLayout() (*format.Table, error) {
	t := p.Table
	out := &format.Table{Sheet: t.Sheet, FirstRow: t.FirstRow, NoHeader: t.NoHeader}
	if t.Template != "" {
		out.Template = filepath.Join(filepath.Dir(p.Path), t.Template)
	}
	for _, r := range t.Separator {
		out.Separator = r
		break
	}
	var err error
	out.Notation, err = geodesy.ParseNotation(t.Notation)
	for _, c := range t.Columns {
		out.Columns = append(out.Columns, format.Column(c))
	}
	return out, err
}

// Existing lists the files of the plan that are on the card already.
func (p *Plan) Existing(card string) ([]string, error) {
	root, err := openCard(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	var out []string
	for _, f := range p.Files {
		if _, err := root.Lstat(filepath.FromSlash(f.Path)); err == nil {
			out = append(out, f.Path)
		}
	}
	return out, nil
}

func openCard(card string) (*os.Root, error) {
	info, err := os.Stat(card)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil, fmt.Errorf("%s: there is no such folder; is the card in, and mounted there?", card)
	case err != nil:
		return nil, fmt.Errorf("%s: the card can't be looked at: %w", card, err)
	case !info.IsDir():
		return nil, fmt.Errorf("%s: is a file; --card names the folder that is the card", card)
	}
	return os.OpenRoot(card)
}

// standIn gives the stand-in that reads the cards of a profile, of the same version; nil where there is none.
func (p *Profile) standIn() standin.Unit {
	if !p.StandIn {
		return nil
	}
	if p.Name == "keel" {
		return standin.KeelOf(p.Version)
	}
	return standin.Units[p.Name]
}

// Boot shows what a unit makes of a card.
func Boot(p *Profile, card string) (*standin.Shown, error) {
	stand := p.standIn()
	if stand == nil {
		return nil, fmt.Errorf("no stand-in reads the cards of %s; it ships for ridge, keel and vane", p.Name)
	}
	root, err := openCard(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	shown, err := stand(root.FS())
	if err != nil {
		return nil, fmt.Errorf("%s: %w", card, err)
	}
	return shown, nil
}
