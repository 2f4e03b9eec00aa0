package unit

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"

	"gyrolith/core/pattern"
	"gyrolith/core/safefile"
)

var (
	nameOf   = pattern.New(`^[a-z0-9][a-z0-9-]*$`)
	nameKey  = pattern.New(`(?m)^name = .*$`)
	titleKey = pattern.New(`(?m)^title = .*$`)
	standKey = pattern.New(`(?m)^stand-in = .*\n`)
)

// UserFolder is where the user's own profiles are; "" where there is no folder for configuration.
func UserFolder() string {
	base, err := os.UserConfigDir()
	if err != nil {
		return ""
	}
	return filepath.Join(base, "gyrolith", "units")
}

// New writes a profile of a new name into a folder, begun with another one, and gives the path of its file. A file that
// is there is not written over.
func New(name string, like *Profile, dir string) (string, error) {
	if !nameOf.MatchString(name) {
		return "", fmt.Errorf("%q is not a name for a unit: use lower-case letters, digits and hyphens", name)
	}
	text := nameKey.ReplaceAllLiteralString(like.Source, "name = "+strconv.Quote(name))
	text = standKey.ReplaceAllLiteralString(text, "")
	text = titleKey.ReplaceAllLiteralString(text, fmt.Sprintf("title = %q", name+", like "+like.Name))
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return dir, fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	file := filepath.Join(dir, name+".toml")
	_, err := safefile.WriteBytes(file, false, []byte(text))
	return file, err
}
