package layer

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// Described finds the system that a file describes, by its number in the registry or by its definition; nil where it
// says neither.
func Described(org string, code int, definition string) (*crs.System, error) {
	if code > 0 && (org == "" || strings.EqualFold(org, "EPSG")) {
		if found, err := crs.Find(strconv.Itoa(code)); err == nil {
			return found, nil
		}
	}
	if definition == "" && code <= 0 {
		return nil, nil
	}
	if definition == "" {
		return nil, advice.Errorf(advice.NameSystemIn, "is in the unknown coordinate system %d", code)
	}
	found, err := crs.ParseWKT(definition)
	if err != nil && !(errors.Is(err, crs.ErrNoShift) && found != nil) {
		return nil, advice.Errorf(advice.NameSystemIn, "its coordinate system (%s %d) %w", org, code, err)
	}
	return found, nil
}

// SystemOf settles the system of what is read: the one that the user names, the one of the file, or WGS 84 where
// neither says anything. It says so.
func SystemOf(d *nav.Dataset, opt *format.ReadOptions, own *crs.System, where string) (*crs.System, error) {
	switch {
	case opt.System != nil:
		if own != nil && own.String() != opt.System.String() {
			d.Tell(nav.ProblemSystem, fmt.Sprintf("%s says %v, but the system that was given is used", where, own))
		}
		return opt.System, nil
	case own == nil:
		return nil, nil
	}
	if opt.Shift != nil && own.Shifted() {
		if datum := own.Geographic.Datum; d.Shifted == "" || d.Shifted == datum {
			own, d.Shifted = own.WithShift(opt.Shift), datum
		} else {
			d.Tell(nav.ProblemSystem, fmt.Sprintf("the shift that was given is that of %s, and was not used for %s, which is "+
				"in %v", d.Shifted, where, own))
		}
	}
	if own.Shift == nil {
		return nil, advice.Errorf(advice.NameShiftIn, "is in %v, which has no known datum shift to WGS 84", own)
	}
	if !own.WGS84() {
		d.Tell(nav.ProblemSystem, fmt.Sprintf("coordinates are in %v by %s: %s; %s; heights are not transformed", own,
			where, own.Axes(), own.Accuracy()))
	}
	return own, nil
}
