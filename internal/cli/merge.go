package cli

import (
	"context"
	_ "embed"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/merge"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/cards"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/merge.txt
var mergeHelp string

// mergeTask is the work of merge.
type mergeTask struct {
	*frame.Task
	unit      cards.Unit
	base      string
	conflicts string
	keep      string
	opt       merge.Options
	end, lost *chain.End
}

// mergeVerb is merge.
var mergeVerb = frame.Verb{Name: "merge", Stage: frame.MakeReady,
	Brief:    "merge versions of a list, or a card",
	Usage:    "merge versions of a list, or a card that came back",
	Args:     "OFFICE NEWER… -o FILE",
	Help:     mergeHelp,
	Examples: []string{"merge dressed.kmz returned.kmz -o both.kmz", "merge dressed.kmz --card keel-card -o home.kmz"},
	Tried:    []string{"combine", "concat", "cat"},
	Answers:  []any{merge.Report{}},
	Make:     makeMerge}

func makeMerge(a *frame.App, v *frame.Verb) frame.Made {
	m := &mergeTask{Task: a.NewTask(v.Name)}
	m.end, _ = a.Kit.NewEnd("convert")
	conflicts := param.Text("conflicts", &m.conflicts, "FILE",
		"write the versions that were not kept to this `FILE`; its extension chooses the format")
	conflicts.Path = param.Written
	return frame.Made{Tables: append([]param.Table{m.Reading.Params()}, append(
		m.unit.Tables(),
		param.Table{
			param.File("base", &m.base, "FILE", "the `FILE` that all versions started from"),
			param.Word("prefer", &m.opt.Prefer, []merge.Prefer{merge.First, merge.Second, merge.Newer}, "SIDE",
				"resolve conflicts by `SIDE`: first, second, or newer (the item with the later time)"),
			param.Text("newer-by", &m.opt.NewerBy, "FIELD",
				"the `FIELD` with the time of an item, for newer (default: its own time)"),
			length("within", &m.opt.Within, "DISTANCE",
				"positions within this `DISTANCE` count as the same", "10cm"),
			conflicts, cards.KeepParam(&m.keep), m.Waiting(),
		}.In("Merging").ForOneRun(),
		kit.Target(m.end.Output).Params().Without(cards.OfTheCard...),
		m.Writing("the `FILE` to write; its extension chooses the format; - is standard output"),
		m.Answering(),
	)...), Run: m.run}
}

// length is a parameter with a default that help tells.
func length(name string, to *float64, value, help, usual string) param.Param {
	p := param.Length(name, to, value, help)
	p.Default = usual
	return p
}

// roundings are the differences of positions that formats make, in metres.
const roundings = 0.1

func (m *mergeTask) run(ctx context.Context, l *frame.Line) error {
	if m.opt.Within == 0 {
		m.opt.Within = roundings
	}
	if err := m.check(l); err != nil {
		return err
	}
	m.end.Name = m.Output
	inputs := l.Args
	if m.base != "" {
		inputs = append(slices.Clone(inputs), m.base)
	}
	if err := m.Settle("merge", m.end, inputs); err != nil {
		return err
	}
	if err := kit.Target(m.end.Output).Open(); err != nil {
		return err
	}
	quietly := *m.Task
	quietly.JSON, quietly.Quiet, quietly.Strict = false, true, false
	if m.conflicts != "" {
		m.lost, _ = m.Kit.NewEnd("convert")
		m.lost.Name = m.conflicts
		if filepath.Clean(m.conflicts) == filepath.Clean(m.Output) {
			return frame.UsageError("merge: --conflicts and -o are the same file")
		}
		if err := quietly.Settle("merge --conflicts", m.lost, inputs); err != nil {
			return err
		}
	}
	if err := m.Reading.Open(ctx); err != nil {
		return frame.Worded("merge", err)
	}
	first, reports, err := m.merged(ctx, l.Args)
	if err != nil {
		return err
	}
	other := &nav.Dataset{}
	open := 0
	for _, r := range reports {
		open += r.Open()
		other.Merge(r.Other)
	}
	if m.JSON {
		if err := m.PrintJSON(mergeJSON(reports)); err != nil {
			return err
		}
	} else {
		for i, r := range reports {
			m.say(r, l.Args[0], m.seconds(l.Args)[i])
		}
	}
	if m.Strict && open > 0 {
		return frame.StrictError("%s, refused by --strict; nothing was written; --prefer resolves them",
			measure.Counted(open, "conflict is open", "conflicts are open"))
	}
	said := *m.Task
	said.JSON, said.Quiet = false, m.Quiet || m.JSON
	if err := said.Write(ctx, m.end, &chain.Work{Data: first, Source: chain.Stem(l.Args[0])}, nil, false); err != nil {
		return err
	}
	if m.lost == nil {
		return nil
	}
	if other.Counts() == [4]int{} {
		m.Note("there were no conflicts, so " + m.conflicts + " was not written")
		return nil
	}
	if err := quietly.Write(ctx, m.lost, &chain.Work{Data: other}, nil, false); err != nil {
		return err
	}
	if !m.Quiet && !m.JSON && !m.DryRun {
		m.Err.Printf("the versions that were not kept are in %s\n", console.Show(m.conflicts))
	}
	return nil
}

// check finds options that make no sense together.
func (m *mergeTask) check(l *frame.Line) error {
	switch {
	case len(l.Args) == 0:
		return frame.UsageError("merge: name the list to merge into, and the newer versions")
	case m.unit.Card == "" && len(l.Args) < 2:
		return frame.UsageError("merge: name at least two versions, or one and a card with --card")
	case m.unit.Card != "" && len(l.Args) > 1:
		return frame.UsageError("merge: --card is the newer version; name only the office's list with it")
	case m.unit.Card != "" && m.base != "":
		return frame.UsageError("merge: give --base or --card, not both; the card's record is its base")
	case m.opt.NewerBy != "" && m.opt.Prefer != merge.Newer:
		return frame.UsageError("merge: --newer-by needs --prefer newer")
	}
	return nil
}

// seconds names what each merge took in.
func (m *mergeTask) seconds(args []string) []string {
	if m.unit.Card != "" {
		return []string{m.unit.Card}
	}
	return args[1:]
}

// merged merges the versions one after the other.
func (m *mergeTask) merged(ctx context.Context, args []string) (*nav.Dataset, []*merge.Report, error) {
	paths := slices.Clone(args)
	if m.base != "" {
		paths = append(paths, m.base)
	}
	var inputs, all []*format.Loaded
	for _, p := range paths { // a folder is one version
		g, err := m.Gathered(ctx, []string{p})
		if err != nil {
			return nil, nil, err
		}
		parts, err := m.Load(ctx, g.Files)
		if err != nil {
			return nil, nil, err
		}
		all = append(all, parts...)
		whole := *parts[0]
		whole.Path, whole.Data = p, input.Merge(parts)
		inputs = append(inputs, &whole)
	}
	if err := m.tell(all); err != nil {
		return nil, nil, err
	}
	first := inputs[0].Data
	if m.opt.NewerBy != "" {
		if err := m.hasField(inputs); err != nil {
			return nil, nil, err
		}
	}
	if m.unit.Card != "" {
		return m.withCard(ctx, first)
	}
	var base *nav.Dataset
	if m.base != "" {
		base = inputs[len(inputs)-1].Data
	}
	var reports []*merge.Report
	for _, in := range inputs[1:len(args)] {
		out, report, err := merge.Merge(ctx, base, first, in.Data, m.opt)
		if err != nil {
			return nil, nil, err
		}
		first, reports = out, append(reports, report)
	}
	return first, reports, nil
}

// tell says what the readers noticed, and refuses under --strict what is missing.
func (m *mergeTask) tell(inputs []*format.Loaded) error {
	for _, in := range inputs {
		m.Remarks(in)
	}
	if m.Strict {
		return job.RefuseRemarks(chain.Remarks(inputs), false)
	}
	return nil
}

// hasField refuses a field that no item has.
func (m *mergeTask) hasField(inputs []*format.Loaded) error {
	for _, in := range inputs {
		for fields := range in.Data.AllFields() {
			if slices.ContainsFunc(fields, func(f nav.Field) bool { return f.Key == m.opt.NewerBy }) {
				return nil
			}
		}
	}
	return frame.UsageError("merge: --newer-by: no item has a field %q", m.opt.NewerBy)
}

// withCard merges what came back on a card.
func (m *mergeTask) withCard(ctx context.Context, office *nav.Dataset) (*nav.Dataset, []*merge.Report, error) {
	profile, err := m.unit.Profile(m.App)
	if err != nil {
		return nil, nil, err
	}
	keep, err := cards.KeepFolder(m.Task.App, m.keep)
	if err != nil {
		return nil, nil, err
	}
	release, err := m.Hold(ctx, m.unit.Card)
	if err != nil {
		return nil, nil, err
	}
	defer release()
	if err := card.CheckFinished(m.unit.Card); err != nil {
		return nil, nil, err
	}
	back, err := card.Return(ctx, office, profile, m.unit.Card, keep, m.Kit.Formats)
	if err != nil {
		return nil, nil, err
	}
	for _, note := range back.Notes {
		m.Note(note)
	}
	opt := m.opt
	opt.Within = max(opt.Within, profile.Margin())
	out, report, err := merge.Merge(ctx, back.Base, back.Office, back.Card, opt)
	if err != nil {
		return nil, nil, err
	}
	back.Settle(out)
	if !m.DryRun {
		err = back.Settled(keep, func(kind, name string) bool {
			return slices.ContainsFunc(report.Conflicts, func(c merge.Change) bool {
				return c.Word == kind && c.Name == name && c.Property == identity.Position && c.Settled == string(merge.First)
			})
		})
		if err != nil {
			m.Note("what was settled could not be kept, so that stow will ask again: " + err.Error())
		}
	}
	back.Settle(report.Other)
	return out, []*merge.Report{report}, nil
}

func mergeJSON(reports []*merge.Report) *merge.Report {
	all := &merge.Report{Added: []merge.Change{}, Removed: []merge.Change{}, Moved: []merge.Change{},
		Changed: []merge.Change{}, Conflicts: []merge.Change{}, Ambiguous: []merge.Change{}, NotHeld: []string{}}
	for _, r := range reports {
		all.Added, all.Removed, all.Moved = append(all.Added, r.Added...), append(all.Removed, r.Removed...),
			append(all.Moved, r.Moved...)
		all.Changed, all.Conflicts = append(all.Changed, r.Changed...), append(all.Conflicts, r.Conflicts...)
		all.Ambiguous, all.NotHeld = append(all.Ambiguous, r.Ambiguous...), append(all.NotHeld, r.NotHeld...)
		all.Same += r.Same
	}
	return all
}

// say prints what a merge did: a table of what was taken, one of the conflicts, and the counts.
func (m *mergeTask) say(r *merge.Report, first, second string) {
	if m.Quiet {
		return
	}
	side := func(by string) string {
		switch merge.Prefer(by) {
		case merge.First:
			return console.OneLine(first, 24)
		case merge.Second:
			return console.OneLine(second, 24)
		}
		return by
	}
	var rows [][]string
	add := func(word string, list []merge.Change) {
		for _, c := range list {
			was, is := c.Base, c.Second
			if merge.Prefer(c.Side) == merge.First {
				is = c.First
			} else if was == "" {
				was = c.First
			}
			what := word
			if c.Property != "" && c.Property != identity.Position {
				what = c.Property
			}
			detail := ""
			switch {
			case c.Property == identity.Position:
				detail = "by " + m.Shift(c.Metres) + " to " + m.place(is)
			case c.Property != "":
				detail = strings.TrimSpace(console.OneLine(m.place(was), 32) + " → " + console.OneLine(m.place(is), 32))
			}
			rows = append(rows, []string{what, c.Word, console.OneLine(c.Name, 32), side(c.Side), detail})
		}
	}
	add("added", r.Added)
	add("removed", r.Removed)
	add("moved", r.Moved)
	add("changed", r.Changed)
	m.rows([]console.Column{{Title: "taken"}, {}, {Title: "item"}, {Title: "from"}, {}}, rows)
	rows = nil
	for _, c := range r.Conflicts {
		taken := m.Err.Paint(console.Red, "open: first kept")
		if c.Property != "" && (c.First == "deleted" || c.Second == "deleted") {
			taken = m.Err.Paint(console.Red, "open: kept")
		}
		if c.Settled != "" {
			taken = side(c.Settled)
		}
		dated := func(value, date string) string {
			if date == "" {
				return console.OneLine(m.place(value), 32)
			}
			return console.OneLine(m.place(value), 32) + " (" + console.OneLine(date, 20) + ")"
		}
		rows = append(rows, []string{c.Word, console.OneLine(c.Name, 28), c.Property, dated(c.First, c.FirstTime),
			dated(c.Second, c.SecondTime), taken})
	}
	m.rows([]console.Column{{Title: "conflict"}, {}, {}, {Title: console.OneLine(first, 28)},
		{Title: console.OneLine(second, 28)}, {Title: "taken"}}, rows)
	for _, c := range r.Ambiguous {
		m.Note(fmt.Sprintf("%s %q: another of this name or place is in %s, and all are kept", c.Word, c.Name, second))
	}
	for _, what := range r.NotHeld {
		what = strings.NewReplacer("(first)", "in "+first, "(second)", "in "+second).Replace(what)
		m.Err.Printf("%s no %s: treated as not stored, not as deleted\n", m.Err.Paint(console.Yellow, "note:"),
			console.Show(what))
	}
	m.Err.Printf("%s and %s: %s\n", console.Show(first), console.Show(second), mergeCounts(r))
}

// rows prints a table, the longest ones in part.
func (m *mergeTask) rows(columns []console.Column, rows [][]string) {
	if len(rows) > 0 {
		m.Err.List("  ", columns, rows, words.ManyRows, "; --json lists them all")
	}
}

func mergeCounts(r *merge.Report) string {
	out := fmt.Sprintf("%s the same", measure.Counted(r.Same, "item", "items"))
	for _, x := range []struct {
		n    int
		word string
	}{{len(r.Added), "added"}, {len(r.Removed), "removed"}, {len(r.Moved), "moved"}, {len(r.Changed), "changed"}} {
		if x.n > 0 {
			out += fmt.Sprintf(", %d %s", x.n, x.word)
		}
	}
	if n := len(r.Conflicts); n > 0 {
		out += ", " + measure.Counted(n, "conflict", "conflicts")
		if open := r.Open(); open < n {
			out += fmt.Sprintf(" (%d settled)", n-open)
		}
	}
	return out
}

// place writes a position as the notation has it; other values stay as they are.
func (m *mergeTask) place(value string) string {
	lat, lon, two := strings.Cut(value, " ")
	y, err1 := strconv.ParseFloat(lat, 64)
	x, err2 := strconv.ParseFloat(lon, 64)
	if !two || err1 != nil || err2 != nil || !strings.Contains(value, ".") {
		return value
	}
	return m.Notation.Format(y, x)
}
