package terrain

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/nav"
)

// slope is a plane in degrees, which bilinear interpolation gives back exactly.
func slope(lat, lon float64) float64 { return 1000 + 400*(lat+47) + 300*(lon-11) }

func save(t testing.TB, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, content, 0o666); err != nil {
		t.Fatal(err)
	}
	return path
}

// hgt makes a raw tile of a degree with a side of n samples.
func hgt(lat, lon, n int, height func(lat, lon float64) float64) []byte {
	var b bytes.Buffer
	for row := range n {
		for col := range n {
			v := height(float64(lat)+1-float64(row)/float64(n-1), float64(lon)+float64(col)/float64(n-1))
			i := int16(hgtVoid)
			if v == v {
				i = int16(math.Round(v))
			}
			binary.Write(&b, binary.BigEndian, i)
		}
	}
	return b.Bytes()
}

func open(t testing.TB, paths ...string) *Terrain {
	t.Helper()
	x, err := Open(paths)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

func check(t *testing.T, x *Terrain, lat, lon, want, within float64) {
	t.Helper()
	got, outcome := x.Height(lat, lon)
	if outcome > Filled || math.Abs(got-want) > within {
		t.Errorf("%v %v: %.4f (%d), want %.4f; %v", lat, lon, got, outcome, want, x.Err())
	}
}

func TestHGT(t *testing.T) {
	dir := t.TempDir()
	for _, lon := range []int{10, 11} {
		os.WriteFile(filepath.Join(dir, tileWord(-48, lon)+".hgt"), hgt(-48, lon, 1201, slope), 0o666)
	}
	x := open(t, dir)
	for _, p := range [][2]float64{{-47.5, 11.5}, {-47.99999, 11.99999}, {-47.123456, 10.654321}, {-47.25, 11},
		{-47.25, 10.9999}, {-48, 11.5}, {-47, 11.5}} {
		check(t, x, p[0], p[1], slope(p[0], p[1]), 0.51) // the samples are whole metres
	}
	if _, o := x.Height(-47.5, 12.5); o != Outside || x.Missing(-47.5, 12.5) != "S48E012" {
		t.Errorf("outside: %d %s", o, x.Missing(-47.5, 12.5))
	}
	if x.Missing(0.5, -0.5) != "N00W001" {
		t.Errorf("tile %s", x.Missing(0.5, -0.5))
	}
}

func TestZippedHGT(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, _ := z.Create("some/S48E011.hgt")
	w.Write(hgt(-48, 11, 1201, slope))
	z.Close()
	check(t, open(t, save(t, "tiles.zip", b.Bytes())), -47.5, 11.5, slope(-47.5, 11.5), 0.51)
}

// A void is no height, not even beside one; filled from its rim it is near to what was there.
func TestVoids(t *testing.T) {
	hole := func(lat, lon float64) float64 {
		if math.Hypot(lat+47.5, lon-11.5) < 0.02 {
			return math.NaN()
		}
		return slope(lat, lon)
	}
	path := save(t, "S48E011.hgt", hgt(-48, 11, 1201, hole))
	x := open(t, path)
	for _, lat := range []float64{-47.5, -47.4803} {
		if h, o := x.Height(lat, 11.5); o != InVoid {
			t.Errorf("in the void: %v (%d)", h, o)
		}
	}
	x.FillVoids = true
	h, o := x.Height(-47.5, 11.5)
	if o != Filled || math.Abs(h-slope(-47.5, 11.5)) > 3 {
		t.Errorf("filled: %v (%d), want %v", h, o, slope(-47.5, 11.5))
	}
}

// Between two areas that abut, a height is found from samples of both; with a gap there is none.
func TestSeam(t *testing.T) {
	dir := t.TempDir()
	for i, x0 := range []float64{11, 12} {
		o := float32TIFF(tiffOptions{w: 100, h: 100, x0: x0, y0: -47, step: 0.01})
		os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.tif", i)),
			geoTIFF(o, func(x, y float64) float64 { return slope(y, x) }), 0o666)
	}
	x := open(t, dir)
	for _, lon := range []float64{11.9951, 11.9975, 12, 12.002, 12.0049} {
		check(t, x, -47.5, lon, slope(-47.5, lon), 0.01)
	}
}

// A grid around the earth has no edge at the antimeridian, and its rows go on beyond the poles.
func TestGlobal(t *testing.T) {
	o := float32TIFF(tiffOptions{w: 360, h: 180, x0: -180, y0: 90, step: 1})
	wave := func(x, y float64) float64 { return 100 * math.Cos(x*math.Pi/180) * math.Cos(y*math.Pi/180) }
	x := open(t, save(t, "a.tif", geoTIFF(o, wave)))
	for _, p := range [][2]float64{{10, 179.9}, {10, -179.9}, {10, -180}, {-89.9, 30}, {89.9, -150}, {-90, 0}, {0, 0}} {
		check(t, x, p[0], p[1], wave(p[1], p[0]), 0.05)
	}
	// From 0 to 360 is around the earth as well.
	o.x0 = 0
	x = open(t, save(t, "b.tif", geoTIFF(o, wave)))
	for _, p := range [][2]float64{{10, 179.9}, {10, -0.1}, {10, 0.1}, {-47.6, -120}} {
		check(t, x, p[0], p[1], wave(p[1], p[0]), 0.05)
	}
}

func TestASCII(t *testing.T) {
	var b strings.Builder
	b.WriteString("ncols 50\r\nNROWS 80\nxllcorner 11\nyllcorner -48\ncellsize 0.01\nNODATA_value -9999\n")
	for row := range 80 {
		for col := range 50 {
			lat, lon := -48+0.8-(float64(row)+0.5)*0.01, 11+(float64(col)+0.5)*0.01
			v := fmt.Sprintf("%.3f", slope(lat, lon))
			if row == 40 && col == 25 {
				v = "-9999"
			}
			sep := " "
			if col%13 == 12 {
				sep = "\n" // rows may be parted over lines
			}
			b.WriteString(v + sep)
		}
	}
	path := save(t, "a.asc", []byte(b.String()))
	x := open(t, path)
	for _, p := range [][2]float64{{-47.3, 11.1}, {-47.9, 11.45}, {-47.213, 11.016}} {
		check(t, x, p[0], p[1], slope(p[0], p[1]), 0.01)
	}
	if _, o := x.Height(-48+0.8-0.405, 11.255); o != InVoid {
		t.Error("the void has a height")
	}
	for _, c := range []struct{ text, want string }{
		{"ncols 2\nnrows 2\nxllcorner 1\nyllcorner 1\ncellsize 1\n1 2 3", "3 heights, but its header says 2 × 2"},
		{"ncols 2\nnrows 2\nxllcorner 500000\nyllcorner 4700000\ncellsize 10\n1 2 3 4", "not in degrees"},
		{"ncols 2\nnrows 2\nxllcorner 1\nyllcorner 1\ndx 9e9\ndy 1\n1 2 3 4", "not in degrees"},
		{"ncols 2\nnrows 2\ncellsize 1\n1 2 3 4", "doesn't give the location"},
		{"ncols x\n", "is not a number"},
		{"ncols 2\nnrows 99999999999\ncellsize 1\n1", "doesn't give the size"},
	} {
		if _, err := Open([]string{save(t, "b.asc", []byte(c.text))}); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.30q: %v, want %q", c.text, err, c.want)
		}
	}
}

func TestBetween(t *testing.T) {
	o := float32TIFF(tiffOptions{w: 50, h: 50, x0: 11, y0: -47, step: 0.01})
	curve := func(x, y float64) float64 { return 1000 * (x - 11.25) * (x - 11.25) }
	x := open(t, save(t, "a.tif", geoTIFF(o, curve)))
	x.Between = Nearest
	check(t, x, -47.25, 11.2561, curve(11.255, 0), 1e-3)
	x.Between = Cubic // gives parabolas back exactly
	check(t, x, -47.25, 11.2561, curve(11.2561, 0), 1e-3)
	if _, err := ParseBetween("magic"); err == nil {
		t.Error("a way that there is not")
	}
}

func TestRefusals(t *testing.T) {
	good := geoTIFF(float32TIFF(tiffOptions{w: 50, h: 50, x0: 11, y0: -47, step: 0.01}),
		func(x, y float64) float64 { return 1 })
	projected := geoTIFF(float32TIFF(tiffOptions{w: 50, h: 50, x0: 11, y0: -47, step: 0.01, utm: 2154}),
		func(x, y float64) float64 { return 1 })
	// With a damaged step a grid would go round the earth a million times.
	wide := geoTIFF(float32TIFF(tiffOptions{w: 50, h: 2, x0: 11, y0: -47, step: 8}),
		func(x, y float64) float64 { return 1 })
	for _, c := range []struct {
		name    string
		content []byte
		want    string
	}{
		{"cut.tif", good[:len(good)-40], "cut off"},
		{"crs.tif", projected, "EPSG 2154"},
		{"wide.tif", wide, "says that it is in degrees"},
		{"S48E011.hgt", make([]byte, 1000), "don't make a square"},
		{"tile.hgt", make([]byte, 2*1201*1201), "named by its south-western corner"},
		{"words.txt", []byte("hello"), "is not supported terrain"},
	} {
		if _, err := Open([]string{save(t, c.name, c.content)}); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.name, err, c.want)
		}
	}
	if _, err := Open([]string{t.TempDir()}); err == nil || !strings.Contains(err.Error(), "contains no terrain") {
		t.Errorf("an empty folder: %v", err)
	}
	// A link to nothing in a folder is no terrain; the tiles beside it are.
	folder := filepath.Dir(save(t, "good.tif", good))
	if err := os.Symlink(filepath.Join(folder, "gone"), filepath.Join(folder, "old.tif")); err == nil {
		open(t, folder)
	}
	// A damaged block is found when it is read, and is an error, not a height.
	damaged := bytes.Clone(good)
	for i := 8; i < 40; i++ {
		damaged[i] = 0xFF
	}
	x := open(t, save(t, "damaged.tif", damaged))
	if _, o := x.Height(-47.01, 11.1); o != Failed || x.Err() == nil {
		t.Errorf("a damaged block: %d %v", o, x.Err())
	}
}

// Memory stays bounded whatever the size of the terrain.
func TestBoundedMemory(t *testing.T) {
	dir := t.TempDir()
	tile := hgt(-48, 11, 1201, slope)
	for lon := range 60 {
		os.WriteFile(filepath.Join(dir, tileWord(-48, lon)+".hgt"), tile, 0o666)
	}
	x := open(t, dir)
	for round := range 2 {
		for lon := range 60 {
			if _, o := x.Height(-47.5, float64(lon)+0.5); o != Given {
				t.Fatalf("round %d, tile %d: %d %v", round, lon, o, x.Err())
			}
			if x.bytes > mostBytes {
				t.Fatalf("%d bytes are kept", x.bytes)
			}
		}
	}
}

func FuzzASCII(f *testing.F) {
	f.Add([]byte("ncols 2\nnrows 2\nxllcorner 11\nyllcorner -48\ncellsize 1\nnodata_value -1\n1 2\n3 -1\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		path := filepath.Join(t.TempDir(), "a.asc")
		os.WriteFile(path, append([]byte("ncols "), data...), 0o666)
		x, err := Open([]string{path})
		if err != nil {
			return
		}
		x.Height(-47.3, 11.5)
		x.Height(-47.6, 12.5)
	})
}

// Bilinear heights of a track against a bare pass over the same points.
func BenchmarkBilinear(b *testing.B) {
	x := open(b, save(b, "S48E011.hgt", hgt(-48, 11, 1201, slope)))
	points := make([]nav.Point, 100000)
	for i := range points {
		t := float64(i) / 1000
		points[i] = nav.At(-47.5+0.3*math.Sin(t), 11.5+0.3*math.Cos(t*1.3))
	}
	x.Height(-47.5, 11.5)
	sum := 0.0
	b.Run("bare pass", func(b *testing.B) {
		for b.Loop() {
			for i := range points {
				sum += points[i].Lat + points[i].Lon
			}
		}
	})
	b.Run("heights", func(b *testing.B) {
		for b.Loop() {
			for i := range points {
				h, _ := x.Height(points[i].Lat, points[i].Lon)
				sum += h
			}
		}
	})
	_ = sum
}

// A damaged archive or block gives no other heights: its checksum is looked at.
func TestDamagedTiles(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, _ := z.Create("S48E011.hgt")
	w.Write(hgt(-48, 11, 1201, slope))
	z.Close()
	for at := 200; at < b.Len()-100; at += b.Len() / 40 {
		damaged := bytes.Clone(b.Bytes())
		damaged[at] ^= 4
		x := open(t, save(t, "tiles.zip", damaged))
		if h, o := x.Height(-47.5, 11.5); o <= Filled || x.Err() == nil {
			t.Errorf("a flipped bit at %d gives the height %v", at, h)
		}
	}
}
