package recipe

import "io"

// Content is what a file holds, in blocks that follow one another: what is written to it is never moved again.
type Content [][]byte

// The first block is small, as most files are, each next one twice as large, up to a bound.
const (
	firstBlock = 4 << 10
	mostBlock  = 1 << 20
)

// Write appends bytes; it always succeeds.
func (c *Content) Write(p []byte) (int, error) {
	for rest := p; len(rest) > 0; {
		n := len(*c)
		if n == 0 || len((*c)[n-1]) == cap((*c)[n-1]) {
			size := firstBlock
			if n > 0 {
				size = min(2*cap((*c)[n-1]), mostBlock)
			}
			*c = append(*c, make([]byte, 0, size))
			n++
		}
		last := &(*c)[n-1]
		taken := min(len(rest), cap(*last)-len(*last))
		*last = append(*last, rest[:taken]...)
		rest = rest[taken:]
	}
	return len(p), nil
}

// WriteTo writes all blocks.
func (c Content) WriteTo(w io.Writer) (sum int64, err error) {
	for _, block := range c {
		n, err := w.Write(block)
		if sum += int64(n); err != nil {
			return sum, err
		}
	}
	return sum, nil
}
