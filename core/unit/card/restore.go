package card

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
)

// Restored says what putting an archive back did.
type Restored struct {
	Written  []string // files that were not as in the archive
	Same     int      // files that were
	Gone     []string // files of the unit that came since, archived and removed
	Changed  []string // files of the unit that were changed since and that the archive does not hold
	Extra    []string // files that are not the unit's and not in the archive of a whole card, which stay
	Archive  string   // of what was replaced and removed
	Uncopied error    // why no copy of the record was kept off the card; nil where one was
}

// Restore makes a card what it was when an archive of it was made, byte for byte in all that its unit loads, the
// manifest too. What was changed and what came since is archived first, and goes with Replace alone; what is not the
// unit's stays. While it is unfinished the manifest says so, as that of a stow does.
func Restore(ctx context.Context, card, from string, opt Options) (*Restored, error) {
	if err := CheckFinished(card); err != nil {
		return nil, err
	}
	old, err := openArchive(from)
	if err != nil {
		return nil, err
	}
	defer old.Close()
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	now, _ := readManifest(root)
	r := &restoring{writer: &writer{root: root, card: card, opt: opt, before: now}, old: old}
	if r.was, err = old.before(); err != nil {
		return nil, err
	}
	out := &Restored{}
	if err := r.compare(out); err != nil {
		return nil, err
	}
	if away := slices.Concat(r.changed, out.Gone); len(away) > 0 && !opt.Replace && !opt.DryRun {
		return nil, advice.About(advice.ReplaceCard, opt.Keep, "%s: %s is not as in the archive (%d of %d files)",
			card, away[0], len(away), len(old.files())+len(out.Gone))
	}
	if opt.DryRun || len(out.Written)+len(out.Gone) == 0 && r.sameManifest() {
		return out, nil
	}
	return out, r.carryOut(ctx, out)
}

// restoring is the work of a restore.
type restoring struct {
	*writer
	old     *archive
	was     *before // what the card was; nil where the archive doesn't say
	changed []string
	same    []ManifestFile
	need    int64 // bytes of what is written
}

// profile is that of the unit whose card it is, now or before; nil where it is not known.
func (r *restoring) profile() *unit.Profile {
	if r.opt.Unit == nil {
		return nil
	}
	name := ""
	if m := r.manifestThen(); m != nil {
		name = m.Unit
	} else if r.before != nil {
		name = r.before.Unit
	}
	if name == "" {
		return nil
	}
	return r.opt.Unit(name)
}

// manifestThen is the manifest of the time before; nil where there was none.
func (r *restoring) manifestThen() *Manifest {
	if r.was == nil || r.was.manifest == nil {
		return nil
	}
	m, _ := parseManifest(r.was.manifest)
	return m
}

func (r *restoring) sameManifest() bool {
	there, err := r.root.ReadFile(ManifestName)
	return r.was == nil || errors.Is(err, fs.ErrNotExist) && r.was.manifest == nil ||
		err == nil && string(there) == string(r.was.manifest)
}

// compare finds what is not as it was.
func (r *restoring) compare(out *Restored) error {
	for _, name := range r.old.files() {
		content, err := r.root.ReadFile(name)
		sum := r.old.sum(name)
		if err == nil && sumOf(content) == sum {
			out.Same++
			r.same = append(r.same, ManifestFile{Path: name, Bytes: len(content), SHA256: sum, Replace: sum})
			continue
		}
		if err == nil {
			r.changed = append(r.changed, name)
		}
		r.need += int64(r.old.members[name].UncompressedSize64) + 4096
		out.Written = append(out.Written, name)
	}
	if r.was == nil {
		return nil
	}
	is, err := beforeOf(r.root, r.card, r.profile(), r.before)
	if err != nil {
		return err
	}
	then := map[string]string{}
	for _, f := range r.was.Loaded {
		then[f.Path] = f.SHA256
	}
	now := map[string]string{}
	for _, f := range is.Loaded {
		now[f.Path] = f.SHA256
		if _, known := then[f.Path]; !known {
			out.Gone = append(out.Gone, f.Path)
		}
	}
	for _, f := range r.was.Loaded {
		if r.old.members[f.Path] == nil && now[f.Path] != f.SHA256 {
			out.Changed = append(out.Changed, f.Path)
		}
	}
	if r.old.zip.Comment != wholeCard {
		return nil
	}
	all, err := list(r.root)
	if err != nil {
		return fmt.Errorf("%s: %s", r.card, reason(err))
	}
	for _, f := range all.Files {
		if r.old.members[f] == nil && !slices.Contains(out.Gone, f) && f != ManifestName && !safefile.IsPart(path.Base(f)) {
			out.Extra = append(out.Extra, f)
		}
	}
	return nil
}

// carryOut does it: all files are written beside their names, what goes is archived, the manifest says that it is
// unfinished, and then the files get their names.
func (r *restoring) carryOut(ctx context.Context, out *Restored) error {
	defer r.clear()
	if free, ok := freeBytes(r.card); ok && free < r.need {
		return fmt.Errorf("%s: the card is full: %d more bytes are needed, but %d are free; nothing was written",
			r.card, r.need, free)
	}
	m := &Manifest{Before: r.before, After: new("")}
	if then := r.manifestThen(); then != nil {
		m.Unit, m.Version = then.Unit, then.Version
	}
	if r.was == nil { // an archive of files alone
		if text, err := r.root.ReadFile(ManifestName); err == nil {
			*m.After = string(text)
		}
	} else {
		*m.After = string(r.was.manifest)
	}
	for _, name := range out.Written {
		if err := ctx.Err(); err != nil {
			return err
		}
		r.opt.step("write " + name)
		if err := r.unpack(r.old, name); err != nil {
			return err
		}
	}
	if away := slices.Concat(r.changed, out.Gone); len(away) > 0 {
		r.opt.step("archive")
		is, err := beforeOf(r.root, r.card, r.profile(), r.before)
		if err == nil {
			err = r.archive(ctx, away, "card", replacedOnly, is)
		}
		if err != nil {
			return err
		}
		out.Archive, m.Archive = r.archived, r.archived
	}
	for i, name := range out.Written {
		m.Files = append(m.Files, ManifestFile{Path: name, Bytes: int(r.old.members[name].UncompressedSize64),
			SHA256: r.old.sum(name), Part: r.pending[i].Part(), Replace: r.sums[name]})
	}
	m.Files = append(m.Files, r.same...)
	for _, name := range out.Gone {
		m.Gone = append(m.Gone, ManifestFile{Path: name, SHA256: r.sums[name]})
	}
	if err := ctx.Err(); err != nil { // from here on it is carried through
		return err
	}
	defer safefile.Carry()()
	r.opt.step("manifest")
	if err := r.manifest(m); err != nil {
		return err
	}
	if err := r.place(); err != nil {
		return err
	}
	if err := r.removeGone(m); err != nil {
		return r.takeBack(err)
	}
	r.opt.step("finish")
	if err := r.finish(m); err != nil {
		return err
	}
	if then := r.manifestThen(); then != nil {
		out.Uncopied = saveCopy(r.opt.Keep, then, r.before)
	}
	return nil
}

// unpack writes a file of the archive beside its name.
func (w *writer) unpack(old *archive, name string) error {
	dir := path.Dir(name)
	for at := dir; at != "."; at = path.Dir(at) {
		if _, err := w.root.Lstat(at); errors.Is(err, fs.ErrNotExist) {
			w.made = append(w.made, at)
		}
	}
	if err := w.root.MkdirAll(dir, 0o777); err != nil {
		return w.fault(dir, err)
	}
	p, err := safefile.CreateIn(w.root, name)
	if err != nil {
		return w.fault(name, err)
	}
	w.pending = append(w.pending, p)
	if err := old.copyTo(p, name); err != nil {
		return err
	}
	if err := p.Flush(); err != nil {
		return w.fault(name, err)
	}
	return nil
}
