package decimal

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
)

// What a source wrote is written again digit for digit, zeros at the end and signs included.
func TestDecimalKeepsDigits(t *testing.T) {
	for _, text := range []string{"0", "0.0", "-0.0", "47", "-47.6", "47.600000", "11.3000", "179.9999999",
		"-179.99999999999", "0.0000001",
		"89.1234567890123", "-122.0822035425683", "11.30000000000001", "123456.75", "8848.86", "-428.0", "00.5"} {
		v, digits, ok := Parse([]byte(text))
		if !ok {
			t.Errorf("%s: refused", text)
			continue
		}
		want := text
		if text == "00.5" { // zeros before a number are no digits of it
			want = "0.5"
		}
		if got := string(Append(nil, v, digits)); got != want {
			t.Errorf("%s is written as %s", text, got)
		}
	}
}

// Numbers with any count of decimals come back as they were, those next to a whole number above all.
func TestDecimalsNearWholeNumbers(t *testing.T) {
	for n := 1; n <= 13; n++ {
		for whole := range 360 {
			for _, text := range []string{
				fmt.Sprintf("%d.%s", whole, strings.Repeat("9", n)),
				fmt.Sprintf("-%d.%s1", whole, strings.Repeat("0", n-1)),
				fmt.Sprintf("%d.%0*d", whole, n, int64(whole)*27_182_818_284%int64(math.Pow10(n))),
			} {
				v, digits, _ := Parse([]byte(text))
				if got := string(Append(nil, v, digits)); got != text && n+len(strconv.Itoa(whole)) <= 15 {
					t.Errorf("%s is written as %s", text, got)
				}
			}
		}
	}
	for v, want := range map[float64]string{998.996: "999.00", 999.996: "1000.00", 1000.004: "1000.00",
		-0.004: "-0.00", 7.999: "8.00", math.NaN(): "NaN"} {
		if got := string(Append([]byte("x"), v, PrecisionOf(2))); got != "x"+want {
			t.Errorf("%v to two decimals is written as %s, not %s", v, got, want)
		}
	}
}

func TestDecimalForms(t *testing.T) {
	for _, c := range []struct {
		text string
		want float64
		ok   bool
	}{
		{" 12.5\n", 12.5, true}, {"+3", 3, true}, {".5", 0.5, true}, {"5.", 5, true}, {"1e-3", 0.001, true},
		{"2.5E2", 250, true},
		{"", 0, false}, {" ", 0, false}, {"-", 0, false}, {".", 0, false}, {"1,5", 0, false}, {"12abc", 0, false},
		{"NaN", 0, false},
		{"Inf", 0, false}, {"-inf", 0, false}, {"0x10", 0, false}, {"1e999", 0, false}, {"1 2", 0, false},
		{"--1", 0, false}, {"1_0", 0, false},
		{"1.2.3", 0, false}, {"123456789012345678901234567890", 123456789012345678901234567890, true},
	} {
		v, _, ok := Parse([]byte(c.text))
		if ok != c.ok || ok && v != c.want {
			t.Errorf("%q: got %v %v, want %v %v", c.text, v, ok, c.want, c.ok)
		}
	}
}

// Computed positions are written to a tenth of a millimetre and not longer.
func TestComputedDecimal(t *testing.T) {
	for _, c := range []struct {
		v    float64
		want string
	}{{47.6, "47.6"}, {-47.123456789012, "-47.123456789"}, {0, "0"}, {-1e-12, "0"}, {100, "100"}, {11.1 + 0.2, "11.3"}} {
		if got := string(Append(nil, c.v, 0)); got != c.want {
			t.Errorf("%v is written as %s, want %s", c.v, got, c.want)
		}
	}
}

// Short numbers have the digits that the standard library's formatter gives, without zeros at the end.
func TestShortDecimals(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	for i := range 400_000 {
		n := i % 10
		v := (random.Float64() - 0.5) * math.Pow10(i%5)
		if i%3 == 0 { // near and at the middle between two
			v = (math.Round(v*math.Pow10(n)) + 0.5) / math.Pow10(n)
		}
		want := strconv.FormatFloat(v, 'f', n, 64)
		if n > 0 {
			want = strings.TrimRight(strings.TrimRight(want, "0"), ".")
		}
		if want == "-0" {
			want = "0"
		}
		if got := string(AppendShort(nil, v, n)); got != want {
			t.Fatalf("%v to %d decimals is %s, not %s", v, n, got, want)
		}
	}
}

// The standard library's parser is the judge of values, its formatter of digits.
func FuzzDecimal(f *testing.F) {
	for _, s := range []string{"1.5", "-47.6000", "1e5", "0.1234567890123456789", "+.5", "9007199254740993"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		v, digits, ok := Parse([]byte(s))
		if !ok {
			return
		}
		want, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		if err != nil || v != want || math.Signbit(v) != math.Signbit(want) {
			t.Fatalf("%q: %v, the judge has %v (%v)", s, v, want, err)
		}
		n, _ := digits.Decimals()
		if math.Abs(v) <= 360 && n <= 12 {
			if got, want := string(Append(nil, v, digits)), strconv.FormatFloat(v, 'f', n, 64); got != want {
				t.Fatalf("%q is written as %s, the judge has %s", s, got, want)
			}
		}
	})
}
