package table

import (
	"bytes"
	"runtime"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/nav"
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
	all, lines := make([]nav.Waypoint, whole), make([]int32, whole)
	readers := make([]*reader, len(count))
	from, line := 0, in.next
	for k, n := range count {
		part := *r
		part.d = &nav.Dataset{Waypoints: all[from : from : from+n]}
		part.lines, part.keys, part.fieldPool, part.faulty, part.bounds = lines[from:from:from+n], nil, nil, nil, noBounds
		part.first = 0
		readers[k] = &part
		rows := newScanner(text[cuts[k]:cuts[k+1]], in.sep)
		rows.next = line
		skip := -1
		if k == 0 {
			skip = r.header
		}
		group.Go(func() error {
			for row := 0; rows.scan(); row++ {
				if row > skip {
					part.row(rows.cells, rows.line)
				}
			}
			return nil
		})
		from, line = from+n, line+n-1
	}
	group.Wait()
	r.join(readers, all, lines)
	in.rest = nil
	return true
}

// join puts the parts together, moving rows up where some before them could not be used.
func (r *reader) join(readers []*reader, all []nav.Waypoint, lines []int32) {
	n := 0
	for _, p := range readers {
		if len(p.keys) > 0 || len(r.keys) > 0 {
			for len(r.keys) < n {
				r.keys = append(r.keys, key{})
			}
			r.keys = append(r.keys, p.keys...)
		}
		if len(p.d.Waypoints) > 0 && &p.d.Waypoints[0] != &all[n] {
			copy(all[n:], p.d.Waypoints)
			copy(lines[n:], p.lines)
		}
		n += len(p.d.Waypoints)
		r.faulty = append(r.faulty, p.faulty...)
		r.bounds.join(p.bounds)
		waypoints := p.d.Waypoints
		p.d.Waypoints = nil
		r.d.Merge(p.d)
		p.d.Waypoints = waypoints
	}
	clear(all[n:])
	r.d.Waypoints, r.lines = all[:n], lines[:n]
}

// loneReturns says whether lines end in a carriage return alone.
func loneReturns(text []byte) bool {
	i := bytes.IndexByte(text, '\r')
	return i >= 0 && i+1 < len(text) && text[i+1] != '\n'
}
