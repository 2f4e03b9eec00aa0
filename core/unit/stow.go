package unit

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"gyrolith/core/compare"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/core/unit/standin"
)

// StowOptions say how a card is written.
type StowOptions struct {
	Replace bool
	DryRun  bool         // of Restore: says what would be done, and does nothing
	Keep    string       // the folder, off the card, for an archive of what is replaced
	Now     time.Time    // for the archive's name
	Step    func(string) // is told of every step before it is done, so that tests can break off there; nil for none
}

func (o *StowOptions) step(name string) {
	if o.Step != nil {
		o.Step(name)
	}
}

// Stowed says what became of a plan.
type Stowed struct {
	Before    Contents   // what was on the card
	Replaced  []string   // paths on the card
	Archive   string     // where the replaced files are
	Leftovers []Leftover // files that were there before, stay, and may be loaded
	OnCard    [4]int     // items of each kind in the files that were written, as the project's own readers find them
	Shown     *standin.Shown
	Result    compare.Result // of what was meant with what the unit shows
}

// Contents is what a card holds in short.
type Contents struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
	Free  int64 `json:"free_bytes"` // room that is left; below zero where that can't be told
}

// contents looks at a card before it is written.
func contents(root *os.Root, card string) (c Contents) {
	fs.WalkDir(root.FS(), ".", func(_ string, e fs.DirEntry, err error) error {
		if err == nil && e.Type().IsRegular() {
			if info, err := e.Info(); err == nil {
				c.Files++
				c.Bytes += info.Size()
			}
		}
		return nil
	})
	c.Free = -1
	if free, ok := freeBytes(card); ok {
		c.Free = free
	}
	return
}

// folders lists the folders of a card that the unit loads.
func (p *Profile) folders() (out []string) {
	for _, kind := range nav.Kinds {
		k := p.Of(kind)
		dir := k.Folder
		if dir == "" {
			dir = "."
		}
		if k.Format != "" && !slices.Contains(out, dir) {
			out = append(out, dir)
		}
	}
	return
}

// Stow writes the plan on a card. All files are written beside their names and flushed, what they replace is archived off
// the card, and only then do they get their names, one after the other; a manifest says until the end that it is
// unfinished. When it fails, what was there is put back; when the program dies in the midst of it, Finish or Undo
// bring the card to one of the two.
func (p *Plan) Stow(card string, opt StowOptions) (*Stowed, error) {
	if err := CheckFinished(card); err != nil {
		return nil, err
	}
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
	before, err := readManifest(root)
	if err != nil {
		before = nil // a damaged one is written anew
	}
	w := &cardWriter{root: root, card: card, opt: opt, old: map[string][]byte{}}
	defer w.clear()
	w.sweep(p.Profile.folders())
	if err := w.room(p); err != nil {
		return nil, err
	}
	out := &Stowed{Before: contents(root, card), Replaced: existing, Leftovers: leftovers(root, p, before)}
	for i := range p.Files {
		opt.step("write " + p.Files[i].Path)
		if err := w.prepare(i, &p.Files[i]); err != nil {
			return nil, err
		}
	}
	archive := ""
	if len(existing) > 0 {
		opt.step("archive")
		if archive, err = w.archive(existing, p.Profile.Name, replacedOnly); err != nil {
			return nil, err
		}
		out.Archive = filepath.Join(opt.Keep, filepath.Base(archive))
	}
	m := &Manifest{Unit: p.Profile.Name, Version: p.Profile.Version, Archive: archive}
	for i, f := range p.Files {
		entry := ManifestFile{Path: f.Path, Bytes: len(f.Content), SHA256: sumOf(f.Content), Part: w.parts[i]}
		if old, had := w.old[f.Path]; had {
			entry.Replace = sumOf(old)
		}
		m.Files = append(m.Files, entry)
	}
	opt.step("manifest")
	if err := w.manifest(m); err != nil {
		return nil, err
	}
	if err := w.place(p.Files, before); err != nil {
		return nil, err
	}
	opt.step("finish")
	if err := w.finish(m); err != nil {
		return nil, err
	}
	return out, p.readBack(card, root, out)
}

// cardWriter writes the files of one stow.
type cardWriter struct {
	root   *os.Root
	card   string
	opt    StowOptions
	parts  []string          // unfinished files, as long as they have not their names
	made   []string          // folders that were not there
	placed []string          // files that have their names
	old    map[string][]byte // what was there before
}

// cardReason words what a card's file system says.
func cardReason(err error) string {
	var pe *fs.PathError
	var le *os.LinkError
	switch {
	case errors.As(err, &pe):
		err = pe.Err
	case errors.As(err, &le):
		err = le.Err
	}
	switch {
	case errors.Is(err, syscall.ENOSPC):
		return "the card is full"
	case errors.Is(err, syscall.EROFS):
		return "the card is read-only: is its lock switched on?"
	case errors.Is(err, syscall.ENAMETOOLONG), errors.Is(err, syscall.EINVAL):
		return "the card's file system can't hold this name"
	case errors.Is(err, syscall.EIO), errors.Is(err, syscall.ENXIO), errors.Is(err, syscall.ENODEV):
		return "the card does not answer: was it taken out?"
	case errors.Is(err, fs.ErrNotExist):
		return "its folder is gone: was the card taken out?"
	case errors.Is(err, fs.ErrPermission):
		return "the permissions of the card forbid it"
	}
	return err.Error()
}

func (w *cardWriter) fault(path string, err error) error {
	return fmt.Errorf("%s can't be written: %s; the card is as it was", filepath.Join(w.card, path), cardReason(err))
}

// sweep removes unfinished files that an earlier stow left when the program died before it changed anything.
func (w *cardWriter) sweep(folders []string) {
	for _, dir := range append(folders, ".") {
		entries, err := fs.ReadDir(w.root.FS(), dir)
		if err != nil {
			continue
		}
		for _, e := range entries {
			if ok, _ := path.Match(partPattern, e.Name()); ok && !e.IsDir() {
				w.root.Remove(path.Join(dir, e.Name()))
			}
		}
	}
}

const partPattern = ".gyrolith-*.part"

// room says whether the card has room for all files beside what is there, and is writable.
func (w *cardWriter) room(p *Plan) error {
	need := int64(64 << 10) // for folders and the manifest
	for _, f := range p.Files {
		need += int64(len(f.Content)) + 4096
	}
	if free, ok := freeBytes(w.card); ok && free < need-60<<10 {
		return fmt.Errorf("%s: the card is full: %d bytes are needed beside what is there, and %d are free; nothing was written", w.card, need-60<<10, free)
	}
	return nil
}

func (w *cardWriter) write(name string, content []byte) error {
	file, err := w.root.OpenFile(name, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o666)
	if err != nil {
		return err
	}
	_, err = file.Write(content)
	if serr := file.Sync(); err == nil && !errors.Is(serr, errors.ErrUnsupported) && !errors.Is(serr, syscall.EINVAL) {
		err = serr
	}
	if cerr := file.Close(); err == nil {
		err = cerr
	}
	return err
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
	w.parts = append(w.parts, part)
	if err := w.write(part, f.Content); err != nil {
		return w.fault(f.Path, err)
	}
	return nil
}

// manifest writes the manifest, whole or not at all.
func (w *cardWriter) manifest(m *Manifest) error {
	text, err := json.MarshalIndent(m, "", " ")
	if err != nil {
		return err
	}
	const part = ".gyrolith-manifest.part"
	if err := w.write(part, append(text, '\n')); err != nil {
		w.root.Remove(part)
		return w.fault(ManifestName, err)
	}
	if err := w.root.Rename(part, ManifestName); err != nil {
		w.root.Remove(part)
		return w.fault(ManifestName, err)
	}
	safefile.SyncDir(w.card)
	return nil
}

// place gives the files their names, all of them or none.
func (w *cardWriter) place(files []CardFile, before *Manifest) error {
	for i, f := range files {
		w.opt.step("place " + f.Path)
		if err := w.root.Rename(w.parts[i], f.Path); err != nil {
			return w.takeBack(w.fault(f.Path, err), before)
		}
		w.placed = append(w.placed, f.Path)
		safefile.SyncDir(filepath.Join(w.card, filepath.FromSlash(path.Dir(f.Path))))
	}
	w.parts, w.made = nil, nil
	return nil
}

// takeBack puts back what was there, after a file could not get its name.
func (w *cardWriter) takeBack(failed error, before *Manifest) error {
	for _, p := range w.placed {
		var err error
		if old, had := w.old[p]; had {
			err = w.write(p, old)
		} else {
			err = w.root.Remove(p)
		}
		if err != nil {
			return fmt.Errorf("%w; but %s could not be put back as it was (%s); 'gyrolith stow --undo --card %s' tries again", failed, p, cardReason(err), w.card)
		}
	}
	if before != nil {
		w.manifest(before)
	} else {
		w.root.Remove(ManifestName)
	}
	return failed
}

// finish says in the manifest that all is in place.
func (w *cardWriter) finish(m *Manifest) error {
	m.Finished = true
	for i := range m.Files {
		m.Files[i].Part, m.Files[i].Replace = "", ""
	}
	if err := w.manifest(m); err != nil {
		return fmt.Errorf("%s: all files are in place, but the manifest could not be finished; 'gyrolith stow --finish --card %s' tries again: %w", w.card, w.card, err)
	}
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

// Finish carries a stow through that was broken off between two files.
func Finish(card string) (*Manifest, error) {
	root, m, err := openUnfinished(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	w := &cardWriter{root: root, card: card}
	for _, f := range m.Files {
		if content, err := root.ReadFile(f.Path); err == nil && sumOf(content) == f.SHA256 {
			continue
		}
		content, err := root.ReadFile(f.Part)
		if err != nil || sumOf(content) != f.SHA256 {
			return nil, fmt.Errorf("%s: %s can't be finished, since what was written of it is not whole; 'gyrolith stow --undo --card %s' puts back what was there", card, f.Path, card)
		}
		if err := root.Rename(f.Part, f.Path); err != nil {
			return nil, fmt.Errorf("%s can't be written: %s", filepath.Join(card, f.Path), cardReason(err))
		}
		safefile.SyncDir(filepath.Join(card, filepath.FromSlash(path.Dir(f.Path))))
	}
	return m, w.finish(m)
}

func openUnfinished(card string) (*os.Root, *Manifest, error) {
	root, err := openCard(card)
	if err != nil {
		return nil, nil, err
	}
	m, err := readManifest(root)
	if err == nil && (m == nil || m.Finished) {
		err = errors.New("no stow on this card was broken off")
	}
	if err != nil {
		root.Close()
		return nil, nil, fmt.Errorf("%s: %w", card, err)
	}
	return root, m, nil
}

// Undo puts back what was on a card before a stow that was broken off: replaced files from the archive, and new ones
// go.
func Undo(card string) (*Manifest, error) {
	root, m, err := openUnfinished(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	old := map[string][]byte{}
	if m.Archive != "" {
		if old, err = unpack(m.Archive); err != nil {
			return nil, err
		}
	}
	w := &cardWriter{root: root, card: card}
	for _, f := range m.Files {
		content, err := root.ReadFile(f.Path)
		there := err == nil
		switch {
		case there && f.Replace != "" && sumOf(content) == f.Replace, !there && f.Replace == "":
			// It is as it was.
		case there && sumOf(content) != f.SHA256:
			return nil, fmt.Errorf("%s: %s is neither as it was nor as it was meant; it is left alone, and so is the rest", card, f.Path)
		case f.Replace == "":
			if err := root.Remove(f.Path); err != nil {
				return nil, fmt.Errorf("%s can't be removed: %s", filepath.Join(card, f.Path), cardReason(err))
			}
		case sumOf(old[f.Path]) != f.Replace:
			return nil, fmt.Errorf("%s: does not hold %s as it was on the card", m.Archive, f.Path)
		default:
			part := path.Join(path.Dir(f.Path), ".gyrolith-undo.part")
			err := w.write(part, old[f.Path])
			if err == nil {
				err = root.Rename(part, f.Path)
			}
			if err != nil {
				return nil, fmt.Errorf("%s can't be written: %s", filepath.Join(card, f.Path), cardReason(err))
			}
		}
		root.Remove(f.Part)
	}
	return m, root.Remove(ManifestName)
}

// readBack reads the card as the unit would and compares what it shows with what was meant.
func (p *Plan) readBack(card string, root *os.Root, out *Stowed) error {
	var alone bytes.Buffer // the files of this stow by themselves, read from the card
	z := zip.NewWriter(&alone)
	for _, f := range p.Files {
		content, err := root.ReadFile(f.Path)
		if err != nil {
			return fmt.Errorf("%s: was written, and can't be read back: %s", filepath.Join(card, f.Path), cardReason(err))
		}
		if !bytes.Equal(content, f.Content) {
			return fmt.Errorf("%s: what is read back is not what was written: the card is faulty", filepath.Join(card, f.Path))
		}
		w, err := z.Create(f.Path)
		if err == nil {
			_, err = w.Write(content)
		}
		if err != nil {
			return err
		}
		src := format.FromBytes(f.Path, content)
		if in, err := all.Formats.Load(src, "", false, &format.ReadOptions{}); err == nil {
			for i, n := range in.Data.Counts() {
				out.OnCard[i] += n
			}
		} else { // a table, which is not read
			out.OnCard = p.Meant.Counts()
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	stand := p.Profile.standIn()
	if stand == nil {
		return nil
	}
	files, err := zip.NewReader(bytes.NewReader(alone.Bytes()), int64(alone.Len()))
	if err != nil {
		return err
	}
	mine, err := stand(files)
	if err != nil {
		return fmt.Errorf("%s: the card was written, but the unit would not take it: %w", card, err)
	}
	if out.Shown, err = stand(os.DirFS(card)); err != nil {
		return fmt.Errorf("%s: the card was written, but the unit would not take it: %w", card, err)
	}
	out.Result = compare.Compare(p.Meant, mine.Data, compare.Options{Within: max(p.Profile.Resolution*metresPerDegree, 0.02)})
	// What else is on the card may leave no room for it.
	for _, d := range compare.Compare(mine.Data, out.Shown.Data, compare.Options{}).Differences {
		if d.What == "lost" {
			out.Result.Differences = append(out.Result.Differences, d)
		}
	}
	return nil
}

const metresPerDegree = 111320

// unpack reads an archive of a card whole.
func unpack(archive string) (map[string][]byte, error) {
	z, err := zip.OpenReader(archive)
	if err != nil {
		return nil, fmt.Errorf("%s: the archive can't be read: %w", archive, err)
	}
	defer z.Close()
	out := map[string][]byte{}
	total := uint64(0)
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		if !fs.ValidPath(f.Name) || strings.Contains(f.Name, `\`) {
			return nil, fmt.Errorf("%s: holds the name %q, which does not stay on a card", archive, f.Name)
		}
		if total += f.UncompressedSize64; total > mostCard {
			return nil, fmt.Errorf("%s: unpacks to more than %d bytes", archive, mostCard)
		}
		content, err := fs.ReadFile(z, f.Name)
		if err != nil {
			return nil, fmt.Errorf("%s: %s in it is damaged: %w", archive, f.Name, err)
		}
		out[f.Name] = content
	}
	return out, nil
}

// mostCard is the most bytes of a card that is archived or put back.
const mostCard = 8 << 30
