package unpack

import (
	"path"
	"strings"

	"gyrolith/core/nav"
)

// Hidden says whether a member of an archive is none that a person put there: a hidden file, or what other systems keep
// beside files.
func Hidden(name string) bool {
	for part := range strings.SplitSeq(strings.ReplaceAll(name, `\`, "/"), "/") {
		if strings.HasPrefix(part, ".") && part != "." && part != ".." || part == "__MACOSX" {
			return true
		}
	}
	return strings.EqualFold(path.Base(name), "thumbs.db")
}

// TellHidden says which members of an archive were left out.
func TellHidden(d *nav.Dataset, names []string) {
	if len(names) > 0 {
		d.Tell(nav.ProblemLeftOut, "hidden files of the archive, and what other systems keep beside files, were left out: "+
			strings.Join(names, ", "))
	}
}
