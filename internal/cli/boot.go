package cli

import (
	"context"
	"fmt"
	"net"
	"strconv"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/inspect"
	"gyrolith/core/measure"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/unit/card"
	"gyrolith/core/unit/standin"
	"gyrolith/internal/cli/console"
)

// bootTask is the work of boot.
type bootTask struct {
	*task
	unit   unitChoice
	listen string
	all    bool

	make, move, remove string // the names of marks with which a crew does something
	end                *chain.End
}

// bootVerb is boot.
var bootVerb = verb{name: "boot", stage: toUnits,
	brief:    "what the unit shows with this card in it",
	usage:    "start a stand-in unit with a card inserted, or with its talker line open, and show its lists",
	args:     "--unit NAME --card DIR [POSITION]",
	examples: []string{"boot --unit ridge --card card"},
	own:      []string{"unit"},
	make:     (*app).boot}

func (a *app) boot(v *verb) made {
	b := &bootTask{task: a.newTask(v.name)}
	b.end, _ = a.kit.NewEnd("convert")
	return made{tables: append(b.unit.tables(), param.Table{
		param.Text("listen", &b.listen, "ADDRESS",
			"listen for talker sentences on this `ADDRESS` instead, such as 127.0.0.1:10110, until an upload ends or Ctrl-C"),
		param.Switch("all", &b.all, "list everything, not just the first screen"),
		param.Text("make", &b.make, "NAME", "act as the crew: create the mark `NAME` at the POSITION that follows"),
		param.Text("move", &b.move, "NAME", "move the mark `NAME` to the POSITION that follows"),
		param.Text("delete", &b.remove, "NAME", "delete the mark `NAME`"),
	}.In("Unit").ForOneRun(), kit.Target(b.end.Output).Params().Without(ofTheCard...),
		b.writing("write what the unit shows to this `FILE`; its extension chooses the format"), b.answering()), run: b.run}
}

func (b *bootTask) run(ctx context.Context, l *commandLine) error {
	deed, err := b.deed(l)
	if err != nil {
		return err
	}
	if b.output != "" {
		b.end.Name = b.output
		if err := b.settle("boot", b.end, nil); err != nil {
			return err
		}
		if err := kit.Target(b.end.Output).Open(); err != nil {
			return err
		}
	}
	if deed != nil {
		if err := b.act(ctx, deed); err != nil {
			return err
		}
		if b.output == "" && !b.json {
			b.sayDeed(deed)
			return nil
		}
	}
	if b.listen != "" { // it is ended by a signal, and shows what it heard then
		defer safefile.Carry()()
	}
	shown, from, err := b.started(ctx)
	if err != nil {
		return err
	}
	if b.output != "" {
		return b.write(ctx, b.end, &chain.Work{Data: shown.Data}, nil, false)
	}
	v, err := inspect.Look(ctx, shownFile(shown, from), b.now(), motion.Limits{})
	if err != nil {
		return err
	}
	if b.json {
		return b.printJSON(bootJSON(shown, v, from))
	}
	b.printScreens(shown, v, b.all, b.doneAboard(ctx))
	return nil
}

// doneAboard gives what was done aboard to what the unit shows, by kind and name; nothing where it is not known.
func (b *bootTask) doneAboard(ctx context.Context) map[string]string {
	if b.listen != "" || b.unit.card == "" {
		return nil
	}
	out := map[string]string{}
	profile, err := b.unit.profile(b.app)
	keep, err2 := b.keepFolder("")
	if err != nil || err2 != nil {
		return nil
	}
	there, err := card.LookAt(ctx, profile, b.unit.card, keep, b.kit.Formats)
	if err != nil {
		return nil
	}
	for _, a := range there.Aboard() {
		if a.What != card.Deleted {
			out[aboardKey(a.Kind, a.Name)] = "(" + string(a.What) + " aboard)"
		}
	}
	return out
}

func aboardKey(kind nav.Kind, name string) string { return kind.One() + " " + name }

// deed is what the crew is to do; nil for nothing.
func (b *bootTask) deed(l *commandLine) (*standin.Deed, error) {
	var out *standin.Deed
	for _, x := range []struct {
		option, name string
		do           standin.Doing
	}{{"make", b.make, standin.Make}, {"move", b.move, standin.Move}, {"delete", b.remove, standin.Delete}} {
		if !l.given(x.option) {
			continue
		}
		if out != nil {
			return nil, usageError("boot: give only one of --make, --move and --delete at a time")
		}
		out = &standin.Deed{Do: x.do, Name: strings.TrimSpace(x.name)}
		if x.do == standin.Delete {
			continue
		}
		if len(l.args) == 0 {
			return nil, usageError("boot: --%s %s needs a position after it, such as '47.57 S 11.35 E'", x.option, x.name)
		}
		lat, lon, err := geodesy.ParsePosition(strings.Join(l.args, " "))
		if err != nil {
			return nil, usageError("boot: --%s: %v", x.option, err)
		}
		out.At = nav.At(lat, lon)
	}
	switch {
	case (out == nil || out.Do == standin.Delete) && len(l.args) > 0:
		return nil, usageError("boot: takes no files; give the card with --card")
	case out != nil && b.listen != "":
		return nil, usageError("boot: --listen waits for an upload; --make, --move and --delete need a card")
	}
	return out, nil
}

// act does a deed of the crew on the card.
func (b *bootTask) act(ctx context.Context, deed *standin.Deed) error {
	profile, err := b.unit.profile(b.app)
	if err != nil {
		return err
	}
	if b.unit.card == "" {
		return cardMissing("boot")
	}
	release, err := b.hold(ctx, b.unit.card)
	if err != nil {
		return err
	}
	defer release()
	if err := card.CheckFinished(b.unit.card); err != nil {
		return err
	}
	return card.Act(profile, b.unit.card, *deed)
}

// sayDeed says what the crew did.
func (b *bootTask) sayDeed(d *standin.Deed) {
	if b.quiet {
		return
	}
	at := " " + b.notation.Format(d.At.Lat, d.At.Lon)
	text := map[standin.Doing]string{standin.Make: "created aboard: %s at" + at, standin.Move: "moved aboard: %s to" + at,
		standin.Delete: "deleted aboard: %s"}[d.Do]
	b.err.Printf(text+"\n", console.Show(d.Name))
}

// started starts the unit and gives what it shows.
func (b *bootTask) started(ctx context.Context) (*standin.Shown, string, error) {
	if b.listen != "" {
		return b.heard(ctx)
	}
	profile, err := b.unit.profile(b.app)
	if err != nil {
		return nil, "", err
	}
	if b.unit.card == "" {
		return nil, "", cardMissing("boot")
	}
	if err := card.CheckFinished(b.unit.card); err != nil {
		b.note(advisedError(err))
	}
	shown, err := card.Boot(profile, b.unit.card)
	return shown, b.unit.card, err
}

// heard listens on the unit's talker line.
func (b *bootTask) heard(ctx context.Context) (*standin.Shown, string, error) {
	var model *standin.Model
	for i := range standin.Models {
		m := &standin.Models[i]
		if m.Line != nil && (b.unit.name == "" || b.unit.name == m.Name) {
			model = m
			break
		}
	}
	if model == nil {
		return nil, "", usageError("boot: %s has no talker line to listen on", b.unit.name)
	}
	at := b.listen
	if _, err := strconv.Atoi(at); err == nil {
		at = ":" + at
	}
	if host, port, err := net.SplitHostPort(at); err == nil &&
		host == "" { // the world may come in only by its full address
		at = net.JoinHostPort("127.0.0.1", port)
	}
	in, err := net.Listen("tcp", at)
	if err != nil {
		return nil, "", usageError("boot: --listen: %s can't be listened on: %v", b.listen, err)
	}
	if !b.quiet {
		b.err.Printf("the %s listens on %s; 'gyrolith send FILES… --to tcp://%s' uploads to it\n", model.Name, in.Addr(),
			in.Addr())
	}
	shown, err := model.Line().Listen(ctx, in)
	return shown, "tcp://" + in.Addr().String(), err
}

// shownFile treats what a stand-in shows as a file, so that it is looked at in the same way.
func shownFile(s *standin.Shown, dir string) *format.Loaded {
	return &format.Loaded{Path: dir, Format: &format.Format{Name: s.Unit, Title: s.Unit}, Data: s.Data}
}

func bootJSON(s *standin.Shown, v *inspect.View, dir string) any {
	type ignored struct {
		File string `json:"file"`
		Why  string `json:"why"`
	}
	left := []ignored{}
	for _, i := range s.Ignored {
		left = append(left, ignored(i))
	}
	return map[string]any{"unit": s.Unit, "card": dir,
		"shows":   lookJSON([]*inspect.View{v}, nil),
		"ignored": left}
}

// screenLines is what fits on a screen of the stand-in before one has to scroll.
const screenLines = 12

// printScreens shows the unit's lists as its screen would, with what was done aboard by kind and name.
func (j *task) printScreens(s *standin.Shown, v *inspect.View, all bool, aboard map[string]string) {
	j.out.Printf("%s\n", j.out.Paint(console.Bold, strings.ToUpper(s.Unit)))
	for _, kind := range nav.Kinds {
		limit := s.Limits[kind]
		if limit == 0 {
			continue
		}
		var rows [][]string
		for _, e := range v.Entries {
			if e.Kind != kind {
				continue
			}
			row := []string{marks[kind] + " " + console.Show(e.Item.Name), "", "", "", "",
				aboard[aboardKey(kind, e.Item.Name)]}
			if kind == nav.Waypoints {
				row[1], row[4] = j.notation.Format(e.At.Lat, e.At.Lon), e.Item.Style.Symbol
				if e.At.HasHeight() {
					row[3] = j.measure.Height(e.At.Height())
				}
			} else {
				row[1], row[2], row[3] = plural(e.Sum.Points, "point", "points"), j.measure.Length(e.Sum.Length),
					heightRange(e.Sum, j.measure)
				if kind == nav.Areas {
					row[4] = console.Show(inspect.Limits(e.Item))
				}
			}
			rows = append(rows, row)
		}
		word := s.Words[kind]
		if word == "" {
			word = kind.String()
		}
		title := fmt.Sprintf("%s %d of %s", strings.ToUpper(word), len(rows), measure.Count(limit))
		j.out.Printf("%s\n", j.out.Paint(console.Cyan, title))
		shown := rows
		if !all && len(rows) > screenLines {
			shown = rows[:screenLines]
		}
		j.out.Table("  ", []console.Column{{}, {}, {Right: true}, {Right: true}, {}, {}}, shown)
		if n := len(rows) - len(shown); n > 0 {
			j.out.Printf("  %s\n", j.out.Paint(console.Faint, fmt.Sprintf("↓ %d more; --all lists them", n)))
		}
	}
	if len(s.Ignored) > 0 {
		j.out.Printf("%s\n", j.out.Paint(console.Yellow, "silently ignored by the unit"))
		var rows [][]string
		for _, i := range s.Ignored {
			rows = append(rows, []string{console.Show(i.File), console.Show(i.Why)})
		}
		j.out.Table("  ", []console.Column{{}, {}}, rows)
	}
}
