// Package all lists the formats. A new format is a package of its own and one line here.
package all

import (
	"gyrolith/core/format"
	"gyrolith/core/format/archive"
	"gyrolith/core/format/flatgeobuf"
	"gyrolith/core/format/geojson"
	"gyrolith/core/format/geoparquet"
	"gyrolith/core/format/gml"
	"gyrolith/core/format/gpkg"
	"gyrolith/core/format/gpx"
	"gyrolith/core/format/igc"
	"gyrolith/core/format/keel"
	"gyrolith/core/format/kml"
	"gyrolith/core/format/plan"
	"gyrolith/core/format/rtz"
	"gyrolith/core/format/shapefile"
	"gyrolith/core/format/table"
	"gyrolith/core/format/talker"
	"gyrolith/core/format/vane"
)

// Formats are all formats, in the order in which their sniffers are asked.
var Formats = format.Formats{
	gpx.Format,
	kml.Format,
	gpkg.Format,
	shapefile.Format,
	flatgeobuf.Format,
	geoparquet.Format,
	table.FormatXLSX,
	archive.Format,
	kml.FormatKMZ,
	rtz.Format,
	gml.Format,
	geojson.FormatSeq,
	geojson.FormatLines,
	geojson.Format,
	keel.Format,
	vane.Format,
	igc.Format,
	talker.Format,
	table.FormatCSV,
	plan.Format,
}
