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
	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// entry is one thing that the unit is to show.
type entry struct {
	identity.Thing
	file   string // on the card; "" until it is laid out, for what is new
	source int    // the item of the data that it is; below zero for none
	part   int    // which part of that, from 0
	there  int    // the thing on the card that it is; below zero for what is new
	kept   bool   // it stays as it is
}

// layout gathers what goes into which file.
type layout struct {
	plan    *Plan
	source  string
	there   *Occupants
	mode    Mode
	entries []entry
	parts   map[string]*filePart
	order   []*filePart
	names   map[string]*unit.Namer // of the files of each folder
}

// filePart is one file before it is written.
type filePart struct {
	path    string
	format  string
	kind    *unit.Kind
	data    *nav.Dataset
	changed bool
	things  int
}

// place settles the file of each entry, and gathers what is meant.
func (l *layout) place() {
	l.parts, l.names = map[string]*filePart{}, map[string]*unit.Namer{}
	taken := map[string]bool{}
	for i := range l.entries {
		if f := l.entries[i].file; f != "" {
			taken[strings.ToUpper(f)] = true
		}
	}
	if l.mode == Add { // no new file takes the name of one that is there
		for _, f := range l.there.files {
			taken[strings.ToUpper(f.Path)] = true
		}
	}
	for at := range taken {
		dir, name := path.Split(at)
		l.namer(path.Clean(dir)).Take(strings.TrimSuffix(name, path.Ext(name)))
	}
	ordinal := [4]int{}
	for i := range l.entries {
		e := &l.entries[i]
		ordinal[e.Kind]++
		part := l.partOf(e, ordinal[e.Kind])
		e.file = part.path
		part.changed = part.changed || !e.kept
		part.things++
		e.AddTo(part.data)
		e.AddTo(l.plan.Meant)
	}
}

func (l *layout) namer(folder string) *unit.Namer {
	key := strings.ToUpper(folder)
	if l.names[key] == nil {
		l.names[key] = unit.NewNamer(unit.Text{})
	}
	return l.names[key]
}

// partOf finds the file of an entry: the one where it is, or that of its pattern, the same for several kinds where
// their patterns are.
func (l *layout) partOf(e *entry, ordinal int) *filePart {
	k := l.plan.Profile.Of(e.Kind)
	if e.file != "" {
		return l.part(e.file, k)
	}
	length := k.FileName
	if length == 0 {
		length = unit.FileNameLength
	}
	folder := k.Folder
	if own := l.there.folders[e.Kind]; own != "" {
		folder = own
	}
	ext := path.Ext(k.File)
	pattern := strings.TrimSuffix(k.File, ext)
	if !strings.Contains(pattern, "{") {
		return l.part(l.spelled(path.Join(folder, k.File)), k)
	}
	fill := func(text string) string { return unit.FileName(text, length) }
	stem := strings.NewReplacer("{name}", fill(e.Item.Name), "{source}", fill(l.source), "{group}",
		fill(strings.ReplaceAll(e.Item.Group, "/", " ")), "{number}", fmt.Sprintf("%03d", ordinal)).Replace(pattern)
	// One file for each item, each group, or all of them.
	key := ""
	switch {
	case strings.Contains(pattern, "{name}") || strings.Contains(pattern, "{number}"):
		key = fmt.Sprintf("\x00%d %d", e.Kind, ordinal)
	case strings.Contains(pattern, "{group}"):
		key = "\x00" + path.Join(folder, k.File) + "\x00" + e.Item.Group
	default: // beside what is in it already
		return l.part(l.spelled(path.Join(folder, stem+ext)), k)
	}
	if p := l.parts[key]; p != nil {
		return p
	}
	namer := l.namer(folder)
	namer.Widen(max(length, len([]rune(stem))))
	p := l.part(path.Join(folder, namer.Fit(stem, "unnamed")+ext), k)
	l.parts[key] = p
	return p
}

// spelled gives a path as the card spells it.
func (l *layout) spelled(at string) string {
	for _, f := range l.there.files {
		if strings.EqualFold(f.Path, at) {
			return f.Path
		}
	}
	return at
}

func (l *layout) part(at string, k *unit.Kind) *filePart {
	key := strings.ToUpper(at)
	if l.parts[key] == nil {
		p := &filePart{path: at, format: k.Format, kind: k, data: &nav.Dataset{Meta: l.plan.Meant.Meta}}
		l.parts[key] = p
		l.order = append(l.order, p)
	}
	return l.parts[key]
}

// write writes the files in memory, and takes what their formats can't hold into the ledger. A file all of whose things
// stay as they are is left alone.
func (l *layout) write(ctx context.Context) error {
	held := map[string]int{}
	for i := range l.there.Things {
		held[l.there.Things[i].File]++
	}
	for _, at := range l.order {
		if err := ctx.Err(); err != nil {
			return err
		}
		i := slices.IndexFunc(l.there.files, func(f File) bool { return f.Path == at.path })
		if i >= 0 && !at.changed && held[at.path] == at.things {
			l.plan.Unchanged = append(l.plan.Unchanged, l.there.files[i])
			continue
		}
		if i >= 0 && l.there.spoilt[at.path] && l.mode == Add {
			l.plan.Ledger = append(l.plan.Ledger, nav.Entry{KindWord: "file", Name: at.path, What: "what can't be read",
				Why: "it is not rewritten; the archive has it", Count: 1, Loss: true})
		}
		if err := l.writeFile(ctx, at); err != nil {
			return err
		}
	}
	return nil
}

func (l *layout) writeFile(ctx context.Context, at *filePart) error {
	p := l.plan.Profile
	name, version, _ := strings.Cut(at.format, ":")
	if version == "" && p.Version > 0 {
		version = strconv.Itoa(p.Version)
	}
	opt := &format.WriteOptions{Context: ctx, Version: version}
	if p.Table != nil {
		table, err := p.TableLayout()
		if err != nil {
			return err
		}
		opt.Table = table
	}
	var content bytes.Buffer
	done, err := l.plan.formats.ByName(name).Store(&content, at.data, opt)
	if err != nil {
		return fmt.Errorf("%s: %w", at.path, err)
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	for _, e := range done.Ledger {
		if e.KindWord != "file" || !slices.Contains(l.plan.Ledger, e) { // what describes all of it is in every file
			l.plan.Ledger = append(l.plan.Ledger, e)
		}
	}
	if most := at.kind.Bytes; most > 0 && content.Len() > most {
		return advice.Errorf(advice.ChooseLess, "%s would have %d bytes, but %s accepts files of up to %d",
			at.path, content.Len(), p.Name, most)
	}
	l.plan.Files = append(l.plan.Files, File{at.path, content.Bytes()})
	return nil
}

// record makes the record of what is shown. What stays as it was keeps its entry, so that what was done aboard can
// still be told from it; what is written gets a new one, from reading the files as a card is read.
func (l *layout) record(ctx context.Context, b *stowing) error {
	shown, err := l.readBack(ctx)
	if err != nil {
		return err
	}
	was := len(b.there.Record) > 0
	for _, kind := range nav.Kinds {
		mine, at := kindsOf(l.entries, kind, func(e *entry) *identity.Thing { return &e.Thing })
		theirs, of := kindsOf(shown, kind, func(p *Present) *identity.Thing { return &p.Thing })
		m := identity.Match(mine, theirs, 1)
		for i, j := range m.First {
			e := &l.entries[at[i]]
			switch {
			case e.kept && b.there.Things[e.there].record >= 0:
				r := b.there.Record[b.there.Things[e.there].record]
				r.File = e.file
				l.plan.Things = append(l.plan.Things, r)
			case j < 0:
			case e.source >= 0:
				l.plan.Things = append(l.plan.Things, recorded(&shown[of[j]].Thing, shown[of[j]].File, &b.sources[e.source],
					b.source, e.part))
			case !was: // it was there before the first record
				r := recorded(&shown[of[j]].Thing, shown[of[j]].File, &shown[of[j]].Thing, "", 0)
				r.Source, r.Meant = Source{}, nil
				l.plan.Things = append(l.plan.Things, r)
			}
		}
	}
	return nil
}

// readBack reads the planned files as a card is read.
func (l *layout) readBack(ctx context.Context) (out []Present, err error) {
	seen := map[string]*format.Loaded{}
	for _, f := range l.plan.all() {
		name, _, _ := strings.Cut(l.parts[strings.ToUpper(f.Path)].format, ":")
		in, err := l.plan.formats.Load(format.FromBytes(ctx, f.Path, f.Content), name, false, &format.ReadOptions{})
		if err != nil {
			if l.plan.Profile.Table != nil {
				continue // a table that has no positions or no titles is not read by itself
			}
			return nil, fmt.Errorf("%s: the output can't be read back: %w", f.Path, err)
		}
		seen[f.Path] = in
	}
	for _, f := range l.plan.all() {
		if in := seen[f.Path]; in != nil {
			for _, t := range identity.All(in.Data) {
				out = append(out, Present{t, f.Path, -1})
			}
		}
	}
	return out, nil
}

// all lists the files that the unit will load.
func (p *Plan) all() []File {
	return append(p.Unchanged[:len(p.Unchanged):len(p.Unchanged)], p.Files...)
}
