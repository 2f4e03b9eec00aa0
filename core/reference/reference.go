// Package reference is coordinate reference systems as one asks for them: by a number or the path of a .prj file, with
// the datum shift to WGS 84 where none is known.
package reference

import (
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
)

// Choice is a system that is asked for. Open turns the words into a system and a shift.
type Choice struct {
	Word      string // an EPSG number, the path of a .prj file, or utm; "" is none
	OfData    bool   // utm alone may stand for the zone that the data lie in
	ShiftText string // three or seven numbers, or none
	GridPath  string // of an NTv2 file

	System *crs.System // nil where none is asked for, and for utm
	Shift  *crs.Shift  // nil where none is asked for

	Elsewhere bool // another system of the same run needs the shift, so that one which needs none does not take it

	column string // of a table, which names the datum of each row
}

// Column is the title of the column that names the datum of each row; "" is none.
func (c *Choice) Column() string { return c.column }

// Wants says whether a shift is given and the system that is asked for needs one.
func (c *Choice) Wants() bool {
	if c.ShiftText == "" && c.GridPath == "" || c.Word == "" || c.UTM() {
		return false
	}
	s, err := find(c.Word, true)
	return err == nil && s.Shifted()
}

// columnPrefix stands before the title of a column of datums.
const columnPrefix = "column:"

// ShiftParams lists the parameters of the datum shift.
func (c *Choice) ShiftParams(of string) param.Table {
	return param.Table{
		param.Text("shift", &c.ShiftText, "X,Y,Z",
			"the datum shift to WGS 84 of "+of+": `X,Y,Z` in metres, or seven numbers, or none"),
		param.File("shift-grid", &c.GridPath, "FILE", "the NTv2 `FILE` with the datum shifts of "+of),
	}
}

// UTM says whether the zone of the data is asked for.
func (c *Choice) UTM() bool { return strings.EqualFold(c.Word, "utm") }

// mostPRJ is the most bytes of a .prj file.
const mostPRJ = 1 << 20

// OpenShift reads the shift that is asked for.
func (c *Choice) OpenShift() (err error) {
	switch {
	case c.ShiftText != "" && c.GridPath != "":
		return param.Errorf("shift", "and a shift grid exclude each other: give one")
	case c.ShiftText != "":
		if c.Shift, err = crs.ParseShift(c.ShiftText); err != nil {
			return &param.Error{Name: "shift", Err: err}
		}
	case c.GridPath != "":
		data, err := os.ReadFile(c.GridPath)
		if err != nil {
			return safefile.CannotRead(c.GridPath, "file", err)
		}
		grid, err := crs.ParseGrid(c.GridPath, data)
		if err != nil {
			return fmt.Errorf("%s: %w", c.GridPath, err)
		}
		c.Shift = &crs.Shift{Name: grid.Name, Accuracy: -1, Grid: grid}
	}
	return nil
}

// Open finds the system, named by a parameter, with the shift in place of its own.
func (c *Choice) Open(name string) error {
	if err := c.OpenShift(); err != nil || c.Word == "" || c.UTM() && c.OfData {
		return err
	}
	if title, ok := strings.CutPrefix(c.Word, columnPrefix); ok && !c.OfData {
		c.column = title
		return nil
	}
	s, err := c.find()
	if e, ok := errors.AsType[*NotAFile](err); ok {
		return &param.Error{Name: name, Err: e.Err}
	}
	c.System = s
	return err
}

// find finds the system, with the shift if it is this system's.
func (c *Choice) find() (*crs.System, error) {
	s, err := find(c.Word, c.Shift != nil)
	if err != nil {
		return nil, err
	}
	if c.Shift != nil && (s.Shifted() || !c.Elsewhere) {
		s = s.WithShift(c.Shift)
	}
	return known(s)
}

// For gives the system in which data are written that may have been brought to WGS 84 by the shift already: then that
// is the shift of their datum, and of no other.
func (c *Choice) For(d *nav.Dataset) (*crs.System, error) {
	if c.System == nil || c.Shift == nil || d.Shifted == "" || d.Shifted == c.System.Geographic.Datum {
		return c.System, nil
	}
	s, err := find(c.Word, true)
	if err != nil {
		return nil, err
	}
	if s, err = known(s); err != nil {
		return nil, fmt.Errorf("%w; the one that was given is that of %s", err, d.Shifted)
	}
	return s, nil
}

// known refuses a system without a shift.
func known(s *crs.System) (*crs.System, error) {
	if s.Shift == nil {
		return nil, &NotAFile{advice.Errorf(advice.NameShift, "no datum shift from %v to WGS 84 is known", s)}
	}
	return s, nil
}

// NotAFile is the error of a word that names no system and is no file.
type NotAFile struct{ Err error }

func (e *NotAFile) Error() string { return e.Err.Error() }

// Unwrap gives the error itself.
func (e *NotAFile) Unwrap() error { return e.Err }

// Find finds a system by its number or in a .prj file, with a shift in place of its own; nil keeps that.
func Find(word string, shift *crs.Shift) (*crs.System, error) {
	s, err := find(word, shift != nil)
	if err != nil {
		return nil, err
	}
	if shift != nil {
		s = s.WithShift(shift)
	}
	return known(s)
}

// find finds a system as the registry or the file has it. One of which no shift is known is found where one is given.
func find(word string, shifted bool) (*crs.System, error) {
	if strings.EqualFold(word, "utm") {
		return nil, &NotAFile{errors.New("utm alone doesn't give a zone: use its EPSG number, 326 and the zone for the " +
			"north or " +
			"327 and the zone for the south, such as 32732")}
	}
	var s *crs.System
	var err error
	if _, missing := os.Stat(word); missing == nil || strings.HasSuffix(strings.ToLower(word), ".prj") {
		if s, err = openPRJ(word, shifted); err != nil {
			return nil, err
		}
	} else if s, err = crs.Find(word); err != nil {
		return nil, &NotAFile{err}
	}
	return s, nil
}

func openPRJ(path string, shifted bool) (*crs.System, error) {
	info, err := os.Stat(path)
	if err == nil && info.Size() > mostPRJ {
		return nil, fmt.Errorf("%s: is too large for a .prj file", path)
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, safefile.CannotRead(path, "file", err)
	}
	s, err := crs.ParseWKT(string(text))
	switch {
	case errors.Is(err, crs.ErrNoShift) && shifted, err == nil:
		return s, nil
	case errors.Is(err, crs.ErrNoShift):
		return nil, advice.Errorf(advice.NameShift, "%s: %v: its datum is %s", path, err, s.Geographic.Datum)
	}
	return nil, fmt.Errorf("%s: %w", path, err)
}

func points(n int) string {
	if n == 1 {
		return "1 point"
	}
	return measure.Count(n) + " points"
}

// ErrPole says that data lie where UTM ends.
var ErrPole = errors.New("there are positions near a pole, beyond UTM: use 5041 (north) or 5042 (south), or " +
	"another system")

// ZoneOf gives the UTM system of the one zone that all positions of the data lie in.
func ZoneOf(d *nav.Dataset) (*crs.System, error) {
	zones := map[geodesy.UTM]int{}
	first := geodesy.UTM{}
	for p := range d.AllPoints() {
		u := geodesy.ZoneOf(p.Lat, p.Lon)
		if p.Lat > 84 || p.Lat < -80 {
			return nil, ErrPole
		}
		if len(zones) == 0 {
			first = u
		}
		zones[u]++
	}
	if len(zones) <= 1 {
		return crs.OfUTM(first), nil
	}
	var names []string
	for u, n := range zones {
		hemisphere := "north"
		if u.South {
			hemisphere = "south"
		}
		names = append(names, fmt.Sprintf("%02d %s (%s)", u.Zone, hemisphere, points(n)))
	}
	slices.Sort(names)
	for i := range names {
		names[i] = strings.TrimPrefix(names[i], "0")
	}
	if len(names) > 6 {
		names = append(names[:5], fmt.Sprintf("%d more", len(names)-5))
	}
	return nil, fmt.Errorf("the points lie in several zones, %s: give the number of one, such as %d, or choose a part of "+
		"the data",
		strings.Join(names, ", "), crs.OfUTM(first).Code)
}
