package recipe

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/choose"
	"gyrolith/core/input"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
)

// mostParts is the most steps, and the most outputs, of a recipe that a person has written.
const mostParts = 1000

// Chain makes the chain of the recipe from a kit, and judges what the recipe says; a fault has its line and column.
// Relative paths are below the folder base. The chain is not open yet.
func (r *Recipe) Chain(kit *chain.Kit, base string) (*chain.Chain, error) {
	b := &builder{recipe: r, base: base, values: map[string]string{}, out: &chain.Chain{Reading: kit.NewReading()}}
	if len(r.Outputs) == 0 {
		return nil, &Error{Path: r.Path, Msg: "has no [[output]], so it would write nothing"}
	}
	if n := max(len(r.Steps), len(r.Outputs)); n > mostParts {
		return nil, &Error{Path: r.Path, Msg: fmt.Sprintf("has %d steps or outputs, more than %d", n, mostParts)}
	}
	for _, v := range r.Values {
		if slices.Contains(patternWords, v.Name) {
			return nil, &Error{Path: r.Path, Place: v.Place,
				Msg: fmt.Sprintf("the value %q has a reserved name: %s",
					v.Name, strings.Join(patternWords, ", "))}
		}
		b.values[v.Name] = v.Text
	}
	for i := range r.Steps {
		if err := b.step(kit, &r.Steps[i]); err != nil {
			return nil, err
		}
	}
	for i := range r.Outputs {
		if err := b.output(kit, &r.Outputs[i]); err != nil {
			return nil, err
		}
	}
	return b.out, nil
}

// builder makes a chain of a recipe.
type builder struct {
	recipe *Recipe
	base   string
	values map[string]string
	out    *chain.Chain
	env    param.Env
}

func (b *builder) fault(at Place, format string, args ...any) error {
	return &Error{Path: b.recipe.Path, Place: at, Msg: fmt.Sprintf(format, args...)}
}

// step adds a stage. How inputs are read may be said in any step.
func (b *builder) step(kit *chain.Kit, s *Step) error {
	var words []string
	for _, v := range kit.Steps {
		words = append(words, v.Name)
	}
	stage := kit.NewStage(s.Do)
	if stage == nil {
		return b.unknown(s, "step", words)
	}
	table := append(b.out.Reading.Params(), stage.Params()...)
	if err := b.set(s, table, ""); err != nil {
		return err
	}
	if err := stage.Step.Check(); err != nil {
		return b.located(s, err)
	}
	b.out.Stages = append(b.out.Stages, stage)
	return nil
}

// output adds an end.
func (b *builder) output(kit *chain.Kit, s *Step) error {
	var words []string
	for _, v := range kit.Outputs {
		words = append(words, v.Name)
	}
	end, key := kit.NewEnd(s.Do)
	if end == nil {
		return b.unknown(s, "output", words)
	}
	if x, ok := end.Output.(interface{ ReadLike(*input.Reading) }); ok {
		x.ReadLike(b.out.Reading)
	}
	name := param.Text(key, &end.Name, "NAME", "the name of the output")
	if err := b.set(s, append(end.Params(), name), key); err != nil {
		return err
	}
	if end.Name == "" {
		return b.fault(s.Place, "an [[output]] of %s needs %s = …", s.Do, key)
	}
	if err := end.Check(); err != nil {
		return b.located(s, err)
	}
	b.out.Ends = append(b.out.Ends, end)
	return nil
}

func (b *builder) unknown(s *Step, what string, words []string) error {
	slices.Sort(words)
	if s.Do == "" {
		return b.fault(s.Place, "a [[%s]] needs do = …, one of %s", what, strings.Join(words, ", "))
	}
	return b.fault(s.Place, "there is no %s %q; there are %s%s", what, s.Do, strings.Join(words, ", "), near(s.Do, words))
}

// set sets the parameters that the keys name. The pattern of the name may have words of the input.
func (b *builder) set(s *Step, table param.Table, pattern string) error {
	seen := map[string]bool{}
	for i := range s.Keys {
		k := &s.Keys[i]
		p := table.Find(k.Name)
		if p == nil || p.Local {
			var all []string
			for _, p := range table {
				all = append(all, p.Name)
			}
			return &Error{Path: b.recipe.Path, Place: k.Place, Msg: fmt.Sprintf("%s has no key %q%s", s.Do, k.Name,
				near(k.Name, all)),
				Advice: advice.Advice{Code: advice.ReadKeys, Arg: s.Do}}
		}
		if seen[k.Name] {
			return b.fault(k.Place, "%s is there twice", k.Name)
		}
		seen[k.Name] = true
		values, err := b.filled(k, p, k.Name == pattern)
		if err != nil {
			return err
		}
		if err := table.Set(&b.env, []param.Setting{{Name: k.Name, Values: values}}); err != nil {
			return b.located(s, err)
		}
	}
	return nil
}

// filled puts the recipe's values into those of a key, and paths below the recipe's folder. A path that there is not is
// a fault.
func (b *builder) filled(k *Key, p *param.Param, isPattern bool) (out []string, err error) {
	values := k.Values
	if k.List && !p.List { // such a list is one value with commas
		values = []string{strings.Join(values, ",")}
	}
	if p.Switch() && (len(values) != 1 || values[0] != "true" && values[0] != "false") {
		return nil, b.fault(k.Place, "%s must be true or false", k.Name)
	}
	if !p.List && len(values) != 1 {
		return nil, b.fault(k.Place, "%s has one value", k.Name)
	}
	for _, v := range values {
		text, used, err := fill(v, b.values, isPattern)
		if err != nil {
			return nil, b.fault(k.Place, "%s: %v", k.Name, err)
		}
		if p.Path == param.ReadPart { // a path with a pattern behind it
			if at := filepath.Join(b.base, text); b.base != "" && !filepath.IsAbs(text) && p.IsRead(at) {
				text = at
			}
		} else if p.IsRead(text) {
			if b.base != "" && !filepath.IsAbs(text) {
				text = filepath.Join(b.base, text)
			}
			if _, err := os.Stat(text); err != nil {
				err = safefile.CannotRead(text, "file or folder", err)
				f := &Error{Path: b.recipe.Path, Place: k.Place, Msg: k.Name + ": " + err.Error(), Err: err}
				if len(used) > 0 {
					f.Advice = advice.Advice{Code: advice.SetValue, Arg: used[0]}
				}
				return nil, f
			}
		}
		out = append(out, text)
	}
	return out, nil
}

// located gives an error the place of the key that it is about, or else that of the step.
func (b *builder) located(s *Step, err error) error {
	if f, ok := errors.AsType[*Error](err); ok && f.Path == b.recipe.Path {
		return err
	}
	at := s.Place
	if p, ok := errors.AsType[*param.Error](err); ok {
		for _, k := range s.Keys {
			if k.Name == p.Name {
				at = k.Place
			}
		}
	}
	return &Error{Path: b.recipe.Path, Place: at, Msg: err.Error(), Advice: advice.Of(err), Err: err}
}

// Locate gives an error of a chain that was made of the recipe the place of its step.
func (r *Recipe) Locate(c *chain.Chain, err error) error {
	f, ok := errors.AsType[*chain.Error](err)
	if !ok {
		return err
	}
	b := &builder{recipe: r}
	if i := slices.Index(c.Stages, f.Stage); f.Stage != nil && i >= 0 {
		return b.located(&r.Steps[i], f.Err)
	}
	if i := slices.Index(c.Ends, f.End); f.End != nil && i >= 0 {
		return b.located(&r.Outputs[i], f.Err)
	}
	return f.Err
}

// Open makes the chain of the recipe and opens what it needs.
func (r *Recipe) Open(ctx context.Context, kit *chain.Kit, base string) (*chain.Chain, error) {
	c, err := r.Chain(kit, base)
	if err != nil {
		return nil, err
	}
	if err := c.Open(ctx); err != nil {
		return nil, r.Locate(c, err)
	}
	return c, nil
}

// Files lists every file that the open chain of the recipe uses, beside its inputs.
func (r *Recipe) Files(kit *chain.Kit, base string, open *chain.Chain) ([]string, error) {
	used := map[string]bool{}
	for _, f := range open.Files() {
		used[f] = true
	}
	scratch := kit.NewReading()
	b := &builder{recipe: r, base: base, values: map[string]string{}}
	for _, v := range r.Values {
		b.values[v.Name] = v.Text
	}
	gather := func(s *Step, table param.Table) error {
		for i := range s.Keys {
			p := table.Find(s.Keys[i].Name)
			if p == nil {
				continue
			}
			values, err := b.filled(&s.Keys[i], p, false)
			if err != nil {
				return err
			}
			for _, v := range values {
				if p.IsRead(v) && p.Path == param.ReadPart {
					used[choose.ParseZone(v).Path] = true
				} else if p.IsRead(v) {
					used[v] = true
				}
			}
		}
		return nil
	}
	for i := range r.Steps {
		if err := gather(&r.Steps[i], append(scratch.Params(), kit.NewStage(r.Steps[i].Do).Params()...)); err != nil {
			return nil, err
		}
	}
	for i := range r.Outputs {
		end, _ := kit.NewEnd(r.Outputs[i].Do)
		if err := gather(&r.Outputs[i], end.Params()); err != nil {
			return nil, err
		}
	}
	return slices.Sorted(maps.Keys(used)), nil
}
