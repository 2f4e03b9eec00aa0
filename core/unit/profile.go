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
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/schema"
	"gyrolith/core/symbol"
)

//go:embed profiles/*.toml
var shipped embed.FS

// Profile is what a unit can show. The tags doc and words make its JSON Schema, and words are what is checked.
type Profile struct {
	Name       string  `toml:"name" doc:"the name of the unit, without blanks"`
	Title      string  `toml:"title" doc:"what the unit is, in a few words"`
	StandIn    bool    `toml:"stand-in" doc:"a built-in stand-in reads its cards"`
	Resolution float64 `toml:"resolution" doc:"the step of positions in degrees; 0: as fine as the data"`
	HeightStep float64 `toml:"height-step" doc:"the step of heights in metres; 0: as fine as the data"`

	HeightsOver []string `toml:"heights-above" words:"sea ellipsoid ground pressure" doc:"above what heights are"`

	Shows      []string           `toml:"shows" words:"symbol description heights times colour group depth limits"`
	Text       Text               `toml:"text" doc:"rules for names and descriptions"`
	Waypoints  Kind               `toml:"waypoints" doc:"how waypoints are written"`
	Routes     Kind               `toml:"routes" doc:"how routes are written"`
	Tracks     Kind               `toml:"tracks" doc:"how tracks are written"`
	Areas      Kind               `toml:"areas" doc:"how areas are written"`
	Symbols    map[string]string  `toml:"symbols" doc:"neutral symbol words and the unit's own; default: for all others"`
	Colours    []string           `toml:"colours" doc:"the colours that it can show, such as #c8102e; none: any"`
	Table      *Table             `toml:"table" doc:"the layout of cards that are tables"`
	Version    int                `toml:"version" doc:"the usual version of its cards; 0: they have no versions"`
	Versions   map[string]Version `toml:"versions" doc:"what older versions of its cards can store"`
	ShortForms map[string]string  `toml:"short-forms" doc:"further short forms of words; empty: none"`

	Source string `toml:"-"` // the profile as it is written
	Path   string `toml:"-"` // of the user's own; "" where it ships
}

// Text says how texts may look.
type Text struct {
	Length         int    `toml:"length" doc:"most characters of a name; 0: any number"`
	Characters     string `toml:"characters" doc:"allowed characters, with ranges such as A-Z; empty: all"`
	Case           string `toml:"case" words:"upper lower" doc:"the case of names; absent: both"`
	Unique         string `toml:"unique" words:"kind all none" doc:"where names must differ"`
	Accents        string `toml:"accents" words:"spell drop keep" doc:"spell: æ becomes ae"`
	Note           int    `toml:"note" doc:"most characters of a description; 0: any number"`
	NoteCharacters string `toml:"note-characters" doc:"allowed characters of descriptions; empty: all"`

	shortForms map[string]string // the profile's own
}

// Kind says what becomes of one kind of item.
type Kind struct {
	As       string `toml:"as" words:"waypoints routes tracks areas" doc:"the kind that they are written as"`
	Format   string `toml:"format" doc:"the format of the file, a word of 'gyrolith formats'"`
	Folder   string `toml:"folder" doc:"the folder on the card"`
	File     string `toml:"file" doc:"the file's name, with {source}, {name}, {group} or {number}"`
	FileName int    `toml:"file-length" doc:"most characters of a file name before its extension; 0: 40"`
	Most     int    `toml:"most" doc:"most items; 0: any number"`
	Drop     string `toml:"drop" words:"last oldest" doc:"which items are left out when there are more"`
	Points   int    `toml:"points" doc:"most points of an item; 0: any number"`
	Over     string `toml:"over" words:"split thin" doc:"what happens to a line with more points"`
	Segments int    `toml:"segments" doc:"most segments of a track; 0: any number"`
	Bytes    int    `toml:"bytes" doc:"most bytes of a file; 0: any number"`
	Holes    *bool  `toml:"holes" doc:"false: areas have no holes"`
	Text     *Text  `toml:"text" doc:"rules for the names of this kind, in place of [text]"`
}

// Table says how a card that is a table is laid out.
type Table struct {
	Sheet     string   `toml:"sheet" doc:"the sheet of a workbook"`
	Template  string   `toml:"template" doc:"a workbook to start from, beside the profile"`
	FirstRow  int      `toml:"first-row" doc:"the first row of data, from 1; the header is above it"`
	NoHeader  bool     `toml:"no-header" doc:"the table has no header"`
	Separator string   `toml:"separator" doc:"the separator of CSV; absent: a comma"`
	Notation  string   `toml:"notation" words:"deg min sec utm mgrs plan" doc:"the notation of positions in one column"`
	Columns   []Column `toml:"columns" doc:"the columns, in order"`
}

// Column says what one column of a table holds.
type Column struct {
	Title string `toml:"title" doc:"the title in the header"`
	Holds string `toml:"holds" doc:"what is in it: a word such as name, lat or field:KEY"`
}

// Version is what an older version of a unit takes less.
type Version struct {
	Resolution float64  `toml:"resolution" doc:"the step of positions in degrees"`
	Takes      []string `toml:"takes" words:"waypoints routes tracks areas" doc:"the kinds that it can store"`
	Shows      []string `toml:"shows" words:"symbol description heights times colour group depth limits"`
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

// Margin is how far two positions of an item may be apart, in metres, that the unit can't tell from one: 10 cm, or a
// step of its positions.
func (p *Profile) Margin() float64 {
	const least = 0.1 // metres
	return max(least, p.Resolution*geodesy.EquatorDegree)
}

// ShowsA says whether the unit shows a property of items.
func (p *Profile) ShowsA(word string) bool { return slices.Contains(p.Shows, word) }

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

var keys = []string{"name", "title", "stand-in", "resolution", "height-step", "heights-above", "shows", "text",
	"waypoints", "routes",
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
	if f := wrongWord("", p); f != nil {
		return f
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
		v := p.Versions[n]
		if f := wrongWord("versions."+n, &v); f != nil {
			return f
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

// Schema is the JSON Schema of profiles.
func Schema() map[string]any { return schema.Of("Gyrolith unit profile", Profile{}) }

// wrongWord finds a text of a table that is none of the words that it may be.
func wrongWord(table string, v any) *profileFault {
	key, value, words := schema.Wrong(v)
	if key == "" {
		return nil
	}
	label := ""
	if table != "" {
		label = "[" + table + "] "
	}
	return faultAt(table, key, "%s%s: %q is not one of %s", label, key, value, strings.Join(words, ", "))
}

func (t *Text) fault(table string) *profileFault {
	if f := wrongWord(table, t); f != nil {
		return f
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
	if f := wrongWord(table, k); f != nil {
		return f
	}
	as, _ := nav.ParseKind(k.As)
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
	if f := wrongWord("table", p.Table); f != nil {
		return f
	}
	for _, c := range p.Table.Columns {
		if !format.IsColumn(c.Holds) {
			return faultAt("table", "columns", "[table] columns: there is no column %q; there are %s, and field:KEY", c.Holds,
				strings.Join(format.DataWords.Names(), ", "))
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
