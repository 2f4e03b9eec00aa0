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
