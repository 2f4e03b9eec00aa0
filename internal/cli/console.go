package cli

import (
	"fmt"
	"io"
	"os"
	"strings"
	"unicode"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"
)

// stream is standard output or standard error, and knows whether a person is looking.
type stream struct {
	io.Writer
	terminal bool
	colours  bool
	width    int
}

func newStream(w io.Writer) *stream {
	s := &stream{Writer: w, width: 120}
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		s.terminal = true
		s.colours = os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
		if width, _, err := term.GetSize(int(f.Fd())); err == nil && width > 20 {
			s.width = width
		}
	}
	return s
}

// The few colours, by what they mean.
var (
	red    = text.Colors{text.FgHiRed}
	yellow = text.Colors{text.FgHiYellow}
	green  = text.Colors{text.FgHiGreen}
	cyan   = text.Colors{text.FgHiCyan}
	bold   = text.Colors{text.Bold}
	faint  = text.Colors{text.FgHiBlack}
)

func (s *stream) paint(c text.Colors, t string) string {
	if !s.colours || t == "" {
		return t
	}
	text.EnableColors()
	return c.Sprint(t)
}

// show makes a text from a file harmless for a terminal: control characters, and those that turn the direction
// of writing, are shown escaped.
func show(s string) string {
	if strings.IndexFunc(s, hostile) < 0 {
		return s
	}
	var b strings.Builder
	for _, r := range s {
		if hostile(r) {
			fmt.Fprintf(&b, "\\u%04x", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String()
}

func hostile(r rune) bool {
	return unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == unicode.ReplacementChar || r == '\u2028' || r == '\u2029'
}

// oneLine shows a text on one line of at most n characters.
func oneLine(s string, n int) string {
	s = show(strings.Join(strings.Fields(s), " "))
	return text.Snip(s, n, "…")
}

// column says how a column of a table stands.
type column struct {
	title string
	right bool
}

// table prints rows in columns without lines around them. Columns that are empty throughout are left out; on a
// terminal the last one is as wide as there is room, in several lines if it must.
func (s *stream) table(indent string, columns []column, rows [][]string) {
	if len(rows) == 0 {
		return
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
		width := text.StringWidthWithoutEscSequences(c.title)
		filled := false
		for _, r := range rows {
			filled = filled || r[i] != ""
			width = max(width, text.StringWidthWithoutEscSequences(r[i]))
		}
		if filled {
			used, widths = append(used, i), append(widths, width)
			titled = titled || c.title != ""
		}
	}
	var header table.Row
	var configs []table.ColumnConfig
	room := s.width - len(indent)
	for n, i := range used {
		c := columns[i]
		header = append(header, s.paint(faint, c.title))
		cfg := table.ColumnConfig{Number: n + 1}
		if c.right {
			cfg.Align, cfg.AlignHeader = text.AlignRight, text.AlignRight
		}
		if n == len(used)-1 && s.terminal && room > 20 {
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

func (s *stream) printf(format string, args ...any) { fmt.Fprintf(s, format, args...) }
