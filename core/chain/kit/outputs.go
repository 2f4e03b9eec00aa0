package kit

import (
	"context"
	"errors"
	"fmt"
	"path"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
)

// files is convert as an output.
type files struct{ export.Target }

// WantsShift says whether a datum shift that is given is needed by the system of the output.
func (f *files) WantsShift() bool { return f.Target.System.Wants() }

func (f *files) Open(context.Context) error { return f.Target.Open() }
func (f *files) Close()                     {}

func (f *files) Write(ctx context.Context, w *chain.Work, name string, sink export.Sink) (*export.Made, error) {
	return f.Target.Write(ctx, w.Data, name, sink)
}

// Target gives the target of an output that is convert; nil for others.
func Target(o chain.Output) *export.Target {
	if f, ok := o.(*files); ok {
		return &f.Target
	}
	return nil
}

// stowing is stow as an output: the files of a card, read back as the unit would.
type stowing struct {
	kit     *chain.Kit
	name    string
	version int
	order   []figure.Key
	profile *unit.Profile
}

func (s *stowing) Params() param.Table {
	return append(UnitParams(&s.name, &s.version), export.OrderParams(&s.order).In("Unit")...)
}

// UnitParams are the parameters that name a unit and the version of its cards.
func UnitParams(name *string, version *int) param.Table {
	p := param.Text("unit", name, "NAME", "the unit's `NAME`, or the path of a profile")
	p.Path = param.Maybe
	p.Words = unit.ShippedNames()
	return param.Table{
		p,
		param.CardVersion(version),
	}.In("Unit")
}

// ErrNoUnit says that no unit is named.
var ErrNoUnit = errors.New("no unit given")

func (s *stowing) Name(name string) (string, error) { return name, nil }

func (s *stowing) Check() (err error) {
	s.profile, err = FindUnit(s.kit.Units, s.name, s.version)
	return err
}

// FindUnit finds a unit's profile for a version of its cards.
func FindUnit(units func(string) (*unit.Profile, error), name string, version int) (*unit.Profile, error) {
	if name == "" {
		return nil, &param.Error{Name: "unit", Err: ErrNoUnit}
	}
	p, err := units(name)
	if err != nil {
		return nil, &param.Error{Name: "unit", Err: err}
	}
	if p, err = p.ForVersion(version); err != nil {
		return nil, &param.Error{Name: "card-version", Err: err}
	}
	return p, nil
}

func (s *stowing) Files() []string { return s.profile.Files() }

func (s *stowing) Write(ctx context.Context, w *chain.Work, name string, sink export.Sink) (*export.Made, error) {
	plan, err := card.Make(ctx, figure.Sorted(w.Data, s.order), s.profile, w.Source, s.kit.Formats)
	if err != nil {
		return nil, err
	}
	proof, err := plan.Prove(ctx)
	if err != nil {
		return nil, err
	}
	if n := len(proof.Result.Differences); n > 0 {
		return nil, fmt.Errorf("the unit %s would not show what was intended (differences: %d)", s.profile.Name, n)
	}
	whole, err := plan.AllFiles()
	if err != nil {
		return nil, err
	}
	out := &export.Made{Written: format.Written{Items: plan.Meant.Counts(), Points: plan.Meant.Points(),
		Ledger: plan.Ledger}}
	for _, f := range whole {
		at := path.Join(name, f.Path)
		to, err := sink.Create(at)
		if err == nil {
			_, err = to.Write(f.Content)
		}
		if err != nil {
			return nil, err
		}
		out.Files = append(out.Files, at)
	}
	return out, nil
}
