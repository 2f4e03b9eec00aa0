// Package export makes files of a dataset. It is the one way out: fitted to a unit or not, in a format and version, in
// a coordinate system, in one file or several, with the ledger of all that was not carried over.
package export

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/reference"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
)

// Target says what files are made of data.
type Target struct {
	Formats format.Formats
	Icons   func(symbol string, tinted bool) []byte // draws a picture of a symbol; nil where none is wanted
	Fitting

	Format      *format.Format // nil takes that of the output's name
	Version     string         // of the format; "" is the usual one
	System      reference.Choice
	Table       format.Table
	TrackPoints bool
	Stamp       time.Time // the time of writing that is noted; zero is the data's own
	Order       []figure.Key
	AppendTo    string   // the path of a file to whose contents the data are added; "" is none
	ReadBack    bool     // what was written is read again and compared
	Update      []string // identities of items that it has, and that get the values of the data
}

// Params lists the parameters of the target.
func (t *Target) Params() param.Table {
	as := param.Func("write-as", "FORMAT", "write this `FORMAT`, optionally with a version, such as kml:2.3",
		func(text string) error {
			name, version, _ := strings.Cut(text, ":")
			x := t.Formats.ByName(name)
			if x == nil || !x.Writes() {
				return t.Formats.Unknown(name, "write")
			}
			t.Format, t.Version = x, version
			return nil
		})
	as.Words = strings.Split(t.Formats.Written(), ", ")
	system := param.Text("crs", &t.System.Word, "SYSTEM",
		"the coordinate `SYSTEM` of a table or layer: an EPSG number, utm, or the path of a .prj file")
	system.Path = param.Maybe
	rows := param.Func("rows", "ROWS", "the `ROWS` of a table: points, or items", func(text string) error {
		if text != "points" && text != "items" {
			return fmt.Errorf("%q is not one of points, items", text)
		}
		t.Table.Items = text == "items"
		return nil
	})
	rows.Words = []string{"points", "items"}
	columns := param.Func("columns", format.ColumnsValue,
		"the columns of a table, `"+format.ColumnsValue+"` such as name,height[ft]=Elevation,speed[kn]; 'gyrolith help "+
			"columns' lists the words",
		func(text string) (err error) {
			t.Table.Columns, _, err = format.DataWords.Parse(text)
			t.Table.Items = t.Table.Items || t.Table.Geometric() || t.Table.Summed() // of whole items
			return err
		})
	columns.Words = format.DataWords.Names()
	return append(append(param.Table{
		as,
		columns,
		rows,
		NotationParam(&t.Table.Notation),
		param.Measures(func(system measure.System) { t.Table.Measure = &system }),
		system,
	}, append(
		t.System.ShiftParams("the coordinate system"),
		param.Switch("track-points", &t.TrackPoints,
			"write track points as a point layer, with time, height, speed and course"),
		param.Func("stamp", "TIME",
			"record this `TIME`, or now, as the time of writing in formats that have one (default: the data's own)",
			func(text string) error {
				if text == "now" {
					t.Stamp = time.Now()
					return nil
				}
				at, err := instant.ParseMoment(text, nil, false)
				t.Stamp = at
				return err
			}),
		param.Switch("read-back", &t.ReadBack,
			"read what was written again, and compare it item by item, before it gets its name"),
	)...), append(t.FittingParams(), OrderParams(&t.Order)...)...).In("Writing")
}

// OrderParams are the parameters of the order of items.
func OrderParams(to *[]figure.Key) param.Table {
	return column.OrderParams(to, format.WordsOf(figure.Words...))
}

// InZone sets the zone of the times of tables.
func (t *Target) InZone(zone *time.Location) { t.Table.Zone = zone }

// Measures are those of names.
func (t *Target) Measures() measure.System {
	if t.Table.Measure == nil {
		return measure.Metric
	}
	return *t.Table.Measure
}

// NotationParam is the parameter of the notation of coordinates.
func NotationParam(to *geodesy.Notation) param.Param {
	p := param.Func("notation", "NOTATION", "the `NOTATION` of coordinates: deg, min, sec, utm, mgrs or plan",
		func(text string) (err error) { *to, err = geodesy.ParseNotation(text); return })
	for _, n := range geodesy.Notations {
		p.Words = append(p.Words, n.String())
	}
	return p
}

// Name settles the format by the name of an output, and gives the name its extension where it has none.
func (t *Target) Name(name string) (string, error) {
	named := t.Formats.ByPath(name)
	if name == "-" && t.ReadBack {
		return "", param.Errorf("read-back", "standard output can't be read back: name a file")
	}
	switch {
	case t.Format != nil:
		if name != "-" && filepath.Ext(name) == "" && !safefile.IsStream(name) {
			name += t.Format.Extensions[0]
		}
	case name == "-":
		return "", &Unnamed{Name: name, Formats: t.Formats.Written()}
	case named == nil || !named.Writes():
		return "", &Unnamed{Name: name, Formats: t.Formats.Written()}
	default:
		t.Format = named
	}
	if name == "-" && t.Format.Set != nil {
		return "", fmt.Errorf("%s is a set of files and can't go to standard output; name a file", t.Format.Name)
	}
	return name, nil
}

// Unnamed is the error of an output whose name tells no format to write.
type Unnamed struct {
	Name    string
	Formats string // that are written
}

func (u *Unnamed) Error() string {
	return fmt.Sprintf("the name %s doesn't give a format to write; there are %s", u.Name, u.Formats)
}

// Check finds parameters that the format knows nothing of. The format is settled by then.
func (t *Target) Check() error {
	x := t.Format
	switch {
	case (len(t.Table.Columns) > 0 || t.Table.Items) && !x.Tabular:
		return param.Errorf(t.tabular(), "%s is not a table (%s are)", x.Name,
			t.named(func(f *format.Format) bool { return f.Tabular }))
	case t.System.Word != "" && !x.Systems:
		return param.Errorf("crs", "%s is always WGS 84; %s can be written in another system",
			x.Name, t.named(func(f *format.Format) bool { return f.Systems }))
	case t.TrackPoints && !x.Layered:
		return param.Errorf("track-points", "%s keeps the points of tracks anyway (only %s are layers)",
			x.Name, t.named(func(f *format.Format) bool { return f.Layered }))
	case t.AppendTo != "" && !x.Appends:
		return param.Errorf("append", "%s can't be added to (only %s)",
			x.Name, t.named(func(f *format.Format) bool { return f.Appends }))
	}
	return nil
}

func (t *Target) tabular() string {
	if len(t.Table.Columns) > 0 {
		return "columns"
	}
	return "rows"
}

// named lists the formats that are written and can do something.
func (t *Target) named(can func(*format.Format) bool) string {
	var names []string
	for _, x := range t.Formats {
		if x.Writes() && can(x) {
			names = append(names, x.Name)
		}
	}
	return strings.Join(names, ", ")
}

// Open reads what the target itself needs: the system, its shift, and the profile of the unit.
func (t *Target) Open() (err error) {
	t.System.OfData = true
	if err := t.System.Open("crs"); err != nil {
		return err
	}
	return t.Find()
}

// Made says what was made of data.
type Made struct {
	Files    []string       // the names of the files
	Format   *format.Format // nil of what is no format of data
	System   *crs.System    // of the coordinates; nil is WGS 84
	Bytes    int            // of a drawing
	Findings []string       // what speaks against what was planned
	Found    *int           // items that were found again, if it was read back
	format.Written
}

// Sink is where the files of an output go, by their names. Whether they are kept is for the sink to say, once all are
// written.
type Sink interface {
	Create(name string) (io.Writer, error)
}

// Write makes the files of an output of this name. The data stay as they are.
func (t *Target) Write(ctx context.Context, d *nav.Dataset, name string, sink Sink) (*Made, error) {
	out := &Made{Format: t.Format}
	opt := &format.WriteOptions{
		Context:     ctx,
		Version:     t.Version,
		Table:       &t.Table,
		TrackPoints: t.TrackPoints,
		Append:      t.AppendTo,
		Update:      t.Update,
		Stamp:       t.Stamp,
	}
	var fitting nav.Ledger
	if t.Profile != nil {
		fitted, err := unit.Fit(ctx, d, t.Profile)
		if err != nil {
			return nil, err
		}
		d, fitting = fitted.Data, fitted.Ledger
		if err := t.likeCard(opt); err != nil {
			return nil, err
		}
	}
	var err error
	if opt.System, err = t.System.For(d); err != nil {
		return nil, err
	}
	if t.System.UTM() {
		if opt.System, err = reference.ZoneOf(d); err != nil {
			return nil, err
		}
	}
	out.System = opt.System
	d = t.withIcons(d)
	d = figure.Sorted(d, t.Order)
	if err := t.write(ctx, d, name, sink, opt, out); err != nil {
		return nil, err
	}
	if t.ReadBack {
		if err := t.readBack(ctx, d, opt, sink, out); err != nil {
			return nil, err
		}
	}
	out.Ledger = append(fitting, out.Ledger...)
	return out, nil
}

// likeCard lays a file out as the unit's card has it.
func (t *Target) likeCard(opt *format.WriteOptions) (err error) {
	p := t.Profile
	if p.Table != nil {
		if opt.Table, err = p.TableLayout(); err != nil {
			return err
		}
	}
	if p.Version > 0 && opt.Version == "" && p.Writes(t.Format.Name) {
		opt.Version = strconv.Itoa(p.Version)
	}
	return nil
}

func (t *Target) write(ctx context.Context, d *nav.Dataset, name string, sink Sink, opt *format.WriteOptions,
	out *Made) error {
	create := func(name string) (io.Writer, error) {
		w, err := sink.Create(name)
		out.Files = append(out.Files, name)
		return &guarded{w, ctx}, err
	}
	if t.Format.Set == nil {
		w, err := create(name)
		if err != nil {
			return err
		}
		written, err := t.Format.Store(w, d, opt)
		if err != nil {
			return about(ctx, name, err)
		}
		out.Written = *written
		return nil
	}
	parts, written, err := t.Format.StoreSet(d, opt)
	if err != nil {
		return about(ctx, name, err)
	}
	out.Written = *written
	stem := strings.TrimSuffix(name, filepath.Ext(name))
	for _, part := range parts {
		w, err := create(stem + part.Suffix)
		if err == nil {
			err = part.Write(w)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// about says which output an error is about, where it doesn't say so itself.
func about(ctx context.Context, name string, err error) error {
	if ctx.Err() != nil { // whatever that broke on its way
		return ctx.Err()
	}
	if _, placed := errors.AsType[*safefile.Error](err); placed {
		return err
	}
	return fmt.Errorf("%s: %w", name, err)
}

// guarded ends the writing with the context.
type guarded struct {
	io.Writer
	ctx context.Context
}

func (g *guarded) Write(b []byte) (int, error) {
	if err := g.ctx.Err(); err != nil {
		return 0, err
	}
	return g.Writer.Write(b)
}

// To is a sink of one file that goes to a writer.
func To(w io.Writer) Sink { return writerSink{w} }

type writerSink struct{ io.Writer }

func (s writerSink) Create(string) (io.Writer, error) { return s.Writer, nil }
