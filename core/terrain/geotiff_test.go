package terrain

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
)

// byteOrder is either order, with its two interfaces.
type byteOrder interface {
	binary.ByteOrder
	binary.AppendByteOrder
}

// tiffOptions say how a test GeoTIFF is written.
type tiffOptions struct {
	order                                byteOrder
	bits, format, compression, predictor int
	tileW, tileH                         int // 0 for strips
	rows                                 int // of a strip
	point                                bool
	utm                                  int // an EPSG number
	nodata                               string
	keys                                 []int // further ones, four numbers each
	metadata                             string
	w, h                                 int
	x0, y0, step                         float64 // the outer corner of the first sample
}

// sampleBytes is one sample as bytes.
func (o *tiffOptions) sampleBytes(v float64) []byte {
	b := make([]byte, o.bits/8)
	switch {
	case o.format == 3 && o.bits == 32:
		o.order.PutUint32(b, math.Float32bits(float32(v)))
	case o.format == 3:
		o.order.PutUint64(b, math.Float64bits(v))
	case o.bits == 8:
		b[0] = byte(int(v))
	case o.bits == 16:
		o.order.PutUint16(b, uint16(int16(math.Round(v))))
	default:
		o.order.PutUint32(b, uint32(int32(math.Round(v))))
	}
	return b
}

// packBlock predicts and compresses rows of samples.
func (o *tiffOptions) packBlock(rows [][]float64) []byte {
	var raw []byte
	n := o.bits / 8
	for _, row := range rows {
		line := make([]byte, 0, len(row)*n)
		for _, v := range row {
			line = append(line, o.sampleBytes(v)...)
		}
		switch o.predictor {
		case 2:
			for i := len(line) - n; i >= n; i -= n {
				switch n {
				case 1:
					line[i] -= line[i-1]
				case 2:
					o.order.PutUint16(line[i:], o.order.Uint16(line[i:])-o.order.Uint16(line[i-2:]))
				case 4:
					o.order.PutUint32(line[i:], o.order.Uint32(line[i:])-o.order.Uint32(line[i-4:]))
				case 8:
					o.order.PutUint64(line[i:], o.order.Uint64(line[i:])-o.order.Uint64(line[i-8:]))
				}
			}
		case 3:
			planes := make([]byte, len(line))
			for i := range row {
				for b := range n { // plane 0 holds the most significant bytes
					from := b
					if o.order == byteOrder(binary.LittleEndian) {
						from = n - 1 - b
					}
					planes[b*len(row)+i] = line[i*n+from]
				}
			}
			for i := len(planes) - 1; i > 0; i-- {
				planes[i] -= planes[i-1]
			}
			line = planes
		}
		raw = append(raw, line...)
	}
	var out bytes.Buffer
	switch o.compression {
	case 8:
		z := zlib.NewWriter(&out)
		z.Write(raw)
		z.Close()
	case 5:
		return packLZW(raw)
	case 32773:
		for len(raw) > 0 { // runs and literals in turn
			run := 1
			for run < len(raw) && run < 128 && raw[run] == raw[0] {
				run++
			}
			if run > 2 {
				out.Write([]byte{byte(int8(1 - run)), raw[0]})
				raw = raw[run:]
				continue
			}
			k := min(len(raw), 3)
			out.WriteByte(byte(k - 1))
			out.Write(raw[:k])
			raw = raw[k:]
		}
	default:
		return raw
	}
	return out.Bytes()
}

// packLZW writes the codes of TIFF 6.0, section 13, with literals only and a table that is cleared before it grows.
func packLZW(raw []byte) []byte {
	var out []byte
	acc, bits := uint32(0), 0
	put := func(code uint32) {
		acc, bits = acc<<9|code, bits+9
		for bits >= 8 {
			out = append(out, byte(acc>>(bits-8)))
			bits -= 8
		}
	}
	for i, c := range raw {
		if i%200 == 0 {
			put(256)
		}
		put(uint32(c))
	}
	put(257)
	if bits > 0 {
		out = append(out, byte(acc<<(8-bits)))
	}
	return out
}

// geoTIFF writes a file of a height that depends on the coordinates of the samples' centres.
func geoTIFF(o tiffOptions, height func(x, y float64) float64) []byte {
	value := func(row, col int) float64 {
		return height(o.x0+(float64(col)+0.5)*o.step, o.y0-(float64(row)+0.5)*o.step)
	}
	var blocks [][]byte
	bw, bh := o.w, o.rows
	if o.tileW > 0 {
		bw, bh = o.tileW, o.tileH
	}
	for r := 0; r < o.h; r += bh {
		for c := 0; c < o.w; c += bw {
			var rows [][]float64
			for y := r; y < r+bh; y++ {
				if o.tileW == 0 && y >= o.h {
					break
				}
				row := make([]float64, bw)
				for x := range row {
					if c+x < o.w && y < o.h {
						row[x] = value(y, c+x)
					}
				}
				rows = append(rows, row)
			}
			blocks = append(blocks, o.packBlock(rows))
		}
	}
	type entry struct {
		tag, kind uint16
		count     int
		data      []byte
	}
	shorts := func(v ...int) (b []byte) {
		for _, x := range v {
			b = o.order.AppendUint16(b, uint16(x))
		}
		return
	}
	longs := func(v ...int) (b []byte) {
		for _, x := range v {
			b = o.order.AppendUint32(b, uint32(x))
		}
		return
	}
	doubles := func(v ...float64) (b []byte) {
		for _, x := range v {
			b = o.order.AppendUint64(b, math.Float64bits(x))
		}
		return
	}
	at := 8
	var offsets, counts []int
	for _, b := range blocks {
		offsets, counts = append(offsets, at), append(counts, len(b))
		at += len(b)
	}
	x, y, rasterType := o.x0, o.y0, 1
	if o.point { // the tie point is then the centre of the first sample
		x, y, rasterType = o.x0+o.step/2, o.y0-o.step/2, 2
	}
	keys := []int{1, 1, 0, 3, 1024, 0, 1, 2, 1025, 0, 1, rasterType, 2048, 0, 1, 4326}
	if o.utm != 0 {
		keys = []int{1, 1, 0, 3, 1024, 0, 1, 1, 1025, 0, 1, rasterType, 3072, 0, 1, o.utm}
	}
	keys[3] += len(o.keys) / 4
	keys = append(keys, o.keys...)
	entries := []entry{{256, 3, 1, shorts(o.w)}, {257, 3, 1, shorts(o.h)}, {258, 3, 1, shorts(o.bits)},
		{259, 3, 1, shorts(o.compression)}}
	if o.tileW == 0 {
		entries = append(entries, entry{273, 4, len(offsets), longs(offsets...)}, entry{278, 3, 1, shorts(o.rows)},
			entry{279, 4, len(counts), longs(counts...)})
	}
	entries = append(entries, entry{317, 3, 1, shorts(max(o.predictor, 1))})
	if o.tileW > 0 {
		entries = append(entries, entry{322, 3, 1, shorts(o.tileW)}, entry{323, 3, 1, shorts(o.tileH)},
			entry{324, 4, len(offsets), longs(offsets...)}, entry{325, 4, len(counts), longs(counts...)})
	}
	entries = append(entries, entry{339, 3, 1, shorts(o.format)}, entry{33550, 12, 3, doubles(o.step, o.step, 0)},
		entry{33922, 12, 6, doubles(0, 0, 0, x, y, 0)}, entry{34735, 3, len(keys), shorts(keys...)})
	if o.metadata != "" {
		entries = append(entries, entry{42112, 2, len(o.metadata) + 1, append([]byte(o.metadata), 0)})
	}
	if o.nodata != "" {
		entries = append(entries, entry{42113, 2, len(o.nodata) + 1, append([]byte(o.nodata), 0)})
	}
	out := []byte("II*\x00")
	if o.order == byteOrder(binary.BigEndian) {
		out = []byte("MM\x00*")
	}
	out = o.order.AppendUint32(out, uint32(at))
	for _, b := range blocks {
		out = append(out, b...)
	}
	extra := at + 2 + 12*len(entries) + 4
	var tail []byte
	out = o.order.AppendUint16(out, uint16(len(entries)))
	for _, e := range entries {
		out = o.order.AppendUint32(o.order.AppendUint16(o.order.AppendUint16(out, e.tag), e.kind), uint32(e.count))
		if len(e.data) <= 4 {
			out = append(out, append(e.data, make([]byte, 4-len(e.data))...)...)
			continue
		}
		out = o.order.AppendUint32(out, uint32(extra+len(tail)))
		tail = append(tail, e.data...)
	}
	return append(append(out, 0, 0, 0, 0), tail...)
}

// Every layout, compression and predictor, in both byte orders, gives the same heights.
func TestGeoTIFFLayouts(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	for _, order := range []byteOrder{binary.LittleEndian, binary.BigEndian} {
		for _, c := range [][2]int{{16, 2}, {32, 2}, {32, 3}, {64, 3}, {8, 1}} {
			for _, compression := range []int{1, 5, 8, 32773} {
				for predictor := 1; predictor <= 3; predictor++ {
					if predictor == 3 && c[1] != 3 {
						continue
					}
					for _, tiled := range []bool{false, true} {
						o := tiffOptions{order: order, bits: c[0], format: c[1], compression: compression, predictor: predictor,
							rows: 7, w: 100, h: 70, x0: 11, y0: -47, step: 0.01}
						if tiled {
							o.tileW, o.tileH = 32, 16
						}
						height := slope
						if c[0] == 8 {
							height = func(x, y float64) float64 { return math.Round(100 + 50*(y+47)) }
						} else {
							height = func(x, y float64) float64 { return slope(y, x) }
						}
						if c[0] != 8 && c[1] != 3 {
							height = func(x, y float64) float64 { return math.Round(slope(y, x)) }
						}
						x := open(t, save(t, "a.tif", geoTIFF(o, height)))
						name := fmt.Sprintf("%v bits %d format %d compression %d predictor %d tiled %v", order, c[0], c[1], compression,
							predictor, tiled)
						for _, p := range [][2]int{{0, 0}, {50, 33}, {99, 69}, {31, 15}, {64, 48}} {
							lon, lat := 11+(float64(p[0])+0.5)*0.01, -47-(float64(p[1])+0.5)*0.01
							got, outcome := x.Height(lat, lon)
							if want := height(lon, lat); outcome != Given || math.Abs(got-want) > 0.01 {
								t.Fatalf("%s: sample %v: %v (%d), want %v; %v", name, p, got, outcome, want, x.Err())
							}
						}
					}
				}
			}
		}
	}
}

func float32TIFF(o tiffOptions) tiffOptions {
	o.order, o.bits, o.format, o.compression, o.predictor, o.rows = binary.LittleEndian, 32, 3, 8, 1, 16
	return o
}

// A sample that stands for a point is at the tie point, one that stands for an area half a sample away.
func TestPointAndArea(t *testing.T) {
	for _, point := range []bool{false, true} {
		o := float32TIFF(tiffOptions{w: 100, h: 100, x0: 11, y0: -47, step: 0.01, point: point})
		x := open(t, save(t, "a.tif", geoTIFF(o, func(x, y float64) float64 { return slope(y, x) })))
		check(t, x, -47.4321, 11.5678, slope(-47.4321, 11.5678), 0.01)
	}
}

// Heights are in the unit that the file names, with its scale and offset; what is void stays void.
func TestMeasureOfHeights(t *testing.T) {
	metadata := `<GDALMetadata><Item name="SCALE" sample="0" role="scale">0.1</Item>` +
		`<Item name="OFFSET" sample="0" role="offset">50</Item><Item name="of another">7</Item></GDALMetadata>`
	for name, c := range map[string]struct {
		keys     []int
		metadata string
		stored   float64
	}{
		"metres":           {[]int{4099, 0, 1, 9001}, "", 100},
		"feet":             {[]int{4099, 0, 1, 9002}, "", 100 / 0.3048},
		"US survey feet":   {[]int{4099, 0, 1, 9003}, "", 100 * 3937.0 / 1200},
		"a system in feet": {[]int{4096, 0, 1, 6360}, "", 100 * 3937.0 / 1200},
		"scale and offset": {nil, metadata, 500},
	} {
		o := float32TIFF(tiffOptions{w: 50, h: 50, x0: 11, y0: -47, step: 0.01, keys: c.keys, metadata: c.metadata,
			nodata: "-9999"})
		x := open(t, save(t, "a.tif", geoTIFF(o, func(float64, float64) float64 { return c.stored })))
		if height, _ := x.Height(-47.2, 11.2); math.Abs(height-100) > 1e-4 {
			t.Errorf("%s: %v m", name, height)
		}
	}
	o := float32TIFF(tiffOptions{w: 50, h: 50, x0: 11, y0: -47, step: 0.01, keys: []int{4099, 0, 1, 9036}})
	if _, err := Open([]string{save(t, "b.tif", geoTIFF(o, func(float64, float64) float64 { return 1 }))}); err == nil ||
		!strings.Contains(err.Error(), "in the unit EPSG 9036") {
		t.Errorf("%v", err)
	}
}

func TestUTMTerrain(t *testing.T) {
	zone := geodesy.UTM{Zone: 32, South: true}
	east, north := zone.Forward(-47.6, 11.3)
	o := float32TIFF(tiffOptions{w: 200, h: 200, x0: east - 1000, y0: north + 1000, step: 10, utm: 32732})
	x := open(t, save(t, "a.tif", geoTIFF(o, func(x, y float64) float64 { return 500 + (x-east)/10 + (y-north)/20 })))
	for _, d := range [][2]float64{{0, 0}, {333, -421}, {-900, 900}} {
		lat, lon := zone.Inverse(east+d[0], north+d[1])
		check(t, x, lat, lon, 500+d[0]/10+d[1]/20, 0.001)
	}
	if _, outcome := x.Height(-47.7, 11.3); outcome != Outside {
		t.Error("beyond its edge it has a height")
	}
}

func FuzzTIFF(f *testing.F) {
	for _, c := range []int{1, 5, 8, 32773} {
		o := tiffOptions{order: binary.LittleEndian, bits: 16, format: 2, compression: c, predictor: 2, rows: 4, w: 10,
			h: 9, x0: 11, y0: -47, step: 0.1}
		f.Add(geoTIFF(o, func(x, y float64) float64 { return x }))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		path := filepath.Join(t.TempDir(), "a.tif")
		os.WriteFile(path, data, 0o666)
		x, err := Open([]string{path})
		if err != nil {
			return
		}
		for lon := 10.5; lon < 12.5; lon += 0.3 {
			x.Height(-47.3, lon)
		}
	})
}
