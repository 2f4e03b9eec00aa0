// Package words puts counts, ledgers and advice into words.
package words

import (
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

// Contents says what a dataset holds: 12 waypoints, 1 route, 3 tracks.
func Contents(d *nav.Dataset) string { return Counts(d.Counts()) }

// Counts counts items by their kinds: 12 waypoints, 1 route.
func Counts(counts [4]int) string {
	var parts []string
	for i, n := range counts {
		if n > 0 {
			parts = append(parts, measure.Counted(n, nav.Kind(i).One(), nav.Kind(i).String()))
		}
	}
	if len(parts) == 0 {
		return "nothing"
	}
	return strings.Join(parts, ", ")
}

// Shortened tells the files of sets by their first: survey-points.shp with .shx .dbf .prj .cpg.
func Shortened(files []string) (out []string) {
	for _, f := range files {
		stem, ext := strings.TrimSuffix(f, filepath.Ext(f)), filepath.Ext(f)
		if n := len(out) - 1; n >= 0 && strings.HasPrefix(out[n], stem+".") {
			if !strings.Contains(out[n], " with ") {
				out[n] += " with"
			}
			out[n] += " " + ext
			continue
		}
		out = append(out, f)
	}
	return
}

// ManyRows is the longest table that a terminal shows whole. Tables of new names are always whole: they are read before
// setting out.
const ManyRows = 60

// newlyNamed are the items of a kind that had no name and were given one.
type newlyNamed struct {
	kind, first, last string
	count             int
}

func countUnnamed(list []newlyNamed, e nav.Entry) []newlyNamed {
	for i := range list {
		if list[i].kind == e.KindWord {
			list[i].count, list[i].last = list[i].count+1, e.New
			return list
		}
	}
	return append(list, newlyNamed{e.KindWord, e.New, e.New, 1})
}

// sorts gathers entries of a ledger that say the same of different items.
type sorts struct {
	rows []*sort
	at   map[sort]*sort // by what, change and why
}

type sort struct {
	what, change, why string
	count             int
	first             string
	others            int
}

func (s *sorts) add(e nav.Entry, change string) {
	key := sort{what: string(e.What), change: change, why: Advised(e.Why, e.Advice)}
	at := s.at[key]
	if at == nil {
		at = &sort{what: key.what, change: key.change, why: key.why}
		if s.at == nil {
			s.at = map[sort]*sort{}
		}
		s.at[key] = at
		s.rows = append(s.rows, at)
	}
	at.count += e.Count
	if at.first == "" {
		at.first = e.Name
	} else if e.Name != "" {
		at.others++
	}
	at.others += e.Others
}

func (s *sorts) cells() (cells [][]string) {
	for _, x := range s.rows[:min(len(s.rows), ManyRows)] {
		of := console.OneLine(x.first, 28)
		if x.others > 0 {
			of += fmt.Sprintf(" and %s more", measure.Count(x.others))
		}
		cells = append(cells, []string{x.what, measure.Count(x.count), console.OneLine(x.change, 40), of, x.why})
	}
	return cells
}

// Told gives a ledger with the advice in its reasons, for JSON.
func Told(l nav.Ledger) nav.Ledger {
	out := make(nav.Ledger, len(l))
	for i, e := range l {
		e.Why = Advised(e.Why, e.Advice)
		out[i] = e
	}
	return out
}

// SortedKeys gives the keys of a map in their order.
func SortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// PrintLedger prints what was changed and lost: new names in a table, changes and losses of one sort together.
func PrintLedger(s *console.Stream, l nav.Ledger) {
	var names [][]string
	var given []newlyNamed
	var changes, losses sorts
	for _, e := range l {
		named := e.What == nav.PropertyName || e.What == nav.PropertyPointName
		switch {
		case e.Old == "" && e.New == "":
			losses.add(e, "")
		case named && e.Old == "":
			given = countUnnamed(given, e)
		case named || e.What == nav.PropertyFieldName:
			names = append(names, []string{e.KindWord, console.OneLine(e.Old, 48), "→", console.OneLine(e.New, 32)})
		case e.KindWord == "column" && e.Old == "":
			changes.add(e, e.New)
		default:
			changes.add(e, e.Old+" → "+e.New)
		}
	}
	for _, g := range given { // one line, however many they are
		was, is := fmt.Sprintf("%s unnamed", measure.Count(g.count)), console.OneLine(g.first, 32)
		if g.count > 1 {
			is += " to " + console.OneLine(g.last, 32)
		} else {
			was = "unnamed"
		}
		names = append(names, []string{g.kind, was, "→", is})
	}
	if len(names) > 0 {
		s.Printf("%s\n", s.Paint(console.Bold, "renamed"))
		s.Table("  ", []console.Column{{Title: "kind"}, {Title: "was"}, {}, {Title: "is"}}, names)
	}
	if len(changes.rows) > 0 {
		s.Printf("%s\n", s.Paint(console.Bold, "changed"))
		s.Table("  ", []console.Column{{Title: "what"}, {Title: "count", Right: true}, {Title: "change"}, {Title: "of"},
			{Title: "why"}},
			changes.cells())
	}
	if len(losses.rows) > 0 {
		s.Printf("%s\n", s.Paint(console.Yellow, "not carried over"))
		s.Table("  ", []console.Column{{Title: "what"}, {Title: "count", Right: true}, {}, {Title: "of"}, {Title: "why"}},
			losses.cells())
	}
}

// Lines tells where rejects stand: lines 7, 9 to 12, 20.
func Lines(rejects []nav.Reject) string {
	var parts []string
	for i := 0; i < len(rejects); {
		j := i
		for j+1 < len(rejects) && rejects[j+1].Line-rejects[j].Line <= 1 {
			j++
		}
		part := strconv.Itoa(rejects[i].Line)
		if rejects[j].Line > rejects[i].Line {
			part += " to " + strconv.Itoa(rejects[j].Line)
		}
		parts = append(parts, part)
		i = j + 1
	}
	const many = 30
	if n := len(parts) - many; n > 0 {
		return fmt.Sprintf("lines %s and %d more places", strings.Join(parts[:many], ", "), n)
	}
	return "lines " + strings.Join(parts, ", ")
}
