// Package shapefile reads and writes shapefiles: geometries in .shp and .shx (the published Shapefile Technical
// Description, July 1998), attributes in a .dbf table, the coordinate system in .prj and the encoding of texts in .cpg.
package shapefile

import (
	"encoding/binary"
	"math"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/layer"
)

// Format is the shapefile.
var Format = &format.Format{
	Name:       "shp",
	Title:      "shapefile, with .shx, .dbf, .prj and .cpg",
	Extensions: []string{".shp"},
	Brief:      "points, lines and areas; names of fields have ten letters",
	Sniff:      sniff,
	Read:       read,
	Set:        set,
	Holds: func(opt *format.WriteOptions) *holds.Declaration {
		c := layer.Declare("a shapefile", false, opt)
		c.Trims = true
		return c
	},
	Keeps:   "shp",
	Systems: true,
	Layered: true,
	Shapes:  format.SoundRings,
}

const (
	fileCode   = 9994
	version    = 1000
	headerSize = 100
)

// The types of shapes. Those with heights are 10 more, those with measures alone 20 more.
const (
	shapeNull       = 0
	shapePoint      = 1
	shapeLine       = 3
	shapePolygon    = 5
	shapeMultiPoint = 8
	withHeights     = 10
	withMeasures    = 20
	shapeMultiPatch = 31
)

func sniff(h *format.Head) bool {
	return len(h.Raw) >= headerSize && binary.BigEndian.Uint32(h.Raw) == fileCode &&
		binary.LittleEndian.Uint32(h.Raw[28:]) == version
}

func float(b []byte) float64 { return math.Float64frombits(binary.LittleEndian.Uint64(b)) }

func appendFloat(b []byte, v float64) []byte {
	return binary.LittleEndian.AppendUint64(b, math.Float64bits(v))
}
