package format

import (
	"io"
	"slices"

	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// Store writes data in the format. Its ledger has what the format has no place for, by what it declares, and what the
// writer alone can tell.
func (x *Format) Store(w io.Writer, d *nav.Dataset, opt *WriteOptions) (*Written, error) {
	d = x.unfolded(d, opt)
	sound, unsound, err := x.shaped(d)
	if err != nil {
		return nil, err
	}
	losses := x.losses(d, opt)
	done, err := x.Write(w, sound, opt)
	if said := <-losses; err == nil {
		done.Ledger = slices.Concat(unsound, said, done.Ledger)
	}
	return done, err
}

// StoreSet gives the files of a format that has several, as Store writes one.
func (x *Format) StoreSet(d *nav.Dataset, opt *WriteOptions) ([]Part, *Written, error) {
	d = x.unfolded(d, opt)
	sound, unsound, err := x.shaped(d)
	if err != nil {
		return nil, nil, err
	}
	losses := x.losses(d, opt)
	parts, done, err := x.Set(sound, opt)
	if said := <-losses; err == nil {
		done.Ledger = slices.Concat(unsound, said, done.Ledger)
	}
	return parts, done, err
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
