package standin

import (
	"fmt"
	"io/fs"
	"path"
	"strings"

	"gyrolith/core/nav"
)

// Deed is something that a crew does with a mark on the unit's own keys.
type Deed struct {
	Do   Doing
	Name string
	At   nav.Point // where a mark is made, or moved to
}

// Doing is one sort of deed.
type Doing uint8

// The sorts of deeds.
const (
	Make Doing = iota
	Move
	Delete
)

// Change is what the unit does to a file of its card.
type Change struct {
	Path    string
	Content []byte
}

// crew is the part of a unit that writes: it makes the file of a deed.
type crew func(card fs.FS, d Deed) (*Change, error)

// errNoMark and errHasMark are what a unit says of a name that it does not know, or knows already.
func errNoMark(what, name string) error {
	return fmt.Errorf("the unit shows no %s %q", what, name)
}

func errHasMark(what, name string) error {
	return fmt.Errorf("the unit already shows a %s %q", what, name)
}

// Act does a deed on the unit and gives the file that it writes.
func (m *Model) Act(card fs.FS, d Deed) (*Change, error) {
	if d.Name == "" {
		return nil, fmt.Errorf("a mark needs a name")
	}
	return m.crew(card, d)
}

// filesIn lists the files of a folder of the card with an extension, whatever the case of the names.
func filesIn(card fs.FS, ext string, folder ...string) (out []string, dir string, err error) {
	if dir, err = anyCase(card, folder...); err != nil || dir == "" {
		return nil, "", err
	}
	entries, err := fs.ReadDir(card, dir)
	if err != nil {
		return nil, dir, err
	}
	for _, e := range entries {
		if !e.IsDir() && strings.EqualFold(path.Ext(e.Name()), ext) && e.Name()[0] != '.' {
			out = append(out, path.Join(dir, e.Name()))
		}
	}
	return out, dir, nil
}
