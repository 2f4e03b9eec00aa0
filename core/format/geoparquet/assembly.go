package geoparquet

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"maps"
	"runtime"
	"slices"
	"sync"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// assembly puts a file together from row groups that are encoded side by side, each as a small file of its own: its
// pages are taken over as they are, and the places that the footer and the page indexes name are moved to where they
// have come to stand (Apache Parquet, "File Format" and "Page Index").
type assembly struct {
	out     io.Writer
	offset  int64
	footer  format.FileMetaData
	columns [][]byte             // the column index of each column of each group, encoded
	pages   []format.OffsetIndex // the offset index of each
	parts   []*part              // as many as are encoded at a time
}

// part encodes one row group after the other.
type part struct {
	raw    *bytes.Buffer
	file   *parquet.GenericWriter[any]
	values []parquet.Value
}

// buffers serve one file after the other.
var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// discard gives back what the parts had.
func (a *assembly) discard() {
	for _, p := range a.parts {
		p.raw.Reset()
		buffers.Put(p.raw)
		p.raw = nil
	}
}

func newAssembly(out io.Writer, options func() []parquet.WriterOption, groups int) (*assembly, error) {
	a := &assembly{out: out}
	for range max(min(runtime.GOMAXPROCS(0), groups), 1) {
		a.parts = append(a.parts, &part{raw: buffers.Get().(*bytes.Buffer),
			file: parquet.NewGenericWriter[any](io.Discard, options()...)})
	}
	return a, a.put([]byte(magic))
}

func (a *assembly) put(b []byte) error {
	n, err := a.out.Write(b)
	a.offset += int64(n)
	return err
}

// add writes groups in the order in which they are given.
func (a *assembly) add(groups [][]uint64, encode func(p *part, rows []uint64) error) error {
	faults := make([]error, len(a.parts))
	for len(groups) > 0 {
		some := min(len(groups), len(a.parts))
		var all sync.WaitGroup
		for i, rows := range groups[:some] {
			all.Go(func() {
				p := a.parts[i]
				p.raw.Reset()
				p.file.Reset(p.raw)
				faults[i] = errors.Join(encode(p, rows), p.file.Close())
			})
		}
		all.Wait()
		for i, p := range a.parts[:some] {
			if faults[i] != nil {
				return faults[i]
			}
			if err := a.take(p); err != nil {
				return err
			}
		}
		groups = groups[some:]
	}
	return nil
}

// take appends the pages of a part, and keeps what the footer is to say of them.
func (a *assembly) take(p *part) error {
	footer := p.file.File().Metadata()
	groups := a.footer.RowGroups
	if len(groups) == 0 {
		a.footer = *footer
	}
	if len(footer.RowGroups) == 0 {
		return nil
	}
	raw := p.raw.Bytes()
	end := int64(len(raw))
	for _, group := range footer.RowGroups {
		moved := a.offset - int64(len(magic))
		for i := range group.Columns {
			c := &group.Columns[i]
			a.columns = append(a.columns, bytes.Clone(raw[c.ColumnIndexOffset:][:c.ColumnIndexLength]))
			var pages format.OffsetIndex
			encoded := raw[c.OffsetIndexOffset:][:c.OffsetIndexLength]
			if err := thrift.Unmarshal(new(thrift.CompactProtocol), encoded, &pages); err != nil {
				return err
			}
			for k := range pages.PageLocations {
				pages.PageLocations[k].Offset += moved
			}
			a.pages = append(a.pages, pages)
			end = min(end, c.ColumnIndexOffset, c.OffsetIndexOffset)
			c.MetaData.DataPageOffset += moved
			if c.MetaData.DictionaryPageOffset > 0 {
				c.MetaData.DictionaryPageOffset += moved
			}
		}
		group.FileOffset += moved
		group.Ordinal = int16(len(groups))
		groups = append(groups, group)
	}
	a.footer.RowGroups = groups
	return a.put(raw[len(magic):end])
}

// close writes the page indexes and the footer.
func (a *assembly) close(about map[string]string) error {
	if len(a.footer.RowGroups) == 0 { // no features: only the footer of an empty file
		if err := a.add([][]uint64{nil}, func(*part, []uint64) error { return nil }); err != nil {
			return err
		}
	}
	for _, key := range slices.Sorted(maps.Keys(about)) {
		a.footer.KeyValueMetadata = append(a.footer.KeyValueMetadata, format.KeyValue{Key: key, Value: about[key]})
	}
	groups := a.footer.RowGroups
	a.footer.NumRows = 0
	for i := range groups {
		a.footer.NumRows += groups[i].NumRows
	}
	width := len(a.columns) / max(len(groups), 1)
	for i, encoded := range a.columns {
		groups[i/width].Columns[i%width].ColumnIndexOffset = a.offset
		if err := a.put(encoded); err != nil {
			return err
		}
	}
	for i := range a.pages {
		encoded, err := thrift.Marshal(new(thrift.CompactProtocol), &a.pages[i])
		if err != nil {
			return err
		}
		c := &groups[i/width].Columns[i%width]
		c.OffsetIndexOffset, c.OffsetIndexLength = a.offset, int32(len(encoded))
		if err := a.put(encoded); err != nil {
			return err
		}
	}
	encoded, err := thrift.Marshal(new(thrift.CompactProtocol), &a.footer)
	if err != nil {
		return err
	}
	length := uint32(len(encoded))
	return a.put(append(binary.LittleEndian.AppendUint32(encoded, length), magic...))
}
