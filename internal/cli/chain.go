package cli

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/picture"
	"gyrolith/core/recipe"
	"gyrolith/core/unit"
)

// The verbs that a recipe's steps and outputs can be, and the options of theirs that name files.
var (
	fileOptions = []string{"rules", "terrain", "geoid", "fixes", "shift-grid", "hazards", "backdrop", "before", "rejects"}
	// What is said of a whole run, and not of a step.
	notInSteps = []string{"output", "replace", "dry-run", "json", "quiet", "strict", "verbose", "append", "as-recipe", "help", "keep", "verify", "finish", "undo", "card-version"}
)

// chainVerbs are the verbs of steps, which change data, and of outputs.
func (a *app) chainVerbs() (steps, outputs map[string]func() *cli.Command) {
	return map[string]func() *cli.Command{"convert": a.convert, "clean": a.clean, "elevate": a.elevate, "recast": a.recast, "dress": a.dress},
		map[string]func() *cli.Command{"convert": a.convert, "stow": a.stow, "draw": a.draw}
}

// language is what a recipe may say: the options of the verbs.
func (a *app) language() *recipe.Language {
	options := func(c *cli.Command, output bool) (out []recipe.Option) {
		for _, f := range c.Flags {
			name := f.Names()[0]
			cat, _ := f.(cli.CategorizableFlag)
			inWriting := cat != nil && cat.GetCategory() == writing
			if slices.Contains(notInSteps, name) && !(output && name == "card-version") || inWriting && !output && name != "for" || output && cat != nil && cat.GetCategory() == reading {
				continue
			}
			_, flag := f.(*cli.BoolFlag)
			_, list := f.(*cli.StringSliceFlag)
			out = append(out, recipe.Option{Name: name, Flag: flag, List: list})
		}
		if output && c.Name != "stow" {
			out = append(out, recipe.Option{Name: "file"})
		}
		return
	}
	l := &recipe.Language{Steps: map[string][]recipe.Option{}, Outputs: map[string][]recipe.Option{}}
	steps, outputs := a.chainVerbs()
	for name, verb := range steps {
		l.Steps[name] = options(verb(), false)
	}
	for name, verb := range outputs {
		l.Outputs[name] = options(verb(), true)
	}
	return l
}

// isFile says whether the value of an option is a path.
func isFile(name, value string) bool {
	return slices.Contains(fileOptions, name) || (name == "crs" || name == "crs-in") && strings.HasSuffix(strings.ToLower(value), ".prj")
}

// beside is a path of a recipe, which is below the recipe's own folder.
func beside(base, path string) string {
	if base == "" || filepath.IsAbs(path) {
		return path
	}
	return filepath.Join(base, path)
}

// understood parses the keys of a step as the options of its verb. Paths are below the folder of the recipe.
func (a *app) understood(verb *cli.Command, s *recipe.Step, base string, only func(name string) bool) (*cli.Command, error) {
	args := []string{verb.Name}
	for _, k := range s.Keys {
		if k.Name == "file" || only != nil && !only(k.Name) {
			continue
		}
		for _, v := range k.Values {
			if isFile(k.Name, v) {
				v = beside(base, v)
			}
			args = append(args, "--"+k.Name+"="+v)
		}
	}
	var got *cli.Command
	verb.Action = func(_ context.Context, c *cli.Command) error { got = c; return nil }
	verb.OnUsageError = a.onUsageError
	verb.DisableSliceFlagSeparator = true
	verb.Writer, verb.ErrWriter = a.out, a.err
	if err := verb.Run(context.Background(), args); err != nil {
		return nil, err
	}
	return got, nil
}

// transform is a step that is ready to be applied.
type transform struct {
	apply func(*nav.Dataset) (nav.Ledger, error)
	close func()
}

// stepOf makes a step ready.
func (a *app) stepOf(s *recipe.Step, base string) (*transform, error) {
	steps, _ := a.chainVerbs()
	c, err := a.understood(steps[s.Do](), s, base, nil)
	if err != nil {
		return nil, err
	}
	o, err := a.options(c)
	if err != nil {
		return nil, err
	}
	t := &transform{close: func() {}}
	switch s.Do {
	case "clean":
		step, err := a.cleanStep(c)
		if err != nil {
			return nil, err
		}
		t.apply = func(d *nav.Dataset) (nav.Ledger, error) {
			r := step.Apply(d)
			d.Rejects = nil
			return cleanLedger(r), nil
		}
	case "elevate":
		step, done, err := a.elevateStep(c)
		if err != nil {
			return nil, err
		}
		t.close = done
		t.apply = func(d *nav.Dataset) (nav.Ledger, error) {
			r, err := step.Apply(d)
			if err != nil {
				return nil, err
			}
			return append(nav.Ledger{}, r.Ledger...), nil
		}
	case "recast":
		step, err := a.recastStep(c, o)
		if err != nil {
			return nil, err
		}
		t.apply = step.Apply
	case "dress":
		step, err := a.dressStep(c)
		if err != nil {
			return nil, err
		}
		t.apply = func(d *nav.Dataset) (nav.Ledger, error) { return step.Apply(d).Ledger, nil }
	case "convert":
		t.apply = func(*nav.Dataset) (nav.Ledger, error) { return nil, nil }
		if name := c.String("for"); name != "" {
			p, err := findUnit(name)
			if err != nil {
				return nil, err
			}
			t.apply = func(d *nav.Dataset) (nav.Ledger, error) {
				f := unit.Fit(d, p)
				*d = *f.Data
				return f.Ledger, nil
			}
		}
	}
	inner := t.apply
	t.apply = func(d *nav.Dataset) (nav.Ledger, error) {
		if err := o.selection.Apply(d); err != nil && !errors.Is(err, nav.ErrNothing) {
			return nil, err
		}
		return inner(d)
	}
	return t, nil
}

// output is a file, a set of files or a card that comes of the chain.
type output struct {
	step    *recipe.Step
	command *cli.Command
	options *options
	picture *picture.Map // of an output that is drawn
	hazards *nav.Dataset // whose clearances it shows
	close   func()
}

// outputOf makes an output ready.
func (a *app) outputOf(s *recipe.Step, base string) (*output, error) {
	_, outputs := a.chainVerbs()
	c, err := a.understood(outputs[s.Do](), s, base, nil)
	if err != nil {
		return nil, err
	}
	o, err := a.options(c)
	if err != nil {
		return nil, err
	}
	out := &output{step: s, command: c, options: o, close: func() {}}
	name, _ := s.Get("file")
	switch s.Do {
	case "stow":
		_, err = theUnit(c)
		return out, err
	case "draw":
		if !slices.Contains(pictures, strings.ToLower(filepath.Ext(name))) {
			return nil, fmt.Errorf("the name %s tells no form of a drawing: .png, .svg and .html do", name)
		}
		if out.hazards, err = a.hazardsOf(c, o); err != nil {
			return nil, err
		}
		out.picture, out.close, err = a.mapOf(c, o)
		return out, err
	}
	if o.writeAs == nil {
		if o.writeAs = formats.ByPath(name); o.writeAs == nil || !o.writeAs.Writes() {
			return nil, fmt.Errorf("the name %s tells no format to write: give it an extension, or write-as one of %s", name, formats.Written())
		}
	}
	if c.String("for") != "" {
		if _, err := findUnit(c.String("for")); err != nil {
			return nil, err
		}
	}
	return out, o.writable(s.Do)
}

// worker does the chain of a recipe.
type worker struct {
	a       *app
	reading *options
	steps   []*transform
	outputs []*output
}

func (a *app) newWorker(r *recipe.Recipe, base string) (*worker, error) {
	w := &worker{a: a}
	at := func(s *recipe.Step, err error) error {
		text := strings.TrimPrefix(err.Error(), s.Do+": ")
		place := s.Place
		for _, k := range s.Keys { // the option that is complained about is a key here
			if rest, ok := strings.CutPrefix(text, "--"+k.Name+":"); ok {
				place, text = k.Place, k.Name+":"+rest
			}
			for _, v := range r.Values { // a missing file that a value names is set from the command line
				if isFile(k.Name, v.Text) && slices.Contains(k.Values, v.Text) && strings.Contains(text, ": there is no such") {
					place, text = k.Place, fmt.Sprintf("%s; --value %s=PATH names another", text, v.Name)
				}
			}
		}
		return &failure{statusUsage, &recipe.Fault{Path: r.Path, Place: place, Msg: text}}
	}
	// What says how inputs are read may stand in any step.
	all := recipe.Step{Do: "convert"}
	read := readFlags()
	isReading := func(name string) bool {
		return slices.ContainsFunc(read, func(f cli.Flag) bool {
			cat, _ := f.(cli.CategorizableFlag)
			return f.Names()[0] == name && cat.GetCategory() == reading
		})
	}
	for _, s := range r.Steps {
		for _, k := range s.Keys {
			if isReading(k.Name) {
				all.Keys = append(all.Keys, k)
			}
		}
	}
	c, err := a.understood(a.convert(), &all, base, nil)
	if err != nil {
		return nil, &failure{statusUsage, err}
	}
	if w.reading, err = a.options(c); err != nil {
		return nil, err
	}
	w.reading.quiet = true
	for i := range r.Steps {
		t, err := a.stepOf(&r.Steps[i], base)
		if err != nil {
			w.Close()
			return nil, at(&r.Steps[i], err)
		}
		w.steps = append(w.steps, t)
	}
	for i := range r.Outputs {
		o, err := a.outputOf(&r.Outputs[i], base)
		if err != nil {
			w.Close()
			return nil, at(&r.Outputs[i], err)
		}
		w.outputs = append(w.outputs, o)
	}
	return w, nil
}

// Close lets go of what the steps hold.
func (w *worker) Close() {
	for _, t := range w.steps {
		t.close()
	}
	for _, o := range w.outputs {
		o.close()
	}
}

// Do runs the chain in memory.
func (w *worker) Do(inputs []recipe.Input) (*recipe.Result, error) {
	var data *nav.Dataset
	res := &recipe.Result{}
	for i := range inputs {
		in, err := w.a.loadOne(inputs[i].Path, w.reading)
		if err != nil {
			return nil, err
		}
		if data == nil {
			data = in.Data
		} else {
			data.Merge(in.Data)
		}
	}
	if data.Counts() == [4]int{} {
		return nil, faultIn(inputs[0].Path, "holds no waypoint, route, track or area")
	}
	res.Lost += len(data.Rejects)
	var all nav.Ledger // of the steps, for pages
	count := func(l nav.Ledger) {
		for _, e := range l {
			if e.Loss && !e.Asked {
				res.Lost += e.Count
			} else {
				res.Changes += e.Count
			}
		}
	}
	for _, t := range w.steps {
		l, err := t.apply(data)
		if err != nil {
			return nil, err
		}
		count(l)
		all = append(all, l...)
	}
	if data.Counts() == [4]int{} {
		return nil, faultIn(inputs[0].Path, "nothing is left of it after the steps of the recipe")
	}
	for _, o := range w.outputs {
		files, l, err := w.a.produce(o, data, &inputs[0], all)
		if err != nil {
			return nil, err
		}
		count(l)
		res.Files = append(res.Files, files...)
	}
	return res, nil
}

// produce makes the files of one output of a part of the data.
func (a *app) produce(o *output, all *nav.Dataset, in *recipe.Input, done nav.Ledger) ([]recipe.File, nav.Ledger, error) {
	d := all.Clone()
	if err := o.options.selection.Apply(d); err != nil && !errors.Is(err, nav.ErrNothing) {
		return nil, nil, err
	}
	if d.Counts() == [4]int{} { // this input has nothing of the sort
		return nil, nil, nil
	}
	if o.step.Do == "stow" {
		return a.produceCard(o, d, in)
	}
	pattern, _ := o.step.Get("file")
	name := in.Fill(pattern)
	if o.picture != nil {
		m := *o.picture
		m.Data = d
		if m.Title == "" {
			m.Title = cmp.Or(d.Meta.Name, strings.TrimSuffix(filepath.Base(in.Rel), filepath.Ext(in.Rel)))
		}
		var err error
		if m.Circles, err = a.nearHazards(o.command, o.hazards, d, o.options); err != nil {
			return nil, nil, err
		}
		_, content, err := drawn(&m, strings.ToLower(filepath.Ext(name)), nil, done)
		return []recipe.File{{Name: name, Content: content}}, nil, err
	}
	if filepath.Ext(name) == "" {
		name += o.options.writeAs.Extensions[0]
	}
	opt := *o.options
	var before nav.Ledger
	if unitName := o.command.String("for"); unitName != "" {
		p, err := findUnit(unitName)
		if err != nil {
			return nil, nil, err
		}
		f := unit.Fit(d, p)
		d, before = f.Data, f.Ledger
		if p.Table != nil {
			if opt.table, err = p.TableLayout(); err != nil {
				return nil, nil, err
			}
		}
	}
	system, err := a.outputSystem(d, &opt)
	if err != nil {
		return nil, nil, err
	}
	w := &format.WriteOptions{Version: opt.version, Table: opt.table, System: system, TrackPoints: opt.trackPoints}
	if opt.writeAs.Set != nil {
		parts, l, err := opt.writeAs.Set(d, w)
		if err != nil {
			return nil, nil, err
		}
		var files []recipe.File
		for _, p := range parts {
			var b bytes.Buffer
			if err := p.Write(&b); err != nil {
				return nil, nil, err
			}
			files = append(files, recipe.File{Name: strings.TrimSuffix(name, filepath.Ext(name)) + p.Suffix, Content: b.Bytes()})
		}
		return files, append(before, l...), nil
	}
	var b bytes.Buffer
	l, err := opt.writeAs.Write(&b, d, w)
	return []recipe.File{{Name: name, Content: b.Bytes()}}, append(before, l...), err
}

// produceCard stows a card into a folder of its own, so that it is read back and compared, and gives its files.
func (a *app) produceCard(o *output, d *nav.Dataset, in *recipe.Input) ([]recipe.File, nav.Ledger, error) {
	p, err := theUnit(o.command)
	if err != nil {
		return nil, nil, err
	}
	source := strings.TrimSuffix(filepath.Base(in.Rel), filepath.Ext(in.Rel))
	plan, err := unit.MakePlan(d, p, source)
	if err != nil {
		return nil, nil, err
	}
	dir, err := os.MkdirTemp("", "gyrolith-card-")
	if err != nil {
		return nil, nil, err
	}
	defer os.RemoveAll(dir)
	done, err := plan.Stow(dir, unit.StowOptions{Keep: dir, Now: a.now()})
	if err != nil {
		return nil, nil, err
	}
	if n := len(done.Result.Differences); n > 0 {
		return nil, nil, fmt.Errorf("the unit %s would not show what was meant (%s)", p.Name, plural(n, "difference", "differences"))
	}
	pattern, _ := o.step.Get("card")
	card := in.Fill(pattern)
	var files []recipe.File
	err = filepath.WalkDir(dir, func(path string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		content, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(dir, path)
		files = append(files, recipe.File{Name: card + "/" + filepath.ToSlash(rel), Content: content})
		return err
	})
	return files, plan.Ledger, err
}
