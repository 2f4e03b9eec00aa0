package geodesy

import (
	"errors"
	"strings"

	"gyrolith/core/pattern"
)

// codeLetters are the twenty digits of an open location code (Open Location Code specification 1.0).
const codeLetters = "23456789CFGHJMPQRVWX"

// openCode is a full code: eight digits, a plus, and two to seven more.
var openCode = pattern.New(`^([` + codeLetters + `]{8})\+([` + codeLetters + `]{2,7})$`)

// fromOpenCode gives the middle of the cell of a full code: pairs of digits to the base of 20 for latitude and
// longitude, the first of 20 degrees, and behind the tenth digit rows and columns of a grid of five by four.
func fromOpenCode(head, tail string) (lat, lon float64, err error) {
	digits := head + tail
	lat, lon = -90, -180
	size := 20.0
	for i := 0; i < 10; i += 2 {
		lat += size * float64(strings.IndexByte(codeLetters, digits[i]))
		lon += size * float64(strings.IndexByte(codeLetters, digits[i+1]))
		if i < 8 {
			size /= 20
		}
	}
	high, wide := size, size
	for _, c := range []byte(digits[10:]) {
		n := strings.IndexByte(codeLetters, c)
		high, wide = high/5, wide/4
		lat += high * float64(n/4)
		lon += wide * float64(n%4)
	}
	lat, lon = lat+high/2, lon+wide/2
	if lat > 90 || lon > 180 {
		return 0, 0, errors.New("the location code is beyond the poles or the antimeridian")
	}
	return lat, wrap(lon), nil
}
