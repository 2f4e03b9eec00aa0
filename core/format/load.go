package format

import (
	"bytes"
	"errors"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Loaded is an input that was read.
type Loaded struct {
	Path   string
	Format *Format
	Data   *nav.Dataset
	Cut    *Error // where the file ends too early, when that was forgiven
}

// Load reads a source as the format of a name, or as the one that its content shows. With salvage, a file
// that ends too early gives what is complete before the cut.
func (f Formats) Load(s *Source, readAs string, salvage bool, opt *ReadOptions) (*Loaded, error) {
	var x *Format
	if readAs != "" {
		if x = f.ByName(readAs); x == nil || x.Read == nil {
			return nil, f.Unknown(readAs, "read")
		}
	} else {
		var err error
		if x, err = f.Sniff(s); len(opt.Columns) > 0 && (err != nil || x.Loose) {
			text, _ := DecodeText(s.Head)
			if csv := f.ByName("csv"); csv != nil && bytes.IndexByte(text, 0) < 0 { // columns are named: it is meant for a table
				x, err = csv, nil
			}
		}
		if list := f.loose(); err != nil && list != nil && (len(opt.Fixes) > 0 || opt.System.HasGrid()) {
			if _, other := list.Read(s, opt); other == nil { // as a list, which is what known fixes and grids are for
				x, err = list, nil
			}
		}
		if err != nil {
			return nil, err
		}
	}
	if s.zip != nil {
		s.zip.limits = *opt
	}
	if len(opt.Formats) == 0 {
		whole := *opt
		whole.Formats, opt = f, &whole
	}
	data, err := x.Read(s, opt)
	if data != nil {
		data.Origin = s.Path
		identity.Unmake(data)
	}
	out := &Loaded{Path: s.Path, Format: x, Data: data}
	if err == nil {
		return out, nil
	}
	where, ok := errors.AsType[*Error](err)
	if !ok {
		return nil, s.FaultOf(err)
	}
	if where.Cut && salvage && data != nil {
		out.Cut = where
		return out, nil
	}
	if where.Cut {
		c := *where
		c.Advice = advice.Advice{Code: advice.Salvage}
		return nil, &c
	}
	return nil, where
}

// loose is the format of any text that looks like data; nil is none.
func (f Formats) loose() *Format {
	if i := slices.IndexFunc(f, func(x *Format) bool { return x.Loose }); i >= 0 {
		return f[i]
	}
	return nil
}
