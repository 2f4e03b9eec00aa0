package export

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Unfinished is a sink whose files can be read before they get their names. Part gives the path of one until then; ""
// of a sink that keeps nothing.
type Unfinished interface {
	Part(name string) (path string, err error)
}

// readBack reads an output again, and compares it item by item with the data that were written: names, places, lines,
// heights and times, as far as the format holds them. What the ledger tells is no difference.
func (t *Target) readBack(ctx context.Context, d *nav.Dataset, opt *format.WriteOptions, sink Sink, out *Made) error {
	back := &nav.Dataset{}
	files, ok := sink.(Unfinished)
	if !ok {
		return fmt.Errorf("%s: can't be read back where it is written to", out.Files[0])
	}
	titled := slices.DeleteFunc(slices.Clone(t.Table.Columns), func(c format.Column) bool { return !c.Given })
	for _, name := range out.Files {
		if t.Format.Set != nil && filepath.Ext(name) != t.Format.Extensions[0] { // a part of another
			continue
		}
		src, err := t.written(ctx, files, name, out.Files)
		if err != nil || src == nil {
			return err
		}
		how := &format.ReadOptions{Columns: titled, Zone: t.Table.Zone}
		if t.Format.Tabular {
			how.System = out.System
		}
		in, err := t.Formats.Load(src, t.Format.Name, false, how)
		src.Close()
		if err != nil {
			if f, ok := errors.AsType[*format.Error](err); ok {
				err = errors.New(f.Msg) // it has no name yet
			}
			return fmt.Errorf("%s: what was written can't be read back: %w", name, err)
		}
		back.Merge(in.Data)
	}
	found, items := 0, 0
	for _, kind := range nav.Kinds {
		found += t.again(kind, d, back, opt, out)
		items += out.Items[kind]
	}
	if found < items {
		why := ""
		if len(t.Table.Columns) > 0 {
			why = " (these columns may not give them back)"
		}
		return fmt.Errorf("%s: only %d of %d items were found again when it was read back%s; nothing was written",
			out.Files[0], found, items, why)
	}
	out.Found = &found
	return nil
}

// written opens a file that was written, with the parts beside it; nil where the sink keeps nothing.
func (t *Target) written(ctx context.Context, files Unfinished, name string, all []string) (*format.Source, error) {
	path, err := files.Part(name)
	if err != nil || path == "" {
		return nil, err
	}
	if t.Format.Set == nil {
		return format.Open(ctx, path, nil)
	}
	parts := map[string][]byte{}
	stem := strings.TrimSuffix(name, filepath.Ext(name))
	for _, other := range all {
		ext := filepath.Ext(other)
		if strings.TrimSuffix(other, ext) != stem {
			continue
		}
		if path, err = files.Part(other); err == nil {
			parts[ext], err = os.ReadFile(path)
		}
		if err != nil {
			return nil, err
		}
	}
	return format.WithParts(ctx, name, parts[filepath.Ext(name)], parts), nil
}

// again counts the items of a kind that are in a file as they were written.
func (t *Target) again(kind nav.Kind, d, back *nav.Dataset, opt *format.WriteOptions, out *Made) (found int) {
	a, b := identity.Things(d, kind), identity.Things(back, kind)
	for i := range back.Routes {
		for j := range back.Routes[i].Points {
			if w := &back.Routes[i].Points[j]; kind == nav.Waypoints && t.Format.Shares {
				b = append(b, identity.Thing{Kind: kind, Item: &w.Item, Waypoint: w})
			}
		}
	}
	tells := func(word string) bool {
		return slices.ContainsFunc(out.Ledger, func(e nav.Entry) bool {
			what := string(e.What) // above what a height is, or to what a time is exact, is not its value
			return e.Kind == kind && strings.Contains(what, word) && !strings.Contains(what, "reference") &&
				!strings.Contains(what, "precision")
		})
	}
	named := identity.Said(b)[identity.Name] && !tells(identity.Name) && !tells("characters")
	both, _ := identity.Says(b...)
	if tells("height") {
		both &^= identity.Heights
	}
	if tells("time") {
		both &^= identity.Times
	}
	both &^= identity.Values | identity.Items
	const least = 0.02 // metres
	step := t.Format.Holds(opt).Rounds.Position.Size
	within := max(least, step*geodesy.EquatorDegree)
	m := identity.Match(a, b, within)
	for i, j := range m.First {
		if j < 0 {
			continue
		}
		if same := !named || a[i].Item.Name == b[j].Item.Name; same &&
			(identity.SameLine(&a[i], &b[j], within, both) || tells("segments")) {
			found++
		}
	}
	return min(found, out.Items[kind])
}
