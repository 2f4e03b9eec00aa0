package job

import (
	"fmt"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Refused is why a strict job wrote nothing.
type Refused struct {
	Path string // of what it is about; "" where the words say it
	What string
	Loss bool // something would not be carried over, as the ledger says

	advice advice.Advice
}

func (r *Refused) Error() string {
	if r.Path == "" {
		return r.What
	}
	return r.Path + ": " + r.What
}

// Advised gives the advice.
func (r *Refused) Advised() advice.Advice { return r.advice }

// refuse is the one rule of strictness, on every way: positions and other parts of the inputs that can't be used, files
// that were cut off, choices without effect, findings of steps and outputs, and losses that nobody asked for. Where the
// first step mends what is wrong with its input, only a file that was cut off and a choice without effect count of the
// former.
func (j *Job) refuse(r *Result) error {
	if !j.Strict {
		return nil
	}
	if err := RefuseRemarks(r.Remarks, j.Mends()); err != nil {
		return err
	}
	if findings := r.Findings(); len(findings) > 0 {
		return &Refused{Path: r.Path, What: findings[0]}
	}
	if _, lost := r.Ledger().Changes(); lost > 0 {
		return &Refused{Path: r.Path, Loss: true, What: lostWords(lost)}
	}
	return nil
}

// RefuseLosses gives the refusal of what an output, by its name, would lose; nil where it loses nothing.
func RefuseLosses(name string, ledger nav.Ledger) error {
	if _, lost := ledger.Changes(); lost > 0 {
		return &Refused{Path: name, Loss: true, What: lostWords(lost)}
	}
	return nil
}

func lostWords(n int) string {
	if n == 1 {
		return "1 property would not be carried over"
	}
	return measure.Count(n) + " properties would not be carried over"
}

// RefuseRemarks gives the refusal of inputs by what was noticed of them; nil where nothing is missing.
func RefuseRemarks(remarks []chain.Remark, mends bool) error {
	i := slices.IndexFunc(remarks, func(r chain.Remark) bool {
		if mends {
			return r.Cut != nil || r.Problem != nil && r.Problem.Code == nav.ProblemChoice
		}
		return r.Grave()
	})
	if i < 0 {
		return nil
	}
	return &Refused{What: fmt.Sprint(remarks[i]), advice: remarks[i].Advice()}
}
