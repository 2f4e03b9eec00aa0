package geoparquet

import (
	"github.com/klauspost/compress/s2"
	"github.com/parquet-go/parquet-go/compress"
	"github.com/parquet-go/parquet-go/compress/snappy"
)

// fastSnappy compresses as Snappy does, in half the time that the package's own way takes for a few per cent less.
type fastSnappy struct{ snappy.Codec }

var _ compress.Codec = (*fastSnappy)(nil)

// Encode compresses a page.
func (*fastSnappy) Encode(dst, src []byte) ([]byte, error) {
	return s2.EncodeSnappy(dst[:cap(dst)], src), nil
}
