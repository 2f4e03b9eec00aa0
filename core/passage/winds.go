package passage

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/decimal"
	"gyrolith/core/format/headings"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/pattern"
)

// Winds is a table of winds or of currents, by leg, by height and by time.
type Winds []WindRow

// WindRow is one line of it. What is not said holds for all.
type WindRow struct {
	Leg    int     // from 1; 0 for all
	Height float64 // metres; not a number for all
	From   int64   // from when on it holds, nanoseconds since 1970; 0 for all
	Drift  Drift
}

// windTitles are the words above the columns that no other table has, folded, in the languages of offices.
var windTitles = func() map[string]string {
	out := map[string]string{}
	for holds, words := range map[string]string{
		"leg":    "leg etappe tramo tappa etape teilstrecke traject etapp segment",
		"height": "level niveau nivel livello fl flugflache",
		"time":   "from time,ab,desde,des,fra",
		"direction": "direction dir from to set richtung windrichtung stromrichtung direccion direzione direcao richting " +
			"retning riktning kierunek smer",
		"speed": "rate stromgeschwindigkeit windgeschwindigkeit fuerza drift",
	} {
		split := strings.Fields
		if strings.Contains(words, ",") {
			split = func(s string) []string { return strings.Split(s, ",") }
		}
		for _, w := range split(words) {
			out[w] = holds
		}
	}
	return out
}()

// windColumn says what a title stands for, its word, and its measure.
func windColumn(title string) (holds, word string, of headings.Measure, unknown string) {
	word = headings.Folded(bracketed.ReplaceAllString(title, " "))
	if holds = windTitles[word]; holds == "" {
		if h, ok := headings.Of(title); ok {
			holds = h.Holds
		} else if first, _, more := strings.Cut(word, " "); more { // direction true, Richtung rw
			holds, word = windTitles[first], first
		}
	}
	switch holds {
	case "date":
		holds = "time"
	case "height":
		of, unknown = headings.MeasureOf(title, headings.Length)
		if word == "fl" || word == "flugflache" {
			of, _ = headings.Named("FL", headings.Length)
		}
	case "speed":
		of, unknown = headings.MeasureOf(title, headings.Speed)
	}
	return holds, word, of, unknown
}

var bracketed = pattern.New(`[(\[][^)\]]*[)\]]`)

// ReadWinds reads a table with a line of titles in a language of offices: direction (degrees true, of a wind where it
// comes from, of a current where it goes to) and speed, and where they differ leg, height (a flight level too, which
// counts in hundreds of feet) and time.
func ReadWinds(path string, comesFrom bool, moment func(string) (int64, error)) (out Winds, err error) {
	rows, err := column.ReadRows(path, true)
	if err != nil {
		return nil, err
	}
	if len(rows) < 2 {
		return nil, fmt.Errorf("%s: a table needs a header row (leg, height, time, direction, speed) and rows", path)
	}
	at, measures := map[string]int{}, map[string]headings.Measure{}
	for i, title := range rows[0] {
		title = strings.TrimSpace(title)
		holds, word, of, unknown := windColumn(title)
		if comesFrom && (word == "to" || word == "set") || !comesFrom && word == "from" {
			return nil, fmt.Errorf("%s:1: a wind is given by where it comes from, and a current by where it goes to; there "+
				"is a column %q", path, title)
		}
		_, twice := at[holds]
		if twice || !slices.Contains([]string{"leg", "height", "time", "direction", "speed"}, holds) {
			return nil, fmt.Errorf("%s:1: the column %q is unknown; there are leg, height, time, "+
				"direction, speed", path, title)
		}
		if unknown != "" {
			return nil, fmt.Errorf("%s:1: %q in the column %q is not a known measure", path, unknown, title)
		}
		at[holds], measures[holds] = i, of
	}
	for _, needed := range []string{"direction", "speed"} {
		if _, ok := at[needed]; !ok {
			return nil, fmt.Errorf("%s:1: there is no column %s", path, needed)
		}
	}
	for n, cells := range rows[1:] {
		cell := func(holds string) string {
			i, ok := at[holds]
			if !ok || i >= len(cells) {
				return ""
			}
			text := strings.TrimSpace(cells[i])
			if v, _, plain := decimal.Parse([]byte(text)); plain && measures[holds].Name != "" {
				unit := map[string]string{"height": "m", "speed": "m/s"}[holds]
				text = strconv.FormatFloat(v*measures[holds].Factor, 'f', -1, 64) + unit
			}
			if level, ok := strings.CutPrefix(strings.ToUpper(text), "FL"); ok && holds == "height" {
				if n, err := strconv.Atoi(strings.TrimSpace(level)); err == nil {
					return strconv.Itoa(n*100) + "ft"
				}
			}
			return text
		}
		w := WindRow{Height: math.NaN()}
		w.Drift, err = measure.ParseDrift(cell("direction")+"/"+cell("speed"), comesFrom)
		if text := cell("leg"); err == nil && text != "" {
			if w.Leg, err = strconv.Atoi(text); err == nil && w.Leg < 1 {
				err = fmt.Errorf("%q is not the number of a leg", text)
			}
		}
		if text := cell("height"); err == nil && text != "" {
			w.Height, err = measure.ParseLength(text)
		}
		if text := cell("time"); err == nil && text != "" {
			w.From, err = moment(text)
		}
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", path, n+2, err)
		}
		out = append(out, w)
	}
	return out, nil
}

// by says whether any row of the table differs by something.
func (w Winds) by(differs func(*WindRow) bool) bool {
	return slices.ContainsFunc(w, func(r WindRow) bool { return differs(&r) })
}

func (w *WindRow) hasHeight() bool { return !math.IsNaN(w.Height) }

// on gives the drift of a leg at a height and a time. Rows of the leg itself come before those of all; of those that
// hold by then the latest one of each height does, and between two heights it is in proportion. Nil where nothing
// holds.
func (w Winds) on(leg int, height float64, at int64) *Drift {
	own := w.by(func(r *WindRow) bool { return r.Leg == leg })
	var hold []*WindRow // the latest one of each height
	for i := range w {
		r := &w[i]
		if own != (r.Leg == leg) || r.Leg != 0 && r.Leg != leg || r.From != 0 && r.From > at ||
			r.hasHeight() && math.IsNaN(height) {
			continue
		}
		k := slices.IndexFunc(hold, func(h *WindRow) bool {
			return h.Height == r.Height || !h.hasHeight() && !r.hasHeight()
		})
		switch {
		case k < 0:
			hold = append(hold, r)
		case r.From >= hold[k].From:
			hold[k] = r
		}
	}
	layered := slices.ContainsFunc(hold, (*WindRow).hasHeight)
	var below, above *WindRow
	for _, r := range hold {
		switch {
		case layered && !r.hasHeight():
		case !r.hasHeight():
			return &r.Drift
		case r.Height <= height && (below == nil || r.Height > below.Height):
			below = r
		case r.Height > height && (above == nil || r.Height < above.Height):
			above = r
		}
	}
	switch {
	case below == nil && above == nil:
		return nil
	case below == nil:
		return &above.Drift
	case above == nil:
		return &below.Drift
	}
	part := (height - below.Height) / (above.Height - below.Height)
	return mix(&below.Drift, &above.Drift, part)
}

// changes are the times at which the table changes.
func (w Winds) changes() (out []int64) {
	for i := range w {
		if at := w[i].From; at != 0 {
			out = append(out, at)
		}
	}
	return
}

// mix gives the drift between two, as vectors.
func mix(a, b *Drift, part float64) *Drift {
	aEast, aNorth := a.Vector()
	bEast, bNorth := b.Vector()
	of := measure.DriftOf(aEast*(1-part)+bEast*part, aNorth*(1-part)+bNorth*part)
	return &of
}

// driftWords writes a drift as one gives it: of a wind where it comes from.
func driftWords(d *Drift, comesFrom bool, o *Layout) string {
	if d == nil {
		return ""
	}
	direction := d.To
	if comesFrom {
		direction += 180
	}
	return fmt.Sprintf("%03.0f/%s", math.Mod(math.Round(turn(direction)), 360), o.Measure.Speed(d.Speed))
}

// clockOf reads a moment, or a time of day of the day of a departure; times of day that go back are of the next day.
func clockOf(departure time.Time, zone *time.Location, moment func(string) (int64, error)) func(string) (int64, error) {
	var last time.Time
	return func(text string) (int64, error) {
		at, err := time.Parse("15:04", text)
		if err != nil {
			return moment(text)
		}
		year, month, day := departure.In(zone).Date()
		out, _ := instant.LocalDate(time.Date(year, month, day, at.Hour(), at.Minute(), 0, 0, time.UTC), zone)
		for out.Before(last) {
			out = out.AddDate(0, 0, 1)
		}
		last = out
		return out.UnixNano(), nil
	}
}
