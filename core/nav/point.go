package nav

import (
	"math"
	"slices"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
)

// VerticalDatum says above what a height is measured.
type VerticalDatum uint8

// What a height can be above. A format that does not say gives DatumUnstated.
const (
	DatumUnstated VerticalDatum = iota
	MeanSeaLevel
	AboveEllipsoid
	PressureLevel // of 1013.25 hPa
	AboveGround
	Datums // how many there are
)

func (o VerticalDatum) String() string {
	if o >= Datums {
		o = DatumUnstated
	}
	return [...]string{"nothing stated", "mean sea level", "the ellipsoid", "a pressure level", "the ground"}[o]
}

// datumWords are the words for what heights are above, where it is stated.
var datumWords = [Datums]string{MeanSeaLevel: "sea", AboveEllipsoid: "ellipsoid", PressureLevel: "pressure",
	AboveGround: "ground"}

// Word is the word for what a height is above; heights of which nothing is stated are above the sea by custom.
func (o VerticalDatum) Word() string {
	if o == DatumUnstated || o >= Datums {
		o = MeanSeaLevel
	}
	return datumWords[o]
}

// ParseVerticalDatum reads such a word.
func ParseVerticalDatum(word string) (VerticalDatum, bool) {
	i := slices.Index(datumWords[1:], word)
	return VerticalDatum(i + 1), i >= 0
}

// Comparable says whether heights above two things can be compared: those above one thing, and those of which nothing
// is stated with those above the sea, as is the custom.
func (o VerticalDatum) Comparable(p VerticalDatum) bool {
	sea := func(d VerticalDatum) bool { return d == DatumUnstated || d == MeanSeaLevel }
	return o == p || sea(o) && sea(p)
}

// AboveSea says whether heights are above the sea, or taken so by custom.
func (o VerticalDatum) AboveSea() bool { return o.Comparable(MeanSeaLevel) }

// Point is a position with an optional height and time, in 40 bytes. What else a point has
// stands in its segment.
type Point struct {
	Lat, Lon float64 // degrees, WGS 84; longitude from -180 up to but not including 180
	height   float64 // metres
	time     int64   // nanoseconds since 1970-01-01 UTC

	LatPrecision, LonPrecision decimal.Precision
	heightMark                 uint8 // 0: no height; else Precision in the low five bits, VerticalDatum in the high three
	timeMark                   instant.Mark

	detail uint32 // 1 + the index of its detail in the segment
}

// At gives a point of computed coordinates; the longitude is brought into range.
func At(lat, lon float64) Point { return Point{Lat: lat, Lon: WrapLon(lon)} }

// WrapLon brings a longitude into -180 up to but not including 180.
func WrapLon(lon float64) float64 {
	if lon >= -180 && lon < 180 {
		return lon
	}
	lon = math.Mod(lon+180, 360)
	if lon < 0 {
		lon += 360
	}
	return lon - 180
}

// Usable says whether a latitude and longitude, in degrees, are a position on the earth.
func Usable(lat, lon float64) bool {
	return lat >= -90 && lat <= 90 && lon >= -180 && lon <= 180
}

const (
	heightPrecision = 0x1f
	datumAt         = 5
)

// LastDigit is how many metres one step of the last digit of the position is, north to south; 0 where its digits are
// not known.
func (p *Point) LastDigit() float64 {
	lat, known := p.LatPrecision.Decimals()
	lon, known2 := p.LonPrecision.Decimals()
	if !known || !known2 {
		return 0
	}
	return geodesy.MeridianDegree * math.Pow10(-min(lat, lon))
}

// HasHeight says whether the point has a height.
func (p *Point) HasHeight() bool { return p.heightMark != 0 }

// Height is the height in metres, NaN where there is none.
func (p *Point) Height() float64 {
	if p.heightMark == 0 {
		return math.NaN()
	}
	return p.height
}

// VerticalDatum says above what the height is.
func (p *Point) VerticalDatum() VerticalDatum { return VerticalDatum(p.heightMark >> datumAt) }

// HeightPrecision gives the decimals of the height in its source.
func (p *Point) HeightPrecision() decimal.Precision {
	return decimal.Precision(p.heightMark&heightPrecision) - 1
}

// SetHeight gives the point a height in metres. The precision is that of its source, zero if computed.
func (p *Point) SetHeight(metres float64, digits decimal.Precision, over VerticalDatum) {
	p.height = metres
	p.heightMark = uint8(min(digits, heightPrecision-1)+1) | uint8(over)<<datumAt
}

// ClearHeight takes the height away.
func (p *Point) ClearHeight() { p.height, p.heightMark = 0, 0 }

// AppendHeight writes the height as its source had it, computed ones to a millimetre.
func (p *Point) AppendHeight(dst []byte) []byte {
	if d := p.HeightPrecision(); d != 0 {
		return decimal.Append(dst, p.height, d)
	}
	return decimal.AppendShort(dst, p.height, 3)
}

// HasTime says whether the point has a time.
func (p *Point) HasTime() bool { return p.timeMark != instant.NoTime }

// UnixNano is the time in nanoseconds since 1970 UTC; 0 where there is none.
func (p *Point) UnixNano() int64 { return p.time }

// Time is the time in UTC, the zero time where there is none.
func (p *Point) Time() time.Time {
	if p.timeMark == instant.NoTime {
		return time.Time{}
	}
	return time.Unix(0, p.time).UTC()
}

// Since is the time from another point to this one. A span that is longer than a time.Duration holds, about 292 years,
// is the longest one, so that it never comes out as short or backwards.
func (p *Point) Since(q *Point) time.Duration {
	span := time.Duration(p.time - q.time)
	switch {
	case p.time > q.time && span < 0:
		return math.MaxInt64
	case p.time < q.time && span > 0:
		return math.MinInt64
	}
	return span
}

// TimeMark says how precise the time is.
func (p *Point) TimeMark() instant.Mark { return p.timeMark }

// SetTime gives the point a time, in nanoseconds since 1970 UTC, of the given precision.
func (p *Point) SetTime(ns int64, mark instant.Mark) { p.time, p.timeMark = ns, mark }

// ClearTime takes the time away.
func (p *Point) ClearTime() { p.time, p.timeMark = 0, instant.NoTime }

// AppendTime writes the time as its source had it.
func (p *Point) AppendTime(dst []byte) []byte { return instant.Append(dst, p.time, p.timeMark) }

// AppendLat and AppendLon write the coordinates with the digits of their source.
func (p *Point) AppendLat(dst []byte) []byte { return decimal.Append(dst, p.Lat, p.LatPrecision) }

// AppendLon writes the longitude.
func (p *Point) AppendLon(dst []byte) []byte { return decimal.Append(dst, p.Lon, p.LonPrecision) }

// SamePlace says whether two points have the same coordinates.
func (p *Point) SamePlace(q *Point) bool { return p.Lat == q.Lat && p.Lon == q.Lon }
