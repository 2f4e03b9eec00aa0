package card

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/compare"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/unit/standin"
)

// Proof is what reading a card back showed.
type Proof struct {
	OnCard [4]int         // items of each kind in the files that were written, as the project's own readers find them
	Shown  *standin.Shown // by the stand-in; nil where there is none
	Result compare.Result // of what was meant with what the unit shows
}

// Prove reads the files of the plan as the unit would, without a card.
func (p *Plan) Prove(ctx context.Context) (*Proof, error) {
	out := &Proof{}
	alone, err := memory(p.all())
	if err != nil {
		return nil, err
	}
	p.count(ctx, out)
	return out, p.show(ctx, alone, alone, out)
}

// ProveOn reads the files of the plan as the unit would once they are on a card beside what is there; nothing is
// written.
func (p *Plan) ProveOn(ctx context.Context, card string) (*Proof, error) {
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	alone, err := memory(p.all())
	if err != nil {
		return nil, err
	}
	out := &Proof{}
	p.count(ctx, out)
	return out, p.show(ctx, alone, &over{top: alone, below: root.FS(), gone: p.Gone}, out)
}

// over is a tree of files that is laid over another.
type over struct {
	top, below fs.FS
	gone       []string // files of the lower tree that are not there
}

func (o *over) Open(name string) (fs.File, error) {
	if f, err := o.top.Open(name); err == nil {
		if info, err := f.Stat(); err == nil && !info.IsDir() {
			return f, nil
		}
		f.Close()
	}
	if slices.Contains(o.gone, name) {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrNotExist}
	}
	return o.below.Open(name)
}

// ReadDir lists what is in a folder of either tree.
func (o *over) ReadDir(name string) ([]fs.DirEntry, error) {
	entries, err1 := fs.ReadDir(o.top, name)
	below, err2 := fs.ReadDir(o.below, name)
	if err1 != nil && err2 != nil {
		return nil, err2
	}
	for _, e := range below {
		if !slices.Contains(o.gone, path.Join(name, e.Name())) &&
			!slices.ContainsFunc(entries, func(t fs.DirEntry) bool { return t.Name() == e.Name() }) {
			entries = append(entries, e)
		}
	}
	slices.SortFunc(entries, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return entries, nil
}

// Stat finds a file or folder of either tree.
func (o *over) Stat(name string) (fs.FileInfo, error) {
	if info, err := fs.Stat(o.top, name); err == nil {
		return info, nil
	}
	return fs.Stat(o.below, name)
}

// readBack reads the card as the unit would and compares what it shows with what was meant.
func (p *Plan) readBack(ctx context.Context, card string, root medium, out *Proof) error {
	for _, f := range p.Files {
		content, err := root.ReadFile(f.Path)
		if err != nil {
			return fmt.Errorf("%s: was written, but can't be read back: %s", filepath.Join(card, f.Path), reason(err))
		}
		if !bytes.Equal(content, f.Content) {
			return fmt.Errorf("%s: reads back differently from what was written: the card is faulty", filepath.Join(card,
				f.Path))
		}
	}
	alone, err := memory(p.all())
	if err != nil {
		return err
	}
	p.count(ctx, out)
	if err := p.show(ctx, alone, root.FS(), out); err != nil {
		return fmt.Errorf("%s: the card was written, but the unit would not accept it: %w", card, err)
	}
	return nil
}

// count counts what the project's own readers find in the files.
func (p *Plan) count(ctx context.Context, out *Proof) {
	for _, f := range p.all() {
		in, err := p.formats.Load(format.FromBytes(ctx, f.Path, f.Content), "", false, &format.ReadOptions{})
		if err != nil { // a table, which is not read by itself
			out.OnCard = p.Meant.Counts()
			return
		}
		for i, n := range in.Data.Counts() {
			out.OnCard[i] += n
		}
	}
}

// show lets the unit read the files of this stow by themselves, and all of the card.
func (p *Plan) show(ctx context.Context, alone, whole fs.FS, out *Proof) error {
	start := unitOf(p.Profile)
	if start == nil {
		return nil
	}
	mine, err := start(alone)
	if err != nil {
		return err
	}
	if out.Shown, err = start(whole); err != nil {
		return err
	}
	const least = 0.02 // metres
	within := max(least, p.Profile.Resolution*geodesy.EquatorDegree)
	result, err := compare.Compare(ctx, p.Meant, mine.Data, compare.Options{Within: within})
	if err != nil {
		return err
	}
	out.Result = *result
	// What else is on the card may leave no room for it.
	if result, err = compare.Compare(ctx, mine.Data, out.Shown.Data, compare.Options{}); err != nil {
		return err
	}
	for _, d := range result.Differences {
		if d.What == compare.Lost {
			out.Result.Differences = append(out.Result.Differences, d)
		}
	}
	return nil
}

// memory makes a file system of the files.
func memory(files []File) (fs.FS, error) {
	var whole bytes.Buffer
	z := zip.NewWriter(&whole)
	for _, f := range files {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f.Path, Method: zip.Store})
		if err == nil {
			_, err = w.Write(f.Content)
		}
		if err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return zip.NewReader(bytes.NewReader(whole.Bytes()), int64(whole.Len()))
}
