package decimal

import "testing"

// A column is numbers or codes by what its texts are together.
func TestNumbers(t *testing.T) {
	for _, c := range []struct {
		texts []string
		want  bool
	}{
		{[]string{"1", "2.5", "0.30000000000000004", "1e-05"}, true},
		{[]string{"2.50", "3.00", "12.75"}, true}, // of one number of decimals
		{[]string{"2.50", "3.0", "12"}, true},
		{[]string{"1.1", "1.10"}, false},
		{[]string{"1.10", "7", "1.1"}, false},
		{[]string{"1.0e+1", "10"}, false},
		{[]string{"1E5", "2E7"}, false},
		{[]string{"7", "007"}, false},
		{[]string{"12345678901234567890"}, false}, // no float64 has these digits
		{[]string{"", ""}, false},
		{[]string{"1", "", "x"}, false},
	} {
		var n Numbers
		for _, text := range c.texts {
			n.Take(text)
		}
		if n.Doubtful() {
			for _, text := range c.texts {
				n.Check(text)
			}
		}
		if (n.any && !n.Codes()) != c.want {
			t.Errorf("%q are numbers: %v, want %v", c.texts, n.any && !n.Codes(), c.want)
		}
	}
}
