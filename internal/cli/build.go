package cli

import (
	"os"
	"runtime/debug"
	"sync"

	"gyrolith/core/recipe"
)

// buildID tells one build of the program from another: the revision that it was built from, or where that is not known
// or was changed, the sum of the program itself.
var buildID = sync.OnceValue(func() string {
	revision, modified := "", true
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				revision = s.Value
			case "vcs.modified":
				modified = s.Value == "true"
			}
		}
	}
	if revision != "" && !modified {
		return revision
	}
	path, err := os.Executable()
	if err == nil {
		if sum, err := recipe.SumOf(path); err == nil {
			return sum
		}
	}
	return Version
})
