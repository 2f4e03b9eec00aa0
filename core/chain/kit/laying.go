package kit

import (
	"context"

	"gyrolith/core/chain"
	"gyrolith/core/lay"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// laying is lay as a step.
type laying struct{ lay.Step }

// Params lists the parameters, what is laid among them.
func (l *laying) Params() param.Table {
	return append(param.Table{param.Word("what", &l.What, lay.All, "WHAT", "what is laid, `WHAT`")}.In("Laying"),
		l.Step.Params()...)
}

// Check finds parameters that make no sense.
func (l *laying) Check() error {
	if l.What == "" {
		return param.Errorf("what", "name a pattern")
	}
	return l.Step.Check()
}

// Apply lays it: what was laid takes the place of the data, as it does for the verb.
func (l *laying) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	out, err := l.Lay(ctx, d)
	if err != nil {
		return nil, err
	}
	*d = *out
	r := &nav.Report{}
	r.Count("waypoints laid", len(out.Waypoints))
	r.Count("routes laid", len(out.Routes))
	r.Count("areas laid", len(out.Areas))
	return r, nil
}

// Laying gives the step of a stage that is lay; nil for others.
func Laying(s chain.Step) *lay.Step {
	if l, ok := s.(*laying); ok {
		return &l.Step
	}
	return nil
}
