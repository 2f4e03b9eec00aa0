package format

import (
	"bytes"
	"fmt"
	"slices"
	"sort"
	"strings"
	"sync/atomic"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// Collector gathers the points of one line after the other without copying them about: a line's room is
// foreseen from how much of the file its points took so far. Where there are very many, they stand in scratch room.
type Collector struct {
	Held *atomic.Int64 // points in memory of all that is read together; nil is of this file alone

	points []nav.Point
	begun  int64 // where in the file the line began
	taken  int   // points of the lines before that are in memory
	far    bool  // points has room that is scratch
}

// Points in memory that are many, and points of one file for which scratch room is worth its trouble.
const (
	manyPoints = 1 << 20
	farPoints  = 1 << 16
)

// Begin starts a line at an offset of the file.
func (c *Collector) Begin(offset int64) {
	c.points, c.begun = c.points[:0], offset
}

// Len counts the points of the line so far.
func (c *Collector) Len() int { return len(c.points) }

// Last is the last point of the line; nil if there is none.
func (c *Collector) Last() *nav.Point {
	if len(c.points) == 0 {
		return nil
	}
	return &c.points[len(c.points)-1]
}

// room makes room for more points, at an offset of a file of the given size (-1 if unknown).
func (c *Collector) room(offset, size int64) {
	n := len(c.points)
	if n == 0 {
		c.begun = offset // what stands before the first point takes no part in the forecast
	}
	want, foreseen := max(2*n, 64), 0
	if taken := offset - c.begun; n >= 1024 && taken > 0 && size > offset {
		// Points are much alike in length: 3 % more than foreseen is nearly always enough.
		foreseen = n + int(float64(size-offset)*float64(n)/float64(taken)*1.03)
		want = max(min(foreseen, 16*n), n+n/4)
	}
	if c.Held == nil {
		c.Held = new(atomic.Int64)
	}
	if most := max(want, foreseen); most > farPoints && c.Held.Load()+int64(most) > manyPoints {
		// A line that goes on beyond its room is copied, so that room is made for what follows it, too.
		if room, err := scratch.Of[nav.Point](max(foreseen, 2*n)); err == nil {
			c.points, c.far = room[:copy(room, c.points)], true
			return
		}
	}
	grown := make([]nav.Point, n, want)
	copy(grown, c.points)
	c.points, c.far = grown, false
}

// Add appends a point that was read up to an offset of a file of the given size (-1 if unknown), and gives
// the place where it stands until the next is added.
func (c *Collector) Add(offset, size int64) *nav.Point {
	if len(c.points) == cap(c.points) {
		c.room(offset, size)
	}
	c.points = c.points[:len(c.points)+1]
	p := &c.points[len(c.points)-1]
	*p = nav.Point{}
	return p
}

// Drop takes the last point back.
func (c *Collector) Drop() { c.points = c.points[:len(c.points)-1] }

// Take gives the points of the line, in a slice of about their number.
func (c *Collector) Take() []nav.Point {
	n := len(c.points)
	if c.far {
		out := c.points[:n:n]
		c.points = c.points[n:]
		return out
	}
	if c.Held == nil {
		c.Held = new(atomic.Int64)
	}
	c.taken += n
	out := c.points[:n:n]
	if n > 1024 && cap(c.points)-n < n/8 {
		c.points = nil
	} else {
		out = slices.Clone(out)
		if n > farPoints {
			c.points = nil
		}
	}
	if c.Held.Add(int64(n)) > manyPoints && c.taken > farPoints { // short lines, of which there are many
		if room, err := scratch.Of[nav.Point](4 * farPoints); err == nil {
			c.points, c.far = room[:0], true
		}
	}
	return out
}

// SetPosition reads a latitude and a longitude into a point, and otherwise says why it can't be used. The
// text is given back where its digits are too many for float64.
func SetPosition(p *nav.Point, lat, lon []byte) (exact, why string) {
	var ok1, ok2 bool
	p.Lat, p.LatPrecision, ok1 = decimal.Parse(lat)
	p.Lon, p.LonPrecision, ok2 = decimal.Parse(lon)
	switch {
	case len(lat) == 0 || len(lon) == 0:
		return "", "has no latitude and longitude"
	case !ok1:
		return "", fmt.Sprintf("latitude %q is not a number", clip(lat))
	case !ok2:
		return "", fmt.Sprintf("longitude %q is not a number", clip(lon))
	case p.Lat < -90 || p.Lat > 90:
		return "", fmt.Sprintf("latitude %s is beyond 90 degrees", clip(lat))
	case p.Lon < -180 || p.Lon > 180:
		return "", fmt.Sprintf("longitude %s is beyond 180 degrees", clip(lon))
	}
	if p.Lon == 180 {
		p.Lon = -180
	}
	if p.LatPrecision <= sure && p.LonPrecision <= sure {
		return "", ""
	}
	if a, o := p.AppendLat(nil), p.AppendLon(nil); string(a) != string(lat) || string(o) != string(lon) {
		return string(lat) + " " + string(lon), ""
	}
	return "", ""
}

// IsEast says whether the longitude of a point was written as 180, which is -180 in the data.
func IsEast(p *nav.Point, lon []byte) bool { return p.Lon == -180 && len(lon) > 0 && lon[0] != '-' }

// PlainPosition reads a longitude, a latitude and perhaps a height as nearly all positions have them, with one sign
// between them and in numbers that float64 gives back. It says how long they are; 0 if they are written otherwise. What
// must follow is the caller's to judge.
func PlainPosition(text []byte, between byte, datum nav.VerticalDatum, p *nav.Point) int {
	lon, lonPrecision, i := decimal.Prefix(text)
	if i == 0 || i == len(text) || text[i] != between || !(lon >= -180 && lon < 180) || lonPrecision > sure {
		return 0
	}
	lat, latPrecision, n := decimal.Prefix(text[i+1:])
	i += 1 + n
	if n == 0 || !(lat >= -90 && lat <= 90) || latPrecision > sure {
		return 0
	}
	if i < len(text) && text[i] == between {
		height, precision, n := decimal.Prefix(text[i+1:])
		if n == 0 {
			return 0
		}
		i += 1 + n
		p.SetHeight(height, precision, datum)
	}
	p.Lat, p.LatPrecision, p.Lon, p.LonPrecision = lat, latPrecision, lon, lonPrecision
	return i
}

// sure is the precision of 13 decimals, which float64 gives back.
const sure decimal.Precision = 14

// Moment is the time of a point apart from it; without a mark it is none.
type Moment struct {
	NS   int64 // since 1970 UTC
	Mark instant.Mark
}

// Missing are the numbers, from 0 on and ascending, of positions that can't be used. What a source says of positions by
// their numbers counts them.
type Missing []int

// Number gives the number of the i-th position that can be used.
func (m Missing) Number(i int) int {
	return i + sort.Search(len(m), func(k int) bool { return m[k]-k > i })
}

// Index says which of the positions that can be used has a number; false if it is none of them.
func (m Missing) Index(number int) (int, bool) {
	k := sort.SearchInts(m, number)
	return number - k, number >= 0 && (k == len(m) || m[k] != number)
}

// SetTime reads a time into a point, and notes in the data what could not be read and what was guessed; place gives the
// line and column.
func SetTime(p *nav.Point, text []byte, clock *instant.Clock, opt *ReadOptions, d *nav.Dataset,
	place func() (line, col int)) {
	if ns, mark, ok := clock.Parse(text); ok {
		p.SetTime(ns, mark)
		return
	}
	ns, mark, zoned, ok := instant.Parse(text, opt.Zone)
	if doubted := DoubtTime(d, text, opt.Zone, place); !ok {
		if len(bytes.TrimSpace(text)) > 0 && !doubted {
			line, col := place()
			d.Note(nav.ProblemTimes, "an unreadable time was left out", line, col)
		}
		return
	}
	if !zoned && opt.Zone == nil {
		line, col := place()
		d.Note(nav.ProblemTimes, "a time without a zone was read as UTC", line, col).Advise(advice.NameZone)
	}
	p.SetTime(ns, mark)
}

// DoubtTime notes in the data a time of a year that can't be held, which is then left out, a leap second, and one that
// a zone has twice or not at all. It says whether it was the first.
func DoubtTime(d *nav.Dataset, text []byte, zone *time.Location, place func() (line, col int)) bool {
	if doubt := instant.DoubtOf(text, zone); doubt != instant.NoDoubt {
		line, col := place()
		d.Note(nav.ProblemTimes, "a time "+doubt.String(), line, col)
	}
	beyond, leap := instant.Doubtful(text)
	if !beyond && !leap {
		return false
	}
	line, col := place()
	if beyond {
		d.Note(nav.ProblemLeftOut, "a time before 1678 or after 2261, which can't be represented, was left out", line, col)
	} else {
		d.Note(nav.ProblemTimes, "a leap second was read as the second after it", line, col)
	}
	return beyond
}

// Exact gives the coordinates as the source wrote them, in exact as SetPosition gave it, as long as the point is where
// they put it.
func Exact(p *nav.Point, exact string) (lat, lon string, ok bool) {
	if exact == "" {
		return "", "", false
	}
	lat, lon, _ = strings.Cut(exact, " ")
	a, _, ok1 := decimal.Parse([]byte(lat))
	o, _, ok2 := decimal.Parse([]byte(lon))
	return lat, lon, ok1 && ok2 && a == p.Lat && o == p.Lon
}

func clip(b []byte) string {
	if len(b) > 40 {
		return string(b[:40]) + "…"
	}
	return string(b)
}
