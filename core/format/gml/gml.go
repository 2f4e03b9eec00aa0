// Package gml reads features of GML 2 and 3 and writes simple features of GML 3.2 (OGC 07-036 and its profile OGC
// 10-100r3, level SF-0).
package gml

import (
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/layer"
)

// Format is GML.
var Format = &format.Format{
	Name:       "gml",
	Title:      "GML 2 and 3 (writes 3.2, level SF-0)",
	Extensions: []string{".gml"},
	Brief:      "all kinds as features with all fields",
	Sniff: func(h *format.Head) bool {
		return h.Root.Local == "FeatureCollection" || strings.HasPrefix(h.Root.Space, spaceGML) && h.Root.Local != ""
	},
	Read:  read,
	Write: write,
	Holds: func(opt *format.WriteOptions) *holds.Declaration {
		c := layer.Declare("GML", true, opt)
		c.Trims = true
		return c
	},
	Layered: true,
	Shapes:  format.SoundRings,
}

const (
	spaceGML    = "http://www.opengis.net/gml" // and /3.2 behind
	spaceGML32  = spaceGML + "/3.2"
	spaceSF     = "http://www.opengis.net/ogcapi-features-1/1.0/sf"
	spaceOwn    = "urn:gyrolith:features:1"
	spaceXSI    = "http://www.w3.org/2001/XMLSchema-instance"
	spaceSchema = "http://www.w3.org/2001/XMLSchema"
	worldName   = "http://www.opengis.net/def/crs/EPSG/0/4326" // latitude first
)
