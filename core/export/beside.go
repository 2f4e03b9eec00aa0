package export

import (
	"bytes"
	"context"
	"fmt"

	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Beside says what a file to which data are added has of them already.
type Beside struct {
	There   int              // items that it has as they are
	Changed []identity.Thing // items that it has with other values
}

// Beside leaves out of data what the file that they are added to has already. What it has with other values is left out
// as well, unless that is to be updated. There is what the file holds.
func (t *Target) Beside(ctx context.Context, d, there *nav.Dataset, update bool) (*Beside, error) {
	stored, err := t.stored(ctx, d)
	if err != nil {
		return nil, err
	}
	out, fresh := &Beside{}, &nav.Dataset{}
	t.Update = nil
	for _, kind := range nav.Kinds {
		things, old, kept := identity.Things(d, kind), identity.Things(there, kind), identity.Things(stored, kind)
		says := identity.Said(kept) // a column that these data lack is no difference
		m, as := identity.MatchUnrelated(old, kept, 0), identity.Match(things, kept, 0)
		for i := range things {
			j, k := -1, as.First[i]
			if k >= 0 {
				j = m.Second[k]
			}
			switch {
			case j < 0:
				things[i].AddTo(fresh)
			case !identity.Differ(&old[j], &kept[k], says):
				out.There++
			case update && kind == nav.Tracks && t.TrackPoints:
				return nil, fmt.Errorf("the points of track %q are rows of their own, which can't be updated: write a new file",
					things[i].Item.Name)
			case update:
				thing := things[i].Copy()
				thing.Item.ID = identity.Of(&old[j])
				t.Update = append(t.Update, thing.Item.ID)
				thing.AddTo(fresh)
				fallthrough
			default:
				out.Changed = append(out.Changed, things[i])
			}
		}
	}
	d.Waypoints, d.Routes, d.Tracks, d.Areas = fresh.Waypoints, fresh.Routes, fresh.Tracks, fresh.Areas
	return out, nil
}

// stored are data as the format has them: what it has no place for is no difference.
func (t *Target) stored(ctx context.Context, d *nav.Dataset) (*nav.Dataset, error) {
	alone := *t
	alone.AppendTo, alone.ReadBack = "", false
	var file bytes.Buffer
	if _, err := alone.Write(ctx, d, "", To(&file)); err != nil {
		return nil, err
	}
	in, err := t.Formats.Load(format.FromBytes(ctx, "data"+t.Format.Extensions[0], file.Bytes()), t.Format.Name, false,
		&format.ReadOptions{})
	if err != nil {
		return nil, err
	}
	return in.Data, nil
}
