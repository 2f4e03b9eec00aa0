package terrain

import (
	"container/list"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/safefile"
)

// Between says how a height between samples is found.
type Between uint8

// The ways: the height of the nearest sample, from the four around, from the sixteen around.
const (
	Bilinear Between = iota
	Nearest
	Cubic
)

// ParseBetween reads the word for a way.
func ParseBetween(word string) (Between, error) {
	switch word {
	case "", "bilinear":
		return Bilinear, nil
	case "nearest":
		return Nearest, nil
	case "cubic":
		return Cubic, nil
	}
	return 0, fmt.Errorf("%q is not an interpolation: use nearest, bilinear or cubic", word)
}

// Terrain is any number of grids, of which the finest that has a height is asked. It is not safe for concurrent use.
type Terrain struct {
	Between   Between
	FillVoids bool

	rasters []*raster
	cells   map[[2]int16][]*raster // by whole degrees, the finest first
	tiled   bool                   // there are degree tiles among them, so that a missing one has a name

	blocks map[blockKey]*list.Element
	recent *list.List // of *block, the last used in front
	bytes  int64

	files map[*raster]*os.File // those that are open, so that a file is opened once for all of its blocks

	current *block // the block of the last height
	err     error
}

// mostFiles bounds how many files are open at a time.
const mostFiles = 64

// file gives the open file of a raster.
func (t *Terrain) file(r *raster) (*os.File, error) {
	if r.path == "" {
		return nil, nil
	}
	if f := t.files[r]; f != nil {
		return f, nil
	}
	if len(t.files) >= mostFiles {
		t.Close()
	}
	f, err := os.Open(r.path)
	if err == nil {
		t.files[r] = f
	}
	return f, err
}

// Close closes the files that are open. Heights can still be asked for.
func (t *Terrain) Close() {
	for r, f := range t.files {
		f.Close()
		delete(t.files, r)
	}
}

type blockKey struct {
	r      *raster
	bx, by int
}

type block struct {
	key    blockKey
	values []float32
	// The columns and rows of the raster that it holds.
	col0, row0, col1, row1 int
}

// mostBytes bounds the blocks that are kept, whatever the size of the terrain.
const mostBytes = 256 << 20

// Open opens grids: files, and folders in which all files of a known kind are taken.
func Open(paths []string) (*Terrain, error) {
	t := &Terrain{cells: map[[2]int16][]*raster{}, blocks: map[blockKey]*list.Element{}, recent: list.New(),
		files: map[*raster]*os.File{}}
	for _, p := range paths {
		info, err := os.Stat(p)
		if err != nil {
			return nil, safefile.CannotRead(p, "terrain file or folder", err)
		}
		if !info.IsDir() {
			if err := t.add(p, true); err != nil {
				return nil, err
			}
			continue
		}
		before := len(t.rasters)
		err = filepath.WalkDir(p, func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || dangling(path, e) {
				return err
			}
			return t.add(path, false)
		})
		if err != nil {
			return nil, err
		}
		if len(t.rasters) == before {
			return nil, fmt.Errorf("%s: the folder contains no terrain: raw tiles (.hgt, also in .zip), GeoTIFF or ASCII grids",
				p)
		}
	}
	t.index()
	return t, nil
}

// dangling tells a link to nothing, which is no terrain.
func dangling(path string, e fs.DirEntry) bool {
	if e.Type()&fs.ModeSymlink == 0 {
		return false
	}
	_, err := os.Stat(path)
	return errors.Is(err, fs.ErrNotExist)
}

// add opens one file. In a folder, what is no terrain is passed over; a file that was named must be some.
func (t *Terrain) add(path string, named bool) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	head := make([]byte, 64)
	n, _ := io.ReadFull(f, head)
	f.Close()
	head = head[:n]
	var r *raster
	ext := strings.ToLower(filepath.Ext(path))
	switch {
	case n >= 4 && (string(head[:2]) == "II" || string(head[:2]) == "MM") && (ext == ".tif" || ext == ".tiff" || named):
		r, err = openTIFF(path)
	case isASCII(head):
		r, err = openASCII(path)
	case ext == ".hgt":
		r, err = openHGT(path)
	case n >= 4 && string(head[:4]) == "PK\x03\x04":
		var list []*raster
		list, err = openZip(path)
		if err != nil && !named {
			return nil
		}
		t.rasters = append(t.rasters, list...)
		return err
	case named:
		return fmt.Errorf("%s: is not supported terrain: use raw tiles (.hgt, also in .zip), GeoTIFF or ASCII grids", path)
	default:
		return nil
	}
	if err != nil {
		return err
	}
	t.rasters = append(t.rasters, r)
	return nil
}

// index lists for every degree cell the rasters that touch it.
func (t *Terrain) index() {
	sort.SliceStable(t.rasters, func(i, j int) bool { return t.rasters[i].step() < t.rasters[j].step() })
	for _, r := range t.rasters {
		t.tiled = t.tiled || r.tile != ""
		r.first = !slices.ContainsFunc(t.rasters, func(o *raster) bool { return o.step() < r.step() && overlap(o, r) })
		w, s, e, n := r.bounds()
		if r.global {
			w, e = -180, 179.5
		}
		for lat := math.Floor(s); lat <= n; lat++ {
			for lon := math.Floor(w); lon <= e; lon++ {
				c := cell(math.Min(math.Max(lat, -90), 89), lon)
				if !slices.Contains(t.cells[c], r) {
					t.cells[c] = append(t.cells[c], r)
				}
			}
		}
	}
}

func overlap(a, b *raster) bool {
	w1, s1, e1, n1 := a.bounds()
	w2, s2, e2, n2 := b.bounds()
	return a.global || b.global || w1 < e2 && w2 < e1 && s1 < n2 && s2 < n1
}

func cell(lat, lon float64) [2]int16 {
	lon = math.Mod(math.Floor(lon)+540, 360) - 180
	if lon < -180 {
		lon += 360
	}
	return [2]int16{int16(math.Min(math.Floor(lat), 89)), int16(lon)}
}

// Outcome says how a height was found, or why not.
type Outcome uint8

// The outcomes.
const (
	Given   Outcome = iota
	Filled          // in a void, from its rim
	InVoid          // in a void
	Outside         // outside of all grids
	Failed          // the grid could not be read: see Err
)

// Err is the first error of reading a grid.
func (t *Terrain) Err() error { return t.err }

// Missing names the degree tile that would hold a position; "" where the terrain has no degree tiles.
func (t *Terrain) Missing(lat, lon float64) string {
	if !t.tiled {
		return ""
	}
	return tileWord(int(math.Floor(lat)), int(math.Floor(lon)))
}

// Height gives the height of the ground in metres.
func (t *Terrain) Height(lat, lon float64) (float64, Outcome) {
	// Most often the four samples around are in the block of the last height, and no other grid comes first there.
	if b := t.current; b != nil && t.Between == Bilinear {
		r := b.key.r
		col, row := r.pixel(lat, lon)
		c, w := int(col), int(row)
		if col >= float64(b.col0) && row >= float64(b.row0) && c+1 < b.col1 && w+1 < b.row1 && r.first {
			fx, fy := col-float64(c), row-float64(w)
			i := (w-b.row0)*r.blockW + c - b.col0
			v := b.values
			top := float64(v[i])*(1-fx) + float64(v[i+1])*fx
			bottom := float64(v[i+r.blockW])*(1-fx) + float64(v[i+r.blockW+1])*fx
			if h := top*(1-fy) + bottom*fy; h == h {
				return h, Given
			}
		}
	}
	return t.search(lat, lon)
}

// Spacing is about how far apart the samples are at a position, in metres north to south; 0 where there are none.
func (t *Terrain) Spacing(lat, lon float64) float64 {
	for _, r := range t.cells[cell(lat, lon)] {
		if col, row := r.pixel(lat, lon); r.covers(col, row) {
			if r.geo.utm != nil {
				return math.Abs(r.geo.dy)
			}
			return math.Abs(r.geo.dy) * geodesy.MeridianDegree
		}
	}
	return 0
}

// search asks the grids one after the other.
func (t *Terrain) search(lat, lon float64) (float64, Outcome) {
	outcome := Outside
	for _, r := range t.cells[cell(lat, lon)] {
		col, row := r.pixel(lat, lon)
		if !r.covers(col, row) {
			continue
		}
		h := t.between(r, col, row)
		if t.err != nil {
			return 0, Failed
		}
		if h == h {
			return h, Given
		}
		outcome = InVoid
		if t.FillVoids {
			if h, ok := t.fill(r, col, row); ok {
				return h, Filled
			}
		}
	}
	return 0, outcome
}

// between finds the height at a column and row of a raster; not a number in a void.
func (t *Terrain) between(r *raster, col, row float64) float64 {
	switch t.Between {
	case Nearest:
		return t.sample(r, int(math.Round(col)), int(math.Round(row)))
	case Cubic:
		if h := t.cubic(r, col, row); h == h {
			return h
		}
		// Near a void or the edge, four samples are better than none.
	}
	c, w := math.Floor(col), math.Floor(row)
	fx, fy := col-c, row-w
	const hair = 1e-9
	sum := 0.0
	for i := range 2 {
		for j := range 2 {
			weight := (fx*float64(i) + (1-fx)*float64(1-i)) * (fy*float64(j) + (1-fy)*float64(1-j))
			if weight < hair {
				continue
			}
			v := t.sample(r, int(c)+i, int(w)+j)
			if v != v {
				return v
			}
			sum += weight * v
		}
	}
	return sum
}

// cubic is the convolution of R. Keys (IEEE Trans. ASSP 29, 1981) with a = -1/2.
func (t *Terrain) cubic(r *raster, col, row float64) float64 {
	c, w := math.Floor(col), math.Floor(row)
	kernel := func(f float64) [4]float64 {
		return [4]float64{((-f+2)*f - 1) * f / 2, ((3*f-5)*f*f + 2) / 2, ((-3*f+4)*f + 1) * f / 2, (f - 1) * f * f / 2}
	}
	kx, ky := kernel(col-c), kernel(row-w)
	sum := 0.0
	for j := range 4 {
		for i := range 4 {
			sum += kx[i] * ky[j] * t.sample(r, int(c)+i-1, int(w)+j-1)
		}
	}
	return sum
}

// sample gives one sample. Beyond the edge of its raster it is that of the neighbour at the same place, or else of the
// edge itself: half a sample beyond the outer centres is still covered. Around the earth columns begin anew, and
// beyond a pole rows come back on the other side.
func (t *Terrain) sample(r *raster, col, row int) float64 {
	if r.global {
		if row < 0 || row >= r.height {
			if row < 0 {
				row = -1 - row
			} else {
				row = 2*r.height - 1 - row
			}
			col += r.width / 2
		}
		col = ((col % r.width) + r.width) % r.width
	}
	if col < 0 || row < 0 || col >= r.width || row >= r.height {
		lat, lon := r.position(float64(col), float64(row))
		if lat >= -90 && lat <= 90 {
			for _, n := range t.cells[cell(lat, lon)] {
				if n == r {
					continue
				}
				c, w := n.pixel(lat, lon)
				if n.covers(c, w) {
					return t.sample(n, min(max(int(math.Round(c)), 0), n.width-1), min(max(int(math.Round(w)), 0), n.height-1))
				}
			}
		}
		col, row = min(max(col, 0), r.width-1), min(max(row, 0), r.height-1)
	}
	b := t.block(r, col/r.blockW, row/r.blockH)
	if b == nil {
		return math.NaN()
	}
	return float64(b.values[(row-b.row0)*r.blockW+col-b.col0])
}

// block gives a block, reading it if it is not among those that are kept.
func (t *Terrain) block(r *raster, bx, by int) *block {
	key := blockKey{r, bx, by}
	if t.current != nil && t.current.key == key {
		return t.current
	}
	if e, ok := t.blocks[key]; ok {
		t.recent.MoveToFront(e)
		t.current = e.Value.(*block)
		return t.current
	}
	if t.err != nil { // a broken block is not read again for each of its samples
		return nil
	}
	f, err := t.file(r)
	var values []float32
	if err == nil {
		values, err = r.read(f, bx, by)
	}
	if err != nil {
		t.err = err
		return nil
	}
	b := &block{key, values, bx * r.blockW, by * r.blockH, min((bx+1)*r.blockW, r.width), min((by+1)*r.blockH, r.height)}
	t.blocks[key] = t.recent.PushFront(b)
	t.bytes += int64(4 * len(values))
	for t.bytes > mostBytes && t.recent.Len() > 1 {
		last := t.recent.Back()
		old := t.recent.Remove(last).(*block)
		delete(t.blocks, old.key)
		t.bytes -= int64(4 * len(old.values))
	}
	t.current = b
	return b
}

// farthestRim is how many samples away the rim of a void may be.
const farthestRim = 200

// fill finds a height in a void from its rim: the nearest samples in eight directions, each with the inverse of its
// distance as its weight.
func (t *Terrain) fill(r *raster, col, row float64) (float64, bool) {
	sum, weights := 0.0, 0.0
	for dy := -1; dy <= 1; dy++ {
		for dx := -1; dx <= 1; dx++ {
			if dx == 0 && dy == 0 {
				continue
			}
			for k := 0; k <= farthestRim; k++ {
				c, w := int(math.Round(col))+k*dx, int(math.Round(row))+k*dy
				if (c < 0 || c >= r.width) && !r.global || w < 0 || w >= r.height {
					break
				}
				if v := t.sample(r, c, w); v == v {
					weight := 1 / math.Max(math.Hypot(float64(c)-col, float64(w)-row), 0.5)
					sum, weights = sum+weight*v, weights+weight
					break
				}
			}
		}
	}
	return sum / weights, weights > 0
}
