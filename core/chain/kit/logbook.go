package kit

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/column"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/format/table"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/passage"
)

// Logbook is legs as an output: the table of the legs of every route.
type Logbook struct {
	passage.Step
	Layout passage.Layout
	Choice column.Choice[passage.Row]

	reading *input.Reading // of the hazards
	hazards *nav.Dataset
	unread  nav.Ledger // hazards that could not be read
	ext     string
}

func newLogbook(k *chain.Kit) *Logbook {
	return &Logbook{Step: passage.Step{On: k.Now}, reading: k.NewReading(), Choice: passage.NewChoice()}
}

// ReadLike has the hazards read like the data.
func (l *Logbook) ReadLike(r *input.Reading) { l.reading = r }

// Params lists the parameters of the table.
func (l *Logbook) Params() param.Table {
	clock := param.Clock(func(_ *param.Env, zone *time.Location) { l.Layout.Zone = zone })
	return append(l.Step.Params(), append(l.Choice.Params(), export.NotationParam(&l.Layout.Notation),
		param.Measures(func(s measure.System) { l.Layout.Measure = s }), clock).In("Table")...)
}

// Measures are those of names.
func (l *Logbook) Measures() measure.System { return l.Layout.Measure }

// Name settles the form by the extension.
func (l *Logbook) Name(name string) (string, error) {
	l.ext = strings.ToLower(filepath.Ext(name))
	if !slices.Contains(column.Forms, l.ext) {
		return "", fmt.Errorf("the table of legs is written as %s, and %s is not one of them",
			strings.Join(column.Forms, ", "), name)
	}
	return name, nil
}

// Open reads the hazards and the tables of winds, and opens the terrain.
func (l *Logbook) Open(ctx context.Context) error {
	if l.Layout.Zone == nil {
		l.Layout.Zone = time.UTC
	}
	hazards, in, err := l.Step.LoadHazards(ctx, l.reading)
	if err != nil {
		return err
	}
	if l.hazards = hazards; in != nil {
		for _, x := range in.Data.Rejects { // a hazard that can't be read is none that was considered
			l.unread = append(l.unread, nav.Entry{Kind: x.Kind, KindWord: "hazard", Name: x.Name, What: "position", Count: 1,
				Why: x.Why, Loss: true})
		}
	}
	return l.Step.Open(l.Layout.Zone)
}

// Write plans the routes of the data, and writes their table; nothing where there is no route.
func (l *Logbook) Write(ctx context.Context, w *chain.Work, name string, sink export.Sink) (*export.Made, error) {
	if len(w.Data.Routes) == 0 {
		return nil, nil
	}
	step := l.Step
	plans, err := step.PlanAll(ctx, w.Data, l.hazards)
	if errors.Is(err, passage.ErrNoClosure) {
		err = &param.Error{Name: "keep-out", Err: err}
	}
	if err != nil {
		return nil, err
	}
	content, err := LogbookFile(l.ext, plans.Considered(l.Layout.Measure), plans.Tables, &l.Choice, &l.Layout)
	if err != nil {
		return nil, err
	}
	to, err := sink.Create(name)
	if err == nil {
		_, err = to.Write(content)
	}
	if err != nil {
		return nil, err
	}
	out := &export.Made{Files: []string{name}}
	out.Items[nav.Routes] = len(plans.Tables)
	out.Ledger = slices.Clone(l.unread)
	for _, said := range l.Choice.Said(passage.Rows(plans.Tables), &l.Layout) {
		out.Ledger = append(out.Ledger, nav.Entry{KindWord: "column", What: "columns", New: "as said", Why: said, Count: 1,
			Asked: true})
	}
	for _, f := range plans.Faults {
		out.Ledger = append(out.Ledger, nav.Entry{Kind: nav.Areas, KindWord: nav.Areas.One(), What: "limits", Count: 1,
			Why: f + ", and encloses nothing", Loss: true})
	}
	for _, t := range plans.Tables {
		for i := range t.Findings {
			out.Findings = append(out.Findings, fmt.Sprintf("route %q: %s", t.Route.Name, t.Findings[i].Words(t, &l.Layout)))
		}
	}
	return out, nil
}

// LogbookFile gives the tables in a form, by its extension.
func LogbookFile(ext, considered string, tables []*passage.Table, choice *column.Choice[passage.Row],
	o *passage.Layout) ([]byte, error) {
	if ext == ".json" {
		var whole bytes.Buffer
		enc := json.NewEncoder(&whole)
		enc.SetEscapeHTML(false)
		enc.SetIndent("", "  ")
		err := enc.Encode(passage.JSON(considered, tables, o.Zone))
		return whole.Bytes(), err
	}
	titles, rows := passage.Data(tables, choice, o)
	return TableFile(ext, "Legs", titles, rows)
}

// TableFile gives data as a CSV file, or as a workbook with a sheet of that name.
func TableFile(ext, sheet string, titles []format.Heading, rows [][]any) ([]byte, error) {
	var out bytes.Buffer
	if ext == ".xlsx" {
		err := table.WriteBook(&out, table.BookSheet{Name: sheet, Titles: titles, Rows: rows})
		return out.Bytes(), err
	}
	err := column.WriteCSV(&out, titles, rows)
	return out.Bytes(), err
}
