// Package decimal reads and writes decimal numbers fast, with as many digits as a source had, and tells numbers from
// codes.
package decimal

import (
	"bytes"
	"encoding/binary"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Precision is how many decimals a number had in its source, so that it can be written again as it
// stood. The zero value means that no source gave it: it is then written as short as it is exact enough.
type Precision uint8

// PrecisionOf gives the Precision of a number with n decimals.
func PrecisionOf(n int) Precision { return Precision(min(max(n, 0), 250) + 1) }

// Decimals gives the number of decimals, and false where no source gave it.
func (d Precision) Decimals() (int, bool) { return int(d) - 1, d != 0 }

// computedDecimals is what a position worked out by a step is written with: 10⁻⁹ degree is a tenth of a millimetre.
const computedDecimals = 9

var pow10 = func() (t [20]float64) {
	for i := range t {
		t[i] = math.Pow10(i)
	}
	return
}()

var tens = func() (t [19]int64) {
	t[0] = 1
	for i := range t[1:] {
		t[i+1] = 10 * t[i]
	}
	return
}()

// exactDecimals is the most decimals at which a degree in float64 gives back its source's digits by plain
// integer rounding: half a unit in the last place of 180 is 1.4e-14.
const exactDecimals = 13

// Parse reads a decimal number, with blanks around it allowed, and says how many decimals it had.
// The value is correctly rounded. Infinities, hexadecimal and not-a-number are no decimals.
func Parse(b []byte) (v float64, digits Precision, ok bool) {
	v, digits, n := Prefix(b)
	if n == len(b) && n > 0 {
		return v, digits, true
	}
	return parseLong(bytes.TrimSpace(b))
}

// Prefix reads the plain decimal number of at most 15 digits that b begins with, and says how long it
// is; 0 where there is none such.
func Prefix(b []byte) (v float64, digits Precision, n int) {
	i, neg := 0, false
	if len(b) > 0 && (b[0] == '-' || b[0] == '+') {
		neg = b[0] == '-'
		i = 1
	}
	start, mant := i, uint64(0)
	for i < len(b) && b[i]-'0' <= 9 {
		mant = mant*10 + uint64(b[i]-'0')
		i++
	}
	count, decimals := i-start, 0
	if i < len(b) && b[i] == '.' {
		i++
		start = i
		for i < len(b) && b[i]-'0' <= 9 {
			mant = mant*10 + uint64(b[i]-'0')
			i++
		}
		decimals = i - start
		count += decimals
	}
	if count == 0 || count > 15 {
		return 0, 0, 0
	}
	// Both operands are exact, so the quotient is correctly rounded (W. D. Clinger, PLDI 1990).
	v = float64(mant) / pow10[decimals]
	if neg {
		v = -v
	}
	return v, PrecisionOf(decimals), i
}

// parseLong reads what is longer than DecimalPrefix takes, or has an exponent.
func parseLong(b []byte) (float64, Precision, bool) {
	mantissa, exponent, has := bytes.Cut(bytes.ReplaceAll(b, []byte{'E'}, []byte{'e'}), []byte{'e'})
	_, fraction, _ := bytes.Cut(mantissa, []byte{'.'})
	decimals := len(fraction)
	if has {
		exp, err := strconv.Atoi(string(exponent))
		if err != nil || exp < -300 || exp > 300 {
			return 0, 0, false
		}
		decimals -= exp
	}
	for _, c := range mantissa {
		if c-'0' > 9 && c != '.' && c != '-' && c != '+' {
			return 0, 0, false
		}
	}
	v, err := strconv.ParseFloat(string(b), 64)
	if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
		return 0, 0, false
	}
	return v, PrecisionOf(decimals), true
}

// Append writes v with the decimals of its source; where there was none, with up to nine, without
// zeros at the end. The sign of a negative zero is dropped only when no source gave it.
func Append(dst []byte, v float64, digits Precision) []byte {
	n, given := digits.Decimals()
	if !given {
		return AppendShort(dst, v, computedDecimals)
	}
	if n > exactDecimals || !(math.Abs(v) < 999) {
		return strconv.AppendFloat(dst, v, 'f', n, 64)
	}
	return appendFixed(dst, v, int64(math.Abs(v)*pow10[n]+0.5), n)
}

// AppendShort writes v with at most n decimals, without zeros at the end.
func AppendShort(dst []byte, v float64, n int) []byte {
	at := len(dst)
	// Where the digits behind the last are not about half of it, the product's own rounding can't decide on it.
	const clear = 0.499
	x := math.Abs(v) * pow10[min(n, exactDecimals)]
	if m := math.Floor(x + 0.5); n <= exactDecimals && math.Abs(v) < 999 && math.Abs(x-m) < clear && x < 1e12 {
		dst = appendFixed(dst, v, int64(m), n)
	} else {
		dst = strconv.AppendFloat(dst, v, 'f', n, 64)
	}
	if n > 0 {
		for dst[len(dst)-1] == '0' {
			dst = dst[:len(dst)-1]
		}
		if dst[len(dst)-1] == '.' {
			dst = dst[:len(dst)-1]
		}
	}
	if string(dst[at:]) == "-0" {
		return append(dst[:at], '0')
	}
	return dst
}

const TwoDigits = "00010203040506070809" +
	"10111213141516171819" +
	"20212223242526272829" +
	"30313233343536373839" +
	"40414243444546474849" +
	"50515253545556575859" +
	"60616263646566676869" +
	"70717273747576777879" +
	"80818283848586878889" +
	"90919293949596979899"

// appendFixed writes v, which is below 999, with n decimals, at most 13; without its sign it is about m·10⁻ⁿ.
func appendFixed(dst []byte, v float64, m int64, n int) []byte {
	const room = 1 + 4 + 16
	at := len(dst)
	if cap(dst)-at < room {
		dst = slices.Grow(dst, room)
	}
	if math.Signbit(v) {
		dst = append(dst, '-')
		at++
	}
	if n == 0 {
		return strconv.AppendInt(dst, m, 10)
	}
	whole := int64(math.Abs(v))
	rest := m - whole*tens[n]
	if rest == tens[n] { // rounded up
		whole, rest = whole+1, 0
	}
	head := wholes[whole]
	binary.LittleEndian.PutUint32(dst[at:at+4:cap(dst)], head.text)
	at += int(head.n)
	if n > 8 {
		upper := uint64(rest) / 1e8
		binary.LittleEndian.PutUint64(dst[at:at+8:cap(dst)], eightDigits(upper)>>(64-8*(n-8)&63))
		at, n, rest = at+n-8, 8, rest-int64(upper*1e8)
	}
	binary.LittleEndian.PutUint64(dst[at:at+8:cap(dst)], eightDigits(uint64(rest))>>((64-8*n)&63))
	return dst[:at+n]
}

// eightDigits gives the digits of a number below 10⁸ as bytes, the first the lowest.
func eightDigits(v uint64) uint64 {
	x := v/10000 | v%10000<<32
	hundreds := x * 10486 >> 20 & 0x7f0000007f
	x = hundreds | (x-100*hundreds)<<16
	tens := x * 103 >> 10 & 0x000f000f000f000f
	return (tens | (x-10*tens)<<8) | 0x3030303030303030
}

// wholes are the numbers below 1000 with a decimal point.
var wholes = func() (t [1000]struct {
	text uint32
	n    uint32
}) {
	for i := range t {
		var text [4]byte
		t[i].n = uint32(copy(text[:], strconv.Itoa(i)+"."))
		t[i].text = binary.LittleEndian.Uint32(text[:])
	}
	return
}()

// IsNumber says whether a text is a number as JSON writes it (RFC 8259, section 6): no zeros in front, no plus sign.
func IsNumber(text string) bool {
	rest := strings.TrimPrefix(text, "-")
	digits := func() (n int) {
		for n < len(rest) && rest[n] >= '0' && rest[n] <= '9' {
			n++
		}
		return
	}
	n := digits()
	if n == 0 || n > 1 && rest[0] == '0' {
		return false
	}
	rest = rest[n:]
	if strings.HasPrefix(rest, ".") {
		rest = rest[1:]
		if n = digits(); n == 0 {
			return false
		}
		rest = rest[n:]
	}
	if rest != "" && (rest[0] == 'e' || rest[0] == 'E') {
		rest = rest[1:]
		if rest != "" && (rest[0] == '+' || rest[0] == '-') {
			rest = rest[1:]
		}
		if n = digits(); n == 0 {
			return false
		}
		rest = rest[n:]
	}
	return rest == ""
}
