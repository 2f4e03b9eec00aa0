// Package gpkg reads and writes GeoPackages (OGC 12-128r17, version 1.3): SQLite databases with a layer of features a
// table.
package gpkg

import (
	"bytes"
	"database/sql/driver"
	"encoding/binary"
	"errors"

	"modernc.org/sqlite"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/layer"
)

// Format is the GeoPackage.
var Format = &format.Format{
	Name:       "gpkg",
	Title:      "GeoPackage (OGC 12-128r17)",
	Extensions: []string{".gpkg"},
	Brief:      "all kinds, one layer each, with all fields",
	Sniff:      sniff,
	Read:       read,
	Write:      write,
	Holds: func(opt *format.WriteOptions) *holds.Declaration {
		c := layer.Declare("a GeoPackage", true, opt)
		// OGC 12-128r19, table 1: DATETIME has milliseconds.
		c.Rounds.Time = holds.Step{Size: 1e-3, Standard: true, Words: "a millisecond"}
		return c
	},
	Keeps:   "gpkg",
	Systems: true,
	Layered: true,
	Shapes:  format.SoundRings,
	Appends: true,
}

// The application id and version of the head of the database (requirement 2).
const (
	applicationID = 0x47504B47 // GPKG
	userVersion   = 10300
)

var magic = []byte("SQLite format 3\x00")

func sniff(h *format.Head) bool {
	if !bytes.HasPrefix(h.Raw, magic) || len(h.Raw) < 100 {
		return false
	}
	switch id := binary.BigEndian.Uint32(h.Raw[68:]); id {
	case applicationID, 0x47503130, 0x47503131: // and GP10, GP11 of the versions before 1.2
		return true
	}
	return bytes.Contains(h.Raw, []byte("gpkg_contents"))
}

// The functions that the triggers of a spatial index call (annex F.3). They are there in every connection.
func init() {
	bound := func(name string, of func(layer.Bounds) float64) {
		sqlite.MustRegisterDeterministicScalarFunction(name, 1, func(_ *sqlite.FunctionContext,
			args []driver.Value) (driver.Value, error) {
			b, ok := args[0].([]byte)
			if !ok {
				return nil, nil
			}
			e, err := extentOf(b)
			if err != nil || e.MinX > e.MaxX {
				return nil, err
			}
			return of(e), nil
		})
	}
	bound("ST_MinX", func(e layer.Bounds) float64 { return e.MinX })
	bound("ST_MaxX", func(e layer.Bounds) float64 { return e.MaxX })
	bound("ST_MinY", func(e layer.Bounds) float64 { return e.MinY })
	bound("ST_MaxY", func(e layer.Bounds) float64 { return e.MaxY })
	sqlite.MustRegisterDeterministicScalarFunction("ST_IsEmpty", 1, func(_ *sqlite.FunctionContext,
		args []driver.Value) (driver.Value, error) {
		b, ok := args[0].([]byte)
		if !ok {
			return nil, nil
		}
		e, err := extentOf(b)
		if err != nil {
			return nil, err
		}
		if e.MinX > e.MaxX {
			return int64(1), nil
		}
		return int64(0), nil
	})
}

var errGeometry = errors.New("is not a GeoPackage geometry")
