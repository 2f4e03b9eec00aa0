package frame

import (
	"bytes"
	"encoding/json"
	"io"
	"strings"

	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/words"
)

// PrintJSON prints an answer as JSON.
func (a *App) PrintJSON(v any) error {
	var text bytes.Buffer
	enc := json.NewEncoder(&text)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(v); err != nil {
		return err
	}
	answer := text.String()
	if begun, ok := strings.CutPrefix(answer, "{\n"); ok && len(a.fromSettings) > 0 {
		list, err := json.Marshal(a.fromSettings)
		if err != nil {
			return err
		}
		answer = "{\n  \"settings\": " + string(list) + ",\n" + begun
	}
	_, err := io.WriteString(a.Out, console.ShowJSON(answer))
	if a.Out.Failed() != nil {
		return nil // which is said of all that is printed
	}
	return err
}

// Note says something that one should know of.
func (j *Task) Note(text string) {
	if !j.Quiet {
		j.Err.Printf("%s %s\n", j.Err.Paint(console.Yellow, "note:"), console.Show(text))
	}
}

// NoteAll says several.
func (j *Task) NoteAll(texts []string) {
	for _, text := range texts {
		j.Note(text)
	}
}

// SaySystem says what was assumed of a coordinate system, which is where people go wrong.
func (j *Task) SaySystem(s *crs.System, written bool) {
	if s == nil || j.Quiet {
		return
	}
	way := "read as"
	if written {
		way = "written in"
	}
	j.Err.Printf("coordinates are %s %s: %s; %s; heights are not transformed\n", way, console.Show(s.String()), s.Axes(),
		console.Show(s.Accuracy()))
	if s.Southing() {
		j.Err.Printf("  it counts westings and southings by definition: tables have them so; layers have eastings and " +
			"northings\n")
	}
}

// Ledger prints what was changed and lost.
func (j *Task) Ledger(l nav.Ledger) {
	if !j.Quiet && !j.JSON {
		words.PrintLedger(j.Err, l)
	}
}
