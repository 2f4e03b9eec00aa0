package format

import (
	"fmt"
	"io"
	"slices"

	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// Store writes data in the format. Its ledger has what the format has no place for, by what it declares, and what the
// writer alone can tell.
func (x *Format) Store(w io.Writer, d *nav.Dataset, opt *WriteOptions) (*Written, error) {
	sound, said, err := x.prepared(d, opt)
	if err != nil {
		return nil, err
	}
	done, err := x.Write(w, sound, opt)
	if l := said(); err == nil {
		done.Ledger = append(l, done.Ledger...)
	}
	return done, err
}

// StoreSet gives the files of a format that has several, as Store writes one.
func (x *Format) StoreSet(d *nav.Dataset, opt *WriteOptions) ([]Part, *Written, error) {
	sound, said, err := x.prepared(d, opt)
	if err != nil {
		return nil, nil, err
	}
	parts, done, err := x.Set(sound, opt)
	if l := said(); err == nil {
		done.Ledger = append(l, done.Ledger...)
	}
	return parts, done, err
}

// prepared gives the data as the format can write them, and what is said of that; the data stay as they are. What the
// declaration tells is worked out beside the writing.
func (x *Format) prepared(d *nav.Dataset, opt *WriteOptions) (*nav.Dataset, func() nav.Ledger, error) {
	d = x.unfolded(d, opt)
	own, numbered := x.numbered(d, opt)
	sound, unsound, err := x.shaped(own)
	if err != nil {
		return nil, nil, err
	}
	losses := x.losses(d, opt)
	return sound, func() nav.Ledger { return slices.Concat(numbered, unsound, <-losses) }, nil
}

// numbered gives the areas that are one feature numbers behind their name where the format can't say that they are one.
func (x *Format) numbered(d *nav.Dataset, opt *WriteOptions) (*nav.Dataset, nav.Ledger) {
	if decl := x.Holds(opt); decl.Holds[holds.Area] == nil || decl.Holds[holds.Area].Set().Has(holds.Parts) {
		return d, nil
	}
	counts := map[*nav.Whole]int{}
	for i := range d.Areas {
		counts[d.Areas[i].Whole]++
	}
	delete(counts, nil)
	if len(counts) == 0 {
		return d, nil
	}
	out, numbers := *d, map[*nav.Whole]int{}
	out.Areas = slices.Clone(d.Areas)
	var l nav.Ledger
	for i := range out.Areas {
		a := &out.Areas[i]
		if a.Name == "" || counts[a.Whole] < 2 {
			continue
		}
		numbers[a.Whole]++
		was := a.Name
		a.Name = fmt.Sprintf("%s (%d)", was, numbers[a.Whole])
		l.Changed(nav.Areas, was, nav.PropertyName, was, a.Name,
			"one of several outlines of an area, which are areas of their own here")
	}
	return &out, l
}

// losses compares the data with the declaration beside the writing.
func (x *Format) losses(d *nav.Dataset, opt *WriteOptions) <-chan nav.Ledger {
	out := make(chan nav.Ledger, 1)
	go func() { out <- x.Holds(opt).Losses(d, x.Keeps) }()
	return out
}

// Plainly is the declaration of a format that holds the same in all its versions and layouts.
func Plainly(c *holds.Declaration) func(*WriteOptions) *holds.Declaration {
	return func(*WriteOptions) *holds.Declaration { return c }
}
