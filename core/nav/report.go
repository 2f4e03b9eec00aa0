package nav

// Report says what a step did to a dataset.
type Report struct {
	Ledger   Ledger
	Counts   []Count
	Findings []string // in words, what a strict run refuses, such as "12 faults found"
	Detail   any      // what the step alone can say, of a type of its own package
}

// Count is a number that one waits for, such as "points given a height".
type Count struct {
	What string `json:"what"`
	N    int    `json:"count"`
}

// Count adds a number to the report, unless it is zero.
func (r *Report) Count(what string, n int) {
	if n != 0 {
		r.Counts = append(r.Counts, Count{what, n})
	}
}

// Changes counts what was changed, and Lost what could not be carried over and was not asked for.
func (l Ledger) Changes() (changes, lost int) {
	for i := range l {
		if l[i].Loss && !l[i].Asked {
			lost += l[i].Count
		} else {
			changes += l[i].Count
		}
	}
	return
}
