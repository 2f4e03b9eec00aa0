package inspect

import (
	"errors"
	"fmt"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// State says whether a file is as it was made.
type State string

// The states of files. One that can't be read as it is, or has positions that can't be used, may be whole.
const (
	Whole         State = "whole"
	Damaged       State = "damaged"
	CutShort      State = "cut"
	Contradictory State = "contradictory" // what it says of itself is not so
)

// StateOf tells the state of a file by what came of reading it with salvage, and why it is not whole.
func StateOf(in *format.Loaded, err error) (State, string) {
	if err != nil {
		if f, ok := errors.AsType[*format.Error](err); ok {
			switch {
			case f.Cut:
				return CutShort, f.Msg
			case f.Advice.Code != "" && f.Advice.Code != advice.NameFormat: // how it is to be read has to be said
				return Whole, f.Msg
			}
			return Damaged, f.Msg
		}
		return Damaged, err.Error()
	}
	if in.Cut != nil {
		return CutShort, in.Cut.Msg
	}
	states := map[nav.ProblemCode]State{nav.ProblemContradiction: Contradictory, nav.ProblemDamaged: Damaged,
		nav.ProblemSums: Damaged}
	for i := range in.Data.Problems {
		p := &in.Data.Problems[i]
		if state := states[p.Code]; state != "" && !p.Info {
			return state, p.Text
		}
	}
	if n := len(in.Data.Rejects); n > 0 {
		r := &in.Data.Rejects[0]
		return Whole, fmt.Sprintf("%s, the first in line %d: %s", measure.Counted(n, "unusable position",
			"unusable positions"), r.Line, r.Why)
	}
	return Whole, ""
}
