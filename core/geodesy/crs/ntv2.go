package crs

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"strings"
)

// Grid is a grid of datum shifts in the NTv2 form (Geodetic Survey of Canada, NTv2 developer's guide, 1995; EPSG method
// 9615): sub-grids of shifts of latitude and longitude in seconds of arc, longitudes counted to the west.
type Grid struct {
	Name     string // of its file
	From, To string // the systems that it says it goes between
	subs     []subgrid
}

// subgrid has its limits and steps in seconds; rows run from the south-east to the west and then to the north.
type subgrid struct {
	name, parent             string
	south, north, east, west float64
	dlat, dlon               float64
	rows, columns            int
	shifts                   []float32 // latitude, longitude, and the accuracies of both, metres
}

// mostNodes bounds what a grid may claim.
const mostNodes = 1 << 26

// ParseGrid reads a grid.
func ParseGrid(path string, data []byte) (*Grid, error) {
	if len(data) < 176 || string(data[:8]) != "NUM_OREC" {
		return nil, errors.New("is not an NTv2 shift grid: it does not begin with NUM_OREC")
	}
	var order binary.ByteOrder = binary.LittleEndian
	if order.Uint32(data[8:]) != 11 {
		order = binary.BigEndian
	}
	if order.Uint32(data[8:]) != 11 || order.Uint32(data[24:]) != 11 {
		return nil, errors.New("is not an NTv2 shift grid with the usual 11 records")
	}
	word := func(record int) string { return strings.TrimRight(string(data[16*record+8:16*record+16]), " \x00") }
	double := func(record int) float64 { return math.Float64frombits(order.Uint64(data[16*record+8:])) }
	g := &Grid{Name: filepath.Base(path), From: word(5), To: word(6)}
	if unit := strings.TrimSpace(word(3)); !strings.HasPrefix(unit, "SECONDS") {
		return nil, fmt.Errorf("gives its shifts in %q, not in SECONDS", unit)
	}
	at := 11
	for range order.Uint32(data[40:]) {
		if len(data) < 16*(at+11) {
			return nil, errors.New("ends in the header of a sub-grid: it is incomplete")
		}
		s := subgrid{name: word(at), parent: word(at + 1), south: double(at + 4), north: double(at + 5),
			east: double(at + 6), west: double(at + 7), dlat: double(at + 8), dlon: double(at + 9)}
		count := int(order.Uint32(data[16*(at+10)+8:]))
		at += 11
		rows, columns := math.Round((s.north-s.south)/s.dlat)+1, math.Round((s.west-s.east)/s.dlon)+1
		if !(s.dlat > 0 && s.dlon > 0 && rows >= 2 && columns >= 2 && rows*columns <= mostNodes) ||
			int(rows*columns) != count {
			return nil, fmt.Errorf("has a sub-grid %q whose limits and steps don't match its %d nodes", s.name, count)
		}
		if len(data) < 16*(at+count) {
			return nil, fmt.Errorf("ends in the sub-grid %q: it is incomplete", s.name)
		}
		s.rows, s.columns = int(rows), int(columns)
		s.shifts = make([]float32, 4*count)
		for i := range s.shifts {
			s.shifts[i] = math.Float32frombits(order.Uint32(data[16*at+4*i:]))
		}
		at += count
		g.subs = append(g.subs, s)
	}
	if len(g.subs) == 0 {
		return nil, errors.New("holds no sub-grid")
	}
	return g, nil
}

// at finds the finest sub-grid that holds a place in seconds, west positive.
func (g *Grid) at(lat, west float64) *subgrid {
	var best *subgrid
	for i := range g.subs {
		s := &g.subs[i]
		const edge = 1e-6
		if lat >= s.south-edge && lat <= s.north+edge && west >= s.east-edge && west <= s.west+edge &&
			(best == nil || s.dlat < best.dlat) {
			best = s
		}
	}
	return best
}

// shift interpolates between the four nodes around a place, in seconds.
func (g *Grid) shift(lat, west float64) (dlat, dwest float64, ok bool) {
	s := g.at(lat, west)
	if s == nil {
		return 0, 0, false
	}
	y, x := (lat-s.south)/s.dlat, (west-s.east)/s.dlon
	row, column := min(int(math.Max(y, 0)), s.rows-2), min(int(math.Max(x, 0)), s.columns-2)
	y, x = y-float64(row), x-float64(column)
	value := func(of int) float64 {
		n := func(r, c int) float64 { return float64(s.shifts[4*((row+r)*s.columns+column+c)+of]) }
		return (1-y)*((1-x)*n(0, 0)+x*n(0, 1)) + y*((1-x)*n(1, 0)+x*n(1, 1))
	}
	dlat, dwest = value(0), value(1)
	return dlat, dwest, !math.IsNaN(dlat) && !math.IsNaN(dwest)
}

const seconds = 3600 / radian

func (g *Grid) forward(lat, lon float64) (float64, float64, bool) {
	lat, west := lat*seconds, -lon*seconds
	dlat, dwest, ok := g.shift(lat, west)
	return (lat + dlat) / seconds, -(west + dwest) / seconds, ok
}

func (g *Grid) inverse(lat, lon float64) (float64, float64, bool) {
	lat, west := lat*seconds, -lon*seconds
	x, y := lat, west
	for range 8 {
		dlat, dwest, ok := g.shift(x, y)
		if !ok {
			return 0, 0, false
		}
		x, y = lat-dlat, west-dwest
	}
	return x / seconds, -y / seconds, true
}
