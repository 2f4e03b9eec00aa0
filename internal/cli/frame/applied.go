package frame

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/settings"
)

// use adds the settings that a verb has options for and that were not given, and puts files for short names. It gives
// those that it used.
func (a *App) use(s *settings.Settings, l *Line, tables []param.Table) (used []settings.Setting) {
	for i, arg := range l.Args {
		if x, ok := s.Short[strings.TrimPrefix(arg, "@")]; ok && strings.HasPrefix(arg, "@") {
			l.Args[i] = x.Values[0]
		}
	}
	for i := range l.Settings {
		for k, v := range l.Settings[i].Values {
			if x, ok := s.Short[strings.TrimPrefix(v, "@")]; ok && strings.HasPrefix(v, "@") {
				l.Settings[i].Values[k] = x.Values[0]
			}
		}
	}
	for _, x := range s.Options {
		if l.Given(x.Name) || !a.fits(&x, l, tables) || x.Name == "card" && l.Given("quiet") { // which would not be said
			continue
		}
		for _, t := range tables {
			p := t.Find(x.Name)
			if p == nil {
				continue
			}
			one := param.Setting{Name: x.Name, Values: slices.Clone(x.Values)}
			if !p.List {
				one.Values = one.Values[:1]
			}
			for i, v := range one.Values {
				if p.IsRead(v) || p.Path == param.Written {
					one.Values[i] = settings.Below(filepath.Dir(x.From), v)
				}
			}
			l.Settings = append(l.Settings, one)
			used = append(used, x)
			break
		}
	}
	return used
}

// fits says whether a setting can hold for a command line. A coordinate system is one of what is written, if that can
// have one; a notation is one of answers, since data that are rounded to it would lose by a setting that nobody sees.
func (a *App) fits(x *settings.Setting, l *Line, tables []param.Table) bool {
	switch x.Name {
	case "notation":
		return !slices.ContainsFunc(tables, func(t param.Table) bool { return t.Find("write-as") != nil })
	case "crs":
		for _, s := range l.Settings {
			f := a.Kit.Formats.ByName(s.Values[0])
			if s.Name == "output" {
				f = a.Kit.Formats.ByPath(s.Values[0])
			}
			if (s.Name == "output" || s.Name == "write-as") && f != nil {
				return f.Systems
			}
		}
		return l.verb.Positions
	}
	return true
}

// applySettings has the settings of the folder hold for a command line, and says so.
func (a *App) applySettings(l *Line, tables []param.Table) error {
	if a.Alone || len(tables) == 0 || l.verb.Bare {
		return nil
	}
	s, err := settings.Read()
	if err != nil {
		return &Failure{StatusUsage, err}
	}
	used := a.use(s, l, tables)
	for _, p := range s.Passed {
		if !l.Given("quiet") && !l.Given("json") {
			a.Err.Printf("%s %s was not used: %s; 'gyrolith settings --trust FILE' accepts it\n",
				a.Err.Paint(console.Yellow, "settings:"), console.Show(p.Path), p.Why)
		}
	}
	var words []string
	for _, x := range used {
		words = append(words, x.Name+" "+strings.Join(x.Values, ", "))
		a.fromSettings = append(a.fromSettings, fmt.Sprintf("%s (%s)", words[len(words)-1], x.From))
	}
	if len(used) == 0 || l.Given("quiet") || l.Given("json") || l.Given("as-recipe") {
		return nil
	}
	from := used[0].From
	if here, err := os.Getwd(); err == nil {
		if rel, err := filepath.Rel(here, from); err == nil && len(rel) < len(from) {
			from = rel
		}
	}
	a.Err.Printf("%s %s (%s)\n", a.Err.Paint(console.Faint, "settings:"), console.Show(strings.Join(words, "; ")),
		console.Show(from))
	return nil
}
