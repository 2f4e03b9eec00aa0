package cli

import (
	"errors"
	"fmt"
	"io"
	"runtime"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"
	"golang.org/x/sync/errgroup"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/unit/standin"
)

var formats = all.Formats

// load reads the files, on every core, in their order. What a reader noticed is said by the caller.
func (a *app) load(verb string, paths []string, o *options) ([]*format.Loaded, error) {
	if len(paths) == 0 {
		return nil, usageError("%s: name at least one file, or - for standard input; 'gyrolith %s --help' explains the rest", verb, verb)
	}
	dashes := 0
	for _, p := range paths {
		if p == "-" {
			dashes++
		}
	}
	if dashes > 1 {
		return nil, usageError("%s: standard input can be read only once", verb)
	}
	out := make([]*format.Loaded, len(paths))
	faults := make([]error, len(paths))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, path := range paths {
		group.Go(func() error {
			out[i], faults[i] = a.loadOne(path, o)
			return nil
		})
	}
	group.Wait()
	return out, errors.Join(faults...)
}

func (a *app) loadOne(path string, o *options) (*format.Loaded, error) {
	began := time.Now()
	src, err := format.Open(path, a.in)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	stop := a.progress(o, "reading "+show(src.Path), max(src.Size, 0), src.Done)
	defer stop()
	in, err := formats.Load(src, o.readAs, o.salvage, &o.read)
	if err != nil {
		return nil, err
	}
	o.log.Debug("read", "file", path, "format", in.Format.Name, "points", in.Data.Points(), "took", time.Since(began))
	if err := o.selection.Apply(in.Data); err != nil && !errors.Is(err, nav.ErrNothing) {
		return nil, err
	}
	return in, nil
}

// mostText is the most bytes of a file of rules or the like.
const mostText = 16 << 20

// readText reads a small text file whole.
func (a *app) readText(path string) ([]byte, error) {
	src, err := format.Open(path, a.in)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	text, err := io.ReadAll(io.LimitReader(src.Reader(), mostText+1))
	if err == nil && len(text) > mostText {
		err = errors.New("is larger than 16 MiB, too large for a text of this kind")
	}
	if err != nil {
		return nil, src.Fault(err.Error())
	}
	return text, nil
}

// fixes reads a file of known fixes: its waypoints and the points of its routes.
func (a *app) fixes(path string, o *options) ([]nav.Waypoint, error) {
	reading := *o
	reading.selection, reading.readAs = nav.Selection{}, ""
	reading.read.List = true
	in, err := a.loadOne(path, &reading)
	if err != nil { // a single row is not taken for a list of fixes by itself
		reading.readAs = "plan"
		var asList error
		if in, asList = a.loadOne(path, &reading); asList != nil {
			return nil, err
		}
	}
	out := in.Data.Waypoints
	for i := range in.Data.Routes {
		out = append(out, in.Data.Routes[i].Points...)
	}
	if len(out) == 0 {
		return nil, faultIn(path, "has no waypoint and no route to look fixes up in")
	}
	return out, nil
}

// merged joins what was read, says on standard error what the readers noticed, and refuses under --strict.
func (a *app) merged(inputs []*format.Loaded, o *options) (*nav.Dataset, error) {
	var data *nav.Dataset
	a.saySystem(o.read.System, false, o)
	for _, in := range inputs {
		a.remarks(in, o)
		if data == nil {
			data = in.Data
		} else {
			data.Merge(in.Data)
		}
	}
	if o.strict {
		if err := strictInput(inputs); err != nil {
			return nil, err
		}
	}
	if data.Counts() == [4]int{} {
		if !o.selection.Empty() {
			return nil, &failure{statusInput, errors.New("the options choose nothing of these files; 'gyrolith look' shows what is in them")}
		}
		return nil, faultIn(inputs[0].Path, "holds no waypoint, route, track or area")
	}
	return data, nil
}

// gathered does what every verb begins with that makes data of files: it settles the output, reads the inputs and merges
// them. The path is that of the first input, for errors.
func (a *app) gathered(c *cli.Command, o *options) (data *nav.Dataset, path string, err error) {
	paths := c.Args().Slice()
	if err := a.target(c.Name, o, paths); err != nil {
		return nil, "", err
	}
	inputs, err := a.load(c.Name, paths, o)
	if err != nil {
		return nil, "", err
	}
	data, err = a.merged(inputs, o)
	return data, inputs[0].Path, err
}

// strictInput refuses inputs with positions that can't be used or things that can't be held.
func strictInput(inputs []*format.Loaded) error {
	for _, in := range inputs {
		if n := len(in.Data.Rejects); n > 0 {
			return strictError("%s; refused by --strict", rejectWords(in.Path, &in.Data.Rejects[0]))
		}
		for _, p := range in.Data.Problems {
			if p.Code == "left out" || p.Code == "places" || p.Code == "suspicious" {
				return strictError("%s; refused by --strict", problemWords(in.Path, &p))
			}
		}
	}
	return nil
}

func rejectWords(path string, x *nav.Reject) string {
	what := fmt.Sprintf("position %q of %s", x.Raw, x.Kind.One())
	if x.Raw == "" {
		what = x.Kind.One()
	}
	if x.Name != "" {
		what += fmt.Sprintf(" %q", x.Name)
	}
	if x.Number > 0 {
		what += fmt.Sprintf(", point %d,", x.Number)
	}
	e := format.Error{Path: path, Line: x.Line, Col: x.Col, Msg: what + " was left out: " + x.Why}
	return e.Error()
}

func problemWords(path string, p *nav.Problem) string {
	e := format.Error{Path: path, Line: p.Line, Col: p.Col, Msg: p.Text}
	if p.Count > 1 {
		e.Msg = fmt.Sprintf("%s (%d times; here first)", p.Text, p.Count)
	}
	return e.Error()
}

// fewRejects are named one by one; of more, the rest are counted.
const fewRejects = 10

// remarks says on standard error what was left out of an input and what was guessed.
func (a *app) remarks(in *format.Loaded, o *options) {
	if o.quiet {
		return
	}
	warn := a.err.paint(yellow, "note:")
	if in.Cut != nil {
		a.err.printf("%s %s; what is complete before that was taken\n", warn, show(in.Cut.Error()))
	}
	for i := range in.Data.Problems {
		if p := &in.Data.Problems[i]; p.Info {
			a.err.printf("%s %s\n", a.err.paint(faint, "read:"), show(problemWords(in.Path, p)))
		}
	}
	rejects := in.Data.Rejects
	for i := range rejects[:min(len(rejects), fewRejects)] {
		a.err.printf("%s %s\n", warn, show(rejectWords(in.Path, &rejects[i])))
	}
	if n := len(rejects) - fewRejects; n > 0 {
		a.err.printf("%s %s: %d more positions were left out, in %s\n", warn, show(in.Path), n, lineList(rejects[fewRejects:]))
	}
	for i := range in.Data.Problems {
		if p := &in.Data.Problems[i]; !p.Info {
			a.err.printf("%s %s\n", warn, show(problemWords(in.Path, p)))
		}
	}
}

// lineList tells where rejects stand: lines 7, 9 to 12, 20.
func lineList(rejects []nav.Reject) string {
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

// shownFile treats what a stand-in shows as a file, so that it is looked at in the same way.
func shownFile(s *standin.Shown, card string) *format.Loaded {
	return &format.Loaded{Path: card, Format: &format.Format{Name: s.Unit, Title: s.Unit}, Data: s.Data}
}
