// Package plan reads lists of fixes that were pasted out of a briefing page, a log or a mail: a row a fix, or all on
// one line, with positions in any notation.
package plan

import (
	"bytes"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Format is the pasted plan, which is read and not written. It has to be the last to be asked for its own files.
var Format = &format.Format{
	Name:  "plan",
	Title: "pasted list of fixes, in any notation",
	Brief: "a route, or waypoints on request",
	Sniff: sniff,
	Read:  read,
	Loose: true,
}

// mostText is the most bytes of a plan.
const mostText = 16 << 20

// sniff takes a text for a plan where two rows at least and half of all bear positions, and no header of a table stands
// above them: prose that mentions a place is none.
func sniff(h *format.Head) bool {
	if bytes.IndexByte(h.Text, 0) >= 0 {
		return false
	}
	lines := strings.Split(decode(h.Raw), "\n")
	if len(h.Raw) >= 64<<10 {
		lines = lines[:len(lines)-1] // it may be cut off
	}
	if tableHeader(lines) {
		return false
	}
	p := parse(lines, nil)
	if p.message {
		return true
	}
	headed := slices.ContainsFunc(h.Titles(), func(t string) bool { return len(t) > 2 })
	bearing, used, fixes, prose := 0, 0, 0, 0
	for i := range p.rows {
		r := &p.rows[i]
		if r.blank() {
			continue
		}
		used++
		if headed && len(r.places) == 1 && r.ofTwoCells(r.places[0]) {
			continue // columns of other numbers
		}
		if len(r.places) > 0 {
			bearing++
			fixes += len(r.places)
			if r.prose() {
				prose++
			}
		} else if r.fault != nil {
			bearing++ // it is meant for one
		} else if _, _, ok := r.byBearing(0); ok {
			bearing++
			fixes++
		}
	}
	if used == 1 && fixes == 1 && prose == 0 {
		return true // one fix alone
	}
	return fixes >= 2 && (bearing >= 2 || used <= 2) && 2*bearing >= used && 2*prose < bearing
}

// decode gives the text as UTF-8 with plain line ends.
func decode(raw []byte) string {
	text, _ := format.DecodeText(raw)
	return strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(string(text))
}

// read makes a route of the fixes, or waypoints with the option List. Rows that are not used are told with the reason;
// those that should have been a fix are rejects.
func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	raw, err := io.ReadAll(io.LimitReader(s.Reader(), mostText+1))
	if err != nil {
		return nil, err
	}
	if len(raw) > mostText {
		return nil, s.Fault("is larger than 16 MiB, which is too large for a pasted plan")
	}
	if bytes.IndexByte(raw, 0) >= 0 && !bytes.HasPrefix(raw, []byte{0xFF, 0xFE}) &&
		!bytes.HasPrefix(raw, []byte{0xFE, 0xFF}) {
		return nil, s.Fault("is a binary file, not a pasted plan")
	}
	p := parse(strings.Split(decode(raw), "\n"), opt.System)
	d := &nav.Dataset{}
	fixes := p.fixes(d, opt)
	if len(fixes) == 0 {
		why := "no row has a position"
		if len(p.rows) > 0 && len(d.Rejects) > 0 {
			x := &d.Rejects[0]
			return nil, &format.Error{Path: s.Path, Line: x.Line, Msg: fmt.Sprintf("%s that can be used: %q %s", why, x.Raw,
				x.Why)}
		}
		return nil, s.Fault(why + ": write them as 47.6012 S 11.3021 E, 4736S01118E, 32 south 672887 4725593 or in any " +
			"other notation")
	}
	if opt.List {
		d.Waypoints = fixes
		return d, nil
	}
	r := nav.Route{Item: nav.Item{Name: name(s.Path)}, Points: fixes}
	d.Routes = []nav.Route{r}
	return d, nil
}

// name makes a route's name of a file's.
func name(path string) string {
	base := filepath.Base(path)
	base = strings.TrimSuffix(base, filepath.Ext(base))
	if path == "standard input" || base == "" || base == "." {
		return "Plan"
	}
	return base
}
