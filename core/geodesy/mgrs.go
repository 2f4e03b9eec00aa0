package geodesy

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// The letters of the Military Grid Reference System (NGA.STND.0037, 2011, section 3): I and O are never used.
const (
	bandLetters   = "CDEFGHJKLMNPQRSTUVWX"
	columnLetters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
	rowLetters    = "ABCDEFGHJKLMNPQRSTUV"
	square        = 100000.0
)

// band gives the letter of the band of latitude that a position lies in, 8 degrees high and the last one 12.
func band(lat float64) byte {
	return bandLetters[min(max(int(math.Floor(lat/8))+10, 0), 19)]
}

// bandRange gives the latitudes of a band, in degrees.
func bandRange(letter byte) (south, north float64) {
	i := strings.IndexByte(bandLetters, letter)
	south = float64(8*i - 80)
	if letter == 'X' {
		return south, 84
	}
	return south, south + 8
}

// polarGrid says whether a position is on the Universal Polar Stereographic grid, beyond the zones of UTM.
func polarGrid(lat float64) bool { return lat < -80 || lat >= 84 }

// UPS is the Universal Polar Stereographic grid of one pole (NGA.SIG.0012, 2014).
type UPS struct{ South bool }

const (
	upsScale = 0.994
	upsFalse = 2000000.0
)

// upsRadius is 2a k0 / sqrt((1+e)^(1+e) (1-e)^(1-e)), Snyder 21-33.
var upsRadius = 2 * SemiMajor * upsScale / math.Sqrt(math.Pow(1+eccentricity, 1+eccentricity)*math.Pow(1-eccentricity,
	1-eccentricity))

// Forward gives easting and northing in metres.
func (u UPS) Forward(lat, lon float64) (east, north float64) {
	if u.South {
		lat = -lat
	}
	rho := upsRadius * math.Exp(-isometric(lat))
	if lat == 90 {
		rho = 0
	}
	sin, cos := math.Sincos(lon * radian)
	if !u.South {
		cos = -cos
	}
	return upsFalse + rho*sin, upsFalse + rho*cos
}

// Inverse gives latitude and longitude in degrees.
func (u UPS) Inverse(east, north float64) (lat, lon float64) {
	x, y := east-upsFalse, north-upsFalse
	if !u.South {
		y = -y
	}
	rho := math.Hypot(x, y)
	lat = 90
	if rho > 0 {
		lat = wgs84.Latitude(-math.Log(rho/upsRadius)) / radian
	}
	if u.South {
		lat = -lat
	}
	return lat, wrap(math.Atan2(x, y) / radian)
}

// MGRS writes a position in the military grid, with 1 to 5 digits a coordinate (10 km to 1 m); as the standard has it
// the digits are cut, not rounded.
func MGRS(lat, lon float64, digits int) string {
	var prefix string
	var col, row byte
	var east, north float64
	if polarGrid(lat) {
		u := UPS{lat < 0}
		east, north = steady(u.Forward(lat, lon))
		p := polarLetters(lat < 0, east >= upsFalse)
		prefix = string(p.zone)
		col = p.columns[int(math.Floor((east-p.east)/square))]
		row = columnLetters[int(math.Floor((north-p.north)/square))]
	} else {
		u := ZoneOf(lat, lon)
		east, north = steady(u.Forward(lat, lon))
		prefix = strconv.Itoa(u.Zone) + string(band(lat))
		col, row = squareLetters(u.Zone, int(math.Floor(east/square)), int(math.Floor(north/square)))
	}
	step := math.Pow(10, float64(5-digits))
	cut := func(v float64) int { return int(math.Floor(math.Mod(v, square) / step)) }
	return fmt.Sprintf("%s %c%c %0*d %0*d", prefix, col, row, digits, cut(east), digits, cut(north))
}

// steady takes the last digits of the computation away, so that a corner of a square is in it.
func steady(east, north float64) (float64, float64) {
	return math.Round(east*1e6) / 1e6, math.Round(north*1e6) / 1e6
}

func squareLetters(zone, col, row int) (byte, byte) {
	if zone%2 == 0 {
		row += 5
	}
	return columnLetters[(zone-1)%3*8+col-1], rowLetters[row%20]
}

// polar is the lettering of one half of a polar grid.
type polar struct {
	zone        byte
	columns     string
	east, north float64 // of the first letters' squares
}

func polarLetters(south, eastern bool) polar {
	switch {
	case south && eastern:
		return polar{'B', "ABCFGHJKLPQR", 2000000, 800000}
	case south:
		return polar{'A', "JKLPQRSTUXYZ", 800000, 800000}
	case eastern:
		return polar{'Z', "ABCFGHJ", 2000000, 1300000}
	}
	return polar{'Y', "RSTUXYZ", 1300000, 1300000}
}

// fromMGRS gives the middle of the square that a reference names. Zone 0 is a polar grid.
func fromMGRS(zone int, letter, col, row byte, digits string) (lat, lon float64, err error) {
	n := len(digits) / 2
	step := math.Pow(10, float64(5-n))
	part := func(s string) float64 {
		v := 0.0
		for _, d := range []byte(s) {
			v = v*10 + float64(d-'0')
		}
		return (v + 0.5) * step
	}
	east, north := part(digits[:n]), part(digits[n:])
	if zone == 0 {
		south := letter == 'A' || letter == 'B'
		p := polarLetters(south, letter == 'B' || letter == 'Z')
		i, j := strings.IndexByte(p.columns, col), strings.IndexByte(columnLetters, row)
		if i < 0 || j < 0 {
			return 0, 0, fmt.Errorf("there is no square %c%c in the polar grid %c", col, row, letter)
		}
		lat, lon = UPS{south}.Inverse(east+p.east+float64(i)*square, north+p.north+float64(j)*square)
		if !polarGrid(lat) {
			return 0, 0, fmt.Errorf("the square %c%c of the polar grid %c is outside of it", col, row, letter)
		}
		return lat, lon, nil
	}
	i, j := strings.IndexByte(columnLetters, col)-(zone-1)%3*8, strings.IndexByte(rowLetters, row)
	if i < 0 || i > 7 || j < 0 {
		return 0, 0, fmt.Errorf("there is no square %c%c in zone %d", col, row, zone)
	}
	if zone%2 == 0 {
		j += 15
	}
	// The rows repeat every 2,000 km: the band of latitude says which is meant.
	low, high := bandRange(letter)
	u := UTM{zone, low < 0}
	for r := j % 20; r < 100; r += 20 {
		lat, lon = u.Inverse(east+float64(i+1)*square, north+float64(r)*square)
		if lat > low-0.9 && lat < high+0.9 { // a square may reach out of its band
			return lat, wrap(lon), nil
		}
	}
	return 0, 0, fmt.Errorf("the square %c%c is not in the band %c", col, row, letter)
}
