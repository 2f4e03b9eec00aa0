package geoparquet

import (
	"encoding/binary"
	"io"
	"maps"
	"runtime"
	"slices"
	"sync"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// assembly puts a file together from row groups that are encoded side by side (Apache Parquet, "File Format" and "Page
// Index").
type assembly struct {
	out      io.Writer
	offset   int64
	footer   format.FileMetaData
	bounds   [][]format.ColumnIndex // of the columns of each group
	offsets  [][]format.OffsetIndex
	leaves   []leaf
	encoders []*encoder // as many as encode groups of one chunk
}

// newAssembly begins a file.
func newAssembly(out io.Writer, schema *parquet.Schema) (*assembly, error) {
	a := &assembly{out: out, leaves: leavesOf(schema)}
	empty := parquet.NewGenericWriter[any](io.Discard, schema, parquet.CreatedBy("Gyrolith", "", ""))
	if err := empty.Close(); err != nil {
		return nil, err
	}
	a.footer = *empty.File().Metadata()
	return a, a.put([]byte(magic))
}

func (a *assembly) put(b []byte) error {
	n, err := a.out.Write(b)
	a.offset += int64(n)
	return err
}

// add writes the rows of a chunk in groups.
func (a *assembly) add(c *chunk) error {
	if c.group != nil {
		return a.take(c.group)
	}
	for len(a.encoders) < runtime.GOMAXPROCS(0) {
		a.encoders = append(a.encoders, &encoder{leaves: a.leaves})
	}
	faults := make([]error, len(a.encoders))
	encoded := make([]*rowGroup, len(a.encoders))
	groups := slices.Collect(slices.Chunk(c.rows, rowsInGroup))
	for len(groups) > 0 {
		some := min(len(groups), len(a.encoders))
		var all sync.WaitGroup
		for i, rows := range groups[:some] {
			all.Go(func() { encoded[i], faults[i] = a.encoders[i].encode(c, rows) })
		}
		all.Wait()
		for i, g := range encoded[:some] {
			if faults[i] != nil {
				return faults[i]
			}
			if err := a.take(g); err != nil {
				return err
			}
		}
		groups = groups[some:]
	}
	return nil
}

// take appends a group.
func (a *assembly) take(g *rowGroup) error {
	g.move(a.offset - int64(len(magic)))
	g.FileOffset, g.Ordinal = a.offset, int16(len(a.footer.RowGroups))
	a.footer.RowGroups = append(a.footer.RowGroups, g.RowGroup)
	a.footer.NumRows += g.NumRows
	a.bounds, a.offsets = append(a.bounds, g.bounds), append(a.offsets, g.offsets)
	return a.put(g.raw)
}

// close writes the page indexes and the footer.
func (a *assembly) close(about map[string]string) error {
	err := a.indexes(func(c *format.ColumnChunk) (*int64, *int32) { return &c.ColumnIndexOffset, &c.ColumnIndexLength },
		func(i, k int) any { return &a.bounds[i][k] })
	if err != nil {
		return err
	}
	err = a.indexes(func(c *format.ColumnChunk) (*int64, *int32) { return &c.OffsetIndexOffset, &c.OffsetIndexLength },
		func(i, k int) any { return &a.offsets[i][k] })
	if err != nil {
		return err
	}
	for _, key := range slices.Sorted(maps.Keys(about)) {
		a.footer.KeyValueMetadata = append(a.footer.KeyValueMetadata, format.KeyValue{Key: key, Value: about[key]})
	}
	begin := a.offset
	if err := a.encode(&a.footer); err != nil {
		return err
	}
	length := uint32(a.offset - begin)
	return a.put(append(binary.LittleEndian.AppendUint32(nil, length), magic...))
}

// indexes writes an index of each column of each group, and notes where it stands.
func (a *assembly) indexes(at func(*format.ColumnChunk) (offset *int64, length *int32), of func(i, k int) any) error {
	for i, group := range a.footer.RowGroups {
		for k := range group.Columns {
			offset, length := at(&group.Columns[k])
			*offset = a.offset
			if err := a.encode(of(i, k)); err != nil {
				return err
			}
			*length = int32(a.offset - *offset)
		}
	}
	return nil
}

// encode writes a structure.
func (a *assembly) encode(v any) error {
	encoded, err := thrift.Marshal(new(thrift.CompactProtocol), v)
	if err != nil {
		return err
	}
	return a.put(encoded)
}
