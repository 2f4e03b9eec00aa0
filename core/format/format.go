// Package format is the registry of the formats that Gyrolith reads and writes. A format is a package
// below this one that knows nothing of the others; it tells its own files by their content.
package format

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/format/holds"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// Format is what a format's package hands to the registry.
type Format struct {
	Name       string   // the word by which it is asked for
	Title      string   // in words, with the standard
	Extensions []string // of the names of files that are written, with the dot, the usual one first
	Brief      string   // what it is good for, in words
	Sniff      func(*Head) bool
	Read       func(*Source, *ReadOptions) (*nav.Dataset, error)
	Write      func(io.Writer, *nav.Dataset, *WriteOptions) (*Written, error)

	// Holds declares what the format holds; nil of formats that are only read.
	Holds func(*WriteOptions) *holds.Declaration
	Keeps string // the word under which its own details are kept, if any are

	// What the format can do besides.
	Systems  bool // it can be written in other coordinate systems than WGS 84
	Loose    bool // it is any text that looks like data, so that what the user says goes before
	Tabular  bool // its columns and rows can be chosen
	Layered  bool // the points of tracks can be written as features
	Shares   bool // places of a route are its waypoints too, and are given back with it alone
	Appends  bool // data can be added to a file that is there
	Shapes   Shapes
	Icons    IconPlace
	Versions []string // that can be written, the usual one first; nil where there is but one

	// Set writes formats of several files in place of Write.
	Set func(*nav.Dataset, *WriteOptions) ([]Part, *Written, error)
}

// IconPlace says where pictures of symbols go that a format's viewers need.
type IconPlace uint8

// The places of icons.
const (
	NoIcons   IconPlace = iota // symbols are words
	IconFiles                  // beside the data, in the same archive
	IconData                   // in the address of the icon itself
)

// Written says what a writer wrote, counted as it was written, and what it could not.
type Written struct {
	Items  [4]int // by kind
	Points int
	Ledger nav.Ledger
}

// Add counts an item with its points.
func (w *Written) Add(kind nav.Kind, points int) {
	w.Items[kind]++
	w.Points += points
}

// Part is a file of a format that has several. Its suffix takes the place of the extension of the name that is asked
// for.
type Part struct {
	Suffix string
	Write  func(io.Writer) error
}

// CheckVersion refuses a version that is not written; "" is the usual one.
func (x *Format) CheckVersion(version string) error {
	switch {
	case version == "" || slices.Contains(x.Versions, version):
		return nil
	case len(x.Versions) == 0:
		return fmt.Errorf("%s has only one version", x.Name)
	}
	return fmt.Errorf("%s has no version %q; there are %s", x.Name, version, strings.Join(x.Versions, ", "))
}

// Writes says whether the format is written.
func (x *Format) Writes() bool { return x.Write != nil || x.Set != nil }

// ReadOptions are what a reader obeys.
type ReadOptions struct {
	Zone        *time.Location // of times that name no zone; nil is UTC
	MaxNesting  int            // 0 is 1,000
	MaxUnpacked int64          // bytes; 0 is 2 GiB
	MaxRatio    int            // unpacked to packed size; 0 is 200
	List        bool           // a list of fixes makes waypoints, not a route
	Fixes       []nav.Waypoint // in which a list of fixes looks up those that it only names
	Inside      *nav.Box       // a reader with an index may leave out what has no part in the box; nil is no box
	Day         time.Time      // of times without one in a pasted plan; the zero time is none
	On          time.Time      // the day of the declination by which magnetic bearings are read
	Formats     Formats        // that the files of an archive are read by; Load gives its own where none are given
	Talker      string         // of a log: the talker whose fixes are taken, such as GP; "" is every one
	RealFixes   bool           // of a log: fixes that are simulated, manual or estimated are left out
	Held        *atomic.Int64  // points in memory of the files that are read together; nil is each for itself

	// Of tables and layers.
	Columns     []Column    // what the columns of these titles or numbers hold; the others are found
	System      *crs.System // of the coordinates where the file does not say it; nil is WGS 84
	DatumColumn string      // the title of a column that names the datum of each row; "" is none
	Shift       *crs.Shift  // to WGS 84, in place of the one that is known
	Charset     *Charset    // of a text that is not Unicode; nil is the one that its headings show
	Sheet       string      // of a workbook, or layer; "" is every one that holds data
	OMeans      string      // the hemisphere of the letter O in positions: E or W; "" is by the language of the titles
	NoData      []string    // numbers and words that stand for no height or other quantity, beside the usual ones
	NoHidden    bool        // hidden rows, columns and sheets of a workbook are left out
	Key         string      // of a layer: the column of the numbers of its features, if they are to be a field
	LineBy      string      // the title of the column that names or numbers lines
}

// Nesting is the depth to which elements may nest.
func (o *ReadOptions) Nesting() int { return orDefault(o.MaxNesting, 1000) }

// Unpacked is the most bytes that an archive may unpack to.
func (o *ReadOptions) Unpacked() int64 { return orDefault(o.MaxUnpacked, 2<<30) }

// Ratio is how many times its packed size a member of an archive may unpack to.
func (o *ReadOptions) Ratio() int64 { return int64(orDefault(o.MaxRatio, 200)) }

func orDefault[T int | int64](v, def T) T {
	if v == 0 {
		return def
	}
	return v
}

// WriteOptions are what a writer obeys.
type WriteOptions struct {
	Context context.Context // whose end ends what takes long; nil is none

	Version string // of the format, where it has several; "" is the usual one
	Table   *Table // the layout of formats that are tables; nil is the usual one

	System      *crs.System // of the coordinates; nil is WGS 84. Only formats that say so take another
	TrackPoints bool        // the points of tracks are written as points with their values
	Stamp       time.Time   // the time of writing, in formats that note one; zero takes the data's own
	Append      string      // the path of a file to whose contents the data are added
	Update      []string    // the identities of items that are there, and get the values of these data
}

// Formats lists the formats in the order in which their sniffers are asked.
type Formats []*Format

// ByName finds a format by its word.
func (f Formats) ByName(name string) *Format {
	i := slices.IndexFunc(f, func(x *Format) bool { return x.Name == strings.ToLower(name) })
	if i < 0 {
		return nil
	}
	return f[i]
}

// ByPath finds the format that writes files of a name.
func (f Formats) ByPath(path string) *Format {
	lower := strings.ToLower(path)
	for _, x := range f {
		for _, ext := range x.Extensions {
			if strings.HasSuffix(lower, ext) {
				return x
			}
		}
	}
	return nil
}

// Unknown is the error of a word that names no format to read, or to write.
func (f Formats) Unknown(word, verb string) error {
	list := f.Written()
	if verb == "read" {
		list = f.Readable()
	}
	return fmt.Errorf("there is no format %q to %s; there are %s", word, verb, list)
}

// Names lists the words of the formats.
func (f Formats) Names() string {
	names := make([]string, len(f))
	for i, x := range f {
		names[i] = x.Name
	}
	return strings.Join(names, ", ")
}

// Written lists the words of the formats that are written.
func (f Formats) Written() string {
	return slices.DeleteFunc(slices.Clone(f), func(x *Format) bool { return !x.Writes() }).Names()
}

// Readable lists the words of the formats that are read.
func (f Formats) Readable() string {
	return slices.DeleteFunc(slices.Clone(f), func(x *Format) bool { return x.Read == nil }).Names()
}

// Error is a fault of a file at a place. Line 0 means that it has none.
type Error struct {
	Path      string
	Line, Col int
	Msg       string
	Cut       bool // the file ends too early: salvaging takes what is before
	Other     bool // the file is of another kind, and no damaged data
	Advice    advice.Advice
	Err       error // the cause, where there is one
}

// Unwrap gives the cause.
func (e *Error) Unwrap() error { return e.Err }

// Advised gives the advice.
func (e *Error) Advised() advice.Advice { return e.Advice }

func (e *Error) Error() string {
	switch {
	case e.Line == 0:
		return fmt.Sprintf("%s: %s", e.Path, e.Msg)
	case e.Col == 0:
		return fmt.Sprintf("%s:%d: %s", e.Path, e.Line, e.Msg)
	}
	return fmt.Sprintf("%s:%d:%d: %s", e.Path, e.Line, e.Col, e.Msg)
}
