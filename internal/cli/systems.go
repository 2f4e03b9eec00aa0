package cli

import (
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// tableOptions understands the options of tables, layers and coordinate systems.
func (a *app) tableOptions(c *cli.Command, o *options) error {
	o.read.Sheet, o.read.LineBy = c.String("sheet"), c.String("line-by")
	o.crs, o.trackPoints, o.append = c.String("crs"), c.Bool("track-points"), c.Bool("append")
	fail := func(name string, err error) error { return usageError("%s: --%s: %v", c.Name, name, err) }
	var err error
	if text := c.String("columns-in"); text != "" {
		if o.read.Columns, err = format.ParseColumns(text); err != nil {
			return fail("columns-in", err)
		}
	}
	table := format.Table{Notation: o.notation}
	if text := c.String("columns"); text != "" {
		if table.Columns, err = format.ParseColumns(text); err != nil {
			return fail("columns", err)
		}
	}
	switch rows := c.String("rows"); rows {
	case "", "points":
	case "items":
		table.Items = true
	default:
		return fail("rows", fmt.Errorf("%q are no rows: say points or items", rows))
	}
	o.table = &table
	if o.shift, err = a.shiftOf(c); err != nil {
		return err
	}
	o.read.Shift = o.shift
	if word := c.String("crs-in"); word != "" {
		if o.read.System, err = a.system(c.Name, "crs-in", word, o.shift); err != nil {
			return err
		}
	}
	if o.crs != "" && !strings.EqualFold(o.crs, "utm") {
		if _, err = a.system(c.Name, "crs", o.crs, o.shift); err != nil {
			return err
		}
	}
	if o.shift != nil && o.read.System != nil && o.crs != "" {
		return usageError("%s: --shift with both --crs-in and --crs could be meant for either; convert in two steps", c.Name)
	}
	return nil
}

// shiftOf is the datum shift that is said with --shift or --shift-grid; nil if none is.
func (a *app) shiftOf(c *cli.Command) (*crs.Shift, error) {
	text, path := c.String("shift"), c.String("shift-grid")
	switch {
	case text != "" && path != "":
		return nil, usageError("%s: --shift and --shift-grid are two ways for one thing; give one of them", c.Name)
	case text != "":
		shift, err := crs.ParseShift(text)
		if err != nil {
			return nil, usageError("%s: --shift: %v", c.Name, err)
		}
		return shift, nil
	case path != "":
		data, err := os.ReadFile(path)
		if err != nil {
			return nil, faultIn(path, "can't be read: %v", errors.Unwrap(err))
		}
		g, err := crs.ParseGrid(path, data)
		if err != nil {
			return nil, faultIn(path, "%v", err)
		}
		return &crs.Shift{Name: g.Name, Accuracy: -1, Grid: g}, nil
	}
	return nil, nil
}

// system finds a coordinate system by its number or in a .prj file, with a shift in place of its own.
func (a *app) system(verb, option, word string, shift *crs.Shift) (*crs.System, error) {
	if strings.EqualFold(word, "utm") {
		return nil, usageError("%s: --%s: utm alone names no zone: give its EPSG number, 326 and the zone for the north or 327 and the zone for the south, such as 32732", verb, option)
	}
	var s *crs.System
	var err error
	if _, missing := os.Stat(word); missing == nil || strings.HasSuffix(strings.ToLower(word), ".prj") {
		text, err := a.readText(word)
		if err != nil {
			return nil, err
		}
		if s, err = crs.ParseWKT(string(text)); err != nil && !(errors.Is(err, crs.ErrNoShift) && shift != nil) {
			if errors.Is(err, crs.ErrNoShift) {
				return nil, faultIn(word, "%v: say with --shift X,Y,Z, --shift-grid FILE or --shift none how its datum (%s) lies to WGS 84", err, s.Geographic.Datum)
			}
			return nil, faultIn(word, "%v", err)
		}
	} else if s, err = crs.Find(word); err != nil {
		return nil, usageError("%s: --%s: %v", verb, option, err)
	}
	if shift != nil {
		s = s.WithShift(shift)
	}
	if s.Shift == nil {
		return nil, usageError("%s: --%s: no datum shift from %v to WGS 84 is known: say it with --shift X,Y,Z, --shift-grid FILE or --shift none", verb, option, s)
	}
	return s, nil
}

// outputSystem settles the coordinate system of what is written; nil is WGS 84.
func (a *app) outputSystem(d *nav.Dataset, o *options) (*crs.System, error) {
	if o.crs == "" {
		return nil, nil
	}
	if !o.writeAs.Systems {
		return nil, usageError("--crs: %s holds WGS 84 only; csv, xlsx, shp and gpkg can be written in another system", o.writeAs.Name)
	}
	if !strings.EqualFold(o.crs, "utm") {
		return a.system("", "crs", o.crs, o.shift)
	}
	zones := map[geodesy.UTM]int{}
	var first geodesy.UTM
	polar := false
	d.EachPoint(func(p *nav.Point) {
		u := geodesy.ZoneOf(p.Lat, p.Lon)
		if len(zones) == 0 {
			first = u
		}
		polar = polar || p.Lat > 84 || p.Lat < -80
		zones[u]++
	})
	switch {
	case polar:
		return nil, &failure{statusInput, errors.New("--crs utm: there are positions near a pole, where UTM ends: take 5041 (north) or 5042 (south), or another system")}
	case len(zones) > 1:
		var names []string
		for zone := 1; zone <= 60; zone++ {
			for _, south := range []bool{false, true} {
				if n := zones[geodesy.UTM{Zone: zone, South: south}]; n > 0 {
					names = append(names, fmt.Sprintf("%d %s (%s)", zone, map[bool]string{true: "south", false: "north"}[south], plural(n, "point", "points")))
				}
			}
		}
		if len(names) > 6 {
			names = append(names[:5], fmt.Sprintf("%d more", len(names)-5))
		}
		return nil, &failure{statusInput, fmt.Errorf("--crs utm: the points lie in several zones, %s: give the number of one, such as --crs %d, or take a part with --inside or --take", strings.Join(names, ", "), crs.OfUTM(first).Code)}
	}
	return crs.OfUTM(first), nil
}

// saySystem says what was assumed of a coordinate system, which is where people go wrong.
func (a *app) saySystem(s *crs.System, written bool, o *options) {
	if s == nil || o.quiet {
		return
	}
	way := "read as"
	if written {
		way = "written in"
	}
	a.err.printf("coordinates are %s %s: %s; %s; heights are not transformed\n", way, show(s.String()), s.Axes(), show(s.Accuracy()))
	if s.Southing() {
		a.err.printf("  it counts westings and southings by definition: tables have them so, layers have eastings and northings\n")
	}
}
