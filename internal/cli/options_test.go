package cli

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"gyrolith/internal/cli/frame"
)

// A negative number after an option is its value; a file's name and what follows -- are left alone.
func TestJoinNegative(t *testing.T) {
	var out bytes.Buffer
	a := frame.NewApp(verbs, strings.NewReader(""), &out, &out)
	got := joinNegative(a, []string{"look", "--inside", "-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"})
	want := []string{"look", "--inside=-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"}
	if !slices.Equal(got, want) {
		t.Errorf("got %q", got)
	}
}
