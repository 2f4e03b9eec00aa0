package table

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// account is what became of the rows of a table: all of them are either read, skipped with a reason, or above its
// heading.
type account struct {
	said    int // the problem that says how the table is read
	rejects int // that were there before
	above   int // rows above the heading that are not blank
	read    int
	first   string // the first row, as it was understood
	row     int    // in which it stands
}

// begin opens the account.
func (a *account) begin(d *nav.Dataset, rows [][]string, header int) {
	*a = account{said: len(d.Problems) - 1, rejects: len(d.Rejects)}
	for _, cells := range rows[:max(header, 0)] {
		if !blank(cells) {
			a.above++
		}
	}
}

// take counts a row that was read; one that is more than a point is not said as one.
func (a *account) take(w *nav.Waypoint, line int, isPoint bool) {
	if a.read++; a.first == "" && isPoint {
		a.first, a.row = understood(w), line
	}
}

func (a *account) join(o *account) {
	a.read += o.read
	if a.first == "" {
		a.first, a.row = o.first, o.row
	}
}

// close adds to what is said of the table how many rows were read, and how the first was understood.
func (a *account) close(d *nav.Dataset) {
	text := "; " + measure.Counted(a.read, "row", "rows") + " read"
	if n := len(d.Rejects) - a.rejects; n > 0 {
		text += fmt.Sprintf(", %s skipped", measure.Count(n))
	}
	if a.above > 0 {
		text += fmt.Sprintf(", %d above the heading", a.above)
	}
	if a.first != "" {
		text += fmt.Sprintf("; row %d is %s", a.row, a.first)
	}
	d.Problems[a.said].Text += text
}

// understood words what a row says: 10.5° S 20.5° W, 2026-03-14 01:04 UTC, 1,500 m.
func understood(w *nav.Waypoint) string {
	angle := func(v float64, positive, negative string) string {
		if v < 0 {
			positive = negative
		}
		return strconv.FormatFloat(math.Round(math.Abs(v)*1e6)/1e6, 'f', -1, 64) + "° " + positive
	}
	parts := []string{angle(w.Lat, "N", "S") + " " + angle(w.Lon, "E", "W")}
	if w.HasTime() {
		layout := "2006-01-02 15:04:05 UTC"
		switch at := w.Time().UTC(); {
		case w.TimeMark() < instant.Seconds:
			layout = time.DateOnly
		case at.Second() == 0:
			layout = "2006-01-02 15:04 UTC"
		}
		parts = append(parts, w.Time().UTC().Format(layout))
	}
	if w.HasHeight() {
		text := strconv.FormatFloat(math.Round(w.Height()*10)/10, 'f', -1, 64)
		if whole, fraction, has := strings.Cut(text, "."); len(whole) > 3 {
			if n, err := strconv.Atoi(whole); err == nil {
				text = measure.Count(n)
				if has {
					text += "." + fraction
				}
			}
		}
		text += " m"
		if over := w.VerticalDatum(); over != nav.DatumUnstated {
			text += " above " + over.String()
		}
		parts = append(parts, text)
	}
	return strings.Join(parts, ", ")
}
