package terrain

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"strconv"
	"strings"

	"golang.org/x/image/tiff/lzw"

	"gyrolith/core/geodesy"
)

// The tags of TIFF 6.0, of its technical notes, and of GeoTIFF 1.1 (OGC 19-008r4) that matter here.
const (
	tagWidth, tagHeight, tagBits, tagCompression               = 256, 257, 258, 259
	tagStripOffsets, tagSamples, tagRowsPerStrip               = 273, 277, 278
	tagStripCounts, tagPlanar, tagPredictor                    = 279, 284, 317
	tagTileWidth, tagTileHeight, tagTileOffsets, tagTileCounts = 322, 323, 324, 325
	tagSampleFormat                                            = 339
	tagScale, tagTiepoint, tagTransform                        = 33550, 33922, 34264
	tagGeoKeys                                                 = 34735
	tagMetadata, tagNodata                                     = 42112, 42113 // texts, by custom

	keyModel, keyRaster, keyGeographic, keyProjected = 1024, 1025, 2048, 3072
	keyVertical, keyVerticalUnits                    = 4096, 4099
)

// tiffFile is one image of a TIFF file.
type tiffFile struct {
	path  string
	order binary.ByteOrder
	size  int64
	big   bool
	tags  map[uint16][]float64
	texts map[uint16]string
}

func (t *tiffFile) fault(text string, args ...any) error {
	return fmt.Errorf("%s: %s", t.path, fmt.Sprintf(text, args...))
}

func (t *tiffFile) number(tag uint16, def int) int {
	if v := t.tags[tag]; len(v) > 0 {
		return int(v[0])
	}
	return def
}

var typeSize = map[uint16]int{1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 16: 8, 17: 8,
	18: 8}

// mostValues bounds what one tag may hold: the offsets of a very large image.
const mostValues = 1 << 24

// openTIFF opens a GeoTIFF: one band of integers or floats, in strips or tiles, uncompressed or with deflate, LZW or
// PackBits, with any of the predictors; in geographic coordinates of WGS 84 or a UTM zone.
func openTIFF(path string) (*raster, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	t := &tiffFile{path: path, size: info.Size(), tags: map[uint16][]float64{}, texts: map[uint16]string{}}
	if err := t.directory(f); err != nil {
		return nil, err
	}
	return t.raster()
}

func (t *tiffFile) directory(f io.ReaderAt) error {
	head := make([]byte, 16)
	if _, err := f.ReadAt(head, 0); err != nil && err != io.EOF {
		return err
	}
	switch string(head[:2]) {
	case "II":
		t.order = binary.LittleEndian
	case "MM":
		t.order = binary.BigEndian
	default:
		return t.fault("is not a TIFF")
	}
	entry, at := 12, int64(t.order.Uint32(head[4:]))
	switch t.order.Uint16(head[2:]) {
	case 42:
	case 43:
		t.big, entry, at = true, 20, int64(t.order.Uint64(head[8:]))
	default:
		return t.fault("is not a TIFF")
	}
	countSize := 2
	if t.big {
		countSize = 8
	}
	raw := make([]byte, countSize)
	if _, err := f.ReadAt(raw, at); err != nil {
		return t.fault("is cut off: its directory is missing")
	}
	n := int(t.order.Uint16(raw))
	if t.big {
		n = int(min(t.order.Uint64(raw), 1<<16))
	}
	if n == 0 || n > 4096 {
		return t.fault("its directory has an impossible number of entries, %d", n)
	}
	dir := make([]byte, n*entry)
	if _, err := f.ReadAt(dir, at+int64(countSize)); err != nil {
		return t.fault("is cut off inside its directory")
	}
	for i := range n {
		if err := t.entry(f, dir[i*entry:(i+1)*entry]); err != nil {
			return err
		}
	}
	return nil
}

func (t *tiffFile) entry(f io.ReaderAt, e []byte) error {
	tag, kind := t.order.Uint16(e), t.order.Uint16(e[2:])
	count, inline := uint64(t.order.Uint32(e[4:])), e[8:12]
	if t.big {
		count, inline = t.order.Uint64(e[4:]), e[12:20]
	}
	size := typeSize[kind]
	if size == 0 {
		return nil
	}
	if count > mostValues {
		return t.fault("tag %d says that it has %d values", tag, count)
	}
	data := inline
	if total := int(count) * size; total > len(inline) {
		at := int64(t.order.Uint32(inline))
		if t.big {
			at = int64(t.order.Uint64(inline))
		}
		if at < 0 || at+int64(total) > t.size {
			return t.fault("is cut off: tag %d points beyond its end", tag)
		}
		data = make([]byte, total)
		if _, err := f.ReadAt(data, at); err != nil {
			return t.fault("tag %d can't be read (%v)", tag, err)
		}
	}
	if kind == 2 {
		t.texts[tag] = strings.TrimRight(string(data[:count]), "\x00 ")
		return nil
	}
	values := make([]float64, count)
	for i := range values {
		b := data[i*size:]
		switch kind {
		case 1, 7:
			values[i] = float64(b[0])
		case 6:
			values[i] = float64(int8(b[0]))
		case 3:
			values[i] = float64(t.order.Uint16(b))
		case 8:
			values[i] = float64(int16(t.order.Uint16(b)))
		case 4:
			values[i] = float64(t.order.Uint32(b))
		case 9:
			values[i] = float64(int32(t.order.Uint32(b)))
		case 11:
			values[i] = float64(math.Float32frombits(t.order.Uint32(b)))
		case 12:
			values[i] = math.Float64frombits(t.order.Uint64(b))
		case 16, 18:
			values[i] = float64(t.order.Uint64(b))
		case 17:
			values[i] = float64(int64(t.order.Uint64(b)))
		case 5, 10:
			values[i] = float64(t.order.Uint32(b)) / float64(t.order.Uint32(b[4:]))
		}
	}
	t.tags[tag] = values
	return nil
}

// keys gives the GeoKeys that are numbers.
func (t *tiffFile) keys() map[int]int {
	keys := map[int]int{}
	if v := t.tags[tagGeoKeys]; len(v) >= 4 {
		for i := 4; i+3 < len(v); i += 4 {
			if v[i+1] == 0 {
				keys[int(v[i])] = int(v[i+3])
			}
		}
	}
	return keys
}

// The feet in which heights are given, in metres: the international one and that of the US survey (EPSG 9002, 9003).
const (
	foot       = 0.3048
	surveyFoot = 1200.0 / 3937
)

// inFeet are the vertical systems of the EPSG that count feet.
var inFeet = map[int]float64{8228: foot, 6360: surveyFoot, 5702: surveyFoot, 8050: foot, 8052: surveyFoot}

// measure gives the metres of a unit of the samples, and what is added to them: by the vertical unit of the keys, and
// by the scale and offset of the metadata.
func (t *tiffFile) measure() (scale, offset float64, err error) {
	scale = 1
	keys := t.keys()
	metres, known := inFeet[keys[keyVertical]]
	if !known {
		metres = 1
	}
	switch unit := keys[keyVerticalUnits]; unit {
	case 0, 32767:
	case 9001:
		metres = 1
	case 9002:
		metres = foot
	case 9003:
		metres = surveyFoot
	default:
		return 0, 0, t.fault("its heights are in the unit EPSG %d; only metres, feet and US survey feet are supported", unit)
	}
	var metadata struct {
		Items []struct {
			Role   string `xml:"role,attr"`
			Sample string `xml:"sample,attr"`
			Text   string `xml:",chardata"`
		} `xml:"Item"`
	}
	if text := t.texts[tagMetadata]; text != "" && xml.Unmarshal([]byte(text), &metadata) == nil {
		for _, item := range metadata.Items {
			v, err := strconv.ParseFloat(strings.TrimSpace(item.Text), 64)
			if err != nil || item.Sample != "" && item.Sample != "0" {
				continue
			}
			switch item.Role {
			case "scale":
				scale = v
			case "offset":
				offset = v
			}
		}
	}
	return scale * metres, offset * metres, nil
}

// geo finds where the samples are.
func (t *tiffFile) geo() (georef, error) {
	keys := t.keys()
	var g georef
	scale, tie, matrix := t.tags[tagScale], t.tags[tagTiepoint], t.tags[tagTransform]
	switch {
	case len(scale) >= 2 && len(tie) >= 6:
		g = georef{tie[3] - tie[0]*scale[0], tie[4] + tie[1]*scale[1], scale[0], -scale[1], nil}
	case len(matrix) >= 16 && matrix[1] == 0 && matrix[4] == 0:
		g = georef{matrix[3], matrix[7], matrix[0], matrix[5], nil}
	default:
		return g, t.fault("has no supported location (a pixel scale with one tie point, or a matrix " +
			"without rotation)")
	}
	if !(g.dx > 0) || !(g.dy < 0) {
		return g, t.fault("its rows don't go from north to south and west to east")
	}
	// Of samples that stand for areas the given corner is half a sample away from the centre of the first.
	if keys[keyRaster] != 2 {
		g.x0, g.y0 = g.x0+g.dx/2, g.y0+g.dy/2
	}
	switch keys[keyModel] {
	case 2, 0:
		if code := keys[keyGeographic]; code != 0 && code != 4326 && code != 4258 && code != 4979 {
			return g, t.fault("is in the coordinate system EPSG %d; only WGS 84, ETRS89 and their UTM zones are supported", code)
		}
	case 1:
		code := keys[keyProjected]
		switch {
		case code > 32600 && code <= 32660:
			g.utm = &geodesy.UTM{Zone: code - 32600}
		case code > 32700 && code <= 32760:
			g.utm = &geodesy.UTM{Zone: code - 32700, South: true}
		case code >= 25828 && code <= 25838:
			g.utm = &geodesy.UTM{Zone: code - 25800}
		default:
			return g, t.fault("is in the projected coordinate system EPSG %d; only UTM zones of WGS 84 and ETRS89 are "+
				"supported", code)
		}
	default:
		return g, t.fault("is in a coordinate system of an unsupported kind")
	}
	return g, nil
}

func (t *tiffFile) raster() (*raster, error) {
	g, err := t.geo()
	if err != nil {
		return nil, err
	}
	w, h := t.number(tagWidth, 0), t.number(tagHeight, 0)
	bits, format := t.number(tagBits, 1), t.number(tagSampleFormat, 1)
	switch {
	case !checkSize(w, h):
		return nil, t.fault("its size is %d × %d", w, h)
	case t.number(tagSamples, 1) != 1:
		return nil, t.fault("has %d bands; a grid of heights has one", t.number(tagSamples, 1))
	case !(format == 3 && (bits == 32 || bits == 64) || (format == 1 || format == 2) &&
		(bits == 8 || bits == 16 || bits == 32)):
		return nil, t.fault("its samples have %d bits of format %d; integers of 8 to 32 bits and floats of 32 and 64 "+
			"are read", bits, format)
	}
	compression := t.number(tagCompression, 1)
	switch compression {
	case 1, 5, 8, 32946, 32773:
	default:
		return nil, t.fault("its compression %d is not supported; none, LZW, deflate and PackBits are", compression)
	}
	predictor := t.number(tagPredictor, 1)
	if predictor < 1 || predictor > 3 || predictor == 3 && format != 3 {
		return nil, t.fault("its predictor %d is not supported", predictor)
	}
	r := &raster{name: t.path, path: t.path, width: w, height: h, geo: g}
	if !r.onEarth() {
		return nil, t.fault("says that it is in degrees, but begins at %g %g with steps of %g %g", g.x0, g.y0, g.dx, g.dy)
	}
	offsets, counts := t.tags[tagTileOffsets], t.tags[tagTileCounts]
	tiled := len(offsets) > 0
	if tiled {
		r.blockW, r.blockH = t.number(tagTileWidth, 0), t.number(tagTileHeight, 0)
	} else {
		offsets, counts = t.tags[tagStripOffsets], t.tags[tagStripCounts]
		r.blockW, r.blockH = w, min(t.number(tagRowsPerStrip, h), h)
	}
	if r.blockW < 1 || r.blockH < 1 || int64(r.blockW)*int64(r.blockH) > 1<<28 {
		return nil, t.fault("its blocks are %d × %d samples", r.blockW, r.blockH)
	}
	across, down := (w+r.blockW-1)/r.blockW, (h+r.blockH-1)/r.blockH
	if len(offsets) < across*down || len(counts) < across*down {
		return nil, t.fault("lists %d blocks, but its size needs %d", min(len(offsets), len(counts)), across*down)
	}
	nodata, err := strconv.ParseFloat(strings.TrimSpace(t.texts[tagNodata]), 64)
	hasNodata := err == nil
	scale, offset, err := t.measure()
	if err != nil {
		return nil, err
	}
	d := decoder{t, bits / 8, format, compression, predictor, nodata, hasNodata}
	r.read = func(f io.ReaderAt, bx, by int) ([]float32, error) {
		i := by*across + bx
		rows := r.blockH
		if !tiled {
			rows = min(rows, h-by*r.blockH)
		}
		out, err := d.block(f, int64(offsets[i]), int64(counts[i]), r.blockW, rows)
		if err != nil {
			return nil, t.fault("block %d: %v", i, err)
		}
		if scale != 1 || offset != 0 { // what is void stays so
			for k := range out {
				out[k] = float32(float64(out[k])*scale + offset)
			}
		}
		for len(out) < r.blockW*r.blockH { // the last strip is shorter
			out = append(out, void)
		}
		return out, nil
	}
	r.setGlobal()
	return r, nil
}

// decoder makes heights of the bytes of one block.
type decoder struct {
	t           *tiffFile
	bytes       int
	format      int
	compression int
	predictor   int
	nodata      float64
	hasNodata   bool
}

// mostPacked is more than any of the compressions gains: LZW, with strings of 4,096 bytes for 12 bits, gains the most.
const mostPacked = 4096

func (d *decoder) block(f io.ReaderAt, offset, count int64, w, h int) ([]float32, error) {
	want := w * h * d.bytes
	if offset == 0 && count == 0 { // a sparse file leaves blocks out that hold nothing
		out := make([]float32, w*h)
		for i := range out {
			out[i] = void
		}
		return out, nil
	}
	if offset < 0 || count < 0 || offset+count > d.t.size {
		return nil, errors.New("lies beyond the end of the file, which is cut off")
	}
	if d.compression != 1 && int64(want) > mostPacked*count || d.compression == 1 && count < int64(want) {
		return nil, errors.New("is too short")
	}
	packed := make([]byte, count)
	if _, err := f.ReadAt(packed, offset); err != nil {
		return nil, err
	}
	raw := make([]byte, want)
	var err error
	switch d.compression {
	case 1:
		copy(raw, packed)
	case 5:
		in := lzw.NewReader(bytes.NewReader(packed), lzw.MSB, 8)
		_, err = io.ReadFull(in, raw)
		in.Close()
	case 8, 32946:
		var in io.ReadCloser
		if in, err = zlib.NewReader(bytes.NewReader(packed)); err == nil {
			if _, err = io.ReadFull(in, raw); err == nil { // on to the checksum; a block may be longer than its rows
				if _, err = io.CopyN(io.Discard, in, int64(want)+1); err == io.EOF {
					err = nil
				}
			}
			in.Close()
		}
	case 32773:
		err = unpackBits(raw, packed)
	}
	if err != nil {
		return nil, fmt.Errorf("is damaged (%v)", err)
	}
	d.unpredict(raw, w)
	return d.heights(raw), nil
}

// unpackBits undoes the run lengths of TIFF 6.0, section 9.
func unpackBits(out, in []byte) error {
	at := 0
	for i := 0; i < len(in) && at < len(out); {
		n := int(int8(in[i]))
		i++
		switch {
		case n >= 0:
			if i+n+1 > len(in) {
				return io.ErrUnexpectedEOF
			}
			at += copy(out[at:], in[i:i+n+1])
			i += n + 1
		case n != -128:
			if i >= len(in) {
				return io.ErrUnexpectedEOF
			}
			for range 1 - n {
				if at < len(out) {
					out[at] = in[i]
					at++
				}
			}
			i++
		}
	}
	if at < len(out) {
		return io.ErrUnexpectedEOF
	}
	return nil
}

// unpredict undoes the differences between neighbours in a row: of whole samples (TIFF 6.0, section 14), or of the
// bytes of floats that are sorted by significance (Adobe Photoshop TIFF Technical Note 3).
func (d *decoder) unpredict(raw []byte, w int) {
	n := d.bytes
	for row := 0; d.predictor > 1 && row+w*n <= len(raw); row += w * n {
		line := raw[row : row+w*n]
		if d.predictor == 3 {
			for i := 1; i < len(line); i++ {
				line[i] += line[i-1]
			}
			sorted := make([]byte, len(line))
			for i := range w {
				for b := range n {
					// The planes go from the most significant byte to the least; samples are then read in the file's order.
					to := b
					if d.t.order == binary.LittleEndian {
						to = n - 1 - b
					}
					sorted[i*n+to] = line[b*w+i]
				}
			}
			copy(line, sorted)
			continue
		}
		for i := n; i < len(line); i += n {
			switch n {
			case 1:
				line[i] += line[i-1]
			case 2:
				d.t.order.PutUint16(line[i:], d.t.order.Uint16(line[i:])+d.t.order.Uint16(line[i-2:]))
			case 4:
				d.t.order.PutUint32(line[i:], d.t.order.Uint32(line[i:])+d.t.order.Uint32(line[i-4:]))
			case 8:
				d.t.order.PutUint64(line[i:], d.t.order.Uint64(line[i:])+d.t.order.Uint64(line[i-8:]))
			}
		}
	}
}

func (d *decoder) heights(raw []byte) []float32 {
	out := make([]float32, len(raw)/d.bytes)
	for i := range out {
		b := raw[i*d.bytes:]
		var v float64
		switch {
		case d.format == 3 && d.bytes == 4:
			v = float64(math.Float32frombits(d.t.order.Uint32(b)))
		case d.format == 3:
			v = math.Float64frombits(d.t.order.Uint64(b))
		case d.bytes == 1 && d.format == 1:
			v = float64(b[0])
		case d.bytes == 1:
			v = float64(int8(b[0]))
		case d.bytes == 2 && d.format == 1:
			v = float64(d.t.order.Uint16(b))
		case d.bytes == 2:
			v = float64(int16(d.t.order.Uint16(b)))
		case d.format == 1:
			v = float64(d.t.order.Uint32(b))
		default:
			v = float64(int32(d.t.order.Uint32(b)))
		}
		switch {
		case d.hasNodata && (v == d.nodata || float32(v) == float32(d.nodata)), math.IsNaN(v), v < -12000 || v > 100000:
			out[i] = void
		case d.bytes == 2 && d.format == 2 && v == hgtVoid:
			out[i] = void
		default:
			out[i] = float32(v)
		}
	}
	return out
}
