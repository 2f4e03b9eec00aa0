// Package geoparquet reads and writes GeoParquet 1.1 (the published specification): a Parquet file whose metadata say
// which column has the geometries, as well-known binary, with a column of boxes by which an engine leaves row groups
// out. The features are sorted along a space-filling curve, so that the boxes of row groups are small.
package geoparquet

import (
	"errors"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/layer"
)

// Format is GeoParquet.
var Format = &format.Format{
	Name:       "geoparquet",
	Title:      "GeoParquet 1.1",
	Extensions: []string{".parquet", ".geoparquet"},
	Brief:      "all kinds as one table of columns, for engines that ask in SQL",
	Sniff:      func(h *format.Head) bool { return len(h.Raw) >= len(magic) && string(h.Raw[:len(magic)]) == magic },
	Read:       read,
	Write:      write,
	Holds: func(opt *format.WriteOptions) *holds.Declaration {
		c := layer.Declare("GeoParquet", false, opt)
		c.Holds[holds.File] = holds.Describes()
		return c
	},
	Layered: true,
	Shapes:  format.SoundRings,
}

const magic = "PAR1"

// The keys of the file's metadata, and the columns that are no attributes.
const (
	geoKey    = "geo"
	ownKey    = "gyrolith"
	geometry  = "geometry"
	boxes     = "bbox"
	orderName = "order"
	version   = "1.1.0"
)

// geo is the metadata of the specification.
type geo struct {
	Version string             `json:"version"`
	Primary string             `json:"primary_column"`
	Columns map[string]*column `json:"columns"`
}

type column struct {
	Encoding string    `json:"encoding"`
	Types    []string  `json:"geometry_types"`
	System   *projjson `json:"crs,omitempty"`
	Edges    string    `json:"edges,omitempty"`
	Box      []float64 `json:"bbox,omitempty"`
	Covering *covering `json:"covering,omitempty"`
}

// covering says where the boxes of the features stand.
type covering struct {
	Box map[string][]string `json:"bbox"`
}

// projjson is what is needed of a system's description.
type projjson struct {
	Name string `json:"name"`
	ID   *struct {
		Authority string `json:"authority"`
		Code      any    `json:"code"`
	} `json:"id"`
}

// own is what we say of a file besides.
type own struct {
	Order string `json:"order"`
	Title string `json:"title,omitempty"`
	Desc  string `json:"description,omitempty"`
}

var errDamaged = errors.New("is damaged")
