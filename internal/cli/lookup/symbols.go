package lookup

import (
	"context"
	"strings"

	"gyrolith/core/param"
	"gyrolith/core/symbol"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// SymbolsVerb is symbols.
var SymbolsVerb = frame.Verb{Name: "symbols", Stage: frame.Know,
	Brief: "the symbol words",
	Usage: "list the symbol words, what they mean and how formats spell them",
	Args:  "[WORD]",
	Help: "The words are neutral: each format and unit has its own way to show them. GPX has them as <sym>, KML in\n" +
		"Gyrolith's extension, GeoJSON in the member gyrolith. Other words for them are understood in the names of\n" +
		"icons and where a unit's card gets its own symbols. WORD lists those that have it among their words.",
	Examples:  []string{"symbols", "symbols rock"},
	Tried:     []string{"icons"},
	Completes: frame.NoWords,
	Answers:   []any{symbolsAnswer{}},
	Make:      makeSymbols}

func makeSymbols(a *frame.App, v *frame.Verb) frame.Made {
	asJSON := false
	return frame.Made{Tables: []param.Table{jsonTable(&asJSON)}, Run: func(_ context.Context, l *frame.Line) error {
		word := strings.ToLower(frame.First(l.Args))
		list := []symbol.Symbol{}
		for _, s := range symbol.All {
			if strings.Contains(s.Word+" "+s.Shows+" "+strings.Join(s.Words(), " ")+" "+string(s.Realm), word) {
				list = append(list, s)
			}
		}
		if len(list) == 0 {
			return frame.UsageError("symbols: no symbol matches %q; 'gyrolith symbols' lists all %d", word, len(symbol.All))
		}
		if asJSON {
			rows := []symbolRow{}
			for _, s := range list {
				rows = append(rows, symbolRow{s.Word, s.Realm, s.Shows, s.Word, append([]string{}, s.Words()...)})
			}
			return a.PrintJSON(symbolsAnswer{rows})
		}
		var rows [][]string
		for i, s := range list {
			realm := string(s.Realm)
			if i > 0 && list[i-1].Realm == s.Realm {
				realm = ""
			}
			rows = append(rows, []string{a.Out.Paint(console.Faint, realm), a.Out.Paint(console.Cyan, s.Word), s.Shows,
				strings.Join(s.Words(), ", ")})
		}
		a.Out.Table("", []console.Column{{Title: "realm"}, {Title: "word, and <sym> in GPX"}, {Title: "shows"},
			{Title: "understood as well"}}, rows)
		return nil
	}}
}

// jsonTable is the option of answers that may be JSON.
func jsonTable(to *bool) param.Table {
	return param.Table{param.Switch("json", to, "print the list as JSON")}
}

// symbolsAnswer is what symbols answers as JSON.
type symbolsAnswer struct {
	Symbols []symbolRow `json:"symbols"`
}

type symbolRow struct {
	Word  string       `json:"word"`
	Realm symbol.Realm `json:"realm"`
	Shows string       `json:"shows"`
	GPX   string       `json:"gpx"`
	Icons []string     `json:"icons"`
}
