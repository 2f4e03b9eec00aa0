// Package flatgeobuf reads and writes FlatGeobuf 3 (the published specification with its schemas header.fbs and
// feature.fbs): a header, a packed Hilbert R-tree of the features, and the features, each a FlatBuffer.
package flatgeobuf

import (
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/layer"
)

// Format is FlatGeobuf.
var Format = &format.Format{
	Name:       "fgb",
	Title:      "FlatGeobuf 3",
	Extensions: []string{".fgb"},
	Brief:      "all kinds as one table with a spatial index",
	Sniff: func(h *format.Head) bool {
		return len(h.Raw) >= len(magic) && string(h.Raw[:3]) == magic[:3] && string(h.Raw[4:7]) == magic[4:7]
	},
	Read:  read,
	Write: write,
	Holds: func(opt *format.WriteOptions) *holds.Declaration {
		c := layer.Declare("FlatGeobuf", false, opt)
		c.Holds[holds.File] = holds.Describes()
		return c
	},
	Systems: true,
	Layered: true,
	Shapes:  format.SoundRings,
}

const magic = "fgb\x03fgb\x00" // version 3, patch level 0

// The types of geometries.
const (
	typeUnknown = iota
	typePoint
	typeLine
	typePolygon
	typeMultiPoint
	typeMultiLine
	typeMultiPolygon
	typeCollection
)

// The types of columns.
const (
	typeByte = iota
	typeUByte
	typeBool
	typeShort
	typeUShort
	typeInt
	typeUInt
	typeLong
	typeULong
	typeFloat
	typeDouble
	typeString
	typeJSON
	typeDateTime
	typeBinary
)

// The slots of the tables.
const (
	headerName = iota
	headerEnvelope
	headerGeometry
	headerHasZ
	headerHasM
	headerHasT
	headerHasTM
	headerColumns
	headerCount
	headerNodeSize
	headerCRS
	headerTitle
	headerDescription
	headerMetadata
	headerSlots
)

const (
	geometryEnds = iota
	geometryXY
	geometryZ
	geometryM
	geometryT
	geometryTM
	geometryType
	geometryParts
	geometrySlots
)

const (
	featureGeometry = iota
	featureProperties
	featureColumns
	featureSlots
)

const (
	columnName  = 0
	columnType  = 1
	columnSlots = 11
)

const (
	crsOrg   = 0
	crsCode  = 1
	crsName  = 2
	crsWKT   = 4
	crsSlots = 6
)

// orderKey is the member of the header's metadata that names the column of the order that the items had.
const orderKey = "order"
