// Package holds says what data have and what formats hold of it, property by property. A format declares it once; the
// ledger of what is not carried over, the tables of the documentation and the test of all round trips are made of that.
package holds

import (
	"iter"
	"math/bits"
	"slices"

	"gyrolith/core/nav"
)

// Property is something that an item, a point of a line or a file can have.
type Property uint8

// The properties, in the order in which they are listed.
const (
	ID Property = iota // an identity that lasts
	Name
	Comment
	Description
	Source
	Type
	Number
	Group
	Links
	LinkTexts // the texts and media types of links
	Symbol
	Icon // a picture's address
	IconScale
	Colour
	Width
	Fill
	Outline // whether the outline is drawn and the area filled
	Fields
	FieldTypes // numbers, truth values, lists and objects told from texts
	Height
	HeightReference
	Time
	TimePrecision // a year, a month or a day that is no instant
	Speed
	Course
	FixQuality // dilutions, satellites and the sort of fix
	Readings   // values of further sensors
	Details    // what only another format understands
	Empty      // an item without any point
	OnePoint   // a line, or a part of one, of a single point
	Segments   // several parts of one line
	Parts      // several items that are one feature
	Holes
	Title
	Author
	Copyright
	Keywords
	Attachments
	count
)

var words = [count]struct{ one, many string }{
	ID: {"id", "ids"}, Name: {"name", "names"}, Comment: {"comment", "comments"},
	Description: {"description", "descriptions"},
	Source:      {"source", "sources"}, Type: {"type", "types"}, Number: {"number", "numbers"}, Group: {"group", "groups"},
	Links: {"links", "links"}, LinkTexts: {"texts of links", "texts of links"}, Symbol: {"symbol", "symbols"},
	Icon: {"icon", "icons"}, IconScale: {"icon scale", "icon scales"}, Colour: {"colour", "colours"},
	Width: {"line width", "line widths"}, Fill: {"fill colour", "fill colours"},
	Outline: {"drawing of outline and fill", "drawing of outline and fill"}, Fields: {"fields", "fields"},
	FieldTypes: {"types of fields", "types of fields"}, Height: {"height", "heights"},
	HeightReference: {"height reference", "height references"}, Time: {"time", "times"},
	TimePrecision: {"precision of the time", "precision of times"}, Speed: {"speed", "speeds"},
	Course: {"course", "courses"}, FixQuality: {"quality of the fix", "quality of fixes"},
	Readings: {"readings", "readings"}, Details: {"details", "details"}, Empty: {"item without points", ""},
	OnePoint: {"line of one point", ""}, Segments: {"several segments", ""},
	Parts: {"part of a feature", "parts of features"},
	Holes: {"holes", "holes"}, Title: {"title", ""}, Author: {"author", ""}, Copyright: {"copyright and licence", ""},
	Keywords: {"keywords", ""}, Attachments: {"attached files", ""},
}

func (p Property) String() string { return words[p].one }

// Place is what has a property.
type Place uint8

// The places: the four kinds as nav has them, the points of lines, and the file as a whole.
const (
	Waypoint   = Place(nav.Waypoints)
	Route      = Place(nav.Routes)
	Track      = Place(nav.Tracks)
	Area       = Place(nav.Areas)
	RoutePoint = Area + 1 + Place(iota-4)
	TrackPoint
	File
)

// AllPlaces lists the places in order.
var AllPlaces = [...]Place{Waypoint, Route, RoutePoint, Track, TrackPoint, Area, File}

func (p Place) String() string {
	return [...]string{"waypoint", "route", "track", "area", "route point", "track point", "file"}[p]
}

// Kind is the kind of item that the place is or belongs to; there is none for the file.
func (p Place) Kind() nav.Kind {
	switch p {
	case RoutePoint:
		return nav.Routes
	case TrackPoint:
		return nav.Tracks
	case File:
		return 0
	}
	return nav.Kind(p)
}

// What calls a property of a place in a ledger.
func What(at Place, p Property) nav.Property {
	switch {
	case at == RoutePoint || at == TrackPoint:
		return nav.Property(words[p].many + " of " + at.String() + "s")
	case at == Area && (p == Height || p == HeightReference || p == Time || p == TimePrecision):
		return nav.Property(words[p].many + " of outlines")
	case at == File && p == Attachments:
		return nav.Property(words[p].one)
	case at == File:
		return nav.Property(words[p].one + " of the file")
	}
	return nav.Property(words[p].one)
}

// Set is a set of properties.
type Set uint64

// SetOf gives the set of some properties.
func SetOf(list ...Property) (s Set) {
	for _, p := range list {
		s |= 1 << p
	}
	return
}

// Has says whether a property is in the set.
func (s Set) Has(p Property) bool { return s>>p&1 != 0 }

// Each lists the properties of the set in their order.
func (s Set) Each() iter.Seq[Property] {
	return func(yield func(Property) bool) {
		for ; s != 0; s &= s - 1 {
			if !yield(Property(bits.TrailingZeros64(uint64(s)))) {
				return
			}
		}
	}
}

// List gives the properties of the set in their order.
func (s Set) List() []Property { return slices.Collect(s.Each()) }

var (
	texts   = SetOf(ID, Name, Comment, Description, Source, Type, Links, LinkTexts, Fields, FieldTypes, Details)
	fix     = SetOf(Height, HeightReference, Time, TimePrecision)
	styling = SetOf(Symbol, Icon, IconScale, Colour, Width, Fill, Outline)
	item    = texts | styling | SetOf(Group, Number, Parts)
)

// Of lists the properties that there can be at a place.
func Of(at Place) Set {
	switch at {
	case Waypoint:
		return item | fix
	case Route:
		return item | SetOf(Empty, OnePoint)
	case Track:
		return item | SetOf(Empty, OnePoint, Segments)
	case Area:
		return item | fix | SetOf(Empty, Holes)
	case RoutePoint:
		return item | fix
	case TrackPoint:
		return item | fix | SetOf(Speed, Course, FixQuality, Readings)
	}
	return SetOf(Title, Description, Author, Copyright, Keywords, Links, LinkTexts, Time, TimePrecision, Attachments,
		Details)
}
