package card

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Present is one thing that a card shows.
type Present struct {
	identity.Thing
	File   string // the file on the card that holds it
	record int    // its entry in the card's record; below zero for none
}

// Occupants are what a card holds for its unit.
type Occupants struct {
	Things     []Present // in the order in which the unit shows them
	Record     []Recorded
	Unreadable []error // files of the unit that can't be read
	Copied     string  // where the record was found, if the card itself has none

	folders map[nav.Kind]string // as the card spells them
	files   []File
	spoilt  map[string]bool // files of which something could not be read
	missing []int           // entries of the record that the card shows no more, though their files can be read
}

// Counts gives the number of things of each kind.
func (o *Occupants) Counts() (n [4]int) {
	for i := range o.Things {
		n[o.Things[i].Kind]++
	}
	return
}

// LookAt reads what a card shows, by the project's own readers, and its record: the card's own, or the copy of it in a
// folder of archives.
func LookAt(ctx context.Context, p *unit.Profile, card, keep string, formats format.Formats) (*Occupants, error) {
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	o := &Occupants{spoilt: map[string]bool{}, folders: map[nav.Kind]string{}}
	if err := o.read(ctx, root, card, p, formats); err != nil {
		return nil, err
	}
	m, err := readManifest(root)
	if err != nil {
		m = nil // a damaged one is as good as none
	}
	if m != nil && m.Unit == p.Name && len(m.Things) > 0 {
		o.Record = m.Things
	} else {
		o.Record, o.Copied = copied(keep, p.Name, o.Things)
	}
	o.match()
	return o, nil
}

// read reads the files that the unit would.
func (o *Occupants) read(ctx context.Context, root medium, card string, p *unit.Profile,
	formats format.Formats) error {
	lists := map[nav.Kind][]Present{}
	seen := map[string]*format.Loaded{}
	folder := func(kind nav.Kind, dir string) { o.folders[kind] = dir }
	err := loaded(root, card, p, folder, func(kind nav.Kind, at string) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if _, done := seen[at]; !done {
			seen[at] = o.load(ctx, root, at, p.Of(kind), formats)
		}
		if in := seen[at]; in != nil {
			for _, t := range identity.Things(in.Data, kind) {
				lists[kind] = append(lists[kind], Present{t, at, -1})
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, kind := range nav.Kinds {
		o.Things = append(o.Things, lists[kind]...)
	}
	return nil
}

// loaded visits the folders of the kinds that a unit shows, and the files in them that it loads, in its order.
func loaded(root medium, card string, p *unit.Profile, folder func(kind nav.Kind, dir string),
	file func(kind nav.Kind, at string) error) error {
	for _, kind := range nav.Kinds {
		k := p.Of(kind)
		if k.As != kind.String() {
			continue
		}
		dir, err := folderOf(root.FS(), k.Folder)
		if err != nil {
			return fmt.Errorf("%s: %w", card, err)
		}
		if dir == "" {
			continue
		}
		folder(kind, dir)
		entries, err := fs.ReadDir(root.FS(), dir)
		if err != nil {
			return fmt.Errorf("%s: %s can't be read: %s", card, dir, reason(err))
		}
		slices.SortFunc(entries, func(a, b fs.DirEntry) int {
			return strings.Compare(strings.ToUpper(a.Name()), strings.ToUpper(b.Name()))
		})
		for _, e := range entries {
			if !e.Type().IsRegular() || !belongs(k, e.Name()) {
				continue
			}
			if err := file(kind, path.Join(dir, e.Name())); err != nil {
				return err
			}
		}
	}
	return nil
}

// filesOf lists the files that a unit loads.
func filesOf(root medium, card string, p *unit.Profile) (out []string, err error) {
	err = loaded(root, card, p, func(nav.Kind, string) {}, func(_ nav.Kind, at string) error {
		if !slices.Contains(out, at) {
			out = append(out, at)
		}
		return nil
	})
	return
}

// load reads one file; nil where it can't be read.
func (o *Occupants) load(ctx context.Context, root medium, at string, k *unit.Kind,
	formats format.Formats) *format.Loaded {
	content, err := root.ReadFile(at)
	if err != nil {
		o.Unreadable = append(o.Unreadable, fmt.Errorf("%s can't be read: %s", at, reason(err)))
		o.spoilt[at] = true
		return nil
	}
	o.files = append(o.files, File{at, content})
	name, _, _ := strings.Cut(k.Format, ":")
	in, err := formats.Load(format.FromBytes(ctx, at, content), name, false, &format.ReadOptions{})
	if err != nil {
		o.Unreadable = append(o.Unreadable, err)
		o.spoilt[at] = true
		return nil
	}
	if len(in.Data.Rejects) > 0 ||
		slices.ContainsFunc(in.Data.Problems, func(p nav.Problem) bool { return p.Code.Grave() }) {
		o.spoilt[at] = true
	}
	return in
}

// folderOf finds a folder whatever the case of its name, as a card's file system does; "" where there is none.
func folderOf(card fs.FS, folder string) (string, error) {
	at := "."
	for part := range strings.SplitSeq(path.Clean(folder), "/") {
		if part == "." {
			continue
		}
		entries, err := fs.ReadDir(card, at)
		if err != nil {
			return "", errors.New(reason(err))
		}
		i := slices.IndexFunc(entries, func(e fs.DirEntry) bool { return e.IsDir() && strings.EqualFold(e.Name(), part) })
		if i < 0 {
			return "", nil
		}
		at = path.Join(at, entries[i].Name())
	}
	return at, nil
}

// belongs says whether a file of a kind's folder is one that the unit loads.
func belongs(k *unit.Kind, name string) bool {
	if name == ManifestName || name[0] == '.' {
		return false
	}
	if !strings.Contains(k.File, "{") {
		return strings.EqualFold(name, k.File)
	}
	return strings.EqualFold(path.Ext(name), path.Ext(k.File))
}

// match finds the entry of the record for each thing.
func (o *Occupants) match() {
	for _, kind := range nav.Kinds {
		var things, entries []identity.Thing
		var at, of []int
		for i := range o.Things {
			if o.Things[i].Kind == kind {
				things, at = append(things, o.Things[i].Thing), append(at, i)
			}
		}
		for i := range o.Record {
			if r := &o.Record[i]; r.Kind == kind.One() {
				entries, of = append(entries, likeness(kind, r.Name, "", r.Lat, r.Lon, r.Points)), append(of, i)
			}
		}
		m := identity.Match(entries, things, 0)
		for i, j := range m.First {
			switch {
			case j < 0 && o.told(of[i]):
				o.missing = append(o.missing, of[i])
			case j >= 0:
				o.Things[at[j]].record = of[i]
			}
		}
	}
}

// told says whether an entry of the record that is not shown was deleted: its file can be read, or held it alone and is
// gone with it. Otherwise the file is lost or damaged.
func (o *Occupants) told(entry int) bool {
	file := o.Record[entry].File
	if o.spoilt[file] {
		return false
	}
	if slices.ContainsFunc(o.files, func(f File) bool { return strings.EqualFold(f.Path, file) }) {
		return true
	}
	for i := range o.Record {
		if i != entry && o.Record[i].File == file {
			return false
		}
	}
	return true
}

// likeness is a thing with a name at a place, with so many points, to match others with.
func likeness(kind nav.Kind, name, id string, lat, lon float64, points int) identity.Thing {
	item := nav.Item{Name: name, ID: id}
	line := slices.Repeat([]nav.Point{nav.At(lat, lon)}, max(points, 0))
	d := &nav.Dataset{}
	switch kind {
	case nav.Waypoints:
		d.Waypoints = []nav.Waypoint{{Item: item, Point: nav.At(lat, lon)}}
	case nav.Routes:
		d.Routes = []nav.Route{{Item: item, Points: make([]nav.Waypoint, len(line))}}
		for i := range line {
			d.Routes[0].Points[i].Point = line[i]
		}
	case nav.Tracks:
		d.Tracks = []nav.Track{{Item: item, Segments: []nav.Segment{{Points: line}}}}
	case nav.Areas:
		d.Areas = []nav.Area{{Item: item, Outline: line}}
	}
	return identity.Things(d, kind)[0]
}
