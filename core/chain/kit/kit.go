// Package kit puts together all that there is to make chains of: every format, step and output. Who needs less makes a
// chain.Kit with less, and links less.
package kit

import (
	"context"
	"io"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/clean"
	"gyrolith/core/dress"
	"gyrolith/core/elevate"
	"gyrolith/core/export"
	"gyrolith/core/format/all"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/picture"
	"gyrolith/core/recast"
	"gyrolith/core/unit"
)

// New makes the whole kit. Now is the time of the work: no date of a recording is after it. A user's own units are
// those of a folder.
func New(now time.Time, units string, stdin io.Reader) *chain.Kit {
	return &chain.Kit{
		Formats: all.Formats,
		Units:   func(name string) (*unit.Profile, error) { return unit.Find(name, units) },
		Now:     now,
		Stdin:   stdin,
		Steps: []chain.StepVerb{
			{Name: "convert", New: func(k *chain.Kit) chain.Step { return &fitting{Fitting: export.Fitting{Units: k.Units}} }},
			{Name: "clean", New: func(k *chain.Kit) chain.Step { return clean.New() }},
			{Name: "elevate", New: func(*chain.Kit) chain.Step { return &elevation{} }},
			{Name: "recast", New: func(k *chain.Kit) chain.Step {
				return &recasting{Step: recast.Step{Now: k.Now, PointsOf: k.PointsOf}, units: k.Units}
			}},
			{Name: "dress", New: func(k *chain.Kit) chain.Step { return &dressing{reading: k.NewReading()} }},
			{Name: "lay", New: func(*chain.Kit) chain.Step { return &laying{} }},
			{Name: "overlay", New: func(k *chain.Kit) chain.Step { return &overlaying{reading: k.NewReading()} }},
		},
		Outputs: []chain.OutputVerb{
			{Name: "convert", Key: "file", New: func(k *chain.Kit) chain.Output {
				return &files{Target: export.Target{Formats: k.Formats, Fitting: export.Fitting{Units: k.Units},
					Icons: picture.IconPNG}}
			}},
			{Name: "stow", Key: "card", New: func(k *chain.Kit) chain.Output { return &stowing{kit: k} }},
			{Name: "legs", Key: "file", New: func(k *chain.Kit) chain.Output { return newLogbook(k) }},
			{Name: "draw", Key: "file", New: func(k *chain.Kit) chain.Output { return newDrawing(k) }},
		},
	}
}

// elevation is elevate, which opens its grids.
type elevation struct{ elevate.Step }

func (e *elevation) Open(context.Context) error { return e.Step.Open() }

// dressing is dress, which reads its rules.
type dressing struct {
	dress.Step
	reading *input.Reading // of the areas
}

// ReadLike has the areas read like the data.
func (d *dressing) ReadLike(r *input.Reading) { d.reading = r }

func (d *dressing) Open(ctx context.Context) error { return d.Step.Open(ctx, d.reading) }

// recasting is recast, which may use the profile of a unit.
type recasting struct {
	recast.Step
	units func(string) (*unit.Profile, error)
}

// Files lists the files of the unit that lines are split for.
func (r *recasting) Files() []string {
	if r.SplitAt == nil || r.SplitAt.Unit == "" {
		return nil
	}
	p, err := r.units(r.SplitAt.Unit)
	if err != nil {
		return nil
	}
	return p.Files()
}

// fitting is convert as a step: what is chosen goes on, fitted to a unit where one is named.
type fitting struct{ export.Fitting }

func (f *fitting) Params() param.Table { return f.FittingParams().In("Fitting") }

func (f *fitting) Check() error { return f.Find() }

func (f *fitting) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	if f.Profile == nil {
		return &nav.Report{}, nil
	}
	fitted, err := unit.Fit(ctx, d, f.Profile)
	if err != nil {
		return nil, err
	}
	*d = *fitted.Data
	return &nav.Report{Ledger: fitted.Ledger}, nil
}
