package card

import (
	"context"
	"errors"
	"fmt"
	"path"
	"path/filepath"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
)

// Finish carries a stow through that was broken off between two files.
func Finish(card string) (*Manifest, error) {
	root, m, err := openUnfinished(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	old, err := openArchive(m.Archive)
	if err != nil {
		return nil, err
	}
	defer old.Close()
	defer safefile.Carry()()
	w := &writer{root: root, card: card}
	for _, f := range m.Gone {
		if _, err := root.Lstat(f.Path); err == nil && old.sum(f.Path) != f.SHA256 {
			return nil, notKept(old, f.Path)
		}
	}
	for _, f := range m.Files {
		there, err := root.ReadFile(f.Path)
		switch {
		case err == nil && sumOf(there) == f.SHA256:
			w.removePart(&f)
			continue
		case err == nil && sumOf(there) != f.Replace:
			return nil, w.neither(&f)
		case err == nil && old.sum(f.Path) != f.Replace:
			return nil, notKept(old, f.Path)
		}
		content, err := root.ReadFile(f.Part)
		if err != nil || sumOf(content) != f.SHA256 {
			return nil, advice.About(advice.UndoCard, card,
				"%s: %s can't be completed, since its new version is incomplete", card, f.Path)
		}
		if err := root.Rename(f.Part, f.Path); err != nil {
			return nil, fmt.Errorf("%s can't be written: %s", filepath.Join(card, f.Path), reason(err))
		}
	}
	if err := w.removeGone(m); err != nil {
		return nil, err
	}
	if err := w.finish(m); err != nil {
		return nil, err
	}
	w.sweepOf(m)
	return m, nil
}

// sweepOf removes unfinished files beside those of a manifest.
func (w *writer) sweepOf(m *Manifest) {
	var folders []string
	for _, f := range m.Files {
		if dir := path.Dir(f.Path); !slices.Contains(folders, dir) {
			folders = append(folders, dir)
		}
	}
	w.sweep(folders)
}

// removePart removes what is left of an unfinished file.
func (w *writer) removePart(f *ManifestFile) {
	if f.Part != "" {
		w.root.Remove(f.Part)
	}
}

// notKept is the error for a file that would be lost: a manifest alone is no proof of what may go.
func notKept(old *archive, path string) error {
	if old.path == "" {
		return fmt.Errorf("%s is in no archive, and the manifest that allows removing it is incomplete; nothing was done",
			path)
	}
	return fmt.Errorf("%s: does not contain %s as it was on the card", old.path, path)
}

func (w *writer) neither(f *ManifestFile) error {
	return fmt.Errorf("%s: %s is neither the old nor the new version; nothing was changed", w.card,
		f.Path)
}

func openUnfinished(card string) (medium, *Manifest, error) {
	root, err := open(card)
	if err != nil {
		return medium{}, nil, err
	}
	m, err := readManifest(root)
	if err == nil && (m == nil || m.Finished) {
		err = errors.New("there is no interrupted stow or restore on this card")
	}
	if err != nil {
		root.Close()
		return medium{}, nil, fmt.Errorf("%s: %w", card, err)
	}
	return root, m, nil
}

// Undo puts back what was on a card before a stow that was broken off: replaced files from the archive, the manifest of
// the stow before, and new files go, into an archive of their own: on a card that somebody tampered with they may be
// any.
func Undo(ctx context.Context, card string, opt Options) (m *Manifest, archived string, err error) {
	root, m, err := openUnfinished(card)
	if err != nil {
		return nil, "", err
	}
	defer root.Close()
	old, err := openArchive(m.Archive)
	if err != nil {
		return nil, "", err
	}
	defer old.Close()
	w := &writer{root: root, card: card, before: m.Before, opt: opt}
	var away []string
	for _, f := range m.Files {
		if content, err := root.ReadFile(f.Path); err == nil && sumOf(content) == f.SHA256 && f.SHA256 != f.Replace {
			away = append(away, f.Path)
		}
	}
	if len(away) > 0 {
		if err := w.archive(ctx, away, "undone", replacedOnly, nil); err != nil {
			return nil, "", err
		}
	}
	defer safefile.Carry()()
	for _, f := range m.Files {
		if err := w.undo(&f, old); err != nil {
			return nil, "", err
		}
	}
	for _, f := range m.Gone {
		if _, err := root.Lstat(f.Path); err == nil {
			continue
		}
		if old.sum(f.Path) != f.SHA256 {
			return nil, "", notKept(old, f.Path)
		}
		if err := w.fromArchive(old, f.Path); err != nil {
			return nil, "", fmt.Errorf("%s can't be written: %s", filepath.Join(card, f.Path), reason(err))
		}
	}
	if err := w.manifestBefore(); err != nil {
		return nil, "", err
	}
	w.sweepOf(m)
	return m, w.archived, nil
}

// undo puts one file back as it was.
func (w *writer) undo(f *ManifestFile, old *archive) error {
	content, err := w.root.ReadFile(f.Path)
	there := err == nil
	switch {
	case there && f.Replace != "" && sumOf(content) == f.Replace, !there && f.Replace == "":
		// It is as it was.
	case there && sumOf(content) != f.SHA256:
		return w.neither(f)
	case f.Replace == "":
		if err := w.root.Remove(f.Path); err != nil {
			return fmt.Errorf("%s can't be removed: %s", filepath.Join(w.card, f.Path), reason(err))
		}
	case old.sum(f.Path) != f.Replace:
		return notKept(old, f.Path)
	default:
		if err := w.fromArchive(old, f.Path); err != nil {
			return fmt.Errorf("%s can't be written: %s", filepath.Join(w.card, f.Path), reason(err))
		}
	}
	w.removePart(f)
	return nil
}
