package cards

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
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// bootTask is the work of boot.
type bootTask struct {
	*frame.Task
	unit   Unit
	listen string
	all    bool

	make, move, remove string // the names of marks with which a crew does something
	end                *chain.End
}

// BootVerb is boot.
var BootVerb = frame.Verb{Name: "boot", Stage: frame.ToUnits,
	Brief:    "what the unit shows with this card in it",
	Usage:    "start a stand-in unit with a card inserted, or with its talker line open, and show its lists",
	Args:     "--unit NAME --card DIR [POSITION]",
	Examples: []string{"boot --unit ridge --card card"},
	Own:      []string{"unit"},
	Answers:  []any{bootAnswer{}, frame.WroteAnswer{}},
	Make:     makeBoot}

func makeBoot(a *frame.App, v *frame.Verb) frame.Made {
	b := &bootTask{Task: a.NewTask(v.Name)}
	b.end, _ = a.Kit.NewEnd("convert")
	return frame.Made{Tables: append(b.unit.Tables(), param.Table{
		param.Text("listen", &b.listen, "ADDRESS",
			"listen for talker sentences on this `ADDRESS` instead, such as 127.0.0.1:10110, until an upload ends or Ctrl-C"),
		param.Switch("all", &b.all, "list everything, not just the first screen"),
		param.Text("make", &b.make, "NAME", "act as the crew: create the mark `NAME` at the POSITION that follows"),
		param.Text("move", &b.move, "NAME", "move the mark `NAME` to the POSITION that follows"),
		param.Text("delete", &b.remove, "NAME", "delete the mark `NAME`"),
	}.In("Unit").ForOneRun(), kit.Target(b.end.Output).Params().Without(OfTheCard...),
		b.Writing("write what the unit shows to this `FILE`; its extension chooses the format"), b.Answering()), Run: b.run}
}

func (b *bootTask) run(ctx context.Context, l *frame.Line) error {
	deed, err := b.deed(l)
	if err != nil {
		return err
	}
	if b.Output != "" {
		b.end.Name = b.Output
		if err := b.Settle("boot", b.end, nil); err != nil {
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
		if b.Output == "" && !b.JSON {
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
	if b.Output != "" {
		return b.Write(ctx, b.end, &chain.Work{Data: shown.Data}, nil, false)
	}
	v, err := inspect.Look(ctx, shownFile(shown, from), b.Now(), motion.Limits{})
	if err != nil {
		return err
	}
	if b.JSON {
		return b.PrintJSON(bootJSON(shown, v, from))
	}
	printScreens(b.Task, shown, v, b.all, b.doneAboard(ctx))
	return nil
}

// doneAboard gives what was done aboard to what the unit shows, by kind and name; nothing where it is not known.
func (b *bootTask) doneAboard(ctx context.Context) map[string]string {
	if b.listen != "" || b.unit.Card == "" {
		return nil
	}
	out := map[string]string{}
	profile, err := b.unit.Profile(b.App)
	keep, err2 := KeepFolder(b.Task.App, "")
	if err != nil || err2 != nil {
		return nil
	}
	there, err := card.LookAt(ctx, profile, b.unit.Card, keep, b.Kit.Formats)
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
func (b *bootTask) deed(l *frame.Line) (*standin.Deed, error) {
	var out *standin.Deed
	for _, x := range []struct {
		option, name string
		do           standin.Doing
	}{{"make", b.make, standin.Make}, {"move", b.move, standin.Move}, {"delete", b.remove, standin.Delete}} {
		if !l.Given(x.option) {
			continue
		}
		if out != nil {
			return nil, frame.UsageError("boot: give only one of --make, --move and --delete at a time")
		}
		out = &standin.Deed{Do: x.do, Name: strings.TrimSpace(x.name)}
		if x.do == standin.Delete {
			continue
		}
		if len(l.Args) == 0 {
			return nil, frame.UsageError("boot: --%s %s needs a position after it, such as '47.57 S 11.35 E'", x.option, x.name)
		}
		lat, lon, err := geodesy.ParsePosition(strings.Join(l.Args, " "))
		if err != nil {
			return nil, frame.UsageError("boot: --%s: %v", x.option, err)
		}
		out.At = nav.At(lat, lon)
	}
	switch {
	case (out == nil || out.Do == standin.Delete) && len(l.Args) > 0:
		return nil, frame.UsageError("boot: takes no files; give the card with --card")
	case out != nil && b.listen != "":
		return nil, frame.UsageError("boot: --listen waits for an upload; --make, --move and --delete need a card")
	}
	return out, nil
}

// act does a deed of the crew on the card.
func (b *bootTask) act(ctx context.Context, deed *standin.Deed) error {
	profile, err := b.unit.Profile(b.App)
	if err != nil {
		return err
	}
	if b.unit.Card == "" {
		return cardMissing("boot")
	}
	release, err := b.Hold(ctx, b.unit.Card)
	if err != nil {
		return err
	}
	defer release()
	if err := card.CheckFinished(b.unit.Card); err != nil {
		return err
	}
	return card.Act(profile, b.unit.Card, *deed)
}

// sayDeed says what the crew did.
func (b *bootTask) sayDeed(d *standin.Deed) {
	if b.Quiet {
		return
	}
	at := " " + b.Notation.Format(d.At.Lat, d.At.Lon)
	text := map[standin.Doing]string{standin.Make: "created aboard: %s at" + at, standin.Move: "moved aboard: %s to" + at,
		standin.Delete: "deleted aboard: %s"}[d.Do]
	b.Err.Printf(text+"\n", console.Show(d.Name))
}

// started starts the unit and gives what it shows.
func (b *bootTask) started(ctx context.Context) (*standin.Shown, string, error) {
	if b.listen != "" {
		return b.heard(ctx)
	}
	profile, err := b.unit.Profile(b.App)
	if err != nil {
		return nil, "", err
	}
	if b.unit.Card == "" {
		return nil, "", cardMissing("boot")
	}
	if err := card.CheckFinished(b.unit.Card); err != nil {
		b.Note(words.AdvisedError(err))
	}
	shown, err := card.Boot(profile, b.unit.Card)
	return shown, b.unit.Card, err
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
		return nil, "", frame.UsageError("boot: %s has no talker line to listen on", b.unit.name)
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
		return nil, "", frame.UsageError("boot: --listen: %s can't be listened on: %v", b.listen, err)
	}
	if !b.Quiet {
		b.Err.Printf("the %s listens on %s; 'gyrolith send FILES… --to tcp://%s' uploads to it\n", model.Name, in.Addr(),
			in.Addr())
	}
	shown, err := model.Line().Listen(ctx, in)
	return shown, "tcp://" + in.Addr().String(), err
}

// shownFile treats what a stand-in shows as a file, so that it is looked at in the same way.
func shownFile(s *standin.Shown, dir string) *format.Loaded {
	return &format.Loaded{Path: dir, Format: &format.Format{Name: s.Unit, Title: s.Unit}, Data: s.Data}
}

// bootAnswer is what boot answers as JSON.
type bootAnswer struct {
	Unit    string           `json:"unit"`
	Card    string           `json:"card"`
	Shows   words.LookAnswer `json:"shows"`
	Ignored []ignoredAnswer  `json:"ignored"`
}

type ignoredAnswer struct {
	File string `json:"file"`
	Why  string `json:"why"`
}

func bootJSON(s *standin.Shown, v *inspect.View, dir string) *bootAnswer {
	left := []ignoredAnswer{}
	for _, i := range s.Ignored {
		left = append(left, ignoredAnswer(i))
	}
	return &bootAnswer{s.Unit, dir, words.LookJSON([]*inspect.View{v}, nil), left}
}

// screenLines is what fits on a screen of the stand-in before one has to scroll.
const screenLines = 12

// printScreens shows the unit's lists as its screen would, with what was done aboard by kind and name.
func printScreens(j *frame.Task, s *standin.Shown, v *inspect.View, all bool, aboard map[string]string) {
	j.Out.Printf("%s\n", j.Out.Paint(console.Bold, strings.ToUpper(s.Unit)))
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
			row := []string{words.Marks[kind] + " " + console.Show(e.Item.Name), "", "", "", "",
				aboard[aboardKey(kind, e.Item.Name)]}
			if kind == nav.Waypoints {
				row[1], row[4] = j.Notation.Format(e.At.Lat, e.At.Lon), e.Item.Style.Symbol
				if e.At.HasHeight() {
					row[3] = j.Measure.Height(e.At.Height())
				}
			} else {
				row[1], row[2], row[3] = measure.Counted(e.Sum.Points, "point", "points"), j.Measure.Length(e.Sum.Length),
					words.HeightRange(e.Sum, j.Measure)
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
		j.Out.Printf("%s\n", j.Out.Paint(console.Cyan, title))
		shown := rows
		if !all && len(rows) > screenLines {
			shown = rows[:screenLines]
		}
		j.Out.Table("  ", []console.Column{{}, {}, {Right: true}, {Right: true}, {}, {}}, shown)
		if n := len(rows) - len(shown); n > 0 {
			j.Out.Printf("  %s\n", j.Out.Paint(console.Faint, fmt.Sprintf("↓ %d more; --all lists them", n)))
		}
	}
	if len(s.Ignored) > 0 {
		j.Out.Printf("%s\n", j.Out.Paint(console.Yellow, "silently ignored by the unit"))
		var rows [][]string
		for _, i := range s.Ignored {
			rows = append(rows, []string{console.Show(i.File), console.Show(i.Why)})
		}
		j.Out.Table("  ", []console.Column{{}, {}}, rows)
	}
}
