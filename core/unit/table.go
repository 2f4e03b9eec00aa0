package unit

import (
	"path/filepath"
	"slices"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// TableLayout gives the layout of the profile's table.
func (p *Profile) TableLayout() (*format.Table, error) {
	t := p.Table
	out := &format.Table{Sheet: t.Sheet, FirstRow: t.FirstRow, NoHeader: t.NoHeader}
	if t.Template != "" {
		out.Template = filepath.Join(filepath.Dir(p.Path), t.Template)
	}
	for _, r := range t.Separator {
		out.Separator = r
		break
	}
	var err error
	out.Notation, err = geodesy.ParseNotation(t.Notation)
	for _, c := range t.Columns {
		out.Columns = append(out.Columns, format.Column{Title: c.Title, Holds: c.Holds, Given: true})
	}
	return out, err
}

// Files lists the files that the profile needs: its own, if it is the user's, and the template of its table.
func (p *Profile) Files() (out []string) {
	if p.Path != "" {
		out = append(out, p.Path)
	}
	if p.Table != nil && p.Table.Template != "" {
		out = append(out, filepath.Join(filepath.Dir(p.Path), p.Table.Template))
	}
	return
}

// Folders lists the folders of a card that the unit loads, with slashes.
func (p *Profile) Folders() (out []string) {
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
