package chain

import (
	"fmt"

	"gyrolith/core/advice"
	"gyrolith/core/format"
)

// String says in a line where, and what.
func (r Remark) String() string {
	e := format.Error{Path: r.Path}
	switch {
	case r.Cut != nil:
		return r.Cut.Error() + "; the complete data before it was used"
	case r.Reject != nil:
		x := r.Reject
		what := x.Kind.One()
		if x.Raw != "" {
			what = fmt.Sprintf("position %q of %s", x.Raw, x.Kind.One())
		}
		if x.Name != "" {
			what += fmt.Sprintf(" %q", x.Name)
		}
		if x.Number > 0 {
			what += fmt.Sprintf(", point %d,", x.Number)
		}
		e.Line, e.Col, e.Msg = x.Line, x.Col, what+" was left out: "+x.Why
	case r.Problem != nil:
		e.Line, e.Col, e.Msg = r.Problem.Line, r.Problem.Col, r.Problem.Text
		if r.Problem.Count > 1 {
			e.Msg = fmt.Sprintf("%s (%d times; here first)", r.Problem.Text, r.Problem.Count)
		}
	}
	if e.Path == "" {
		return e.Msg
	}
	return e.Error()
}

// Advice is what the user can do about it.
func (r Remark) Advice() advice.Advice {
	switch {
	case r.Cut != nil:
		return advice.Advice{}
	case r.Reject != nil:
		return r.Reject.Advice
	}
	return r.Problem.Advice
}

// Grave says whether something of the input is missing or may be wrong.
func (r Remark) Grave() bool { return r.Cut != nil || r.Reject != nil || r.Problem.Code.Grave() }
