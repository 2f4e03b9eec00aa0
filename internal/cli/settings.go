package cli

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
)

// settingsName is the file of defaults for options that you always type.
const settingsName = "gyrolith.toml"

// settable are the options that a file of settings may have.
var settable = []string{"measure", "notation", "clock", "terrain", "unit", "card", "crs", "crs-in", "key"}

const settingsHelp = `Defaults for options can be kept in a file called gyrolith.toml in the working folder, in
a folder above it, or in your configuration folder:

  measure  = "nautical"
  notation = "min"
  clock    = "+02:00"
  terrain  = ["terrain"]         # relative to the file
  unit     = "keel"
  card     = "/media/card"
  crs      = "utm"
  crs-in   = "32732"
  key      = "number"

  [short]                        # short names for files: @isles on any command line
  isles = "plans/planning.kmz"

Options on the command line come first, then the nearest file. A line reports which settings
were used. Settings are never read from a card or an archive.`

// setting is one value of a file of settings.
type setting struct {
	name   string
	values []string
	from   string // the file
}

// settings are those that hold in a folder, the nearest first.
type settings struct {
	options []setting
	short   map[string]setting
	files   []string
}

// settingsVerb is settings.
var settingsVerb = verb{name: "settings", stage: know,
	brief:     "defaults for options",
	usage:     "show the settings in effect in this folder, and where they come from",
	help:      settingsHelp,
	tried:     []string{"config"},
	bare:      true,
	completes: noWords,
	make:      (*app).settingsVerb}

func (a *app) settingsVerb(v *verb) made {
	asJSON := false
	return made{tables: []param.Table{{param.Switch("json", &asJSON, "print the result as JSON")}}, run: func(_ context.Context, l *commandLine) error {
		if len(l.args) > 0 {
			return usageError("settings: takes no arguments; edit %s in the working folder", settingsName)
		}
		s, err := readSettings()
		if err != nil {
			return err
		}
		return a.showSettings(s, asJSON)
	}}
}

func (a *app) showSettings(s *settings, asJSON bool) error {
	if asJSON {
		type one struct {
			Name   string   `json:"name"`
			Values []string `json:"values"`
			From   string   `json:"from"`
		}
		options, short := []one{}, []one{}
		for _, x := range s.options {
			options = append(options, one{x.name, x.values, x.from})
		}
		for _, name := range slices.Sorted(maps.Keys(s.short)) {
			short = append(short, one{name, s.short[name].values, s.short[name].from})
		}
		return a.printJSON(map[string]any{"settings": options, "short": short})
	}
	if len(s.options)+len(s.short) == 0 {
		a.out.Printf("no settings: there is no %s here, above, or in your configuration; 'gyrolith settings --help' shows "+
			"one\n", settingsName)
		return nil
	}
	var rows [][]string
	for _, x := range s.options {
		rows = append(rows, []string{a.out.Paint(console.Bold, x.name), console.Show(strings.Join(x.values, ", ")),
			console.Show(x.from)})
	}
	for _, name := range slices.Sorted(maps.Keys(s.short)) {
		rows = append(rows, []string{a.out.Paint(console.Bold, "@"+name), console.Show(s.short[name].values[0]),
			console.Show(s.short[name].from)})
	}
	a.out.Table("", []console.Column{{Title: "setting"}, {Title: "value"}, {Title: "from"}}, rows)
	return nil
}

// readSettings reads the files of settings of the folder of the work, of those above it, and of the user.
func readSettings() (*settings, error) {
	s := &settings{short: map[string]setting{}}
	here, err := os.Getwd()
	if err != nil {
		return s, nil
	}
	for dir := here; ; dir = filepath.Dir(dir) {
		if err := s.read(dir); err != nil {
			return nil, err
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	if own, err := os.UserConfigDir(); err == nil {
		if err := s.read(filepath.Join(own, "gyrolith")); err != nil {
			return nil, err
		}
	}
	return s, nil
}

// read adds the settings of a folder, unless it is a card. What is set already comes first.
func (s *settings) read(dir string) error {
	path := filepath.Join(dir, settingsName)
	text, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) || slices.Contains(s.files, path) {
		return nil
	}
	if _, onCard := os.Stat(filepath.Join(dir, card.ManifestName)); onCard == nil {
		return nil
	}
	if err != nil {
		return fmt.Errorf("%s: can't be read: %w", path, safefile.Bare(err))
	}
	s.files = append(s.files, path)
	var whole map[string]any
	if err := toml.Unmarshal(text, &whole); err != nil {
		if d, ok := errors.AsType[*toml.DecodeError](err); ok {
			line, col := d.Position()
			return fmt.Errorf("%s:%d:%d: %s", path, line, col, strings.TrimPrefix(d.Error(), "toml: "))
		}
		return fmt.Errorf("%s: %w", path, err)
	}
	for _, name := range slices.Sorted(maps.Keys(whole)) {
		if name == "short" {
			table, ok := whole[name].(map[string]any)
			if !ok {
				return fmt.Errorf("%s: short is a table of names and paths", path)
			}
			for word, v := range table {
				if _, set := s.short[word]; !set {
					s.short[word] = setting{word, []string{below(dir, fmt.Sprint(v))}, path}
				}
			}
			continue
		}
		if !slices.Contains(settable, name) {
			return fmt.Errorf("%s: there is no setting %q; there are %s, and the table [short]", path, name,
				strings.Join(settable, ", "))
		}
		if slices.ContainsFunc(s.options, func(x setting) bool { return x.name == name }) {
			continue
		}
		x := setting{name: name, from: path}
		switch v := whole[name].(type) {
		case []any:
			for _, one := range v {
				x.values = append(x.values, fmt.Sprint(one))
			}
		default:
			x.values = []string{fmt.Sprint(v)}
		}
		s.options = append(s.options, x)
	}
	return nil
}

// below is a path as it stands below a folder.
func below(dir, path string) string {
	if filepath.IsAbs(path) {
		return path
	}
	return filepath.Join(dir, path)
}

// use adds the settings that a verb has options for and that were not given, and puts files for short names. It gives
// those that it used.
func (s *settings) use(a *app, l *commandLine, tables []param.Table) (used []setting) {
	for i, arg := range l.args {
		if x, ok := s.short[strings.TrimPrefix(arg, "@")]; ok && strings.HasPrefix(arg, "@") {
			l.args[i] = x.values[0]
		}
	}
	for i := range l.settings {
		for k, v := range l.settings[i].Values {
			if x, ok := s.short[strings.TrimPrefix(v, "@")]; ok && strings.HasPrefix(v, "@") {
				l.settings[i].Values[k] = x.values[0]
			}
		}
	}
	for _, x := range s.options {
		if l.given(x.name) || !a.fits(&x, l, tables) {
			continue
		}
		for _, t := range tables {
			p := t.Find(x.name)
			if p == nil {
				continue
			}
			one := param.Setting{Name: x.name, Values: slices.Clone(x.values)}
			if !p.List {
				one.Values = one.Values[:1]
			}
			for i, v := range one.Values {
				if p.IsRead(v) || p.Path == param.Written {
					one.Values[i] = below(filepath.Dir(x.from), v)
				}
			}
			l.settings = append(l.settings, one)
			used = append(used, x)
			break
		}
	}
	return used
}

// fits says whether a setting can hold for a command line. A coordinate system is one of what is written, if that can
// have one; a notation is one of answers, since data that are rounded to it would lose by a setting that nobody sees.
func (a *app) fits(x *setting, l *commandLine, tables []param.Table) bool {
	switch x.name {
	case "notation":
		return !slices.ContainsFunc(tables, func(t param.Table) bool { return t.Find("write-as") != nil })
	case "crs":
		for _, s := range l.settings {
			f := a.kit.Formats.ByName(s.Values[0])
			if s.Name == "output" {
				f = a.kit.Formats.ByPath(s.Values[0])
			}
			if (s.Name == "output" || s.Name == "write-as") && f != nil {
				return f.Systems
			}
		}
		return l.verb.positions
	}
	return true
}

// applySettings has the settings of the folder hold for a command line, and says so.
func (a *app) applySettings(l *commandLine, tables []param.Table) error {
	if a.alone || len(tables) == 0 || l.verb.bare {
		return nil
	}
	s, err := readSettings()
	if err != nil {
		return &failure{statusUsage, err}
	}
	used := s.use(a, l, tables)
	if len(used) == 0 || l.given("quiet") || l.given("json") || l.given("as-recipe") {
		return nil
	}
	var words []string
	for _, x := range used {
		words = append(words, x.name+" "+strings.Join(x.values, ", "))
	}
	from := used[0].from
	if here, err := os.Getwd(); err == nil {
		if rel, err := filepath.Rel(here, from); err == nil && len(rel) < len(from) {
			from = rel
		}
	}
	a.err.Printf("%s %s (%s)\n", a.err.Paint(console.Faint, "settings:"), console.Show(strings.Join(words, "; ")),
		console.Show(from))
	return nil
}
