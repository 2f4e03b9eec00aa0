package standin

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"gyrolith/core/pattern"
)

// vaneIdent is what the unit takes for an identifier.
var vaneIdent = pattern.New(`^[A-Z0-9]{1,5}$`)

// vaneCrew makes, moves and deletes fixes. What is made goes into the file of the fixes.
func vaneCrew(card fs.FS, d Deed) (*Change, error) {
	d.Name = strings.ToUpper(d.Name)
	if !vaneIdent.MatchString(d.Name) {
		return nil, errors.New("an identifier has one to five capital letters and digits")
	}
	files, dir, err := filesIn(card, ".vpl", "VANE")
	if err != nil {
		return nil, err
	}
	lines, home := map[string][]string{}, ""
	for _, file := range files {
		if _, err := vaneFile(card, file); err != nil {
			continue // the unit leaves it out
		}
		raw, err := fs.ReadFile(card, file)
		if err != nil {
			return nil, err
		}
		text := strings.Split(strings.ReplaceAll(string(raw), "\r", ""), "\n")
		for i, l := range text {
			if vaneSum.MatchString(l) {
				lines[file] = text[:i]
				break
			}
		}
		if strings.EqualFold(path.Base(file), "FIXES.VPL") {
			home = file
		}
		for i, l := range lines[file] {
			m := vaneFix.FindStringSubmatch(strings.TrimSpace(l))
			if m == nil || !strings.HasPrefix(strings.TrimSpace(l), "FIX") || m[1] != d.Name {
				continue
			}
			switch d.Do {
			case Make:
				return nil, errHasMark("fix", d.Name)
			case Delete:
				return vaneChange(file, append(lines[file][:i:i], lines[file][i+1:]...)), nil
			}
			lines[file][i] = vaneLine(d, m[6], m[7])
			return vaneChange(file, lines[file]), nil
		}
	}
	if d.Do != Make {
		return nil, errNoMark("fix", d.Name)
	}
	if home == "" {
		if dir == "" {
			dir = "VANE"
		}
		home = dir + "/FIXES.VPL"
		lines[home] = []string{"VANE PLAN 1"}
	}
	return vaneChange(home, append(lines[home], vaneLine(d, "-", "POINT"))), nil
}

// vaneLine is the line of a fix.
func vaneLine(d Deed, altitude, kind string) string {
	letter := func(v float64, letters string) (string, float64) {
		if v < 0 {
			return letters[1:], -v
		}
		return letters[:1], v
	}
	ns, lat := letter(d.At.Lat, "NS")
	ew, lon := letter(d.At.Lon, "EW")
	return fmt.Sprintf("FIX %s %s%09.6f %s%010.6f %s %s", d.Name, ns, lat, ew, lon, altitude, kind)
}

// vaneChange puts the lines together again, with their sum.
func vaneChange(file string, lines []string) *Change {
	first, second := 0, 0
	text := strings.Join(lines, "\n") + "\n"
	for _, c := range []byte(text) {
		first = (first + int(c)) % 255
		second = (second + first) % 255
	}
	return &Change{file, fmt.Appendf(nil, "%sSUM %d %02X%02X\n", text, len(lines), second, first)}
}
