package card

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format/pack"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
)

// What an archive of a card holds, said in its comment.
const (
	replacedOnly = "gyrolith: files of a card that were replaced"
	wholeCard    = "gyrolith: a whole card"
)

// beforeName is the member of an archive that says what the unit loaded from the card before, beside the manifest of
// that time, which is a member of its own name.
const beforeName = "gyrolith-before.json"

// before is what a card was before something was written on it.
type before struct {
	Loaded   []ManifestFile `json:"loaded"` // the files that the unit loaded, and those that the manifest lists
	manifest []byte         // as it stood on the card; nil is none
}

// beforeOf notes what a card is now. P is the profile of its unit; nil is unknown.
func beforeOf(root medium, card string, p *unit.Profile, m *Manifest) (*before, error) {
	var names []string
	if p != nil {
		var err error
		if names, err = filesOf(root, card, p); err != nil {
			return nil, err
		}
	}
	if m != nil {
		for _, f := range m.Files {
			if !slices.Contains(names, f.Path) {
				names = append(names, f.Path)
			}
		}
	}
	b := &before{Loaded: []ManifestFile{}}
	for _, name := range names {
		if content, err := root.ReadFile(name); err == nil {
			b.Loaded = append(b.Loaded, ManifestFile{Path: name, Bytes: len(content), SHA256: sumOf(content)})
		}
	}
	b.manifest, _ = root.ReadFile(ManifestName)
	return b, nil
}

// before reads what the card was; nil where the archive doesn't say. That of a whole card holds all of it.
func (a *archive) before() (*before, error) {
	out := &before{}
	if a.members[ManifestName] != nil {
		var text bytes.Buffer
		if err := a.copyTo(&text, ManifestName); err != nil {
			return nil, err
		}
		out.manifest = text.Bytes()
	}
	switch {
	case a.zip != nil && a.zip.Comment == wholeCard:
		for _, name := range a.files() {
			out.Loaded = append(out.Loaded, ManifestFile{Path: name, SHA256: a.sum(name)})
		}
	case a.members[beforeName] != nil:
		var text bytes.Buffer
		if err := a.copyTo(&text, beforeName); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(text.Bytes(), out); err != nil {
			return nil, fmt.Errorf("%s: %s in it is damaged: %w", a.path, beforeName, err)
		}
	default:
		return nil, nil
	}
	return out, nil
}

// files are the members that are files of the card but for its manifest.
func (a *archive) files() []string {
	return slices.DeleteFunc(slices.Sorted(slices.Values(a.names)), func(name string) bool {
		return name == ManifestName || name == beforeName
	})
}

// The most bytes of a card that is archived or put back, and how many times the size of its archive.
const (
	mostCard  = 8 << 30
	smallCard = 64 << 20
	mostRatio = 200
)

// OnCard says whether a path lies on the card.
func OnCard(card, path string) bool {
	resolve := func(p string) string {
		if abs, err := filepath.Abs(p); err == nil {
			p = abs
		}
		// The longest part that there is may be a link on to the card.
		for at, rest := p, ""; ; at, rest = filepath.Dir(at), filepath.Join(filepath.Base(at), rest) {
			if real, err := filepath.EvalSymlinks(at); err == nil {
				return filepath.Join(real, rest)
			}
			if filepath.Dir(at) == at {
				return p
			}
		}
	}
	inside, err := filepath.Rel(resolve(card), resolve(path))
	return err == nil && filepath.IsLocal(inside)
}

// archive keeps files of the card in one zip archive off it.
func (w *writer) archive(ctx context.Context, paths []string, stem, comment string, was *before) error {
	if OnCard(w.card, w.opt.Keep) {
		return advice.Errorf(advice.KeepOffCard, "%s: is on the card itself", w.opt.Keep)
	}
	keep, err := filepath.Abs(w.opt.Keep)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(keep, 0o777); err != nil {
		return fmt.Errorf("%s: the archive's folder can't be made: %w", w.opt.Keep, err)
	}
	stamp := w.opt.Now.UTC().Format("2006-01-02-150405")
	for n := 1; ; n++ {
		name := fmt.Sprintf("%s-%s.zip", stem, stamp)
		if n > 1 {
			name = fmt.Sprintf("%s-%s-%d.zip", stem, stamp, n)
		}
		to := filepath.Join(keep, name)
		_, err := safefile.WriteAll(to, false, func(out io.Writer) error { return w.pack(ctx, out, paths, comment, was) })
		if errors.Is(err, safefile.ErrExists) {
			continue
		}
		if err == nil {
			w.archived = to
		}
		return err
	}
}

// pack streams files of the card into an archive, and notes their sums. Was is what the card was; nil is not said.
func (w *writer) pack(ctx context.Context, out io.Writer, paths []string, comment string, was *before) error {
	z := pack.NewZip(out)
	w.sums = map[string]string{}
	for _, p := range paths {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := w.packOne(z, p); err != nil {
			return err
		}
	}
	if was != nil {
		text, err := json.Marshal(was)
		if err == nil {
			err = packText(z, beforeName, text)
		}
		if err == nil && was.manifest != nil && !slices.Contains(paths, ManifestName) {
			err = packText(z, ManifestName, was.manifest)
		}
		if err != nil {
			return err
		}
	}
	if err := z.SetComment(comment); err != nil {
		return err
	}
	return z.Close()
}

func packText(z *zip.Writer, name string, text []byte) error {
	to, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
	if err == nil {
		_, err = to.Write(text)
	}
	return err
}

func (w *writer) packOne(z *zip.Writer, path string) error {
	unreadable := func(err error) error {
		return fmt.Errorf("%s can't be read, so it can't be archived: %s", filepath.Join(w.card, path), reason(err))
	}
	in, err := w.root.Open(path)
	if err != nil {
		return unreadable(err)
	}
	defer in.Close()
	header := &zip.FileHeader{Name: path, Method: zip.Deflate}
	if info, err := in.Stat(); err == nil {
		header.Modified = info.ModTime()
	}
	to, err := z.CreateHeader(header)
	if err != nil {
		return err
	}
	sum := sha256.New()
	from := &reading{Reader: in}
	if _, err := io.Copy(io.MultiWriter(to, sum), from); err != nil {
		if from.failed != nil {
			return unreadable(from.failed)
		}
		return err
	}
	w.sums[path] = hex.EncodeToString(sum.Sum(nil))
	return nil
}

// reading tells an error of reading from one of writing.
type reading struct {
	io.Reader
	failed error
}

func (r *reading) Read(b []byte) (int, error) {
	n, err := r.Reader.Read(b)
	if err != nil && err != io.EOF {
		r.failed = err
	}
	return n, err
}

// Listing is what is on a card, by paths with slashes.
type Listing struct {
	Files  []string
	Others []string // what is neither a file nor a folder, such as links and pipes, which no archive holds
}

// list lists what is on a card.
func list(root medium) (out Listing, err error) {
	total := int64(0)
	err = fs.WalkDir(root.FS(), ".", func(path string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		switch {
		case e.Type().IsRegular():
			if info, err := e.Info(); err == nil {
				total += info.Size()
			}
			out.Files = append(out.Files, path)
		case !e.IsDir():
			out.Others = append(out.Others, path)
		}
		if total > mostCard {
			return fmt.Errorf("the card has more than %d bytes", int64(mostCard))
		}
		return nil
	})
	return
}

// List lists what is on a card, which is to have some file.
func List(card string) (Listing, error) {
	root, err := open(card)
	if err != nil {
		return Listing{}, err
	}
	defer root.Close()
	all, err := list(root)
	if err != nil {
		return Listing{}, fmt.Errorf("%s: %s", card, reason(err))
	}
	if len(all.Files) == 0 {
		return Listing{}, fmt.Errorf("%s: the card is empty; there is nothing to archive", card)
	}
	return all, nil
}

// Unstow archives all files of a card in a file that is not on it.
func Unstow(ctx context.Context, card, archive string, replace bool) (all Listing, kept string, err error) {
	if all, err = List(card); err != nil {
		return all, "", err
	}
	if OnCard(card, archive) {
		return all, "", fmt.Errorf("%s: is on the card itself: name an archive elsewhere", archive)
	}
	root, err := open(card)
	if err != nil {
		return all, "", err
	}
	defer root.Close()
	w := &writer{root: root, card: card}
	kept, err = safefile.WriteAll(archive, replace,
		func(out io.Writer) error { return w.pack(ctx, out, all.Files, wholeCard, nil) })
	return all, kept, err
}

// archive is an archive of a card that is read. The zero archive holds nothing.
type archive struct {
	path    string
	zip     *zip.ReadCloser
	members map[string]*zip.File
	names   []string // in the archive's order
}

// openArchive opens an archive and judges its names; "" is one that holds nothing.
func openArchive(path string) (*archive, error) {
	a := &archive{path: path, members: map[string]*zip.File{}}
	if path == "" {
		return a, nil
	}
	info, err := os.Stat(path)
	if err == nil && !info.Mode().IsRegular() {
		err = errNotRegular
	}
	var z *zip.ReadCloser
	if err == nil {
		z, err = zip.OpenReader(path)
	}
	if err != nil {
		return nil, fmt.Errorf("%s: the archive can't be read: %s", path, reason(err))
	}
	most := uint64(min(mostCard, max(smallCard, mostRatio*info.Size())))
	total := uint64(0)
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		if !fs.ValidPath(f.Name) || strings.Contains(f.Name, `\`) {
			z.Close()
			return nil, fmt.Errorf("%s: contains the name %q, which leads out of the card", path, f.Name)
		}
		if total += min(f.UncompressedSize64, mostCard+1); total > most {
			z.Close()
			return nil, fmt.Errorf("%s: unpacks to more than %d bytes, which is impossible for a card of that size", path, most)
		}
		if a.members[f.Name] == nil {
			a.names = append(a.names, f.Name)
		}
		a.members[f.Name] = f
	}
	a.zip = z
	return a, nil
}

// Close closes the archive.
func (a *archive) Close() error {
	if a.zip == nil {
		return nil
	}
	return a.zip.Close()
}

// copyTo unpacks a member, to its end, where its checksum is.
func (a *archive) copyTo(w io.Writer, name string) error {
	f := a.members[name]
	if f == nil {
		return fmt.Errorf("%s: holds no %s", a.path, name)
	}
	in, err := f.Open()
	if err == nil {
		defer in.Close()
		_, err = io.Copy(w, io.LimitReader(in, int64(f.UncompressedSize64)+1))
	}
	if err != nil {
		return fmt.Errorf("%s: %s in it is damaged: %w", a.path, name, err)
	}
	return nil
}

// sum is the sum of a member; "" where it can't be read.
func (a *archive) sum(name string) string {
	h := sha256.New()
	if err := a.copyTo(h, name); err != nil {
		return ""
	}
	return hex.EncodeToString(h.Sum(nil))
}

// fromArchive puts a file back, whole or not at all.
func (w *writer) fromArchive(old *archive, name string) error {
	p, err := safefile.CreateIn(w.root, name)
	if err != nil {
		return err
	}
	defer p.Discard()
	if err := old.copyTo(p, name); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}
