package unit

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"gyrolith/core/compare"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
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
	names := map[string]*namer{}
	add := func(kind nav.Kind, name string, part *nav.Dataset) error {
		k := p.Of(kind)
		f := all.Formats.ByName(k.Format)
		if f == nil || f.Write == nil {
			return fmt.Errorf("the profile of %s wants the format %q, which is not written", p.Name, k.Format)
		}
		if names[k.Folder] == nil {
			names[k.Folder] = newNamer(Text{Length: fileNameLength})
		}
		stem := strings.NewReplacer("{name}", fileName(name), "{source}", fileName(source)).Replace(k.File)
		ext := path.Ext(stem)
		stem = names[k.Folder].fit(strings.TrimSuffix(stem, ext), "unnamed")
		var content bytes.Buffer
		// The writer's own ledger repeats what fitting said already.
		if _, err := f.Write(&content, part, &format.WriteOptions{}); err != nil {
			return err
		}
		plan.Files = append(plan.Files, CardFile{path.Join(k.Folder, stem+ext), content.Bytes()})
		return nil
	}
	m := plan.Meant
	each := func(kind nav.Kind, n int, name func(int) string, part func(from, to int) *nav.Dataset) error {
		switch {
		case n == 0:
			return nil
		case !strings.Contains(p.Of(kind).File, "{name}"):
			return add(kind, "", part(0, n))
		}
		for i := range n {
			if err := add(kind, name(i), part(i, i+1)); err != nil {
				return err
			}
		}
		return nil
	}
	err := errors.Join(
		each(nav.Waypoints, len(m.Waypoints), func(i int) string { return m.Waypoints[i].Name },
			func(i, j int) *nav.Dataset { return &nav.Dataset{Waypoints: m.Waypoints[i:j]} }),
		each(nav.Routes, len(m.Routes), func(i int) string { return m.Routes[i].Name },
			func(i, j int) *nav.Dataset { return &nav.Dataset{Routes: m.Routes[i:j]} }),
		each(nav.Tracks, len(m.Tracks), func(i int) string { return m.Tracks[i].Name },
			func(i, j int) *nav.Dataset { return &nav.Dataset{Tracks: m.Tracks[i:j]} }),
		each(nav.Areas, len(m.Areas), func(i int) string { return m.Areas[i].Name },
			func(i, j int) *nav.Dataset { return &nav.Dataset{Areas: m.Areas[i:j]} }))
	return plan, err
}

// StowOptions say how a card is written.
type StowOptions struct {
	Replace bool
	Keep    string    // the folder, off the card, for an archive of what is replaced
	Now     time.Time // for the archive's name
}

// Stowed says what became of a plan.
type Stowed struct {
	Replaced []string // paths on the card
	Archive  string   // where the replaced files are
	Shown    *standin.Shown
	Result   compare.Result // of what was meant with what the unit shows
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

// Stow writes the plan on a card. All files are written beside their names and flushed, what they replace is
// archived off the card, and only then do they get their names; when that fails, what was there is put back.
func (p *Plan) Stow(card string, opt StowOptions) (*Stowed, error) {
	existing, err := p.Existing(card)
	if err != nil {
		return nil, err
	}
	if len(existing) > 0 && !opt.Replace {
		return nil, fmt.Errorf("%s: the card holds %s already (%d of %d files); --replace writes them and archives the old ones in %s",
			card, existing[0], len(existing), len(p.Files), opt.Keep)
	}
	root, err := openCard(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	w := &cardWriter{root: root, card: card, old: map[string][]byte{}}
	defer w.clear()
	for i := range p.Files {
		if err := w.prepare(i, &p.Files[i]); err != nil {
			return nil, err
		}
	}
	out := &Stowed{Replaced: existing}
	if len(existing) > 0 {
		if out.Archive, err = w.archive(existing, p.Profile.Name, opt); err != nil {
			return nil, err
		}
	}
	if err := w.place(p.Files); err != nil {
		return nil, err
	}
	return out, p.readBack(card, out)
}

// cardWriter writes the files of one stow.
type cardWriter struct {
	root   *os.Root
	card   string
	parts  []string          // unfinished files, as long as they have not their names
	made   []string          // folders that were not there
	placed []string          // files that have their names
	old    map[string][]byte // what was there before
}

func (w *cardWriter) fault(path string, err error) error {
	var pe *fs.PathError
	if errors.As(err, &pe) {
		err = pe.Err
	}
	return fmt.Errorf("%s can't be written (%v); the card is as it was", filepath.Join(w.card, path), err)
}

func (w *cardWriter) prepare(i int, f *CardFile) error {
	dir := path.Dir(f.Path)
	for at := dir; at != "."; at = path.Dir(at) {
		if _, err := w.root.Lstat(at); errors.Is(err, fs.ErrNotExist) {
			w.made = append(w.made, at)
		}
	}
	if err := w.root.MkdirAll(dir, 0o777); err != nil {
		return w.fault(dir, err)
	}
	part := path.Join(dir, fmt.Sprintf(".gyrolith-%d.part", i))
	file, err := w.root.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o666)
	if err != nil {
		return w.fault(f.Path, err)
	}
	w.parts = append(w.parts, part)
	_, err = file.Write(f.Content)
	if serr := file.Sync(); err == nil && !errors.Is(serr, errors.ErrUnsupported) {
		err = serr
	}
	if cerr := file.Close(); err == nil {
		err = cerr
	}
	if err != nil {
		return w.fault(f.Path, err)
	}
	return nil
}

// archive keeps the files that will be replaced in one zip archive off the card.
func (w *cardWriter) archive(paths []string, unit string, opt StowOptions) (string, error) {
	if inside, err := filepath.Rel(w.card, opt.Keep); err == nil && filepath.IsLocal(inside) {
		return "", fmt.Errorf("%s: is on the card itself; --keep names a folder elsewhere", opt.Keep)
	}
	if err := os.MkdirAll(opt.Keep, 0o777); err != nil {
		return "", fmt.Errorf("%s: the archive's folder can't be made: %w", opt.Keep, err)
	}
	for n := 1; ; n++ {
		name := fmt.Sprintf("%s-%s.zip", unit, opt.Now.UTC().Format("2006-01-02-150405"))
		if n > 1 {
			name = fmt.Sprintf("%s-%s-%d.zip", unit, opt.Now.UTC().Format("2006-01-02-150405"), n)
		}
		to := filepath.Join(opt.Keep, name)
		_, err := safefile.WriteAll(to, false, func(out io.Writer) error { return w.pack(out, paths) })
		if errors.Is(err, safefile.ErrExists) {
			continue
		}
		return to, err
	}
}

func (w *cardWriter) pack(out io.Writer, paths []string) error {
	z := zip.NewWriter(out)
	for _, p := range paths {
		content, err := w.root.ReadFile(p)
		if err != nil {
			return fmt.Errorf("%s can't be read, so that it could not be archived: %w", filepath.Join(w.card, p), err)
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
	return z.Close()
}

// place gives the files their names, all of them or none.
func (w *cardWriter) place(files []CardFile) error {
	for i, f := range files {
		if err := w.root.Rename(w.parts[i], f.Path); err != nil {
			failed := w.fault(f.Path, err)
			for _, p := range w.placed {
				if old, had := w.old[p]; had {
					err = w.root.WriteFile(p, old, 0o666)
				} else {
					err = w.root.Remove(p)
				}
				if err != nil {
					failed = fmt.Errorf("%w; but %s could not be put back as it was (%v)", failed, p, err)
				}
			}
			return failed
		}
		w.placed = append(w.placed, f.Path)
	}
	for _, f := range files {
		safefile.SyncDir(filepath.Join(w.card, filepath.FromSlash(path.Dir(f.Path))))
	}
	w.parts, w.made = nil, nil
	return nil
}

// clear removes what an unfinished stow has made.
func (w *cardWriter) clear() {
	for _, p := range w.parts {
		w.root.Remove(p)
	}
	for _, dir := range w.made {
		w.root.Remove(dir) // fails, as it should, for one that is not empty
	}
}

// readBack reads the card as the unit would and compares what it shows with what was meant.
func (p *Plan) readBack(card string, out *Stowed) error {
	stand := standin.Units[p.Profile.Name]
	if stand == nil {
		return nil
	}
	shown, err := stand(os.DirFS(card))
	if err != nil {
		return fmt.Errorf("%s: the card was written, but the unit would not take it: %w", card, err)
	}
	out.Shown = shown
	out.Result = compare.Compare(p.Meant, shown.Data, compare.Options{Within: p.Profile.Resolution * metresPerDegree})
	// What else is on the card was there before.
	kept := out.Result.Differences[:0]
	for _, d := range out.Result.Differences {
		if d.What != "added" {
			kept = append(kept, d)
		}
	}
	out.Result.Differences = kept
	return nil
}

const metresPerDegree = 111320

// Boot shows what a unit makes of a card.
func Boot(p *Profile, card string) (*standin.Shown, error) {
	stand := standin.Units[p.Name]
	if stand == nil {
		return nil, fmt.Errorf("no stand-in reads the cards of %s", p.Name)
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
