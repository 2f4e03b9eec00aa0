package terrain

import (
	"archive/zip"
	"cmp"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"gyrolith/core/pattern"
)

// tileName is how degree tiles are called: by their south-western corner.
var tileName = pattern.New(`(?i)([NS])(\d{1,2})([EW])(\d{1,3})`)

var errLonger = errors.New("it is longer than a tile")

// hgtVoid is the sample that means that the height is not known.
const hgtVoid = -32768

// parseTile reads the corner out of a file's name.
func parseTile(name string) (lat, lon int, word string, ok bool) {
	m := tileName.FindStringSubmatch(name)
	if m == nil {
		return
	}
	lat, _ = strconv.Atoi(m[2])
	lon, _ = strconv.Atoi(m[4])
	if strings.EqualFold(m[1], "S") {
		lat = -lat
	}
	if strings.EqualFold(m[3], "W") {
		lon = -lon
	}
	return lat, lon, tileWord(lat, lon), lat >= -90 && lat < 90 && lon >= -180 && lon < 180
}

// tileWord names the degree tile with a south-western corner.
func tileWord(lat, lon int) string {
	ns, ew := 'N', 'E'
	if lat < 0 {
		ns, lat = 'S', -lat
	}
	if lon < 0 {
		ew, lon = 'W', -lon
	}
	return fmt.Sprintf("%c%02d%c%03d", ns, lat, ew, lon)
}

// openHGT opens a raw tile of one degree: square, 16-bit integers in metres with the most significant byte first,
// from the north-western corner row by row, outer samples on the whole degrees (NASA, SRTM Topography, section 3).
func openHGT(path string) (*raster, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	return hgtRaster(path, filepath.Base(path), info.Size(), func() (io.ReadCloser, error) { return os.Open(path) })
}

func hgtRaster(path, name string, size int64, open func() (io.ReadCloser, error)) (*raster, error) {
	lat, lon, word, ok := parseTile(name)
	if !ok {
		return nil, fmt.Errorf("%s: a raw tile must be named by its south-western corner, such as S48E011.hgt", path)
	}
	side := int(math.Round(math.Sqrt(float64(size) / 2)))
	if int64(side)*int64(side)*2 != size || side < 2 || side > 10801 {
		return nil, fmt.Errorf("%s: %d bytes don't make a square of 16-bit heights; tiles of 3 arc seconds have 2,884,802 "+
			"bytes, "+
			"of 1 arc second 25,934,402", path, size)
	}
	step := 1 / float64(side-1)
	return &raster{name: path, width: side, height: side, blockW: side, blockH: side, tile: word,
		geo: georef{float64(lon), float64(lat + 1), step, -step, nil},
		read: func(io.ReaderAt, int, int) ([]float32, error) {
			in, err := open()
			if err != nil {
				return nil, err
			}
			defer in.Close()
			raw := make([]byte, size)
			if _, err = io.ReadFull(in, raw); err == nil {
				_, err = io.CopyN(io.Discard, in, 1) // the checksum stands at the end
			}
			if err != io.EOF {
				return nil, fmt.Errorf("%s: is cut off or damaged: %w", path, cmp.Or(err, errLonger))
			}
			out := make([]float32, side*side)
			for i := range out {
				if v := int16(binary.BigEndian.Uint16(raw[2*i:])); v == hgtVoid {
					out[i] = void
				} else {
					out[i] = float32(v)
				}
			}
			return out, nil
		}}, nil
}

// openZip finds the raw tiles in a zip archive.
func openZip(path string) ([]*raster, error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return nil, fmt.Errorf("%s: the zip archive is damaged (%w)", path, err)
	}
	defer z.Close()
	var out []*raster
	for _, f := range z.File {
		if !strings.EqualFold(filepath.Ext(f.Name), ".hgt") {
			continue
		}
		if f.UncompressedSize64 > 2*10801*10801 {
			return nil, fmt.Errorf("%s: %q is larger than any tile", path, f.Name)
		}
		if f.UncompressedSize64 > mostPacked*f.CompressedSize64 {
			return nil, fmt.Errorf("%s: %q claims to unpack to more than is possible", path, f.Name)
		}
		r, err := hgtRaster(path+":"+f.Name, filepath.Base(f.Name), int64(f.UncompressedSize64),
			func() (io.ReadCloser, error) { return zipMember(path, f.Name) })
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%s: the zip archive contains no .hgt tile", path)
	}
	return out, nil
}

// member closes its archive with itself.
type member struct {
	io.ReadCloser
	archive *zip.ReadCloser
}

func (m member) Close() error {
	m.ReadCloser.Close()
	return m.archive.Close()
}

func zipMember(path, name string) (io.ReadCloser, error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return nil, err
	}
	for _, f := range z.File {
		if f.Name == name {
			in, err := f.Open()
			if err != nil {
				z.Close()
				return nil, err
			}
			return member{in, z}, nil
		}
	}
	z.Close()
	return nil, fmt.Errorf("%s: %q is gone", path, name)
}
