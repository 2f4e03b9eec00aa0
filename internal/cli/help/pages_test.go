package help_test

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"gyrolith/internal/cli"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/help"
)

// The reference is made of the tables, and is as they are.
func TestReference(t *testing.T) {
	var out bytes.Buffer
	want := help.Reference(frame.NewApp(cli.Verbs(), strings.NewReader(""), &out, &out))
	const page = "../../../docs/reference.md"
	if os.Getenv("UPDATE_REFERENCE") != "" {
		if err := os.WriteFile(page, []byte(want), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := os.ReadFile(page); err != nil || string(got) != want {
		t.Errorf("%s is not what it is made from (%v); UPDATE_REFERENCE=1 go test ./internal/cli/... writes it anew",
			page, err)
	}
}
