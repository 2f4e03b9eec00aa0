package card

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"

	"gyrolith/core/advice"
	"gyrolith/core/unit"
	"gyrolith/core/unit/standin"
)

// open opens the folder that is a card. No path leads out of it.
func open(card string) (medium, error) {
	info, err := os.Stat(card)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return medium{}, fmt.Errorf("%s: no such folder; is the card inserted and mounted there?", card)
	case err != nil:
		return medium{}, fmt.Errorf("%s: the card can't be read: %w", card, err)
	case !info.IsDir():
		return medium{}, advice.Errorf(advice.NameCard, "%s: is a file; a card is a folder", card)
	}
	root, err := os.OpenRoot(card)
	return medium{root}, err
}

// Existing lists the files of the plan that are on the card already.
func (p *Plan) Existing(card string) ([]string, error) {
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	var out []string
	for _, f := range p.Files {
		if _, err := root.Lstat(f.Path); err == nil {
			out = append(out, f.Path)
		}
	}
	return out, nil
}

// unitOf gives the stand-in that reads the cards of a profile, of the same version; nil where there is none.
func unitOf(p *unit.Profile) standin.Unit {
	model := standin.Find(p.Name)
	if !p.StandIn || model == nil {
		return nil
	}
	return model.Of(p.Version)
}

// Boot shows what a unit makes of a card.
func Boot(p *unit.Profile, card string) (*standin.Shown, error) {
	start := unitOf(p)
	if start == nil {
		names := ""
		for i, m := range standin.Models {
			if i > 0 {
				names += ", "
			}
			names += m.Name
		}
		return nil, fmt.Errorf("there is no stand-in for the cards of %s, only for those of %s", p.Name, names)
	}
	root, err := open(card)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	shown, err := start(root.FS())
	if err != nil {
		return nil, fmt.Errorf("%s: %w", card, err)
	}
	return shown, nil
}

// Act lets the stand-in of a unit do on its card what a crew would: make, move or delete a mark.
func Act(p *unit.Profile, card string, deed standin.Deed) error {
	model := standin.Find(p.Name)
	if !p.StandIn || model == nil {
		return fmt.Errorf("there is no stand-in that can change the cards of %s", p.Name)
	}
	root, err := open(card)
	if err != nil {
		return err
	}
	defer root.Close()
	change, err := model.Act(root.FS(), deed)
	if err != nil {
		return fmt.Errorf("%s: %w", card, err)
	}
	w := &writer{root: root, card: card}
	if err := root.MkdirAll(path.Dir(change.Path), 0o777); err != nil {
		return w.fault(change.Path, err)
	}
	if err := w.write(change.Path, change.Content); err != nil {
		return w.fault(change.Path, err)
	}
	return nil
}

// Contents says what there is on a card.
type Contents struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
	Free  int64 `json:"free_bytes"` // room that is left; below zero where that can't be told
}

// contents looks at a card before it is written.
func contents(root medium, card string) (c Contents) {
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
