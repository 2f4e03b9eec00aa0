package motion

import "gyrolith/core/param"

// GapParam is the limit of gaps.
func (l *Limits) GapParam() param.Param {
	gap := param.Span("longest-gap", &l.Gap, "TIME",
		"a silence longer than this `TIME` is a gap (default: 5min, or ten of the recording's intervals)")
	gap.Old = []string{"gap-longer"}
	return gap
}

// Params lists the limits that a user may set.
func (l *Limits) Params() param.Table {
	return param.Table{
		param.Length("stop-within", &l.Within, "DISTANCE",
			"a halt stays within this `DISTANCE` (default: 8m, or four times the scatter, up to 50m)"),
		l.GapParam(),
	}
}
