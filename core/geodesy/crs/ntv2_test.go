package crs

import (
	"bytes"
	"encoding/binary"
	"math"
	"strings"
	"testing"
)

// grid makes an NTv2 file of a coarse grid over 46 to 48 south and 10 to 12 east, and a finer one in its middle, by the
// layout of the NTv2 developer's guide.
func grid(order binary.ByteOrder) []byte {
	var b bytes.Buffer
	text := func(key, value string) {
		b.WriteString(key + strings.Repeat(" ", 8-len(key)) + value + strings.Repeat(" ", 8-len(value)))
	}
	count := func(key string, n uint32) {
		b.WriteString(key + strings.Repeat(" ", 8-len(key)))
		binary.Write(&b, order, n)
		binary.Write(&b, order, uint32(0))
	}
	double := func(key string, v float64) {
		b.WriteString(key + strings.Repeat(" ", 8-len(key)))
		binary.Write(&b, order, v)
	}
	count("NUM_OREC", 11)
	count("NUM_SREC", 11)
	count("NUM_FILE", 2)
	text("GS_TYPE", "SECONDS")
	text("VERSION", "TEST")
	text("SYSTEM_F", "ISLES24")
	text("SYSTEM_T", "WGS84")
	double("MAJOR_F", 6378388)
	double("MINOR_F", 6356911.946)
	double("MAJOR_T", 6378137)
	double("MINOR_T", 6356752.314)
	sub := func(name, parent string, south, north, east, west, step float64, f func(lat, west float64) (float32,
		float32)) {
		text("SUB_NAME", name)
		text("PARENT", parent)
		text("CREATED", "")
		text("UPDATED", "")
		double("S_LAT", south)
		double("N_LAT", north)
		double("E_LONG", east)
		double("W_LONG", west)
		double("LAT_INC", step)
		double("LONG_INC", step)
		rows, columns := int((north-south)/step)+1, int((west-east)/step)+1
		count("GS_COUNT", uint32(rows*columns))
		for r := range rows {
			for c := range columns {
				a, o := f(south+float64(r)*step, east+float64(c)*step)
				binary.Write(&b, order, [4]float32{a, o, 0.1, 0.1})
			}
		}
	}
	sub("COARSE", "NONE", -48*3600, -46*3600, -12*3600, -10*3600, 3600, func(lat, west float64) (float32, float32) {
		return float32(3 + (lat+48*3600)/3600), float32(-2 + (west+12*3600)/7200)
	})
	sub("FINE", "COARSE", -47.5*3600, -47*3600, -11.5*3600, -11*3600, 900, func(lat, west float64) (float32,
		float32) {
		return 7, 8
	})
	text("END", "")
	return b.Bytes()
}

func TestGrid(t *testing.T) {
	for _, order := range []binary.ByteOrder{binary.LittleEndian, binary.BigEndian} {
		g, err := ParseGrid("isles.gsb", grid(order))
		if err != nil {
			t.Fatal(err)
		}
		// Bilinear between the nodes: at 46.5 S 10.25 E the latitude changes by 3 + 1.5 seconds, the longitude by -2 + 0.875
		// to the west. In the finer grid it is 7 and 8.
		for _, c := range []struct{ lat, lon, dlat, dwest float64 }{{-46.5, 10.25, 4.5, -1.125}, {-48, 12, 3, -2},
			{-46, 10, 5, -1}, {-47.2, 11.2, 7, 8}} {
			lat, lon, ok := g.forward(c.lat*radian, c.lon*radian)
			if !ok || math.Abs(lat/radian-c.lat-c.dlat/3600) > 1e-10 || math.Abs(lon/radian-c.lon+c.dwest/3600) > 1e-10 {
				t.Errorf("%v %v: %v %v %v", c.lat, c.lon, lat/radian, lon/radian, ok)
			}
		}
		lat, lon, ok := g.forward(-46.7*radian, 10.3*radian)
		back, east, ok2 := g.inverse(lat, lon)
		if !ok || !ok2 || math.Abs(back/radian+46.7) > 1e-11 || math.Abs(east/radian-10.3) > 1e-11 {
			t.Errorf("there and back: %v %v %v %v", back/radian, east/radian, ok, ok2)
		}
		if _, _, ok := g.forward(-45*radian, 11*radian); ok {
			t.Error("a place outside of the grid is shifted")
		}
		// In a system, the grid takes the place of the parameters.
		s, _ := Find("32732")
		s = s.WithShift(&Shift{Name: g.Name, Accuracy: -1, Grid: g})
		e, n, ok := s.Forward(-46.5, 10.5)
		if u, v, ok2 := s.Inverse(e, n); !ok || !ok2 || math.Abs(u+46.5) > 1e-9 || math.Abs(v-10.5) > 1e-9 {
			t.Errorf("in a system: %v %v", u, v)
		}
		if _, _, ok := s.Forward(10, 10.5); ok {
			t.Error("a system with a grid reaches beyond it")
		}
	}
}

func TestBadGrids(t *testing.T) {
	good := grid(binary.LittleEndian)
	for name, b := range map[string][]byte{"not an NTv2 shift grid": []byte("hello"), "incomplete": good[:700],
		"usual 11 records": bytes.Replace(good, []byte{11, 0, 0, 0}, []byte{9, 0, 0, 0}, 1),
		"not in SECONDS":   bytes.Replace(good, []byte("SECONDS"), []byte("MINUTES"), 1),
		"limits and steps": bytes.Replace(good, []byte("GS_COUNT\x09"), []byte("GS_COUNT\xff"), 1)} {
		if _, err := ParseGrid("x", b); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzGrid(f *testing.F) {
	f.Add(grid(binary.LittleEndian), -46.5, 10.5)
	f.Add(grid(binary.BigEndian), -47.1, 11.1)
	f.Fuzz(func(t *testing.T, data []byte, lat, lon float64) {
		if g, err := ParseGrid("x", data); err == nil {
			g.forward(lat*radian, lon*radian)
			g.inverse(lat*radian, lon*radian)
		}
	})
}
