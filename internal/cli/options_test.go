package cli

import (
	"bytes"
	"os"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format/all"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/help"
	"gyrolith/internal/cli/lookup"
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

// The reference is made of the tables, and is as they are.
func TestReference(t *testing.T) {
	var out bytes.Buffer
	upToDate(t, "../../docs/reference.md", help.Reference(frame.NewApp(verbs, strings.NewReader(""), &out, &out)))
}

// The page of what the formats hold is made from what they declare.
func TestFormatTables(t *testing.T) {
	upToDate(t, "../../docs/formats/holds.md", lookup.FormatTables(all.Formats))
}

// upToDate fails where a page is not what it is made from, or writes it anew.
func upToDate(t *testing.T, page, want string) {
	t.Helper()
	if os.Getenv("UPDATE_REFERENCE") != "" {
		if err := os.WriteFile(page, []byte(want), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := os.ReadFile(page); err != nil || string(got) != want {
		t.Errorf("%s is not what it is made from (%v); UPDATE_REFERENCE=1 go test ./internal/cli writes it anew", page, err)
	}
}
