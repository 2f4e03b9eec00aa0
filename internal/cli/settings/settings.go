// Package settings reads files of defaults for options.
package settings

import (
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/safefile"
	"gyrolith/core/unit/card"
)

// FileName is the file of defaults for options that you always type.
const FileName = "gyrolith.toml"

// settable are the options that a file of settings may have.
var settable = []string{"measure", "notation", "clock", "terrain", "unit", "card", "crs", "crs-in", "key"}

// Setting is one value of a file of settings.
type Setting struct {
	Name   string
	Values []string
	From   string // the file
}

// Settings are those that hold in a folder, the nearest first.
type Settings struct {
	Options []Setting
	Short   map[string]Setting
	Passed  []Passed
	files   []string
}

// Read reads the files of settings of the folder of the work, of those above it, and of the user.
func Read() (*Settings, error) {
	s := &Settings{Short: map[string]Setting{}}
	here, err := os.Getwd()
	if err != nil {
		return s, nil
	}
	for dir := here; ; dir = filepath.Dir(dir) {
		if err := s.read(dir, false); err != nil {
			return nil, err
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	if own, err := os.UserConfigDir(); err == nil {
		if err := s.read(filepath.Join(own, "gyrolith"), true); err != nil {
			return nil, err
		}
	}
	return s, nil
}

// read adds the settings of a folder, unless it is a card. What is set already comes first. Own is the user's folder.
func (s *Settings) read(dir string, own bool) error {
	path := filepath.Join(dir, FileName)
	text, why, err := content(path, own)
	if errors.Is(err, os.ErrNotExist) || slices.Contains(s.files, path) {
		return nil
	}
	if _, onCard := os.Stat(filepath.Join(dir, card.ManifestName)); onCard == nil {
		return nil
	}
	if err != nil {
		return fmt.Errorf("%s: can't be read: %w", path, safefile.Bare(err))
	}
	if why != "" {
		s.Passed = append(s.Passed, Passed{path, why})
		return nil
	}
	s.files = append(s.files, path)
	var whole map[string]any
	if err := toml.Unmarshal(text, &whole); err != nil {
		if d, ok := errors.AsType[*toml.DecodeError](err); ok {
			line, col := d.Position()
			return fmt.Errorf("%s:%d:%d: %s", path, line, col, strings.TrimPrefix(d.Error(), "toml: "))
		}
		return fmt.Errorf("%s: %w", path, err)
	}
	for _, name := range slices.Sorted(maps.Keys(whole)) {
		if name == "short" {
			table, ok := whole[name].(map[string]any)
			if !ok {
				return fmt.Errorf("%s: short is a table of names and paths", path)
			}
			for word, v := range table {
				if _, set := s.Short[word]; !set {
					s.Short[word] = Setting{word, []string{Below(dir, fmt.Sprint(v))}, path}
				}
			}
			continue
		}
		if !slices.Contains(settable, name) {
			return fmt.Errorf("%s: there is no setting %q; there are %s, and the table [short]", path, name,
				strings.Join(settable, ", "))
		}
		if slices.ContainsFunc(s.Options, func(x Setting) bool { return x.Name == name }) {
			continue
		}
		x := Setting{Name: name, From: path}
		switch v := whole[name].(type) {
		case []any:
			for _, one := range v {
				x.Values = append(x.Values, fmt.Sprint(one))
			}
		default:
			x.Values = []string{fmt.Sprint(v)}
		}
		s.Options = append(s.Options, x)
	}
	return nil
}

// Below is a path as it stands below a folder.
func Below(dir, path string) string {
	if filepath.IsAbs(path) {
		return path
	}
	return filepath.Join(dir, path)
}
