package unit

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/safefile"
)

// What an archive of a card holds, said in its comment.
const (
	replacedOnly = "gyrolith: files of a card that were replaced"
	wholeCard    = "gyrolith: a whole card"
)

// archive keeps files of the card in one zip archive off it.
func (w *cardWriter) archive(paths []string, unit, comment string) (string, error) {
	card, err1 := filepath.Abs(w.card)
	keep, err2 := filepath.Abs(w.opt.Keep)
	if err := errors.Join(err1, err2); err != nil {
		return "", err
	}
	if inside, err := filepath.Rel(card, keep); err == nil && filepath.IsLocal(inside) {
		return "", fmt.Errorf("%s: is on the card itself; --keep names a folder elsewhere", w.opt.Keep)
	}
	if err := os.MkdirAll(keep, 0o777); err != nil {
		return "", fmt.Errorf("%s: the archive's folder can't be made: %w", w.opt.Keep, err)
	}
	stamp := w.opt.Now.UTC().Format("2006-01-02-150405")
	for n := 1; ; n++ {
		name := fmt.Sprintf("%s-%s.zip", unit, stamp)
		if n > 1 {
			name = fmt.Sprintf("%s-%s-%d.zip", unit, stamp, n)
		}
		to := filepath.Join(keep, name)
		_, err := safefile.WriteAll(to, false, func(out io.Writer) error { return w.pack(out, paths, comment) })
		if errors.Is(err, safefile.ErrExists) {
			continue
		}
		return to, err
	}
}

func (w *cardWriter) pack(out io.Writer, paths []string, comment string) error {
	z := zip.NewWriter(out)
	for _, p := range paths {
		content, err := w.root.ReadFile(p)
		if err != nil {
			return fmt.Errorf("%s can't be read, so that it could not be archived: %s", filepath.Join(w.card, p), cardReason(err))
		}
		w.old[p] = content
		header := &zip.FileHeader{Name: p, Method: zip.Deflate}
		if info, err := w.root.Stat(p); err == nil {
			header.Modified = info.ModTime()
		}
		f, err := z.CreateHeader(header)
		if err != nil {
			return err
		}
		if _, err := f.Write(content); err != nil {
			return err
		}
	}
	if err := z.SetComment(comment); err != nil {
		return err
	}
	return z.Close()
}

// cardFiles lists all files of a card.
func cardFiles(root *os.Root) (out []string, err error) {
	total := int64(0)
	err = fs.WalkDir(root.FS(), ".", func(path string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if e.Type().IsRegular() {
			if info, err := e.Info(); err == nil {
				total += info.Size()
			}
			out = append(out, path)
		}
		if total > mostCard {
			return fmt.Errorf("the card holds more than %d bytes", int64(mostCard))
		}
		return nil
	})
	return
}

// CardFiles lists all files of a card.
func CardFiles(card string) ([]string, error) {
	root, err := openCard(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	files, err := cardFiles(root)
	if err != nil {
		return nil, fmt.Errorf("%s: %s", card, cardReason(err))
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("%s: the card is empty; there is nothing to archive", card)
	}
	return files, nil
}

// Unstow archives a whole card.
func Unstow(card, archive string, replace bool) (files []string, kept string, err error) {
	if files, err = CardFiles(card); err != nil {
		return nil, "", err
	}
	root, err := openCard(card)
	if err != nil {
		return nil, "", err
	}
	defer root.Close()
	w := &cardWriter{root: root, card: card, old: map[string][]byte{}}
	kept, err = safefile.WriteAll(archive, replace, func(out io.Writer) error {
		err := w.pack(out, files, wholeCard)
		w.old = nil
		return err
	})
	return files, kept, err
}

// Restored says what putting an archive back did.
type Restored struct {
	Written []string // files that were not as in the archive
	Same    int      // files that were
	Extra   []string // files that the archive of a whole card does not hold
	Removed bool     // the extra ones were archived and removed
	Archive string   // of what was replaced and removed
}

// Restore puts an archive back on a card: every file as it was, archived first where another is in its place. Of a whole
// card's archive what is extra on the card is archived and removed with replace, and otherwise left and told.
func Restore(card, archive string, opt StowOptions) (*Restored, error) {
	old, err := unpack(archive)
	if err != nil {
		return nil, err
	}
	z, err := zip.OpenReader(archive)
	if err != nil {
		return nil, err
	}
	whole := z.Comment == wholeCard
	z.Close()
	root, err := openCard(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	out := &Restored{}
	var changed, files []string
	plan := &Plan{Profile: &Profile{Name: "card"}}
	for _, path := range slices.Sorted(maps.Keys(old)) {
		content, err := root.ReadFile(path)
		if err == nil && sumOf(content) == sumOf(old[path]) {
			out.Same++
			continue
		}
		if err == nil {
			changed = append(changed, path)
		}
		plan.Files = append(plan.Files, CardFile{path, old[path]})
		out.Written = append(out.Written, path)
	}
	if whole {
		if files, err = cardFiles(root); err != nil {
			return nil, fmt.Errorf("%s: %s", card, cardReason(err))
		}
		for _, f := range files {
			if _, there := old[f]; !there && !strings.HasPrefix(filepath.Base(f), ".gyrolith-") {
				out.Extra = append(out.Extra, f)
			}
		}
	}
	if len(changed) > 0 && !opt.Replace && !opt.DryRun {
		return nil, fmt.Errorf("%s: %s is not as in the archive (%d of %d files); --replace archives such files in %s and puts the old ones in their place", card, changed[0], len(changed), len(old), opt.Keep)
	}
	if opt.DryRun {
		out.Removed = opt.Replace && len(out.Extra) > 0
		return out, nil
	}
	w := &cardWriter{root: root, card: card, opt: opt, old: map[string][]byte{}}
	defer w.clear()
	if err := w.room(plan); err != nil {
		return nil, err
	}
	for i := range plan.Files {
		if err := w.prepare(i, &plan.Files[i]); err != nil {
			return nil, err
		}
	}
	gone := changed
	if opt.Replace {
		gone = append(slices.Clone(changed), out.Extra...)
	}
	if len(gone) > 0 {
		if out.Archive, err = w.archive(gone, "card", replacedOnly); err != nil {
			return nil, err
		}
	}
	before, _ := readManifest(root)
	if err := w.place(plan.Files, before); err != nil {
		return nil, err
	}
	if opt.Replace {
		for _, f := range out.Extra {
			if err := root.Remove(f); err != nil {
				return nil, fmt.Errorf("%s can't be removed: %s", filepath.Join(card, f), cardReason(err))
			}
		}
		out.Removed = len(out.Extra) > 0
	}
	return out, nil
}
