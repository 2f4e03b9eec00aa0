package cli

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return measure.Count(n) + " " + many
}

// contents says what a dataset holds: 12 waypoints, 1 route, 3 tracks.
func contents(d *nav.Dataset) string { return countWords(d.Counts()) }

func countWords(counts [4]int) string {
	var parts []string
	for i, n := range counts {
		if n > 0 {
			parts = append(parts, plural(n, nav.Kind(i).One(), nav.Kind(i).String()))
		}
	}
	if len(parts) == 0 {
		return "nothing"
	}
	return strings.Join(parts, ", ")
}

func (a *app) printJSON(v any) error {
	var text bytes.Buffer
	enc := json.NewEncoder(&text)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(v); err != nil {
		return err
	}
	_, err := io.WriteString(a.out, console.ShowJSON(text.String()))
	if a.out.Failed() != nil {
		return nil // which is said of all that is printed
	}
	return err
}

// note says something that one should know of.
func (j *task) note(text string) {
	if !j.quiet {
		j.err.Printf("%s %s\n", j.err.Paint(console.Yellow, "note:"), console.Show(text))
	}
}

// shortened tells the files of sets by their first: survey-points.shp with .shx .dbf .prj .cpg.
func shortened(files []string) (out []string) {
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

// saySystem says what was assumed of a coordinate system, which is where people go wrong.
func (j *task) saySystem(s *crs.System, written bool) {
	if s == nil || j.quiet {
		return
	}
	way := "read as"
	if written {
		way = "written in"
	}
	j.err.Printf("coordinates are %s %s: %s; %s; heights are not transformed\n", way, console.Show(s.String()), s.Axes(),
		console.Show(s.Accuracy()))
	if s.Southing() {
		j.err.Printf("  it counts westings and southings by definition: tables have them so; layers have eastings and " +
			"northings\n")
	}
}

// manyRows is the longest table that a terminal shows whole. Tables of new names are always whole: they are read before
// setting out.
const manyRows = 60

// ledger prints what was changed and lost: new names in a table, changes and losses of one sort together.
func (j *task) ledger(l nav.Ledger) {
	if len(l) == 0 || j.quiet || j.json {
		return
	}
	var names [][]string
	var given []newlyNamed
	var changes, losses sorts
	for _, e := range l {
		switch {
		case (e.What == nav.PropertyName || e.What == nav.PropertyPointName) && e.Old == "":
			given = countUnnamed(given, e)
		case e.What == nav.PropertyName || e.What == nav.PropertyPointName || e.What == nav.PropertyFieldName:
			names = append(names, []string{e.KindWord, console.OneLine(e.Old, 48), "→", console.OneLine(e.New, 32)})
		case e.Old != "" || e.New != "":
			changes.add(e, e.Old+" → "+e.New)
		default:
			losses.add(e, "")
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
	s := j.err
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
	key := sort{what: string(e.What), change: change, why: advised(e.Why, e.Advice)}
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
	for _, x := range s.rows[:min(len(s.rows), manyRows)] {
		of := console.OneLine(x.first, 28)
		if x.others > 0 {
			of += fmt.Sprintf(" and %s more", measure.Count(x.others))
		}
		cells = append(cells, []string{x.what, measure.Count(x.count), console.OneLine(x.change, 40), of, x.why})
	}
	return cells
}

// told gives a ledger with the advice in its reasons, for JSON.
func told(l nav.Ledger) nav.Ledger {
	out := make(nav.Ledger, len(l))
	for i, e := range l {
		e.Why = advised(e.Why, e.Advice)
		out[i] = e
	}
	return out
}

// sortedKeys gives the keys of a map in their order.
func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }
