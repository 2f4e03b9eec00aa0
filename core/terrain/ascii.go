package terrain

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"os"
	"strconv"
	"strings"
)

// asciiRows is how many rows of an ASCII grid are read at a time.
const asciiRows = 32

// isASCII says whether a file begins as an ASCII grid does.
func isASCII(head []byte) bool {
	word := strings.ToLower(string(bytes.TrimLeft(head[:min(len(head), 64)], " \t\r\n")))
	return strings.HasPrefix(word, "ncols") || strings.HasPrefix(word, "nrows")
}

// openASCII opens a grid in text: a header of names and numbers (ncols, nrows, xllcorner or xllcenter, yllcorner or
// yllcenter, cellsize or dx and dy, nodata_value), then the rows from north to south. Coordinates are degrees. The rows
// are found once; their values are read when they are needed.
func openASCII(path string) (*raster, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	in := bufio.NewReaderSize(f, 256<<10)
	fault := func(text string, args ...any) error { return fmt.Errorf("%s: %s", path, fmt.Sprintf(text, args...)) }
	header := map[string]float64{}
	offset, line := int64(0), 0
	for {
		peek, err := in.Peek(1)
		if err != nil {
			return nil, fault("the grid has a header but no heights")
		}
		if c := peek[0] | 0x20; c < 'a' || c > 'z' || c == 'n' && startsNaN(in) {
			if c := peek[0]; c != ' ' && c != '\t' && c != '\r' && c != '\n' {
				break
			}
			in.ReadByte()
			offset++
			continue
		}
		text, err := in.ReadString('\n')
		if err != nil {
			return nil, fault("the grid has a header but no heights")
		}
		offset += int64(len(text))
		line++
		parts := strings.Fields(text)
		if len(parts) != 2 {
			return nil, fault("%d: the header line %q is not a name and a number", line, strings.TrimSpace(text))
		}
		v, err := strconv.ParseFloat(parts[1], 64)
		if err != nil {
			return nil, fault("%d: %q is not a number", line, parts[1])
		}
		header[strings.ToLower(parts[0])] = v
	}
	width, height := int(header["ncols"]), int(header["nrows"])
	dx, dy := header["dx"], header["dy"]
	if c, ok := header["cellsize"]; ok {
		dx, dy = c, c
	}
	if !checkSize(width, height) || !(dx > 0) || !(dy > 0) {
		return nil, fault("the header doesn't give the size of the grid (ncols, nrows, cellsize)")
	}
	at := func(axis string, d float64) (float64, bool) {
		if v, ok := header[axis+"llcenter"]; ok {
			return v, true
		}
		v, ok := header[axis+"llcorner"]
		return v + d/2, ok
	}
	x, ok1 := at("x", dx)
	y, ok2 := at("y", dy)
	if !ok1 || !ok2 {
		return nil, fault("the header doesn't give the location (xllcorner and yllcorner, or xllcenter and yllcenter)")
	}
	if x < -360 || x > 360 || y < -91 || y > 91 || y+float64(height-1)*dy > 91 || float64(width-1)*dx > 361 {
		return nil, fault("the grid is not in degrees (its corner is %g %g); ASCII grids in metres don't record their "+
			"coordinate system: use a GeoTIFF", x, y)
	}
	starts, err := rowStarts(in, offset, width, height)
	if err != nil {
		return nil, fault("%v", err)
	}
	nodata, hasNodata := header["nodata_value"]
	r := &raster{name: path, path: path, width: width, height: height, blockW: width, blockH: asciiRows,
		geo: georef{x, y + float64(height-1)*dy, dx, -dy, nil}}
	r.read = func(f io.ReaderAt, _, by int) ([]float32, error) {
		return readASCII(f, path, starts, by, width, nodata, hasNodata)
	}
	r.setGlobal()
	return r, nil
}

func startsNaN(in *bufio.Reader) bool {
	b, _ := in.Peek(3)
	return strings.EqualFold(string(b), "nan")
}

// rowStarts finds where every block of rows begins. Values may be spread over lines in any way.
func rowStarts(in *bufio.Reader, offset int64, width, height int) ([]int64, error) {
	var starts []int64
	values, inWord := 0, false
	perBlock := width * asciiRows
	for {
		c, err := in.ReadByte()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		if blank := c == ' ' || c == '\n' || c == '\r' || c == '\t'; blank {
			inWord = false
		} else if !inWord {
			inWord = true
			if values%perBlock == 0 {
				starts = append(starts, offset)
			}
			values++
		}
		offset++
	}
	if values != width*height {
		return nil, fmt.Errorf("has %d heights, but its header says %d × %d", values, width, height)
	}
	return append(starts, offset), nil
}

func readASCII(f io.ReaderAt, path string, starts []int64, block, width int, nodata float64,
	hasNodata bool) ([]float32, error) {
	raw := make([]byte, starts[block+1]-starts[block])
	if _, err := f.ReadAt(raw, starts[block]); err != nil && err != io.EOF {
		return nil, err
	}
	out := make([]float32, width*asciiRows)
	for i := range out {
		out[i] = void
	}
	i := 0
	for word := range bytes.FieldsSeq(raw) {
		v, err := strconv.ParseFloat(string(word), 64)
		if err != nil {
			return nil, fmt.Errorf("%s: the height %q in row %d is not a number", path, word, block*asciiRows+i/width+1)
		}
		if !(hasNodata && v == nodata) && !math.IsNaN(v) && i < len(out) {
			out[i] = float32(v)
		}
		i++
	}
	return out, nil
}
