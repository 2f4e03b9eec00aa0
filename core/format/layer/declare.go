package layer

import (
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// inColumns are the properties of an item that have a column under a word of our extension.
var inColumns = holds.SetOf(holds.ID, holds.Comment, holds.Description, holds.Source, holds.Type, holds.Number,
	holds.Group, holds.Symbol, holds.Icon, holds.IconScale, holds.Colour, holds.Width, holds.Fill, holds.Outline)

// columnNames are the columns that are called otherwise than the extension has it: what a layer of somebody else's
// means by width or number is another thing.
var columnNames = map[string]string{"id": "item id", "desc": "description", "number": "item no", "width": "line width",
	"icon-scale": "icon scale"}

func columnOf(word string) string {
	if name := columnNames[word]; name != "" {
		return name
	}
	return word
}

// wordOf gives the word of the extension that a column has; "" where it is none.
func wordOf(title string) string {
	title = strings.ToLower(strings.ReplaceAll(title, "_", " "))
	for word, name := range columnNames {
		if name == title {
			return word
		}
	}
	switch title {
	case "source", "icon", "fill", "filled", "outlined":
		return title
	}
	return ""
}

// attributeWords are the columns of an item's own properties, which no field can have.
var attributeWords = []string{"name", "kind", "comment", "description", "source", "type", "item id", "item no", "group",
	"symbol", "icon", "icon scale", "colour", "line width", "fill", "filled", "outlined", "line", "segment",
	"link", "fid", "geom", "part of"}

// Why heights are not held. In a layer that has heights or has none they need every point, else those of each line.
const (
	heightsOfLayers = "lines and areas have heights only where every point of their layer has one"
	heightsOfLines  = "a line or area has heights only where every point of it has one"
)

// pointsOf is where the heights of a kind's points are declared.
var pointsOf = [...]holds.Place{holds.Waypoint, holds.RoutePoint, holds.TrackPoint, holds.Area}

// Declare says what layers hold.
func Declare(noun string, byEach bool, opt *format.WriteOptions) *holds.Declaration {
	item := holds.Only(append(inColumns.List(), holds.Name, holds.Links, holds.Fields, holds.Parts,
		holds.TimePrecision)...).
		With(holds.FieldTypes, holds.Held{Partly: true, Why: "where all values of a column have one type"})
	some := holds.Held{Partly: true, Why: heightsOfLayers}
	if byEach {
		some.Why = heightsOfLines
	}
	c := &holds.Declaration{
		Noun: noun,
		Holds: holds.Places{
			holds.Waypoint:   item.And(holds.Height, holds.Time),
			holds.Route:      item,
			holds.RoutePoint: holds.Only(),
			holds.Track:      item.And(holds.Segments),
			holds.TrackPoint: holds.Only(),
			holds.Area:       item.And(holds.Holes).With(holds.Height, some),
		},
	}
	route, track := holds.Only().With(holds.Height, some), holds.Only().With(holds.Height, some)
	for p := range (holds.Of(holds.RoutePoint) &^ holds.SetOf(holds.Height, holds.Details)).Each() {
		route = route.With(p, holds.Held{Why: "layers store no values for the points of lines",
			Advice: advice.RoutesToPoints})
		track = track.With(p, holds.Held{Why: "layers store no values for the points of lines",
			Advice: advice.PointsOfTracks})
	}
	for _, p := range []holds.Property{holds.Speed, holds.Course, holds.FixQuality, holds.Readings} {
		track = track.With(p, holds.Held{Why: "layers store no values for the points of lines",
			Advice: advice.PointsOfTracks})
	}
	c.Holds[holds.RoutePoint], c.Holds[holds.TrackPoint] = route, track
	if opt != nil && opt.TrackPoints {
		c.Holds[holds.TrackPoint] = item.And(holds.Height, holds.Time, holds.Speed, holds.Course, holds.FixQuality,
			holds.Readings)
	}
	return c
}

// Of the words of the column kind that are no kind of item.
const trackPoint = "track point"

// isOwnKind says whether a value of the column kind is a word of ours.
func isOwnKind(word string) bool {
	_, ok := nav.ParseKind(word)
	return ok || word == trackPoint
}
