package frame

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"

	"gyrolith/core/chain"
	"gyrolith/core/input"
	"gyrolith/core/pattern"
	"gyrolith/core/recipe"
)

// IsMany says whether an output is one for each input: a folder, or a name with words in braces.
func IsMany(output string) bool {
	if output == "-" || output == "" {
		return false
	}
	if strings.HasSuffix(output, "/") || strings.HasSuffix(output, string(filepath.Separator)) {
		return true
	}
	if info, err := os.Stat(output); err == nil && info.IsDir() {
		return true
	}
	return recipe.HasWords(output) || braces.MatchString(output)
}

// braces are a word in braces, whatever it is.
var braces = pattern.New(`\{[a-z]+\}`)

// Many is a verb that is done for each input by itself.
type Many struct {
	*Task
	OnePer  chain.OnePer
	Ext     func(files []input.File) (string, error) // of the outputs in a folder
	Printed func(name string) (step, output *recipe.Printed)
}

// pattern splits an output that is one for each input into a folder and the names below it.
func (m *Many) pattern(files []input.File) (into, name string, err error) {
	output := filepath.ToSlash(m.Output)
	if braces.MatchString(output) {
		cut := strings.LastIndexByte(output[:strings.IndexByte(output, '{')], '/') + 1
		return filepath.FromSlash(output[:cut]), output[cut:], nil
	}
	ext, err := m.Ext(files)
	name = "{folder}/{name}"
	switch m.OnePer {
	case chain.OnePerItem:
		name += "/{item}"
	case chain.OnePerDay:
		name += " {date}"
	case chain.OnePerGroup:
		name += "/{group}"
	}
	return m.Output, name + ext, err
}

// extension is that of the format that is asked for, or else of all inputs.
func (s *StepVerb) extension(files []input.File) (string, error) {
	if s.target.Format != nil {
		return s.target.Format.Extensions[0], nil
	}
	ext := ""
	for i, f := range files {
		of := strings.ToLower(filepath.Ext(f.Path))
		if i > 0 && of != ext {
			return "", UsageError("%s: the inputs have several formats, so the folder %s doesn't determine one; add --write-as",
				s.Verb, s.Output)
		}
		ext = of
	}
	return ext, nil
}

// Run does the verb for each input by itself, as a recipe of that one step would: in parallel, and an input that fails
// does not stop the others.
func (m *Many) Run(ctx context.Context, l *Line) error {
	g, err := m.Gathered(ctx, l.Args)
	if err != nil {
		return err
	}
	switch {
	case len(g.Files) == 0:
		return UsageError("%s: name the files or folders that are read", m.Verb)
	case l.Given("append"):
		return UsageError("%s: --append adds to one file, but %s makes one per input", m.Verb, m.Output)
	case slices.ContainsFunc(g.Files, func(f input.File) bool { return f.Path == "-" }):
		return UsageError("%s: standard input has no name, but %s needs the input's", m.Verb, m.Output)
	case l.Given("rejects"):
		return UsageError("%s: --rejects is one file, but %s makes one per input", m.Verb, m.Output)
	}
	into, name, err := m.pattern(g.Files)
	if err != nil {
		return err
	}
	step, output := m.Printed(name)
	x := recipe.Of(m.Verb, step, output)
	first, err := x.Open(ctx, m.Kit, "")
	if err != nil {
		return m.ofVerb(err)
	}
	defer first.Close()
	inputs := make([]recipe.Input, len(g.Files))
	for i, f := range g.Files {
		inputs[i] = recipe.Input{Path: f.Path, Rel: f.Rel, Number: i + 1, Found: f.Found}
	}
	if err := x.CheckNames(first, inputs); err != nil {
		return m.ofVerb(err)
	}
	p := &Report{A: m.App, Quiet: m.Quiet, JSON: m.JSON, Dry: m.DryRun}
	runner := &recipe.Runner{
		Recipe:    x,
		Inputs:    inputs,
		Into:      into,
		Plain:     true,
		DryRun:    m.DryRun,
		Replace:   m.Replace,
		Tell:      p.Tell,
		NewWorker: func() (recipe.Worker, error) { return x.NewWorker(ctx, m.Kit, "", m.Strict) },
	}
	ManySmall()
	var done atomic.Int64
	stop := m.Progress(m.Verb, int64(len(inputs)), done.Load)
	err = runner.Run(ctx, &done)
	stop()
	if err != nil {
		return m.ofVerb(err)
	}
	if into == "" {
		into = "."
	}
	return p.End(x, into)
}

// ofVerb words a fault of the recipe that the verb made of itself as one of the verb.
func (m *Many) ofVerb(err error) error {
	if f, ok := err.(*recipe.Error); ok {
		return UsageError("%s: %s", m.Verb, f.Msg)
	}
	return Worded(m.Verb, err)
}
