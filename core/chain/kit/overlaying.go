package kit

import (
	"context"
	"fmt"
	"strings"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/overlay"
	"gyrolith/core/param"
)

// overlaying is overlay as a step, which reads what is computed with.
type overlaying struct {
	overlay.Step
	reading *input.Reading
}

// Params lists the parameters, what is computed among them.
func (o *overlaying) Params() param.Table {
	what := param.Word("what", &o.What, overlay.All, "WHAT", "what is computed, `WHAT`")
	return append(param.Table{what}.In("Computing"), o.Step.Params()...)
}

// Check finds parameters that make no sense.
func (o *overlaying) Check() error {
	if o.What == "" {
		return param.Errorf("what", "name one of %v", overlay.All)
	}
	return o.Step.Check()
}

// Open reads the file of what is computed with, and takes what is named of it.
func (o *overlaying) Open(ctx context.Context) error {
	if o.With == nil {
		return nil
	}
	in, err := o.reading.Beside().Load(ctx, o.With.Path)
	if err != nil {
		return err
	}
	s := choose.Selection{}
	kind := "areas"
	if o.What == overlay.Divide {
		kind = "lines"
		s.Leave = []choose.Choice{{Kinds: [4]bool{true, false, false, true}}}
	} else {
		s.Leave = []choose.Choice{{Kinds: [4]bool{true, true, true, false}}}
	}
	if o.With.Pattern != "" {
		s.Take = []choose.Choice{{Kinds: [4]bool{true, true, true, true}, Pattern: strings.ToLower(o.With.Pattern)}}
	}
	if err := s.Apply(in.Data); err != nil || in.Data.Counts() == [4]int{} {
		msg := "has no " + kind + " to compute with"
		if o.With.Pattern != "" {
			msg = fmt.Sprintf("has no %s called %q", kind, o.With.Pattern)
		}
		return &format.Error{Path: o.With.Path, Msg: msg}
	}
	o.Other = in.Data
	return nil
}

// Close has nothing to close.
func (o *overlaying) Close() {}
