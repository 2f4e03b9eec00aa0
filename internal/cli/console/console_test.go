package console

import "testing"

func TestShow(t *testing.T) {
	for text, want := range map[string]string{"Østre Båe": "Østre Båe", "a\x1b[2Jb": `a\u001b[2Jb`,
		"x\u202ey": `x\u202ey`, "l\nm": `l\u000am`} {
		if got := Show(text); got != want {
			t.Errorf("%q is shown as %q", text, got)
		}
	}
	if got := OneLine("a long name\nof a place", 10); got != "a long na…" {
		t.Errorf("got %q", got)
	}
}

// What is said breaks at words, and never inside of one; a path too long for the window stays whole.
func TestWrap(t *testing.T) {
	for in, want := range map[string]string{
		"note: a short line\n":                          "note: a short line\n",
		"note: a line that is wider than the window\n":  "note: a line that is\n  wider than the window\n",
		"  note: indented, and wider than it\n":         "  note: indented, and\n    wider than it\n",
		"x /a/path/that/is/longer/than/the/window y":    "x\n  /a/path/that/is/longer/than/the/window\n  y",
		"\x1b[33mnote:\x1b[0m coloured text is as wide": "\x1b[33mnote:\x1b[0m coloured text is\n  as wide",
	} {
		if got := wrap(in, 24); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
