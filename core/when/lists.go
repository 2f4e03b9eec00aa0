package when

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/column"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Moments reads times: in what zone they are that name none, and of which day those are that have none.
type Moments struct {
	Zone *time.Location // nil is UTC
	Day  time.Time      // unset where it is not known

	Doubts []string // of times that the zone has twice, or not at all
}

// local gives the instant of what the clocks of a zone show.
func (m *Moments) local(shown time.Time, zone *time.Location, text string) time.Time {
	at, doubt := instant.LocalDate(shown, zone)
	if doubt != instant.NoDoubt {
		m.Doubts = append(m.Doubts, text+" "+doubt.String())
	}
	return at
}

// Parse reads a time, with or without its day.
func (m *Moments) Parse(text string) (time.Time, error) {
	zone := m.Zone
	if zone == nil {
		zone = time.UTC
	}
	text = strings.TrimSpace(text)
	for _, layout := range []string{"15:04:05", "15:04", "15:04:05Z07:00", "15:04Z07:00"} {
		t, err := time.ParseInLocation(layout, text, time.UTC)
		if err != nil {
			continue
		}
		if m.Day.IsZero() {
			return t, fmt.Errorf("%q has no day, but the recordings span several", text)
		}
		in := zone
		if strings.HasSuffix(layout, "Z07:00") {
			in = t.Location()
		}
		year, month, day := m.Day.In(in).Date()
		return m.local(time.Date(year, month, day, t.Hour(), t.Minute(), t.Second(), t.Nanosecond(), time.UTC), in, text), nil
	}
	ns, mark, _, ok := instant.Parse([]byte(text), zone)
	if !ok || mark < instant.Seconds {
		return time.Time{}, fmt.Errorf("%q is not a time: write 14:35, or 2026-03-14T14:35:00Z", text)
	}
	if doubt := instant.DoubtOf([]byte(text), zone); doubt != instant.NoDoubt {
		m.Doubts = append(m.Doubts, text+" "+doubt.String())
	}
	return time.Unix(0, ns), nil
}

// titles are the words over the columns of a list.
var (
	timeTitles = []string{"time", "date time", "datetime", "date and time", "timestamp", "when", "utc", "taken"}
	dateTitles = []string{"date", "day"}
	nameTitles = []string{"name", "title", "label", "id", "picture", "image", "file", "filename", "photo", "station",
		"what"}
)

// ReadList reads a list of names and times: a CSV file, separated by commas, semicolons or tabs, or a workbook.
func ReadList(path string, m *Moments) ([]Asked, error) {
	rows, err := readRows(path)
	if err != nil {
		return nil, err
	}
	if len(rows) < 2 {
		return nil, fmt.Errorf("%s: a list needs a header row (name, time) and rows", path)
	}
	find := func(words []string) int {
		return slices.IndexFunc(rows[0], func(title string) bool {
			return slices.Contains(words, strings.ToLower(strings.TrimSpace(title)))
		})
	}
	timed, dated, named := find(timeTitles), find(dateTitles), find(nameTitles)
	if timed < 0 {
		if timed, dated = dated, -1; timed < 0 {
			return nil, fmt.Errorf("%s:1: no column is called time (there are %s)", path, strings.Join(rows[0], ", "))
		}
	}
	titles := &nav.Titles{}
	if named >= 0 {
		titles.Keep("name", rows[0][named], false)
	}
	var out []Asked
	for i, row := range rows[1:] {
		cell := func(k int) string {
			if k < 0 || k >= len(row) {
				return ""
			}
			return strings.TrimSpace(row[k])
		}
		text := cell(timed)
		if text == "" && cell(named) == "" {
			continue
		}
		if dated >= 0 && cell(dated) != "" {
			text = cell(dated) + "T" + text
		}
		at, err := m.Parse(text)
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", path, i+2, err)
		}
		a := Asked{Name: cell(named), At: at, Titles: titles}
		if a.Name == "" {
			a.Name = fmt.Sprintf("row %d", i+2)
		}
		for k, value := range row {
			if k != timed && k != dated && k != named && value != "" {
				a.Fields = append(a.Fields, nav.Field{Key: fieldName(rows[0], k), Value: value})
			}
		}
		out = append(out, a)
	}
	return out, nil
}

// fieldName is the title of a column; one without a title has its number.
func fieldName(titles []string, k int) string {
	if k < len(titles) {
		if title := strings.TrimSpace(titles[k]); title != "" {
			return title
		}
	}
	return fmt.Sprintf("column %d", k+1)
}

func readRows(path string) ([][]string, error) {
	if strings.EqualFold(filepath.Ext(path), ".xlsx") {
		book, err := excelize.OpenFile(path)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		defer book.Close()
		rows, err := book.GetRows(book.GetSheetName(0))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		return rows, nil
	}
	return column.ReadRows(path, false)
}
