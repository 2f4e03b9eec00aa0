// Package console writes for people: tables, colours, progress, the width of the window. What comes from files is made
// harmless.
package console

import (
	"fmt"
	"io"
	"os"
	"strings"
	"unicode"
	"unicode/utf16"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"

	"gyrolith/core/measure"
)

// Stream is standard output or standard error, and knows whether a person is looking.
type Stream struct {
	w        io.Writer
	Terminal bool
	Colours  bool
	Width    int
	Prose    bool // what is said, and not what is asked for: it is wrapped at words

	failed error
}

// Write writes, and keeps the first error, so that no end of a program is called good whose answer did not arrive.
func (s *Stream) Write(b []byte) (int, error) {
	n, err := s.w.Write(b)
	if err != nil && s.failed == nil {
		s.failed = err
	}
	return n, err
}

// Failed gives the first error of writing.
func (s *Stream) Failed() error { return s.failed }

// New makes a stream of a writer, which may be a terminal.
func New(w io.Writer) *Stream {
	s := &Stream{w: w, Width: 120}
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		s.Terminal = true
		s.Colours = os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
		if width, _, err := term.GetSize(int(f.Fd())); err == nil && width > 20 {
			s.Width = width
		}
	}
	return s
}

// The few colours, by what they mean.
var (
	Red    = text.Colors{text.FgHiRed}
	Yellow = text.Colors{text.FgHiYellow}
	Green  = text.Colors{text.FgHiGreen}
	Cyan   = text.Colors{text.FgHiCyan}
	Bold   = text.Colors{text.Bold}
	Faint  = text.Colors{text.FgHiBlack}
)

// Paint colours a text where that can be seen.
func (s *Stream) Paint(c text.Colors, t string) string {
	if !s.Colours || t == "" {
		return t
	}
	text.EnableColors()
	return c.Sprint(t)
}

// Show makes a text from a file harmless for a terminal: control characters, and those that turn the direction
// of writing, are shown escaped.
func Show(s string) string { return escaped(s, hostile) }

// ShowJSON escapes in JSON what could lead a terminal or a reader astray; it stands in strings only, and stays the
// same.
func ShowJSON(text string) string {
	return escaped(text, func(r rune) bool { return r != '\n' && hostile(r) })
}

// upright escapes what turns the direction of writing, and leaves the colours.
func upright(text string) string { return escaped(text, turning) }

// escaped writes some characters as JSON does.
func escaped(text string, bad func(rune) bool) string {
	if strings.IndexFunc(text, bad) < 0 {
		return text
	}
	var b strings.Builder
	for _, r := range text {
		switch high, low := utf16.EncodeRune(r); {
		case !bad(r):
			b.WriteRune(r)
		case r > 0xffff:
			fmt.Fprintf(&b, "\\u%04x\\u%04x", high, low)
		default:
			fmt.Fprintf(&b, "\\u%04x", r)
		}
	}
	return b.String()
}

func hostile(r rune) bool {
	return unicode.IsControl(r) || turning(r) || r == unicode.ReplacementChar
}

func turning(r rune) bool { return unicode.Is(unicode.Cf, r) || r == '\u2028' || r == '\u2029' }

// OneLine shows a text on one line of at most n characters.
func OneLine(s string, n int) string {
	s = Show(strings.Join(strings.Fields(s), " "))
	return text.Snip(s, n, "…")
}

// Column says how a column of a table stands.
type Column struct {
	Title string
	Right bool
	Cut   bool // on a terminal its texts are cut where the table would be wider than the window
}

// List prints a table; in a terminal only so many of its rows, and how many more there are, with what shows them.
func (s *Stream) List(indent string, columns []Column, rows [][]string, most int, advice string) {
	if !s.Terminal || len(rows) <= most+1 { // one more row takes no more room than to say so
		most = len(rows)
	}
	s.Table(indent, columns, rows[:most])
	if n := len(rows) - most; n > 0 {
		s.Printf("%s… and %s more%s\n", indent, measure.Count(n), advice)
	}
}

// Table prints rows in columns without lines around them. Columns that are empty throughout are left out; on a
// terminal the last one is as wide as there is room, in several lines if it must.
func (s *Stream) Table(indent string, columns []Column, rows [][]string) {
	if len(rows) == 0 {
		return
	}
	for _, r := range rows {
		for i := range r {
			r[i] = upright(r[i])
		}
	}
	t := table.NewWriter()
	style := table.StyleDefault
	style.Options = table.OptionsNoBordersAndSeparators
	style.Box.PaddingLeft, style.Box.PaddingRight = "", "  "
	style.Format.Header = text.FormatDefault
	t.SetStyle(style)
	var used []int // the columns that have anything in them
	var widths []int
	titled := false
	for i, c := range columns {
		width := text.StringWidthWithoutEscSequences(c.Title)
		filled := false
		for _, r := range rows {
			filled = filled || r[i] != ""
			width = max(width, text.StringWidthWithoutEscSequences(r[i]))
		}
		if filled {
			used, widths = append(used, i), append(widths, width)
			titled = titled || c.Title != ""
		}
	}
	rows = s.cut(columns, used, widths, rows, s.Width-len(indent))
	var header table.Row
	var configs []table.ColumnConfig
	room := s.Width - len(indent)
	for n, i := range used {
		c := columns[i]
		header = append(header, s.Paint(Faint, c.Title))
		cfg := table.ColumnConfig{Number: n + 1}
		if c.Right {
			cfg.Align, cfg.AlignHeader = text.AlignRight, text.AlignRight
		}
		if n == len(used)-1 && s.Terminal && room > 20 {
			cfg.WidthMax, cfg.WidthMaxEnforcer = room, text.WrapSoft
		}
		room -= widths[n] + 2
		configs = append(configs, cfg)
	}
	t.SetColumnConfigs(configs)
	if titled {
		t.AppendHeader(header)
	}
	for _, r := range rows {
		var row table.Row
		for _, i := range used {
			row = append(row, r[i])
		}
		t.AppendRow(row)
	}
	for line := range strings.SplitSeq(t.Render(), "\n") {
		fmt.Fprintln(s, strings.TrimRight(indent+line, " "))
	}
}

// cut shortens the texts of the columns that may be cut, the widest first, until the table fits.
func (s *Stream) cut(columns []Column, used, widths []int, rows [][]string, room int) [][]string {
	const least = 10
	if !s.Terminal {
		return rows
	}
	over := -2 - room
	for _, w := range widths {
		over += w + 2
	}
	to := map[int]int{} // the width of a column that is cut
	for ; over > 0; over-- {
		widest := -1
		for n, i := range used {
			if columns[i].Cut && widths[n] > least && (widest < 0 || widths[n] > widths[widest]) {
				widest = n
			}
		}
		if widest < 0 {
			break
		}
		widths[widest]--
		to[used[widest]] = widths[widest]
	}
	if len(to) == 0 {
		return rows
	}
	out := make([][]string, len(rows))
	for k, r := range rows {
		out[k] = append([]string{}, r...)
		for i, w := range to {
			out[k][i] = text.Snip(r[i], w, "…")
		}
	}
	return out
}

// Printf prints.
func (s *Stream) Printf(format string, args ...any) {
	if s.Prose {
		s.Say(format, args...)
		return
	}
	io.WriteString(s, upright(fmt.Sprintf(format, args...)))
}

// Say prints a sentence among what is asked for, which is wrapped as well.
func (s *Stream) Say(format string, args ...any) {
	out := upright(fmt.Sprintf(format, args...))
	if s.Terminal {
		out = wrap(out, s.Width)
	}
	io.WriteString(s, out)
}

// wrap breaks lines that are wider than the window at words, the rest of each indented by two more than it begins with.
func wrap(out string, width int) string {
	lines := strings.Split(out, "\n")
	for i, line := range lines {
		if text.StringWidthWithoutEscSequences(line) < width {
			continue
		}
		indent := strings.Repeat(" ", len(line)-len(strings.TrimLeft(line, " "))+2)
		var b strings.Builder
		at, empty := 0, true
		for k, word := range strings.Split(line, " ") {
			n := text.StringWidthWithoutEscSequences(word)
			switch {
			case k == 0:
			case word != "" && at+1+n >= width && !empty:
				b.WriteString("\n" + indent)
				at = len(indent)
			default:
				b.WriteByte(' ')
				at++
			}
			b.WriteString(word)
			at, empty = at+n, empty && word == ""
		}
		lines[i] = b.String()
	}
	return strings.Join(lines, "\n")
}
