package cli

import (
	"errors"
	"fmt"
	"log/slog"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

const (
	choosing  = "Choosing"
	reading   = "Reading"
	writing   = "Writing"
	answering = "Answering"
)

// readFlags are the options of every verb that reads.
func readFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringSliceFlag{Name: "take", Category: choosing, Usage: "only these `KIND[:GLOB]`: waypoints, routes, tracks, areas or all, by name or group; may be repeated"},
		&cli.StringSliceFlag{Name: "leave", Category: choosing, Usage: "all but these `KIND[:GLOB]`; may be repeated"},
		&cli.StringFlag{Name: "inside", Category: choosing, Usage: "only what lies in the box `W,S,E,N` in degrees"},
		&cli.StringFlag{Name: "since", Category: choosing, Usage: "only what is of this `TIME` or later, such as 2026-03-14 or 2026-03-14T05:30Z"},
		&cli.StringFlag{Name: "until", Category: choosing, Usage: "only what is of this `TIME` or earlier; a day counts whole"},
		&cli.StringFlag{Name: "read-as", Category: reading, Usage: "read the files as this `FORMAT` instead of the one that their content shows"},
		&cli.BoolFlag{Name: "salvage", Category: reading, Usage: "of a file that is cut off, take all that is complete before the cut"},
		&cli.StringFlag{Name: "clock", Category: reading, Usage: "the `ZONE` of times that name none, and of times shown: UTC, local or ±HH:MM"},
		&cli.BoolFlag{Name: "list", Category: reading, Usage: "a pasted list of fixes makes waypoints, not a route"},
		&cli.StringFlag{Name: "fixes", Category: reading, Usage: "the `FILE` of known fixes, in which a pasted list looks up those that it only names"},
		&cli.StringFlag{Name: "as-of", Category: reading, Usage: "the `DAY` whose magnetic declination turns bearings of a pasted list (default: today)"},
		&cli.StringFlag{Name: "columns-in", Category: reading, Usage: "what the columns of a table hold, `WORD=TITLE,…` such as lat=Breite,lon=Länge; the others are found"},
		&cli.StringFlag{Name: "crs-in", Category: reading, Usage: "the coordinate `SYSTEM` of a table or layer that doesn't say it: an EPSG number or the path of a .prj file"},
		&cli.StringFlag{Name: "sheet", Category: reading, Usage: "only this `SHEET` of a workbook, or layer, by name or number"},
		&cli.StringFlag{Name: "line-by", Category: reading, Usage: "the `COLUMN` of a table that names or numbers lines, which become routes or tracks"},
		&cli.StringFlag{Name: "shift", Category: reading, Usage: "the datum shift to WGS 84 of --crs-in or --crs: `X,Y,Z` in metres, or seven numbers, or none"},
		&cli.StringFlag{Name: "shift-grid", Category: reading, Usage: "the NTv2 `FILE` with the datum shifts of --crs-in or --crs"},
		&cli.IntFlag{Name: "max-nesting", Category: reading, Value: 1000, Usage: "how deep a file may nest `N`"},
		&cli.StringFlag{Name: "max-unpacked", Category: reading, Usage: "the most that an archive may unpack to, `SIZE` such as 4GiB (default: 2GiB)"},
		&cli.IntFlag{Name: "max-ratio", Category: reading, Value: 200, Usage: "how many times its packed size a file may unpack to `N`"},
	}
}

// answerFlags are the options that say how a verb answers.
func answerFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "measure", Category: answering, Usage: "the `SYSTEM` of lengths, heights and speeds: metric, nautical or flight"},
		&cli.StringFlag{Name: "notation", Category: answering, Usage: "the `NOTATION` of coordinates: deg, min, sec, utm, mgrs or plan"},
		&cli.BoolFlag{Name: "json", Category: answering, Usage: "the result as JSON on standard output"},
		&cli.BoolFlag{Name: "quiet", Category: answering, Aliases: []string{"q"}, Usage: "say nothing but errors"},
		&cli.BoolFlag{Name: "strict", Category: answering, Usage: "refuse, with status 3 and nothing written, what would lose something or is faulty"},
		&cli.BoolFlag{Name: "verbose", Category: answering, Usage: "log what is done, with times"},
	}
}

// writeFlags are the options of every verb that makes data.
func writeFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "output", Aliases: []string{"o"}, Category: writing, Usage: "the `FILE` to write; its name chooses the format; - is standard output"},
		&cli.StringFlag{Name: "write-as", Category: writing, Usage: "write this `FORMAT`, with a version where there are several, such as kml:2.3"},
		&cli.StringFlag{Name: "columns", Category: writing, Usage: "the columns of a table, `WORD[=TITLE],…` such as name,lat=Breite,lon=Länge,field:depth"},
		&cli.StringFlag{Name: "rows", Category: writing, Usage: "the `ROWS` of a table: points, or items"},
		&cli.StringFlag{Name: "crs", Category: writing, Usage: "the coordinate `SYSTEM` of a table or layer: an EPSG number, utm, or the path of a .prj file"},
		&cli.BoolFlag{Name: "track-points", Category: writing, Usage: "write the points of tracks to a layer as points, with time, height, speed and course"},
		&cli.BoolFlag{Name: "append", Category: writing, Usage: "add to a GeoPackage that is there"},
		&cli.BoolFlag{Name: "replace", Category: writing, Usage: "write over an existing file, and keep the old one beside it"},
		&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "say what would be done and write nothing"},
	}
}

// options are the shared options, understood.
type options struct {
	selection nav.Selection
	read      format.ReadOptions
	readAs    string
	salvage   bool
	zone      *time.Location // for showing
	measure   measure.System
	notation  geodesy.Notation
	notated   bool // a notation was asked for
	json      bool
	quiet     bool
	strict    bool
	log       *slog.Logger

	output  string
	writeAs *format.Format
	version string
	table   *format.Table
	replace bool
	dryRun  bool

	crs         string // the system of the output as it was asked for
	shift       *crs.Shift
	trackPoints bool
	append      bool
	files       []string // of an output of several, once they are written
}

func (a *app) options(c *cli.Command) (*options, error) {
	o := &options{readAs: c.String("read-as"), salvage: c.Bool("salvage"), json: c.Bool("json"), quiet: c.Bool("quiet"),
		strict: c.Bool("strict"), output: c.String("output"), replace: c.Bool("replace"), dryRun: c.Bool("dry-run"), zone: time.UTC}
	o.log = a.logger(c.Bool("verbose"))
	var faults []error
	check := func(name string, err error) {
		if err != nil {
			faults = append(faults, usageError("%s: --%s: %v", c.Name, name, err))
		}
	}
	for name, to := range map[string]*[]nav.Choice{"take": &o.selection.Take, "leave": &o.selection.Leave} {
		for _, text := range c.StringSlice(name) {
			choice, err := nav.ParseChoice(text)
			check(name, err)
			*to = append(*to, choice)
		}
	}
	if text := c.String("clock"); text != "" {
		zone, err := parseZone(text)
		check("clock", err)
		o.zone, o.read.Zone = zone, zone
	}
	if text := c.String("inside"); text != "" {
		box, err := nav.ParseBox(text)
		check("inside", err)
		o.selection.Inside = box
	}
	for name, to := range map[string]**int64{"since": &o.selection.Since, "until": &o.selection.Until} {
		if text := c.String(name); text != "" {
			ns, err := parseWhen(text, o.read.Zone, name == "until")
			check(name, err)
			*to = &ns
		}
	}
	o.read.List, o.read.On = c.Bool("list"), a.now()
	if text := c.String("as-of"); text != "" {
		ns, err := parseWhen(text, o.read.Zone, false)
		check("as-of", err)
		o.read.On = time.Unix(0, ns)
	}
	var err error
	o.measure, err = measure.ParseSystem(c.String("measure"))
	check("measure", err)
	o.notation, err = geodesy.ParseNotation(c.String("notation"))
	check("notation", err)
	o.notated = c.String("notation") != ""
	if n := c.Int("max-nesting"); n < 0 || n > math.MaxInt32 {
		check("max-nesting", errors.New("must be a number above 0"))
	} else {
		o.read.MaxNesting = int(n)
	}
	if n := c.Int("max-ratio"); n < 0 || n > math.MaxInt32 {
		check("max-ratio", errors.New("must be a number above 0"))
	} else {
		o.read.MaxRatio = int(n)
	}
	if text := c.String("max-unpacked"); text != "" {
		o.read.MaxUnpacked, err = parseSize(text)
		check("max-unpacked", err)
	}
	if o.readAs != "" {
		if x := formats.ByName(o.readAs); x == nil || x.Read == nil {
			check("read-as", fmt.Errorf("there is no format %q to read; there are %s", o.readAs, formats.Readable()))
		}
	}
	if text := c.String("write-as"); text != "" {
		name, version, _ := strings.Cut(text, ":")
		o.version = version
		if o.writeAs = formats.ByName(name); o.writeAs == nil || !o.writeAs.Writes() {
			check("write-as", fmt.Errorf("there is no format %q to write; there are %s", name, formats.Written()))
		}
	}
	if path := c.String("fixes"); path != "" && len(faults) == 0 {
		if o.read.Fixes, err = a.fixes(path, o); err != nil {
			faults = append(faults, err)
		}
	}
	faults = append(faults, a.tableOptions(c, o))
	return o, errors.Join(faults...)
}

// parseZone reads UTC, local or an offset from UTC.
func parseZone(text string) (*time.Location, error) {
	switch strings.ToLower(text) {
	case "utc", "z":
		return time.UTC, nil
	case "local":
		return time.Local, nil
	}
	if t, err := time.Parse("-07:00", text); err == nil {
		_, offset := t.Zone()
		return time.FixedZone("UTC"+text, offset), nil
	}
	return nil, fmt.Errorf("%q is no clock: say UTC, local or an offset such as +02:00", text)
}

// parseWhen reads a time or a day; the end of a day when end is asked for.
func parseWhen(text string, zone *time.Location, end bool) (int64, error) {
	ns, mark, _, ok := nav.ParseTime([]byte(text), zone)
	if !ok {
		return 0, fmt.Errorf("%q is no time: write 2026-03-14, or 2026-03-14T05:30:00Z", text)
	}
	at := time.Unix(0, ns).UTC()
	if mark < nav.Seconds && zone != nil {
		at = time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, zone)
	}
	if end {
		switch mark {
		case nav.Year:
			at = at.AddDate(1, 0, 0).Add(-1)
		case nav.Month:
			at = at.AddDate(0, 1, 0).Add(-1)
		case nav.Day:
			at = at.AddDate(0, 0, 1).Add(-1)
		}
	}
	return at.UnixNano(), nil
}

func parseSize(text string) (int64, error) {
	end := strings.LastIndexAny(text, "0123456789.") + 1
	factor, ok := map[string]float64{"": 1, "B": 1, "KIB": 1 << 10, "MIB": 1 << 20, "GIB": 1 << 30, "TIB": 1 << 40,
		"KB": 1e3, "MB": 1e6, "GB": 1e9, "TB": 1e12}[strings.ToUpper(strings.TrimSpace(text[end:]))]
	v, err := strconv.ParseFloat(strings.TrimSpace(text[:end]), 64)
	if err != nil || !ok || v <= 0 || v*factor > math.MaxInt64/2 {
		return 0, fmt.Errorf("%q is no size: write 500MB or 4GiB", text)
	}
	return int64(v * factor), nil
}

func flags(lists ...[]cli.Flag) []cli.Flag {
	var out []cli.Flag
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// quantities reads options that are lengths, speeds or spans of time, all of them above zero. What is absent stays.
func quantities[T float64 | time.Duration](c *cli.Command, parse func(string) (T, error), into map[string]*T) error {
	for name, to := range into {
		text := c.String(name)
		if text == "" {
			continue
		}
		v, err := parse(text)
		if err == nil && v <= 0 {
			err = fmt.Errorf("%s is not above zero", text)
		}
		if err != nil {
			return usageError("%s: --%s: %v", c.Name, name, err)
		}
		*to = v
	}
	return nil
}
