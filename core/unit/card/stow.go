package card

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
)

// Options say how a card is written.
type Options struct {
	Replace bool
	DryRun  bool // of Restore: says what would be done, and does nothing
	// Unit finds the profile of a unit, for Restore; nil, and none, is unknown.
	Unit func(name string) *unit.Profile
	Keep string       // the folder, off the card, for an archive of what is replaced
	Now  time.Time    // for the archive's name
	Step func(string) // is called before every step, so that tests can break off there; nil for none
}

func (o *Options) step(name string) {
	if o.Step != nil {
		o.Step(name)
	}
}

// Stowed says what became of a plan.
type Stowed struct {
	Before   Contents // what was on the card
	Replaced []string // paths on the card
	Archive  string   // where the replaced files are
	Uncopied error    // why no copy of the record was kept off the card; nil where one was
	Proof
}

// Stow writes the plan on a card. All files are written beside their names and flushed, what they replace is archived
// off the card, and only then do they get their names, one after the other; a manifest says until the end that it is
// unfinished. When it fails, or the context ends before files get their names, the card is as it was; when the program
// dies in the midst of it, Finish or Undo bring the card to one of the two.
func (p *Plan) Stow(ctx context.Context, card string, opt Options) (*Stowed, error) {
	if err := CheckFinished(card); err != nil {
		return nil, err
	}
	existing, err := p.Existing(card)
	if err != nil {
		return nil, err
	}
	if len(existing) > 0 && !opt.Replace {
		return nil, advice.About(advice.ReplaceCard, opt.Keep, "%s: the card already has %s (%d of %d files)",
			card, existing[0], len(existing), len(p.Files))
	}
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	before, err := readManifest(root)
	if err != nil {
		before = nil // a damaged one is written anew
	}
	w := &writer{root: root, card: card, opt: opt, before: before}
	defer w.clear()
	w.sweep(p.Profile.Folders())
	if err := w.room(p.Files); err != nil {
		return nil, err
	}
	if before != nil && before.Unit != p.Profile.Name {
		before.Things = nil // of another unit
	}
	out := &Stowed{Before: contents(root, card), Replaced: existing}
	for i := range p.Files {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		opt.step("write " + p.Files[i].Path)
		if err := w.prepare(&p.Files[i]); err != nil {
			return nil, err
		}
	}
	if away := slices.Concat(existing, p.Gone); len(away) > 0 {
		opt.step("archive")
		was, err := beforeOf(root, card, p.Profile, before)
		if err != nil {
			return nil, err
		}
		if err = w.archive(ctx, away, p.Profile.Name, replacedOnly, was); err != nil {
			return nil, err
		}
		out.Archive = filepath.Join(opt.Keep, filepath.Base(w.archived))
	}
	m := p.manifest()
	m.Archive, m.Before = w.archived, before
	for i := range m.Files {
		if f := &m.Files[i]; i < len(w.pending) {
			f.Part, f.Replace = w.pending[i].Part(), w.sums[f.Path]
		} else {
			f.Replace = f.SHA256 // it stays as it is
		}
	}
	for _, path := range p.Gone {
		m.Gone = append(m.Gone, ManifestFile{Path: path, SHA256: w.sums[path]})
	}
	if err := ctx.Err(); err != nil { // from here on it is carried through
		return nil, err
	}
	defer safefile.Carry()()
	opt.step("manifest")
	if err := w.manifest(m); err != nil {
		return nil, err
	}
	if err := w.place(); err != nil {
		return nil, err
	}
	if err := w.removeGone(m); err != nil {
		return nil, w.takeBack(err)
	}
	opt.step("finish")
	if err := w.finish(m); err != nil {
		return nil, err
	}
	out.Uncopied = saveCopy(opt.Keep, m, before)
	return out, p.readBack(ctx, card, root, &out.Proof)
}

// removeGone takes files off the card that are archived.
func (w *writer) removeGone(m *Manifest) error {
	for _, f := range m.Gone {
		w.opt.step("remove " + f.Path)
		content, err := w.root.ReadFile(f.Path)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			continue
		case err == nil && sumOf(content) != f.SHA256:
			err = errors.New("it was changed meanwhile")
		case err == nil:
			err = w.root.Remove(f.Path)
		}
		if err != nil {
			return fmt.Errorf("%s can't be removed: %s", filepath.Join(w.card, f.Path), reason(err))
		}
		w.placed = append(w.placed, f.Path)
	}
	return nil
}

// manifest lists the files of the plan.
func (p *Plan) manifest() *Manifest {
	m := &Manifest{Unit: p.Profile.Name, Version: p.Profile.Version, Things: p.Things}
	for _, f := range slices.Concat(p.Files, p.Unchanged) {
		m.Files = append(m.Files, ManifestFile{Path: f.Path, Bytes: len(f.Content), SHA256: sumOf(f.Content)})
	}
	return m
}

// AllFiles gives all files of a card that holds nothing but the plan, its finished manifest among them.
func (p *Plan) AllFiles() ([]File, error) {
	m := p.manifest()
	m.Finished = true
	text, err := m.text()
	if err != nil {
		return nil, err
	}
	return append(p.Files[:len(p.Files):len(p.Files)], File{ManifestName, text}), nil
}

// writer writes the files of one stow.
type writer struct {
	root     medium
	card     string
	opt      Options
	before   *Manifest           // what was there before; nil for none
	pending  []*safefile.Pending // files that have not their names yet
	made     []string            // folders that were not there
	placed   []string            // files that have their names
	archived string              // the archive of what was there
	sums     map[string]string   // of the files that were archived
}

func (w *writer) fault(path string, err error) error {
	return fmt.Errorf("%s can't be written: %s; the card is as it was", filepath.Join(w.card, path), reason(err))
}

// sweep removes unfinished files that an earlier stow left when the program died before it changed anything.
func (w *writer) sweep(folders []string) {
	for _, dir := range append(folders, ".") {
		entries, err := fs.ReadDir(w.root.FS(), dir)
		if err != nil {
			continue
		}
		for _, e := range entries {
			if safefile.IsPart(e.Name()) && e.Type().IsRegular() {
				w.root.Remove(path.Join(dir, e.Name()))
			}
		}
	}
}

// room says whether the card has room for all files beside what is there.
func (w *writer) room(files []File) error {
	need := int64(4 << 10) // for the manifest
	for _, f := range files {
		need += int64(len(f.Content)) + 4096
	}
	if free, ok := freeBytes(w.card); ok && free < need {
		return fmt.Errorf("%s: the card is full: %d more bytes are needed, but %d are free; nothing "+
			"was written",
			w.card, need, free)
	}
	return nil
}

// prepare writes a file beside its name.
func (w *writer) prepare(f *File) error {
	dir := path.Dir(f.Path)
	for at := dir; at != "."; at = path.Dir(at) {
		if _, err := w.root.Lstat(at); errors.Is(err, fs.ErrNotExist) {
			w.made = append(w.made, at)
		}
	}
	if err := w.root.MkdirAll(dir, 0o777); err != nil {
		return w.fault(dir, err)
	}
	p, err := safefile.CreateIn(w.root, f.Path)
	if err != nil {
		return w.fault(f.Path, err)
	}
	w.pending = append(w.pending, p)
	if _, err = p.Write(f.Content); err == nil {
		err = p.Flush()
	}
	if err != nil {
		return w.fault(f.Path, err)
	}
	return nil
}

// write writes a file, whole or not at all.
func (w *writer) write(name string, content []byte) error {
	p, err := safefile.CreateIn(w.root, name)
	if err != nil {
		return err
	}
	defer p.Discard()
	if _, err := p.Write(content); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}

func (w *writer) manifest(m *Manifest) error {
	text, err := m.text()
	if err != nil {
		return err
	}
	if err := w.write(ManifestName, text); err != nil {
		return w.fault(ManifestName, err)
	}
	return nil
}

// place gives the files their names, all of them or none.
func (w *writer) place() error {
	for _, p := range w.pending {
		w.opt.step("place " + p.Path())
		if _, err := p.Place(); err != nil {
			return w.takeBack(w.fault(p.Path(), err))
		}
		w.placed = append(w.placed, p.Path())
	}
	w.pending, w.made = nil, nil
	return nil
}

// takeBack restores what was there, after a file could not get its name.
func (w *writer) takeBack(failed error) error {
	old, err := openArchive(w.archived)
	if err != nil {
		return advice.About(advice.UndoCard, w.card, "%w; but what was there could not be restored (%v)", failed, err)
	}
	defer old.Close()
	for _, p := range w.placed {
		var err error
		if _, had := w.sums[p]; had {
			err = w.fromArchive(old, p)
		} else {
			err = w.root.Remove(p)
		}
		if err != nil {
			return advice.About(advice.UndoCard, w.card, "%w; but %s could not be restored (%s)", failed, p,
				reason(err))
		}
	}
	return errors.Join(failed, w.manifestBefore())
}

// manifestBefore brings the manifest to what it was before the stow.
func (w *writer) manifestBefore() error {
	if w.before != nil {
		return w.manifest(w.before)
	}
	return w.noManifest()
}

// finish says in the manifest that all is in place.
func (w *writer) finish(m *Manifest) error {
	if err := w.lastManifest(m); err != nil {
		return advice.About(advice.FinishCard, w.card,
			"%s: all files are in place, but the manifest could not be completed: %w",
			w.card, err)
	}
	return nil
}

// lastManifest writes the manifest of what is complete: of a stow its own, of a restore that of the time before.
func (w *writer) lastManifest(m *Manifest) error {
	m.Finished, m.Before, m.Gone = true, nil, nil
	for i := range m.Files {
		m.Files[i].Part, m.Files[i].Replace = "", ""
	}
	switch {
	case m.After == nil:
		return w.manifest(m)
	case *m.After == "":
		return w.noManifest()
	}
	return w.write(ManifestName, []byte(*m.After))
}

// noManifest takes the manifest off the card.
func (w *writer) noManifest() error {
	if err := w.root.Remove(ManifestName); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return w.fault(ManifestName, err)
	}
	return nil
}

// clear removes what an unfinished stow has made.
func (w *writer) clear() {
	for _, p := range w.pending {
		p.Discard()
	}
	for _, dir := range w.made {
		w.root.Remove(dir) // fails, as it should, for one that is not empty
	}
}
