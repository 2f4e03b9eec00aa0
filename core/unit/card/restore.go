package card

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
)

// Restored says what putting an archive back did.
type Restored struct {
	Written []string // files that were not as in the archive
	Same    int      // files that were
	Extra   []string // files that the archive of a whole card does not hold
	Removed bool     // the extra ones were archived and removed
	Archive string   // of what was replaced and removed
}

// Restore puts an archive back on a card: every file as it was, archived first where another is in its place. Of a
// whole card's archive what is extra on the card is archived and removed with replace, and otherwise left and told.
func Restore(ctx context.Context, card, from string, opt Options) (*Restored, error) {
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
	w := &writer{root: root, card: card, opt: opt}
	w.before, _ = readManifest(root)
	out := &Restored{}
	changed, need, err := w.compareTo(old, out)
	if err != nil {
		return nil, err
	}
	if len(changed) > 0 && !opt.Replace && !opt.DryRun {
		return nil, advice.About(advice.ReplaceCard, opt.Keep, "%s: %s is not as in the archive (%d of %d files)",
			card, changed[0], len(changed), len(old.names))
	}
	if opt.DryRun {
		out.Removed = opt.Replace && len(out.Extra) > 0
		return out, nil
	}
	defer w.clear()
	if free, ok := freeBytes(card); ok && free < need {
		return nil, fmt.Errorf("%s: the card is full: %d more bytes are needed, but %d are free; nothing "+
			"was written",
			card, need, free)
	}
	for _, name := range out.Written {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if err := w.unpack(old, name); err != nil {
			return nil, err
		}
	}
	gone := changed
	if opt.Replace {
		gone = slices.Concat(changed, out.Extra)
	}
	if len(gone) > 0 {
		if err = w.archive(ctx, gone, "card", replacedOnly); err != nil {
			return nil, err
		}
		out.Archive = w.archived
	}
	if err := w.place(); err != nil {
		return nil, err
	}
	if opt.Replace {
		for _, f := range out.Extra {
			if err := root.Remove(f); err != nil {
				return nil, fmt.Errorf("%s can't be removed: %s", filepath.Join(card, f), reason(err))
			}
		}
		out.Removed = len(out.Extra) > 0
	}
	return out, nil
}

// compareTo finds what is not as in the archive, which of that is there already, and how many bytes it needs.
func (w *writer) compareTo(old *archive, out *Restored) (changed []string, need int64, err error) {
	for _, name := range slices.Sorted(slices.Values(old.names)) {
		content, err := w.root.ReadFile(name)
		if err == nil && sumOf(content) == old.sum(name) {
			out.Same++
			continue
		}
		if err == nil {
			changed = append(changed, name)
		}
		need += int64(old.members[name].UncompressedSize64) + 4096
		out.Written = append(out.Written, name)
	}
	if old.zip.Comment != wholeCard {
		return changed, need, nil
	}
	all, err := list(w.root)
	if err != nil {
		return nil, 0, fmt.Errorf("%s: %s", w.card, reason(err))
	}
	for _, f := range all.Files {
		if old.members[f] == nil && !safefile.IsPart(path.Base(f)) {
			out.Extra = append(out.Extra, f)
		}
	}
	return changed, need, nil
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
