package lookup

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
)

// The page of what the formats hold is made from what they declare.
func TestFormatTables(t *testing.T) {
	const page = "../../../docs/formats/holds.md"
	want := formatTables(all.Formats)
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

// formatTables is the page of the documentation that says what every format holds.
func formatTables(formats format.Formats) string {
	var b strings.Builder
	b.WriteString(`# What the formats store

Generated from what each format declares, which is also what reports of losses are made from.
` + "`gyrolith formats NAME`" + ` prints one of these tables. *in part* is explained below the table,
and *no* is what a writing lists as not carried over. A format that keeps its own details gives them back to the same
format; to others they are lost.
`)
	for _, x := range formats {
		if !x.Writes() {
			continue
		}
		versions := x.Versions
		if len(versions) == 0 {
			versions = []string{""}
		}
		last := ""
		for _, v := range versions {
			text := x.Holds(&format.WriteOptions{Version: v}).Table().Markdown()
			if text == last {
				continue
			}
			title := x.Name
			if last = text; v != "" && len(versions) > 1 {
				title += ":" + v
			}
			fmt.Fprintf(&b, "\n## %s\n\n%s.\n\n%s", title, x.Title, text)
		}
	}
	return b.String()
}
