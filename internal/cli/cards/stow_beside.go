package cards

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/passage"
	"gyrolith/core/unit"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// writtenFile is an option that names a file to write.
func writtenFile(name string, to *string, help string) param.Param {
	p := param.Text(name, to, "FILE", help)
	p.Path = param.Written
	return p
}

// on says what becomes of what the card shows.
func (s *stowTask) on(keep string, files int) (card.On, error) {
	on := card.On{Card: s.unit.Card, Keep: keep, Drop: s.drop, Names: s.settled, Prefer: s.prefer, Restore: s.deleted}
	if files > 0 {
		on.Chosen = s.Stage.Take.Sure
	}
	switch {
	case s.add && s.Replace:
		return on, frame.UsageError("stow: give only one of --add and --replace")
	case s.Replace && len(s.drop) > 0:
		return on, frame.UsageError("stow: --replace already removes everything that is not in the data; omit --drop")
	case s.add || len(s.drop) > 0:
		on.Mode = card.Add
	case s.Replace:
		on.Mode = card.Replace
	}
	return on, nil
}

// data reads what is stowed; there may be nothing where things are taken off.
func (s *stowTask) data(ctx context.Context, files []string) (*chain.Work, error) {
	if len(files) == 0 && len(s.drop) > 0 {
		return &chain.Work{Data: &nav.Dataset{}, Source: "card"}, nil
	}
	w, _, err := s.Gather(ctx, files)
	return w, err
}

// The fields of a table of names.
const (
	fullName = "full name"
	itemKind = "item kind"
)

// checkNames settles where the table of names is written.
func (s *stowTask) checkNames(inputs []string) error {
	if s.names == "" {
		return nil
	}
	s.nameEnd, _ = s.Kit.NewEnd("convert")
	s.nameEnd.Name = s.names
	quietly := *s.Task
	quietly.JSON = false
	return quietly.Settle("stow --names", s.nameEnd, inputs)
}

// writeNames writes the table of names: the one on the unit, the full one, and where the thing is.
func (s *stowTask) writeNames(ctx context.Context, plan *card.Plan) error {
	if s.nameEnd == nil {
		return nil
	}
	d := &nav.Dataset{}
	for _, n := range plan.Names {
		w := nav.Waypoint{Point: nav.At(n.At.Lat, n.At.Lon)}
		w.LatPrecision, w.LonPrecision = n.At.LatPrecision, n.At.LonPrecision
		w.Name, w.Group = n.Given, n.Group
		w.Fields = []nav.Field{{Key: fullName, Value: n.Name}, {Key: itemKind, Value: n.Kind.One()}}
		d.Waypoints = append(d.Waypoints, w)
	}
	quietly := *s.Task
	quietly.JSON, quietly.Quiet, quietly.Strict = false, true, false
	if err := quietly.Write(ctx, s.nameEnd, &chain.Work{Data: d}, nil, false); err != nil {
		return err
	}
	if !s.Quiet && !s.JSON {
		s.Err.Printf("the names are in %s; edit them and use --names-from\n", console.Show(s.names))
	}
	return nil
}

// readNames reads names that somebody has settled.
func (s *stowTask) readNames(ctx context.Context, p *unit.Profile) error {
	if s.namesFrom == "" {
		return nil
	}
	in, err := s.Reading.Beside().Load(ctx, s.namesFrom)
	if err != nil {
		return err
	}
	s.settled = &card.Names{}
	found := 0
	for i := range in.Data.Waypoints {
		w := &in.Data.Waypoints[i]
		full, ok := nav.Get(w.Fields, fullName)
		if !ok || w.Name == "" {
			continue
		}
		kind, _ := nav.Get(w.Fields, itemKind)
		s.settled.Settle(kind, w.Group, full, w.Name)
		found++
	}
	if found == 0 {
		return frame.FaultIn(s.namesFrom, "has no names: a table of names has the columns name and %q, as written by --names",
			fullName)
	}
	if err := s.settled.Check(p); err != nil {
		return frame.FaultIn(s.namesFrom, "%v", err)
	}
	return nil
}

// overfull counts the items for which the unit has no room.
func overfull(l nav.Ledger) (n int) {
	for i := range l {
		if l[i].What == unit.LeftOut {
			n += l[i].Count
		}
	}
	return
}

// byKind gives counts as JSON has them.
func byKind(n [4]int) map[string]int {
	out := map[string]int{}
	for _, kind := range nav.Kinds {
		out[kind.String()] = n[kind]
	}
	return out
}

// fewThings are named one by one; of more, the rest are counted.
const fewThings = 20

// sayGone names what the unit shows no more.
func sayGone(j *frame.Task, gone []card.Thing, what string) {
	if len(gone) == 0 {
		return
	}
	j.Err.Printf("%s\n", j.Err.Paint(console.Yellow, what))
	var rows [][]string
	for _, t := range gone {
		done := ""
		if t.Aboard != "" {
			done = string(t.Aboard) + " aboard"
		}
		rows = append(rows, []string{t.Word, console.OneLine(t.Name, 40), done})
	}
	j.Err.List("  ", []console.Column{{}, {}, {}}, rows, fewThings, "")
}

// sayAboard names what was done on the unit.
func sayAboard(j *frame.Task, list []card.Aboard, what string) {
	if len(list) == 0 {
		return
	}
	j.Err.Printf("%s\n", j.Err.Paint(console.Bold, what))
	var rows [][]string
	for _, a := range list {
		detail := ""
		switch {
		case a.What == card.Moved:
			detail = "by " + j.Shift(a.Metres) + " to " + j.Notation.Format(a.Lat, a.Lon)
		case a.What == card.Made:
			detail = "at " + j.Notation.Format(a.Lat, a.Lon)
		case a.Was != "":
			detail = "was " + console.OneLine(a.Was, 40)
		}
		if len(a.Changed) > 0 {
			detail = strings.TrimSpace(detail + "  " + strings.Join(a.Changed, ", "))
		}
		rows = append(rows, []string{string(a.What), a.Word, console.OneLine(a.Name, 40), detail})
	}
	j.Err.Table("  ", []console.Column{{}, {}, {}, {}}, rows)
}

// apartAnswer is what stow --apart answers as JSON.
type apartAnswer struct {
	Card  string      `json:"card"`
	Apart []apartItem `json:"apart"`
}

type apartItem struct {
	card.Apart
	Card passage.At `json:"on_card"`
	Data passage.At `json:"in_data"`
}

// sayApart names items that the card has in another place than the data.
func (s *stowTask) sayApart(x *card.Displaced) error {
	if s.JSON {
		out := apartAnswer{Card: x.Card, Apart: []apartItem{}}
		for _, a := range x.Items {
			out.Apart = append(out.Apart, apartItem{a, passage.At{Lat: a.Card.Lat, Lon: a.Card.Lon},
				passage.At{Lat: a.Data.Lat, Lon: a.Data.Lon}})
		}
		return s.PrintJSON(out)
	}
	if s.Quiet {
		return nil
	}
	s.Err.Printf("%s\n", s.Err.Paint(console.Yellow, "in two places"))
	var rows [][]string
	for _, a := range x.Items {
		rows = append(rows, []string{a.Word, console.OneLine(a.Name, 40), "on the card " +
			s.Notation.Format(a.Card.Lat, a.Card.Lon), "in the data " + s.Notation.Format(a.Data.Lat, a.Data.Lon),
			s.Shift(a.Metres)})
	}
	s.Err.List("  ", []console.Column{{}, {}, {}, {}, {Right: true}}, rows, fewThings, "")
	return nil
}

// sayBeside says what becomes of what the card showed before.
func sayBeside(j *frame.Task, plan *card.Plan, dir, would string) {
	b := plan.Beside
	if b.Copied != "" {
		j.Note("the card has lost its record; the copy in " + filepath.Base(b.Copied) + " was used")
	}
	word := "no longer shown"
	if would != "" {
		word = "would no longer be shown"
	}
	sayGone(j, b.Gone, word)
	sayGone(j, b.Back, "written again")
	if len(b.Aboard) > 0 {
		sayAboard(j, b.Aboard, "changed aboard, and kept")
		j.Note(fmt.Sprintf("'gyrolith merge OFFICE --card %s -o FILE' takes the changes made aboard into the office's file",
			console.Show(dir)))
	}
	if len(b.Stale) > 0 {
		sayGone(j, b.Stale, "kept, though no longer in the data; --drop removes it")
	}
	for _, t := range b.Open {
		j.Note(fmt.Sprintf("%s %q was changed both aboard and in the data; the version aboard is kept", t.Word, t.Name))
	}
}
