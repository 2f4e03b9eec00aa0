// Package unit prepares cards for navigation units: what a unit can take is its profile, one place fits data to
// it, and a card is written so that nothing on it is lost and read back as the unit would read it.
package unit

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

//go:embed profiles/*.toml
var shipped embed.FS

// Profile is what a unit can take.
type Profile struct {
	Name       string   `toml:"name"`
	Title      string   `toml:"title"`
	StandIn    bool     `toml:"stand-in"`
	Resolution float64  `toml:"resolution"`  // degrees; 0 is as fine as the data
	HeightStep float64  `toml:"height-step"` // metres; 0 is as fine as the data
	Shows      []string `toml:"shows"`
	Text       Text     `toml:"text"`
	Waypoints  Kind     `toml:"waypoints"`
	Routes     Kind     `toml:"routes"`
	Tracks     Kind     `toml:"tracks"`
	Areas      Kind     `toml:"areas"`
	// a neutral word and the unit's own; default is for what it does not know
	Symbols  map[string]string  `toml:"symbols"`
	Colours  []string           `toml:"colours"` // that it can show; none means any
	Table    *Table             `toml:"table"`   // of cards that are tables
	Version  int                `toml:"version"` // of its cards, the usual one; 0 where there is but one
	Versions map[string]Version `toml:"versions"`
	// usual short forms of words in names, besides those that come with the program; "" takes one away
	ShortForms map[string]string `toml:"short-forms"`

	Source string `toml:"-"` // the profile as it is written
	Path   string `toml:"-"` // of the user's own; "" where it ships
}

// Text says how texts may look.
type Text struct {
	Length     int    `toml:"length"`     // most characters of a name; 0 is any number
	Characters string `toml:"characters"` // allowed ones, with ranges such as A-Z; "" is all
	Case       string `toml:"case"`       // upper or lower; "" is both
	Unique     string `toml:"unique"`     // names differ within a kind (""), over all, or need not: none
	// spell: æ is ae (""); drop: it goes; keep: it stays where the characters allow
	Accents        string `toml:"accents"`
	Note           int    `toml:"note"`            // most characters of a description; 0 is any number
	NoteCharacters string `toml:"note-characters"` // as for names

	shortForms map[string]string // the profile's own
}

// Kind says what becomes of one kind of item.
type Kind struct {
	As       string `toml:"as"` // the kind that it is written as; "" where the unit does not take it
	Format   string `toml:"format"`
	Folder   string `toml:"folder"`
	File     string `toml:"file"`        // a pattern: {source} makes one file, {name} one for each item
	FileName int    `toml:"file-length"` // most characters of a file's name before its extension; 0 is 40
	Most     int    `toml:"most"`        // items; 0 is any number
	Drop     string `toml:"drop"`        // which ones go when there are more: last ("") or oldest
	Points   int    `toml:"points"`      // in one item; 0 is any number
	Over     string `toml:"over"`        // what becomes of a line with more: split ("") or thin
	Segments int    `toml:"segments"`    // of a track; 0 is any number
	Bytes    int    `toml:"bytes"`       // of a file; 0 is any number
	Holes    *bool  `toml:"holes"`       // of areas; false where the unit shows none
	Text     *Text  `toml:"text"`        // where names of this kind have rules of their own
}

// Table says how a card that is a table is laid out.
type Table struct {
	Sheet     string   `toml:"sheet"`     // of a workbook
	Template  string   `toml:"template"`  // a workbook that is begun with, beside the profile
	FirstRow  int      `toml:"first-row"` // of the data, from 1; the header stands above it
	NoHeader  bool     `toml:"no-header"`
	Separator string   `toml:"separator"` // of CSV; "" is a comma
	Notation  string   `toml:"notation"`  // of positions in one column; "" is deg
	Columns   []Column `toml:"columns"`
}

// Column says what one column of a table holds.
type Column struct {
	Title string `toml:"title"`
	Holds string `toml:"holds"`
}

// Version is what an older version of a unit takes less.
type Version struct {
	Resolution float64  `toml:"resolution"`
	Takes      []string `toml:"takes"` // kinds
	Shows      []string `toml:"shows"`
}

// Of gives what the profile says of a kind.
func (p *Profile) Of(k nav.Kind) *Kind {
	return [...]*Kind{&p.Waypoints, &p.Routes, &p.Tracks, &p.Areas}[k]
}

// TextOf gives the rules for the names of a kind.
func (p *Profile) TextOf(k nav.Kind) Text {
	t := p.Text
	if own := p.Of(k).Text; own != nil {
		t = *own
	}
	t.shortForms = map[string]string{}
	for word, form := range p.ShortForms {
		t.shortForms[folded(word)] = form
	}
	return t
}

// ShowsA says whether the unit shows a property of items.
func (p *Profile) ShowsA(word string) bool { return slices.Contains(p.Shows, word) }

// The properties that a unit may show besides positions and names.
var properties = []string{"symbol", "description", "heights", "times", "colour", "group", "depth", "limits"}

// ForVersion gives the profile as it is for an older version of the unit's cards; 0 is the usual one.
func (p *Profile) ForVersion(n int) (*Profile, error) {
	if n == 0 || n == p.Version {
		return p, nil
	}
	v, ok := p.Versions[strconv.Itoa(n)]
	if !ok {
		if p.Version == 0 {
			return nil, fmt.Errorf("the cards of %s have no versions", p.Name)
		}
		return nil, fmt.Errorf("the cards of %s have no version %d; there are %s", p.Name, n,
			strings.Join(p.VersionNumbers(), ", "))
	}
	out := *p
	out.Version, out.Resolution, out.Shows = n, v.Resolution, v.Shows
	for _, kind := range nav.Kinds {
		if !slices.Contains(v.Takes, kind.String()) {
			*out.Of(kind) = Kind{}
		}
	}
	return &out, nil
}

// VersionNumbers lists the versions of the unit's cards.
func (p *Profile) VersionNumbers() []string {
	out := slices.Sorted(maps.Keys(p.Versions))
	if p.Version > 0 {
		out = append(out, strconv.Itoa(p.Version))
	}
	return out
}

// Parse reads a profile. An error says the line and what is wrong there.
func Parse(path string, text []byte) (*Profile, error) {
	p := &Profile{Source: string(text)}
	err := toml.NewDecoder(bytes.NewReader(text)).DisallowUnknownFields().Decode(p)
	if x, ok := errors.AsType[*toml.StrictMissingError](err); ok {
		e := x.Errors[0]
		line, col := e.Position()
		return nil, fmt.Errorf("%s:%d:%d: a profile has no key %q%s", path, line, col, strings.Join(e.Key(), "."),
			nearestKey(e.Key()[len(e.Key())-1]))
	}
	if x, ok := errors.AsType[*toml.DecodeError](err); ok {
		line, col := x.Position()
		return nil, fmt.Errorf("%s:%d:%d: %s", path, line, col, strings.TrimPrefix(x.Error(), "toml: "))
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %v", path, err)
	}
	if fault := p.fault(); fault != nil {
		p.Path = path
		return nil, p.located(fault)
	}
	return p, nil
}

var keys = []string{"name", "title", "stand-in", "resolution", "height-step", "shows", "text", "waypoints", "routes",
	"tracks", "areas", "symbols", "colours", "short-forms", "table", "version", "versions",
	"length", "characters", "case", "unique", "accents", "note", "note-characters", "as", "format", "folder", "file",
	"file-length", "most", "drop", "points", "over", "segments", "bytes", "holes",
	"sheet", "template", "first-row", "no-header", "separator", "notation", "columns", "holds", "takes"}

func nearestKey(key string) string {
	for _, k := range keys {
		if len(key) > 2 && (strings.HasPrefix(k, key) || strings.HasPrefix(key, k) || symbol.Edits(k, key) <= 2) {
			return fmt.Sprintf("; did you mean %q?", k)
		}
	}
	return ""
}

// lineOf finds the line of a key in a table of a TOML text, or else that of the table; 0 where neither stands in it.
func lineOf(text, table, key string) int {
	at, n, heading := "", 0, 0
	for line := range strings.Lines(text) {
		n++
		s := strings.TrimSpace(line)
		if strings.HasPrefix(s, "[") {
			at = strings.Trim(strings.SplitN(s, "]", 2)[0], "[ ")
			if at == table {
				heading = n
			}
			continue
		}
		name, _, _ := strings.Cut(s, "=")
		if at == table && strings.Trim(strings.TrimSpace(name), `"'`) == key {
			return n
		}
	}
	return heading
}

// profileFault is what is wrong with a profile, and where.
type profileFault struct {
	table, key, text string
	advice           advice.Code
}

func faultAt(table, key, text string, args ...any) *profileFault {
	return &profileFault{table: table, key: key, text: fmt.Sprintf(text, args...)}
}

// fault finds what makes no sense in a profile; nil if nothing does.
func (p *Profile) fault() *profileFault {
	if p.Name == "" {
		return faultAt("", "name", "the profile has no name")
	}
	if strings.ContainsAny(p.Name, `/\ `) {
		return faultAt("", "name", "the name %q contains a blank or a slash", p.Name)
	}
	if p.Resolution < 0 || p.Resolution > 1 {
		return faultAt("", "resolution", "a resolution of %v degrees is impossible", p.Resolution)
	}
	if p.HeightStep < 0 || p.HeightStep > 1000 {
		return faultAt("", "height-step", "a height step of %v m is impossible", p.HeightStep)
	}
	for _, s := range p.Shows {
		if !slices.Contains(properties, s) {
			return faultAt("", "shows", "shows: there is no property %q; there are %s", s, strings.Join(properties, ", "))
		}
	}
	for _, c := range p.Colours {
		if _, ok := nav.ParseColour(c); !ok {
			return faultAt("", "colours", "colours: %q is not a colour; write it as #c8102e", c)
		}
	}
	if f := p.Text.fault("text"); f != nil {
		return f
	}
	for _, word := range slices.Sorted(maps.Keys(p.Symbols)) {
		if _, ok := symbol.ByWord(word); !ok && word != "default" {
			f := faultAt("symbols", word, "symbols: there is no neutral symbol %q", word)
			f.advice = advice.ListSymbols
			return f
		}
	}
	for _, n := range slices.Sorted(maps.Keys(p.Versions)) {
		if v, err := strconv.Atoi(n); err != nil || p.Version == 0 || v >= p.Version {
			return faultAt("versions."+n, "", "versions.%s: it is not a number below version = %d", n, p.Version)
		}
		for _, k := range p.Versions[n].Takes {
			if _, ok := nav.ParseKind(k); !ok {
				return faultAt("versions."+n, "takes", "takes: %q is not a kind of item", k)
			}
		}
	}
	taken := 0
	for _, kind := range nav.Kinds {
		if f := p.kindFault(kind); f != nil {
			return f
		}
		if p.Of(kind).As != "" {
			taken++
		}
	}
	if taken == 0 {
		return faultAt("", "name", "the unit accepts no kind of item: at least one of [waypoints], [routes], "+
			"[tracks] and [areas] is needed")
	}
	return p.tableFault()
}

func (t *Text) fault(table string) *profileFault {
	for _, x := range []struct{ key, value, words string }{{"case", t.Case, "upper lower"},
		{"unique", t.Unique, "kind all none"}, {"accents", t.Accents, "spell drop keep"}} {
		if x.value != "" && !slices.Contains(strings.Fields(x.words), x.value) {
			return faultAt(table, x.key, "%s: %q is not one of %s", x.key, x.value, strings.ReplaceAll(x.words, " ", ", "))
		}
	}
	if t.Length < 0 || t.Length > 0 && t.Length < 3 {
		return faultAt(table, "length", "names of %d characters are too short to be unique", t.Length)
	}
	if set := t.Characters; set != "" && len(spelled(t, "point waypoint route track area POINT 1")) == 0 {
		return faultAt(table, "characters", "characters: %q is too few to make names", set)
	}
	return nil
}

func (p *Profile) kindFault(kind nav.Kind) *profileFault {
	k, table := p.Of(kind), kind.String()
	if k.As == "" {
		if *k != (Kind{}) {
			return faultAt(table, "as", "[%s]: as is missing, the kind that the unit shows them as", table)
		}
		return nil
	}
	as, ok := nav.ParseKind(k.As)
	if !ok {
		return faultAt(table, "as", "[%s] as: %q is not a kind of item", table, k.As)
	}
	target := p.Of(as)
	if as != kind && target.As != as.String() {
		return faultAt(table, "as", "[%s] as: the unit doesn't accept %s either", table, as)
	}
	if as != kind {
		return nil
	}
	if k.Format == "" || k.File == "" {
		return faultAt(table, "format", "[%s]: a format and a file are needed", table)
	}
	if !fs.ValidPath(path.Join(k.Folder, k.File)) || strings.Contains(k.File, "/") {
		return faultAt(table, "folder", "[%s]: %s/%s leads out of the card", table, k.Folder, k.File)
	}
	for rest := k.File; ; {
		_, after, found := strings.Cut(rest, "{")
		if !found {
			break
		}
		word, more, closed := strings.Cut(after, "}")
		if !closed || !slices.Contains([]string{"name", "source", "group", "number"}, word) {
			return faultAt(table, "file", "[%s] file: there is no {%s}; there are {name}, {source}, {group} and {number}",
				table, word)
		}
		rest = more
	}
	for _, x := range []struct{ key, value, words string }{{"drop", k.Drop, "last oldest"},
		{"over", k.Over, "split thin"}} {
		if x.value != "" && !slices.Contains(strings.Fields(x.words), x.value) {
			return faultAt(table, x.key, "[%s] %s: %q is not one of %s", table, x.key, x.value, strings.ReplaceAll(x.words, " ",
				", "))
		}
	}
	if k.Text != nil {
		if f := k.Text.fault(table + ".text"); f != nil {
			return f
		}
	}
	if k.Points == 1 && kind != nav.Waypoints || min(k.Points, k.Most, k.Segments, k.Bytes, k.FileName) < 0 {
		return faultAt(table, "points", "[%s]: a limit is impossible", table)
	}
	return nil
}

func (p *Profile) tableFault() *profileFault {
	switch t := p.Table; {
	case t == nil:
		return nil
	case len(t.Columns) == 0:
		return faultAt("table", "columns", "[table]: it has no columns")
	case t.Template != "" && (t.Sheet == "" || filepath.IsAbs(t.Template) || !filepath.IsLocal(t.Template)):
		return faultAt("table", "template", "[table] template: a template lies beside the profile, and sheet names the "+
			"sheet in it")
	}
	for _, c := range p.Table.Columns {
		if !format.IsColumn(c.Holds) {
			return faultAt("table", "columns", "[table] columns: there is no column %q; there are %s, and field:KEY", c.Holds,
				strings.Join(format.Columns, ", "))
		}
	}
	return nil
}

// Writes says whether cards of the unit have files of a format.
func (p *Profile) Writes(format string) bool {
	return slices.ContainsFunc(nav.Kinds[:], func(kind nav.Kind) bool {
		name, _, _ := strings.Cut(p.Of(kind).Format, ":")
		return name == format
	})
}

// CheckFormats finds a format that the profile wants and that is not among those that are written.
func (p *Profile) CheckFormats(formats format.Formats) error {
	for _, kind := range nav.Kinds {
		k := p.Of(kind)
		name, _, _ := strings.Cut(k.Format, ":")
		if as, _ := nav.ParseKind(k.As); k.As == "" || as != kind {
			continue
		}
		if f := formats.ByName(name); f == nil || f.Write == nil {
			return p.located(faultAt(kind.String(), "format", "[%s] format: there is no format %q to write; there are %s",
				kind, k.Format, formats.Written()))
		} else if f.Tabular && p.Table == nil {
			return p.located(faultAt("", "name", "cards that are tables need a [table] with its columns"))
		}
	}
	return nil
}

// located gives a fault its place in the profile's file.
func (p *Profile) located(fault *profileFault) error {
	file := p.Path
	if file == "" {
		file = p.Name + ".toml"
	}
	if line := lineOf(p.Source, fault.table, fault.key); line > 0 {
		return advice.Errorf(fault.advice, "%s:%d: %s", file, line, fault.text)
	}
	return advice.Errorf(fault.advice, "%s: %s", file, fault.text)
}

// ShippedNames lists the names of the profiles that come with the program.
func ShippedNames() (names []string) {
	entries, err := shipped.ReadDir("profiles")
	if err != nil {
		panic(err) // the folder is part of the program
	}
	for _, e := range entries {
		names = append(names, strings.TrimSuffix(e.Name(), ".toml"))
	}
	return names
}

// Shipped lists the profiles that come with the program.
func Shipped() []*Profile {
	entries, err := shipped.ReadDir("profiles")
	if err != nil {
		panic(err) // the folder is part of the program
	}
	var out []*Profile
	for _, e := range entries {
		text, err := shipped.ReadFile("profiles/" + e.Name())
		if err != nil {
			panic(err)
		}
		p, err := Parse(e.Name(), text)
		if err != nil {
			panic(err)
		}
		out = append(out, p)
	}
	return out
}

// Own lists the profiles in the user's folder. A faulty one is told and does not keep the others from use.
func Own(dir string) (list []*Profile, faults []error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil, nil // most have none
	}
	for _, e := range entries {
		if e.IsDir() || filepath.Ext(e.Name()) != ".toml" {
			continue
		}
		p, err := Open(filepath.Join(dir, e.Name()))
		if err != nil {
			faults = append(faults, err)
			continue
		}
		list = append(list, p)
	}
	return
}

// Open reads the profile of a file.
func Open(file string) (*Profile, error) {
	text, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("%s: can't be read: %w", file, errors.Unwrap(err))
	}
	p, err := Parse(file, text)
	if err != nil {
		return nil, err
	}
	p.Path = file
	return p, nil
}

// Find finds a profile by its name, of the user's own in a folder first, or by the path of its file.
func Find(name, dir string) (*Profile, error) {
	if filepath.Ext(name) == ".toml" {
		return Open(name)
	}
	own, faults := Own(dir)
	var names []string
	for _, p := range append(own, Shipped()...) {
		if strings.EqualFold(p.Name, name) {
			return p, nil
		}
		if !slices.Contains(names, p.Name) {
			names = append(names, p.Name)
		}
	}
	for _, err := range faults {
		if strings.EqualFold(strings.TrimSuffix(filepath.Base(strings.SplitN(err.Error(), ":", 2)[0]), ".toml"), name) {
			return nil, err
		}
	}
	return nil, fmt.Errorf("there is no unit %q; there are %s", name, strings.Join(names, ", "))
}
