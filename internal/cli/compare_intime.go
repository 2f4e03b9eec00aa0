package cli

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gyrolith/core/compare"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/passage"
	"gyrolith/core/picture"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// inTimeTask is the work of compare --in-time.
type inTimeTask struct {
	*frame.Task
	opt   compare.InTime
	asked bool
	plot  string
}

func (x *inTimeTask) run(ctx context.Context, paths []string) error {
	if x.plot != "" {
		if !slices.Contains(picture.ChartForms, picture.FormOf(x.plot)) {
			return frame.UsageError("compare: --plot draws a .png, .svg or .pdf, and %s is not one of them", x.plot)
		}
		if err := x.Free(x.Verb, x.plot, paths); err != nil {
			return err
		}
	}
	if err := x.Reading.Open(ctx); err != nil {
		return err
	}
	x.Reading.Take = x.Stage.Take
	inputs, err := x.Load(ctx, input.Named(paths...))
	if err != nil {
		return err
	}
	for _, in := range inputs {
		x.Remarks(in)
	}
	apart, err := x.opt.Compare(ctx, inputs[0].Data, inputs[1].Data)
	if err != nil {
		return err
	}
	if apart == nil {
		return fmt.Errorf("%s and %s do not overlap in time", paths[0], paths[1])
	}
	if x.JSON {
		err = x.PrintJSON(x.asJSON(apart))
	} else {
		x.print(apart)
	}
	if err != nil || x.plot == "" {
		return err
	}
	return x.draw(apart, paths)
}

func (x *inTimeTask) print(a *compare.Apart) {
	at := func(t time.Time) string { return t.In(x.Zone()).Format("2006-01-02 15:04:05") }
	label := func(text string) string { return x.Out.Paint(console.Faint, text) }
	where := func(p *compare.Approach) string {
		return fmt.Sprintf("%s at %s: %s and %s", x.Shift(p.Distance), at(p.At), x.Notation.Format(p.A.Lat, p.A.Lon),
			x.Notation.Format(p.B.Lat, p.B.Lon))
	}
	rows := [][]string{
		{label("in common"), fmt.Sprintf("%s to %s, %s recorded by both", at(a.First), at(a.Last),
			measure.Duration(a.Together))},
		{label("nearest"), where(&a.Nearest)},
		{label("farthest"), where(&a.Farthest)},
		{label("on the average"), x.Shift(a.Mean)},
	}
	if x.opt.Within > 0 {
		text := "never"
		if a.Times > 0 {
			text = fmt.Sprintf("%s, %s", measure.Duration(a.Inside), measure.Counted(a.Times, "time", "times"))
		}
		rows = append(rows, []string{label("within " + x.Measure.Length(x.opt.Within)), text})
	}
	rows = append(
		rows,
		[]string{label("offset"), fmt.Sprintf("on average the second lies %s from the first, towards %03.0f°; "+
			"spread %s, 95%% within %s", x.Shift(a.Offset), a.Direction, x.Shift(a.Spread), x.Shift(a.Most))},
	)
	x.Out.Table("", []console.Column{{}, {}}, rows)
}

// apartAnswer is what compare --in-time answers as JSON.
type apartAnswer struct {
	First    string         `json:"first"`
	Last     string         `json:"last"`
	Together float64        `json:"together_s"`
	Nearest  approachAnswer `json:"nearest"`
	Farthest approachAnswer `json:"farthest"`
	Mean     float64        `json:"mean_m"`
	Offset   float64        `json:"offset_m"`
	Towards  float64        `json:"offset_deg"`
	Spread   float64        `json:"spread_m"`
	Most     float64        `json:"within_95_m"`
	Within   float64        `json:"within_m,omitempty"`
	Inside   *float64       `json:"inside_s,omitempty"`
	Times    *int           `json:"times,omitempty"`
}

type approachAnswer struct {
	Time     string     `json:"time"`
	Distance float64    `json:"distance_m"`
	First    passage.At `json:"first"`
	Second   passage.At `json:"second"`
}

func (x *inTimeTask) asJSON(a *compare.Apart) *apartAnswer {
	approach := func(p *compare.Approach) approachAnswer {
		return approachAnswer{p.At.In(x.Zone()).Format(time.RFC3339Nano), p.Distance, passage.At{Lat: p.A.Lat, Lon: p.A.Lon},
			passage.At{Lat: p.B.Lat, Lon: p.B.Lon}}
	}
	out := &apartAnswer{First: a.First.In(x.Zone()).Format(time.RFC3339Nano),
		Last: a.Last.In(x.Zone()).Format(time.RFC3339Nano), Together: a.Together.Seconds(), Nearest: approach(&a.Nearest),
		Farthest: approach(&a.Farthest), Mean: a.Mean, Offset: a.Offset, Towards: a.Direction, Spread: a.Spread, Most: a.Most}
	if x.opt.Within > 0 {
		inside, times := a.Inside.Seconds(), a.Times
		out.Within, out.Inside, out.Times = x.opt.Within, &inside, &times
	}
	return out
}

// draw draws the distance over time.
func (x *inTimeTask) draw(a *compare.Apart, paths []string) error {
	name, unit := x.Measure.LongMeasure()
	if a.Farthest.Distance < unit {
		name, unit = "m", 1
	}
	c := &picture.Curve{Title: fmt.Sprintf("Distance of %s from %s", paths[1], paths[0]), Name: "distance, " + name,
		Theme: picture.Themes["light"], Width: 1280, Height: 600, Limit: x.opt.Within / unit}
	for i := range a.Samples {
		m := &a.Samples[i]
		c.Times = append(c.Times, m.At.In(x.Zone()))
		c.Values = append(c.Values, m.Distance/unit)
		c.Broken = append(c.Broken, !m.Joined)
	}
	content, err := c.File(picture.FormOf(x.plot))
	if err != nil {
		return err
	}
	return x.WriteContent(x.plot, content, "the distance over time")
}
