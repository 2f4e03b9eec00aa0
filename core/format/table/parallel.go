package table

import (
	"bytes"
	"runtime"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// largeText is from how many bytes on the rows of a text are read side by side.
const largeText = 4 << 20

// parallel reads a long text in parts on all cores. A text with quotes is read in one, since a row may then go on over
// the end of its line; it then says no and has done nothing.
func (r *reader) parallel(in *scanner) bool {
	text := in.rest
	if len(text) < largeText || bytes.IndexByte(text, '"') >= 0 || bytes.IndexByte(text[:1<<16], '\n') < 0 ||
		loneReturns(text[:1<<16]) {
		return false
	}
	parts := runtime.GOMAXPROCS(0)
	cuts := []int{0}
	for i := 1; i < parts; i++ {
		at := len(text) / parts * i
		if n := bytes.IndexByte(text[at:], '\n'); n >= 0 && at+n+1 < len(text) {
			cuts = append(cuts, at+n+1)
		}
	}
	cuts = append(cuts, len(text))
	count := make([]int, len(cuts)-1)
	var group errgroup.Group
	for k := range count {
		group.Go(func() error {
			count[k] = bytes.Count(text[cuts[k]:cuts[k+1]], []byte("\n")) + 1
			return nil
		})
	}
	group.Wait()
	whole := 0
	for _, n := range count {
		whole += n
	}
	// Every part has its own stretch of one slice.
	rows := scratch.Make[taken](whole)
	var waypoints []nav.Waypoint
	if !r.lined {
		waypoints = make([]nav.Waypoint, whole)
	}
	readers := make([]*reader, len(count))
	from, line := 0, in.next
	for k, n := range count {
		part := *r
		part.d = &nav.Dataset{}
		if waypoints != nil {
			part.d.Waypoints = waypoints[from : from : from+n]
		}
		part.taken, part.fieldPool, part.faulty, part.bounds, part.first = rows[from:from:from+n], nil, nil, noBounds, 0
		readers[k] = &part
		scan := newScanner(text[cuts[k]:cuts[k+1]], in.sep)
		scan.next = line
		skip := -1
		if k == 0 {
			skip = r.header
		}
		group.Go(func() error {
			for row := 0; scan.scan(); row++ {
				if row > skip {
					part.row(scan.cells, scan.line)
				}
			}
			return nil
		})
		from, line = from+n, line+n-1
	}
	group.Wait()
	r.join(readers, rows, waypoints)
	in.rest = nil
	return true
}

// join puts the parts together, moving rows and waypoints up where some before them could not be used.
func (r *reader) join(readers []*reader, rows []taken, waypoints []nav.Waypoint) {
	rows, waypoints = rows[:0], waypoints[:0]
	for _, p := range readers {
		of := make([]int32, len(p.lines)+1) // the numbers of the part's lines in the whole
		for i, l := range p.lines {
			of[i+1] = r.lineOf(l.key, l.group, l.rows)
		}
		for i := range p.taken {
			t := &p.taken[i]
			t.line = of[t.line]
			if t.values > 0 {
				t.values += int32(len(r.values))
			}
			if t.whole > 0 {
				t.whole += int32(len(waypoints))
			}
		}
		r.values = append(r.values, p.values...) // one or none
		rows, waypoints = joined(rows, p.taken), joined(waypoints, p.d.Waypoints)
		r.faulty = append(r.faulty, p.faulty...)
		r.bounds.join(p.bounds)
		p.d.Waypoints = nil
		r.d.Merge(p.d)
	}
	r.taken, r.d.Waypoints = rows, waypoints
}

// joined appends a part, which may stand behind the whole already.
func joined[T any](whole, part []T) []T {
	if n := len(whole); len(part) > 0 && n < cap(whole) && &whole[:n+1][n] == &part[0] {
		return whole[:n+len(part)]
	}
	return append(whole, part...)
}

// loneReturns says whether lines end in a carriage return alone.
func loneReturns(text []byte) bool {
	i := bytes.IndexByte(text, '\r')
	return i >= 0 && i+1 < len(text) && text[i+1] != '\n'
}
