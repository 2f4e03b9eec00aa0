package cli

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

// isMany says whether an output is one for each input: a folder, or a name with words in braces.
func isMany(output string) bool {
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

// many is a verb that is done for each input by itself.
type many struct {
	*task
	onePer  chain.OnePer
	ext     func(files []input.File) (string, error) // of the outputs in a folder
	printed func(name string) (step, output *recipe.Printed)
}

// pattern splits an output that is one for each input into a folder and the names below it.
func (m *many) pattern(files []input.File) (into, name string, err error) {
	output := filepath.ToSlash(m.output)
	if braces.MatchString(output) {
		cut := strings.LastIndexByte(output[:strings.IndexByte(output, '{')], '/') + 1
		return filepath.FromSlash(output[:cut]), output[cut:], nil
	}
	ext, err := m.ext(files)
	name = "{folder}/{name}"
	switch m.onePer {
	case chain.OnePerItem:
		name += "/{item}"
	case chain.OnePerDay:
		name += " {date}"
	case chain.OnePerGroup:
		name += "/{group}"
	}
	return m.output, name + ext, err
}

// extension is that of the format that is asked for, or else of all inputs.
func (s *stepVerb) extension(files []input.File) (string, error) {
	if s.target.Format != nil {
		return s.target.Format.Extensions[0], nil
	}
	ext := ""
	for i, f := range files {
		of := strings.ToLower(filepath.Ext(f.Path))
		if i > 0 && of != ext {
			return "", usageError("%s: the inputs have several formats, so the folder %s doesn't determine one; add --write-as",
				s.verb, s.output)
		}
		ext = of
	}
	return ext, nil
}

// run does the verb for each input by itself, as a recipe of that one step would: in parallel, and an input that fails
// does not stop the others.
func (m *many) run(ctx context.Context, l *commandLine) error {
	g, err := m.gathered(ctx, l.args)
	if err != nil {
		return err
	}
	switch {
	case len(g.Files) == 0:
		return usageError("%s: name the files or folders that are read", m.verb)
	case l.given("append"):
		return usageError("%s: --append adds to one file, but %s makes one per input", m.verb, m.output)
	case slices.ContainsFunc(g.Files, func(f input.File) bool { return f.Path == "-" }):
		return usageError("%s: standard input has no name, but %s needs the input's", m.verb, m.output)
	case l.given("rejects"):
		return usageError("%s: --rejects is one file, but %s makes one per input", m.verb, m.output)
	}
	into, name, err := m.pattern(g.Files)
	if err != nil {
		return err
	}
	step, output := m.printed(name)
	x := recipe.Of(m.verb, step, output)
	first, err := x.Open(ctx, m.kit, "")
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
	p := &report{a: m.app, quiet: m.quiet, json: m.json, dry: m.dryRun, verb: true}
	runner := &recipe.Runner{Recipe: x, Inputs: inputs, Into: into, Plain: true, DryRun: m.dryRun, Replace: m.replace, Tell: p.tell,
		NewWorker: func() (recipe.Worker, error) { return x.NewWorker(ctx, m.kit, "", m.strict) }}
	manySmall()
	var done atomic.Int64
	stop := m.progress(m.verb, int64(len(inputs)), done.Load)
	err = runner.Run(ctx, &done)
	stop()
	if err != nil {
		return m.ofVerb(err)
	}
	if into == "" {
		into = "."
	}
	return p.end(x, into)
}

// ofVerb words a fault of the recipe that the verb made of itself as one of the verb.
func (m *many) ofVerb(err error) error {
	if f, ok := err.(*recipe.Fault); ok {
		return usageError("%s: %s", m.verb, f.Msg)
	}
	return worded(m.verb, err)
}
