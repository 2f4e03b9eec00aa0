package chain

import (
	"os/exec"
	"strings"
	"testing"
)

// Databases, workbooks and drawing are linked by who imports them, and by nobody who does not need them.
func TestWhoLinksWhat(t *testing.T) {
	heavy := []string{"modernc.org/sqlite", "xuri/excelize", "sbinet/gg", "urfave/cli"}
	for _, pkg := range []string{".", "../recipe", "../export", "../clean", "../recast", "../dress", "../terrain",
		"../passage",
		"../compare", "../inspect", "../unit", "../unit/card", "../input", "../format/gpx", "../format/kml"} {
		out, err := exec.Command("go", "list", "-deps", pkg).Output()
		if err != nil {
			t.Fatalf("%s: %v", pkg, err)
		}
		for _, h := range heavy {
			if strings.Contains(string(out), h) {
				t.Errorf("core/chain/%s links %s", pkg, h)
			}
		}
		if strings.Contains(string(out), "gyrolith/internal") {
			t.Errorf("core/chain/%s knows the command line", pkg)
		}
	}
}
