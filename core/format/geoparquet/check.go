package geoparquet

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"io"

	"github.com/parquet-go/parquet-go/encoding/thrift"
	pqformat "github.com/parquet-go/parquet-go/format"

	"gyrolith/core/advice"
	"gyrolith/core/format"
)

// checkEnd looks at the end of a file: the metadata, their length in four bytes, and the magic word. The package makes
// room for that length without asking whether the file has it.
func (r *reader) checkEnd(at io.ReaderAt, size int64) error {
	var end [8]byte
	whole := int64(len(magic) + len(end))
	if _, err := at.ReadAt(end[:], max(size-int64(len(end)), 0)); err != nil || string(end[4:]) != magic {
		return &format.Error{Path: r.src.Path, Msg: "the file is cut off: it does not end as a Parquet file does"}
	}
	if length := int64(binary.LittleEndian.Uint32(end[:4])); length > size-whole {
		return errDamaged
	}
	return nil
}

// leastPage is from which unpacked size on the ratio of a page counts.
const leastPage = 1 << 20

// checkPages looks at the heads of all pages, since the package makes room for what they say, and at the checksums of
// dictionaries; those of data pages the package looks at.
func (r *reader) checkPages(at io.ReaderAt, size int64) error {
	whole, rows := r.file.Metadata(), int64(0)
	for _, g := range whole.RowGroups {
		if n := len(r.file.Schema().Columns()); len(g.Columns) != n {
			return fmt.Errorf("its schema has %d columns, and a group of its rows %d: it is damaged", n, len(g.Columns))
		}
		rows += g.NumRows
		for i := range g.Columns {
			c := &g.Columns[i].MetaData
			from := c.DataPageOffset
			if c.DictionaryPageOffset > 0 {
				from = min(from, c.DictionaryPageOffset)
			}
			if from < 0 || c.TotalCompressedSize < 0 || c.TotalCompressedSize > size-from {
				return errDamaged
			}
			if err := r.checkChunk(at, from, from+c.TotalCompressedSize); err != nil {
				return err
			}
		}
	}
	if whole.NumRows != rows {
		r.d.Contradict("its metadata say that it has %d rows, and its groups have %d", whole.NumRows, rows)
	}
	return nil
}

// checkChunk looks at the pages of a column between two places of the file.
func (r *reader) checkChunk(at io.ReaderAt, from, end int64) error {
	in := bufio.NewReader(nil)
	for from < end {
		section := io.NewSectionReader(at, from, end-from)
		in.Reset(section)
		var h pqformat.PageHeader
		if err := thrift.NewDecoder(new(thrift.CompactProtocol).NewReader(in)).Decode(&h); err != nil {
			return errDamaged
		}
		read, _ := section.Seek(0, io.SeekCurrent)
		from += read - int64(in.Buffered())
		packed, unpacked := int64(h.CompressedPageSize), int64(h.UncompressedPageSize)
		switch {
		case packed < 0 || unpacked < 0 || packed > end-from:
			return errDamaged
		case unpacked > leastPage && unpacked/r.opt.Ratio() > packed:
			return advice.Errorf(advice.AllowRatio, "has a page that unpacks to more than %d times its size", r.opt.Ratio())
		}
		if h.DictionaryPageHeader != nil && h.CRC != 0 {
			sum := crc32.NewIEEE()
			if _, err := io.CopyN(sum, in, packed); err != nil || sum.Sum32() != uint32(h.CRC) {
				return errDamaged
			}
		}
		from += packed
	}
	return nil
}
