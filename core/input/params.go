package input

import (
	"fmt"
	"math"
	"os"
	"strings"
	"time"
	"unicode"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
)

// Params lists the parameters that say how files are read.
func (r *Reading) Params() param.Table {
	as := param.Func("read-as", "FORMAT", "read the files as this `FORMAT` instead of recognising them",
		func(text string) error {
			if x := r.Formats.ByName(text); x == nil || x.Read == nil {
				return r.Formats.Unknown(text, "read")
			}
			r.As = text
			return nil
		})
	as.Words = strings.Split(r.Formats.Readable(), ", ")
	clock := param.Clock(func(env *param.Env, zone *time.Location) { r.Options.Zone, env.Zone = zone, zone })
	nesting := param.Count("max-nesting", &r.Options.MaxNesting, 1, math.MaxInt32, "N",
		"the maximum depth of nesting in a file, `N`")
	nesting.Default = "1000"
	ratio := param.Count("max-ratio", &r.Options.MaxRatio, 1, math.MaxInt32, "N",
		"the maximum ratio of unpacked to packed size, `N`")
	ratio.Default = "200"
	system := param.Text("crs-in", &r.System.Word, "SYSTEM",
		"the coordinate `SYSTEM` of a table or layer that doesn't record it: an EPSG number, a .prj "+
			"file, or column:TITLE for a table that names the datum of each row")
	system.Path = param.Maybe
	return append(param.Table{
		as,
		param.Switch("salvage", &r.Salvage, "read everything that is complete in a file that is cut off"),
		clock,
		param.Switch("distinct", &r.Distinct, "of several files, leave out recordings that are wholly in another one, "+
			"whatever their names"),
		param.Switch("list", &r.Options.List, "read a pasted list of fixes as waypoints, not as a route"),
		param.File("fixes", &r.Fixes, "FILE", "look up fixes in this `FILE` that a pasted list "+
			"only names"),
		param.FuncIn("as-of", "DAY", "the `DAY` of the magnetic declination for bearings in a pasted list (default: today)",
			func(env *param.Env, text string) error {
				at, err := instant.ParseMoment(text, env.Zone, false)
				r.Options.On = at
				return err
			}),
		param.FuncIn("day", "DAY", "the `DAY` of the first time in a pasted plan or a table with times of day only",
			func(env *param.Env, text string) error {
				at, err := instant.ParseMoment(text, env.Zone, false)
				r.Options.Day = at.UTC()
				return err
			}),
		r.heightsParam(),
		param.Func("columns-in", "WORD=TITLE,…",
			"assign columns of a table, `WORD=TITLE,…` such as lat=Breite,lon=Länge; others are recognised",
			func(text string) (err error) { r.Options.Columns, _, err = format.DataWords.Parse(text); return }),
		param.Func("o-means", "SIDE", "the letter O in positions means `SIDE`, west or east (default: by the language of "+
			"titles)",
			func(text string) error {
				side, ok := map[string]string{"west": "W", "east": "E"}[text]
				if !ok {
					return fmt.Errorf("%q is neither west nor east", text)
				}
				r.Options.OMeans = side
				return nil
			}),
		param.Func("nodata", "VALUE,…",
			"heights of this `VALUE,…`, such as -1 or unknown, are none; -9999 and the like are recognised in tables",
			func(text string) error { r.Options.NoData = strings.Split(text, ","); return nil }),
		param.Func("encoding", "NAME",
			"the encoding `NAME` of a table that is not Unicode, such as windows-1250, shift_jis or cp850 (default: by its "+
				"titles)",
			func(text string) (err error) { r.Options.Charset, err = format.CharsetNamed(text); return }),
		system,
		param.Text("sheet", &r.Options.Sheet, "SHEET", "only this `SHEET` of a workbook, or layer, by name or number"),
		param.Switch("no-hidden", &r.Options.NoHidden, "leave out hidden rows, columns and sheets of a workbook"),
		param.Text("key", &r.Key, "FIELD",
			"the `FIELD` that identifies an item even when its name or place changes"),
		param.Func("talker", "ID", "of a log, only the fixes of the receiver with this talker `ID`, such as GP",
			func(text string) error {
				if len(text) != 2 {
					return fmt.Errorf("%q is not a talker: write its two letters, such as GP", text)
				}
				r.Options.Talker = strings.ToUpper(text)
				return nil
			}),
		param.Switch("real-fixes", &r.Options.RealFixes, "of a log, leave out simulated, manual and estimated fixes"),
		param.Text("line-by", &r.Options.LineBy, "COLUMN",
			"the `COLUMN` of a table that names or numbers lines; its rows become routes or tracks"),
	}, append(r.System.ShiftParams("the coordinate system"),
		nesting,
		param.Size("max-unpacked", &r.Options.MaxUnpacked, "SIZE",
			"the maximum unpacked `SIZE` of an archive, such as 4GiB (default: 2GiB)"),
		ratio,
	)...).In("Reading")
}

func isThere(path string) bool {
	info, err := os.Stat(path)
	return err == nil && !info.IsDir()
}

// Choosing lists the parameters of a selection.
func Choosing(s *choose.Selection) param.Table {
	moment := func(name string, to **int64, end bool, help string) param.Param {
		return param.FuncIn(name, "TIME", help, func(env *param.Env, text string) error {
			at, err := instant.ParseMoment(text, env.Zone, end)
			ns := at.UnixNano()
			*to = &ns
			return err
		})
	}
	inside := param.Func("inside", "WHERE", "only what lies in the box W,S,E,N in degrees, or in the areas of a file, "+
		"FILE[:GLOB]: `WHERE`", func(text string) (err error) {
		s.Inside, s.Within = nil, nil
		if zone := choose.ParseZone(text); isThere(zone.Path) {
			s.Within = zone
			return nil
		}
		if s.Inside, err = nav.ParseBox(text); err != nil && strings.ContainsAny(text, "./\\") &&
			strings.ContainsFunc(text, unicode.IsLetter) {
			if _, missing := os.Stat(choose.ParseZone(text).Path); missing != nil {
				return safefile.CannotRead(choose.ParseZone(text).Path, "file of areas", missing)
			}
		}
		return
	})
	inside.Path = param.ReadPart
	return param.Table{
		param.Choices("take", &s.Take,
			"only these `KIND[:GLOB]`: waypoints, routes, tracks, areas or all, by name or group; repeatable"),
		param.Choices("leave", &s.Leave, "all but these `KIND[:GLOB]`; repeatable"),
		inside,
		moment("since", &s.Since, false,
			"only from this `TIME` on, such as 2026-03-14 or 2026-03-14T05:30Z"),
		moment("until", &s.Until, true, "only up to this `TIME`; a day includes all of it"),
	}.In("Selecting")
}
