package cli

import (
	"bytes"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/format/table"
	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/core/tally"
	"gyrolith/core/when"
	"gyrolith/internal/cli/frame"
)

// dayColumns are those of the days of a logbook.
var dayColumns = []string{"date", "start", "end", "elapsed", "moving", "standing", "length", "mean-speed", "ascent"}

// logAnswer is what when answers as JSON, with the days of a logbook.
type logAnswer struct {
	*when.JSON
	Days []tally.RowJSON `json:"days,omitempty"`
}

// tally sums the days of a logbook up.
func (w *whenTask) tally() *tally.Step {
	return &tally.Step{By: []tally.By{tally.Day}, Zone: w.Zone(), Motion: w.recordings.Motion}
}

// ofColumns says whether the output is the table that is shown: that of a logbook, or of columns that were chosen.
func (w *whenTask) ofColumns() bool {
	ext := strings.ToLower(filepath.Ext(w.Output))
	return (w.every > 0 || w.choice.Given()) && (ext == ".csv" || ext == ".xlsx" || w.Output == "-" &&
		kit.Target(w.end.Output).Format == nil)
}

// columns are those that were chosen, or the usual ones: of a logbook with what recordings have besides.
func (w *whenTask) columns(places []when.Place, data bool) []*column.Column[when.Place] {
	if w.choice.Given() || w.every == 0 {
		return w.choice.Columns(data)
	}
	names := []string{"time", "track", "position", "height", "course", "speed", "leg-distance", "along"}
	if data {
		names = []string{"time", "track", "lat", "lon", "height", "course", "speed", "leg-distance", "along"}
	}
	for i := range places {
		for _, f := range places[i].Values {
			if key := "field:" + f.Key; !slices.Contains(names, key) && !slices.Contains(names, f.Key) {
				names = append(names, key)
			}
		}
	}
	return when.Columns.Named(names...)
}

// writeLog writes the table of a logbook: a workbook has the days on a sheet of their own.
func (w *whenTask) writeLog(places []when.Place, days []tally.Row, asJSON any) error {
	if !strings.EqualFold(filepath.Ext(w.Output), ".xlsx") {
		return frame.WriteTable(w.Task, "Log", w.columns(places, true), places, asJSON)
	}
	layout := w.Layout()
	var out bytes.Buffer
	titles, rows := column.Data(w.columns(places, true), places, &layout)
	dayTitles, dayRows := column.Data(tally.Columns.Named(dayColumns...), days, &layout)
	if err := table.WriteBook(&out, table.BookSheet{Name: "Log", Titles: titles, Rows: rows},
		table.BookSheet{Name: "Days", Titles: dayTitles, Rows: dayRows}); err != nil {
		return err
	}
	return w.WriteContent(w.Output, out.Bytes(), measure.Counted(len(places), "row", "rows"))
}

// without gives a table of parameters without some of them.
func without(t param.Table, names ...string) param.Table {
	return slices.DeleteFunc(t, func(p param.Param) bool { return slices.Contains(names, p.Name) })
}
