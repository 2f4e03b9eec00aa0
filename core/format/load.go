package format

import (
	"errors"

	"gyrolith/core/advice"
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
		if x, err = f.Sniff(s); err != nil {
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
