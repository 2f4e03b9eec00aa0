package cli

import (
	"context"
	_ "embed"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/settings"
)

//go:embed texts/settings.txt
var settingsHelp string

// settingsVerb is settings.
var settingsVerb = frame.Verb{Name: "settings", Stage: frame.Know,
	Brief:     "defaults for options",
	Usage:     "show the settings in effect in this folder, and where they come from",
	Help:      settingsHelp,
	Tried:     []string{"config"},
	Bare:      true,
	Completes: frame.NoWords,
	Answers:   []any{settingsAnswer{}},
	Make:      makeSettings}

func makeSettings(a *frame.App, v *frame.Verb) frame.Made {
	asJSON, trust := false, ""
	return frame.Made{
		Tables: []param.Table{{param.Switch("json", &asJSON, "print the result as JSON"),
			param.File("trust", &trust, "FILE", "use this `FILE` of settings although somebody else could have written it, "+
				"as long as it stays as it is")}},
		Run: func(_ context.Context, l *frame.Line) error {
			if len(l.Args) > 0 {
				return frame.UsageError("settings: takes no arguments; edit %s in the working folder", settings.FileName)
			}
			if trust != "" {
				return settings.Trust(trust)
			}
			s, err := settings.Read()
			if err != nil {
				return err
			}
			return showSettings(a, s, asJSON)
		},
	}
}

func showSettings(a *frame.App, s *settings.Settings, asJSON bool) error {
	if asJSON {
		options, short := []settingRow{}, []settingRow{}
		for _, x := range s.Options {
			options = append(options, settingRow{x.Name, x.Values, x.From})
		}
		for _, name := range slices.Sorted(maps.Keys(s.Short)) {
			short = append(short, settingRow{name, s.Short[name].Values, s.Short[name].From})
		}
		return a.PrintJSON(settingsAnswer{options, short})
	}
	if len(s.Options)+len(s.Short) == 0 {
		a.Out.Printf(
			"no settings: there is no %s here, above, or in your configuration; 'gyrolith settings --help' shows "+
				"one\n",
			settings.FileName,
		)
		return nil
	}
	var rows [][]string
	for _, x := range s.Options {
		rows = append(rows, []string{a.Out.Paint(console.Bold, x.Name), console.Show(strings.Join(x.Values, ", ")),
			console.Show(x.From)})
	}
	for _, name := range slices.Sorted(maps.Keys(s.Short)) {
		rows = append(rows, []string{a.Out.Paint(console.Bold, "@"+name), console.Show(s.Short[name].Values[0]),
			console.Show(s.Short[name].From)})
	}
	a.Out.Table("", []console.Column{{Title: "setting"}, {Title: "value"}, {Title: "from"}}, rows)
	return nil
}

// settingsAnswer is what settings answers as JSON.
type settingsAnswer struct {
	Settings []settingRow `json:"settings"`
	Short    []settingRow `json:"short"`
}

type settingRow struct {
	Name   string   `json:"name"`
	Values []string `json:"values"`
	From   string   `json:"from"`
}
