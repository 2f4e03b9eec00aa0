// Package keel reads and writes the Keel card, a binary file of Gyrolith's own design for marine units. The file
// docs/formats/keel-card.md specifies it byte by byte.
package keel

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// Format is the Keel card, versions 1 to 3.
var Format = &format.Format{
	Name:       "keel",
	Title:      "Keel card, versions 1 to 3 (own format)",
	Extensions: []string{".krd"},
	Brief:      "marks; from version 2 routes, groups, depths; from 3 tracks, areas",
	Sniff:      func(h *format.Head) bool { return bytes.HasPrefix(h.Raw, magic) },
	Read:       read,
	Write:      write,
	Holds:      declare,
	Versions:   []string{"3", "1", "2"},
}

// declare says what a card of a version holds.
func declare(opt *format.WriteOptions) *holds.Declaration {
	version, err := parseVersion(opt.Version)
	if err != nil {
		version = newest
	}
	c := &holds.Declaration{
		Noun:   fmt.Sprintf("a Keel card of version %d", version),
		Datums: []nav.VerticalDatum{nav.MeanSeaLevel},
		Rounds: holds.Rounds{
			Position: holds.Step{Size: 1 / perDegree2, Words: "a ten-millionth of a degree"},
			Height:   holds.Step{Size: 0.01, Words: "a centimetre"},
			Time:     holds.Step{Size: 0.001, Words: "a millisecond"},
		},
	}
	symbols := holds.Held{Partly: true, Why: "the nearest of the card's symbols"}
	limits := holds.Held{Keys: nav.IsLimit, KeyWords: nav.LimitWords}
	if version == 1 {
		c.Rounds = holds.Rounds{Position: holds.Step{Size: 1 / perDegree1, Standard: true, Words: "a thousandth of a minute"}}
		c.Holds = holds.Places{holds.Waypoint: holds.Only(holds.Name).With(holds.Symbol, symbols)}
		return c
	}
	head := holds.Only(holds.Name, holds.Description, holds.Group)
	coloured := head
	if version > 2 {
		coloured = head.And(holds.Colour)
	}
	mark := coloured.And(holds.Height).With(holds.Symbol, symbols).With(holds.Fields,
		holds.Held{Keys: func(f *nav.Field) bool { _, ok := depth(f.Value); return f.Key == "depth" && ok },
			KeyWords: "the depth, in metres"})
	c.Holds = holds.Places{
		holds.Waypoint:   mark,
		holds.Route:      coloured.And(holds.Empty, holds.OnePoint),
		holds.RoutePoint: holds.Only(holds.Name, holds.Height).With(holds.Symbol, symbols),
	}
	if version > 2 {
		c.Holds[holds.Waypoint] = mark.And(holds.Time)
		c.Holds[holds.Track] = coloured.And(holds.Empty, holds.OnePoint, holds.Segments)
		c.Holds[holds.TrackPoint] = holds.Only(holds.Height, holds.Time)
		c.Holds[holds.Area] = coloured.And(holds.Empty, holds.Fill, holds.Holes).With(holds.Fields, limits)
	}
	return c
}

var magic = []byte("KEEL")

const (
	newest     = 3
	headerSize = 8
	frameSize  = 9 // of a record around its payload: type, length and sum
)

// The types of records.
const (
	recMark1  = 0x01
	recGroup  = 0x02
	recMark2  = 0x03
	recRoute2 = 0x04
	recMark3  = 0x05
	recRoute3 = 0x06
	recWake   = 0x07
	recZone   = 0x08
	recEnd    = 0xFF
)

// since gives the version that has a type of record; 0 for no type at all.
func since(kind byte) byte {
	switch kind {
	case recMark1:
		return 1
	case recGroup, recMark2, recRoute2:
		return 2
	case recMark3, recRoute3, recWake, recZone:
		return 3
	case recEnd:
		return 1
	}
	return 0
}

// The units of what is stored.
const (
	perDegree1 = 60000.0 // thousandths of an arc minute
	perDegree2 = 1e7
	noValue    = -1 << 31 // an absent depth or height, in centimetres
	noTime     = -1 << 63 // an absent time, in milliseconds since 1970
)

// The kinds of a level.
const (
	levelNone = iota
	levelSea
	levelGround
	levelPressure
	levelUnlimited
)

// codes are the symbols by their code: the unit's own word, and the neutral one.
var codes = [...]struct{ own, neutral string }{
	{"dot", "mark"}, {"danger", "hazard"}, {"rock", "rock"}, {"awash", "rock-awash"}, {"wreck", "wreck"},
	{"shoal", "shoal"}, {"race", "overfalls"},
	{"anchor", "anchorage"}, {"mooring", "mooring"}, {"landing", "landing"}, {"jetty", "jetty"}, {"harbour", "harbour"},
	{"buoy", "buoy"}, {"beacon", "beacon"},
	{"light", "light"}, {"fish", "fishing"}, {"flag", "flag"}, {"closed", "closed"},
}

// code finds the code of a symbol, by the unit's own word or by the neutral one or a broader one.
func code(word string) (byte, bool) {
	if word == "" {
		return 0, true
	}
	for i, c := range codes {
		if strings.EqualFold(c.own, word) || c.neutral == word {
			return byte(i), true
		}
	}
	for w := symbol.Meaning(word); w != ""; w = symbol.Like(w) {
		for i, c := range codes {
			if c.neutral == w {
				return byte(i), false
			}
		}
	}
	return 0, false
}

// parseVersion reads the version that is to be written.
func parseVersion(text string) (byte, error) {
	switch text {
	case "":
		return newest, nil
	case "1", "2", "3":
		return text[0] - '0', nil
	}
	return 0, fmt.Errorf("there is no Keel card version %q; there are 1, 2 and 3", text)
}

// sum is the checksum of a record or file: CRC-32 of ISO/IEC 3309.
func sum(b []byte) uint32 { return crc32.ChecksumIEEE(b) }

var order = binary.LittleEndian
