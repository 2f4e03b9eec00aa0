package geoparquet

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"slices"

	"github.com/klauspost/compress/s2"
	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding"
	"github.com/parquet-go/parquet-go/encoding/rle"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"

	"gyrolith/core/format/layer"
)

// Of a page before it is compressed: so many rows, and, where values have lengths of their own, so many bytes.
const (
	rowsInPage  = 1 << 14
	bytesInPage = 256 << 10
)

// bound is how many bytes of the least and greatest text of a page its index has.
const bound = 16

// leaf is a column of the file: its type, and how its values are encoded.
type leaf struct {
	path     []string
	kind     parquet.Type
	code     encoding.Encoding
	optional bool
}

// packs says that its values are as small as they get by their encoding, or have little that comes again.
func (l *leaf) packs() bool {
	return l.code.Encoding() == format.DeltaBinaryPacked || l.kind.Kind() == parquet.Float
}

// texts says that a column has the places of its values in a dictionary.
func (l *leaf) texts() bool { return l.code.Encoding() == format.RLEDictionary }

// leavesOf lists the columns of a schema in its order.
func leavesOf(schema *parquet.Schema) []leaf {
	var out []leaf
	for _, path := range schema.Columns() {
		c, _ := schema.Lookup(path...)
		l := leaf{path: path, kind: c.Node.Type(), code: c.Node.Encoding(), optional: c.Node.Optional()}
		if l.code == nil {
			l.code = &parquet.Plain
		}
		out = append(out, l)
	}
	return out
}

// rowGroup is an encoded row group. Its places are those that it has at the beginning of a file.
type rowGroup struct {
	format.RowGroup
	raw     []byte
	bounds  []format.ColumnIndex
	offsets []format.OffsetIndex
}

// encoder makes row groups of columns of values, one after the other (Apache Parquet, "File Format", "Data Pages",
// "Encodings" and "Page Index"): the encodings, the compression and the structures are those of the package, to which
// whole columns are given instead of single values.
type encoder struct {
	leaves []leaf
	group  rowGroup

	// Of the column at hand.
	leaf    *leaf
	chunk   *format.ColumnMetaData
	index   parquet.ColumnIndexer
	offsets []format.PageLocation
	rows    int64
	least   parquet.Value
	most    parquet.Value

	// Room for a page.
	whole                                 []int64
	decimal                               []float64
	single                                []float32
	days, places                          []int32
	ends                                  []uint32
	flags                                 []byte
	levels, defined, bytes, packed, spare []byte
	header                                bytes.Buffer
	slots                                 []int32 // the place in the dictionary of each text of the rows; -1 is none yet
	known                                 map[string]int32
}

// encode makes a row group of rows of a chunk. It holds until the next is made.
func (e *encoder) encode(c *chunk, rows []uint64) (*rowGroup, error) {
	const attribute = 8 // bytes, before they are compressed
	e.group = rowGroup{RowGroup: format.RowGroup{NumRows: int64(len(rows))},
		raw: slices.Grow(e.group.raw[:0], len(c.geometry)*len(rows)/max(c.len(), 1)+attribute*len(e.leaves)*len(rows))}
	for i := range e.leaves {
		e.begin(&e.leaves[i])
		var err error
		switch k := i - len(c.attributes); {
		case k < 0 && e.leaf.texts():
			err = e.texts(&c.attributes[i], rows)
		case k < 0:
			err = e.attribute(&c.attributes[i], rows)
		case k == 0:
			err = e.geometry(c, rows)
		case k <= len(c.sides):
			err = e.required(rows, func(some []uint64) encoding.Values {
				e.single = pick(e.single, c.sides[k-1], some)
				return encoding.FloatValues(e.single)
			})
		default:
			err = e.required(rows, func(some []uint64) encoding.Values {
				e.whole = pick(e.whole, c.orders, some)
				return encoding.Int64Values(e.whole)
			})
		}
		if err != nil {
			return nil, err
		}
		e.end()
	}
	return &e.group, nil
}

// begin begins a column.
func (e *encoder) begin(l *leaf) {
	e.leaf, e.rows, e.offsets, e.least, e.most = l, 0, nil, parquet.Value{}, parquet.Value{}
	e.index = l.kind.NewColumnIndexer(bound)
	e.chunk = &format.ColumnMetaData{Type: format.Type(l.kind.Kind()), PathInSchema: l.path,
		Encoding: []format.Encoding{l.code.Encoding()}, Codec: format.Snappy}
	if l.packs() {
		e.chunk.Codec = format.Uncompressed
	}
	if l.optional {
		e.chunk.Encoding = append(e.chunk.Encoding, format.RLE)
	}
}

// end ends it.
func (e *encoder) end() {
	if !e.least.IsNull() {
		e.chunk.Statistics.MinValue, e.chunk.Statistics.MaxValue = e.least.Bytes(), e.most.Bytes()
	}
	g := &e.group
	g.TotalByteSize += e.chunk.TotalUncompressedSize
	g.TotalCompressedSize += e.chunk.TotalCompressedSize
	g.Columns = append(g.Columns, format.ColumnChunk{MetaData: *e.chunk})
	g.bounds = append(g.bounds, e.index.ColumnIndex())
	g.offsets = append(g.offsets, format.OffsetIndex{PageLocations: e.offsets})
}

// attribute encodes an attribute other than texts.
func (e *encoder) attribute(a *attribute, rows []uint64) error {
	for some := range slices.Chunk(rows, rowsInPage) {
		there := e.present(a, some)
		var values encoding.Values
		switch a.Type {
		case layer.Decimal:
			e.decimal = pick(e.decimal, a.decimal, there)
			values = encoding.DoubleValues(e.decimal)
		case layer.Boolean:
			e.flags = e.flags[:0]
			for i, row := range there {
				if i%8 == 0 {
					e.flags = append(e.flags, 0)
				}
				e.flags[i/8] |= byte(a.whole[uint32(row)]) << (i % 8)
			}
			values = encoding.BooleanValues(e.flags)
		case layer.Date:
			e.days = e.days[:0]
			for _, row := range there {
				e.days = append(e.days, int32(a.whole[uint32(row)]))
			}
			values = encoding.Int32Values(e.days)
		default:
			e.whole = pick(e.whole, a.whole, there)
			values = encoding.Int64Values(e.whole)
		}
		if err := e.page(len(some), len(there), values); err != nil {
			return err
		}
	}
	return nil
}

// present notes which of the rows have a value, and gives those.
func (e *encoder) present(a *attribute, rows []uint64) []uint64 {
	e.levels = e.levels[:0]
	absent := 0
	for _, row := range rows {
		level := byte(0)
		if a.present[uint32(row)] {
			level = 1
		} else {
			absent++
		}
		e.levels = append(e.levels, level)
	}
	if absent == 0 {
		return rows
	}
	there := make([]uint64, 0, len(rows)-absent)
	for i, row := range rows {
		if e.levels[i] != 0 {
			there = append(there, row)
		}
	}
	return there
}

// texts encodes an attribute of texts: a dictionary, and the places of the values in it.
func (e *encoder) texts(a *attribute, rows []uint64) error {
	e.dictionary(a, rows)
	e.chunk.Encoding = append(e.chunk.Encoding, format.Plain)
	e.chunk.DictionaryPageOffset = e.here()
	var err error
	words := encoding.ByteArrayValues(e.bytes, e.ends)
	if e.packed, err = e.leaf.kind.Encode(e.packed[:0], words, &parquet.Plain); err != nil {
		return err
	}
	size := len(e.packed)
	e.compress()
	e.defined = e.defined[:0]
	err = e.put(&format.PageHeader{Type: format.DictionaryPage, UncompressedPageSize: int32(size),
		DictionaryPageHeader: &format.DictionaryPageHeader{NumValues: int32(len(e.known)), Encoding: format.Plain}})
	if err != nil {
		return err
	}
	for some := range slices.Chunk(rows, rowsInPage) {
		there := e.present(a, some)
		e.places = e.places[:0]
		var least, most []byte
		last := int64(-1)
		for _, row := range there {
			at := a.whole[uint32(row)]
			e.places = append(e.places, e.slots[at])
			if at == last {
				continue
			}
			last = at
			text := a.texts[at]
			if least == nil || bytes.Compare(text, least) < 0 {
				least = text
			}
			if most == nil || bytes.Compare(text, most) > 0 {
				most = text
			}
		}
		if e.packed, err = e.leaf.code.EncodeInt32(e.packed[:0], e.places); err != nil {
			return err
		}
		known := len(there) > 0
		var from, to parquet.Value
		if known {
			from, to = parquet.ByteArrayValue(least), parquet.ByteArrayValue(most)
		}
		if err := e.data(len(some), len(there), from, to, known, false); err != nil {
			return err
		}
	}
	return nil
}

// dictionary collects the different texts of rows.
func (e *encoder) dictionary(a *attribute, rows []uint64) {
	e.slots = slices.Grow(e.slots[:0], len(a.texts))[:len(a.texts)]
	for i := range e.slots {
		e.slots[i] = -1
	}
	if e.known == nil {
		e.known = map[string]int32{}
	}
	clear(e.known)
	e.bytes, e.ends = e.bytes[:0], append(e.ends[:0], 0)
	for _, row := range rows {
		k := uint32(row)
		if !a.present[k] || e.slots[a.whole[k]] >= 0 {
			continue
		}
		text := a.texts[a.whole[k]]
		place, ok := e.known[string(text)]
		if !ok {
			place = int32(len(e.known))
			e.known[string(text)] = place
			e.bytes = append(e.bytes, text...)
			e.ends = append(e.ends, uint32(len(e.bytes)))
		}
		e.slots[a.whole[k]] = place
	}
}

// geometry encodes the geometries.
func (e *encoder) geometry(c *chunk, rows []uint64) error {
	for len(rows) > 0 {
		e.packed = e.packed[:0]
		var least, most []byte
		n := 0
		for n < min(len(rows), rowsInPage) && len(e.packed) < bytesInPage {
			shape := c.shape(int(uint32(rows[n])))
			e.packed = append(binary.LittleEndian.AppendUint32(e.packed, uint32(len(shape))), shape...)
			if n == 0 || bytes.Compare(shape, least) < 0 {
				least = shape
			}
			if n == 0 || bytes.Compare(shape, most) > 0 {
				most = shape
			}
			n++
		}
		// The index is to shorten both, and to raise what it shortened of the greatest.
		least, most = least[:min(len(least), bound+1)], most[:min(len(most), bound+1)]
		if err := e.data(n, n, parquet.ByteArrayValue(least), parquet.ByteArrayValue(most), false, true); err != nil {
			return err
		}
		rows = rows[n:]
	}
	return nil
}

// required encodes a column in which every row has a value.
func (e *encoder) required(rows []uint64, values func(some []uint64) encoding.Values) error {
	for some := range slices.Chunk(rows, rowsInPage) {
		if err := e.page(len(some), len(some), values(some)); err != nil {
			return err
		}
	}
	return nil
}

// pick takes the values of rows to where there is room for them.
func pick[T any](room, values []T, rows []uint64) []T {
	room = room[:0]
	for _, row := range rows {
		room = append(room, values[uint32(row)])
	}
	return room
}

// page encodes a page of rows, of which so many have a value.
func (e *encoder) page(rows, there int, values encoding.Values) (err error) {
	if e.packed, err = e.leaf.kind.Encode(e.packed[:0], values, e.leaf.code); err != nil {
		return err
	}
	least, most, known := e.leaf.kind.NewPage(0, there, values).Bounds()
	return e.data(rows, there, least, most, known, !e.leaf.packs())
}

var levels = rle.Encoding{BitWidth: 1}

// data puts a page of encoded values, the least and the greatest of which are given. They are known if they are whole.
func (e *encoder) data(rows, there int, least, most parquet.Value, known, compressed bool) (err error) {
	e.defined = e.defined[:0]
	if e.leaf.optional {
		if e.defined, err = levels.EncodeLevels(e.defined, e.levels); err != nil {
			return err
		}
	}
	size := len(e.defined) + len(e.packed)
	if compressed {
		e.compress()
	}
	at := e.here()
	absent := int64(rows - there)
	err = e.put(&format.PageHeader{Type: format.DataPageV2, UncompressedPageSize: int32(size),
		DataPageHeaderV2: &format.DataPageHeaderV2{NumValues: int32(rows), NumNulls: int32(absent), NumRows: int32(rows),
			Encoding: e.leaf.code.Encoding(), DefinitionLevelsByteLength: int32(len(e.defined)), IsCompressed: &compressed}})
	if err != nil {
		return err
	}
	if len(e.offsets) == 0 {
		e.chunk.DataPageOffset = at
	}
	e.offsets = append(e.offsets, format.PageLocation{Offset: at, CompressedPageSize: int32(e.here() - at),
		FirstRowIndex: e.rows})
	e.rows += int64(rows)
	e.index.IndexPage(int64(rows), absent, least, most)
	e.chunk.NumValues += int64(rows)
	e.chunk.Statistics.NullCount += absent
	if known {
		if e.least.IsNull() || e.leaf.kind.Compare(least, e.least) < 0 {
			e.least = least.Clone()
		}
		if e.most.IsNull() || e.leaf.kind.Compare(most, e.most) > 0 {
			e.most = most.Clone()
		}
	}
	return nil
}

// put puts a page with its header, whose sum and size of what is stored are worked out.
func (e *encoder) put(h *format.PageHeader) error {
	h.CompressedPageSize = int32(len(e.defined) + len(e.packed))
	h.CRC = int32(crc32.Update(crc32.ChecksumIEEE(e.defined), crc32.IEEETable, e.packed))
	e.header.Reset()
	if err := thrift.NewEncoder(new(thrift.CompactProtocol).NewWriter(&e.header)).Encode(h); err != nil {
		return err
	}
	raw := append(e.group.raw, e.header.Bytes()...)
	raw = append(append(raw, e.defined...), e.packed...)
	e.chunk.TotalUncompressedSize += int64(e.header.Len()) + int64(h.UncompressedPageSize)
	e.chunk.TotalCompressedSize += int64(len(raw) - len(e.group.raw))
	e.group.raw = raw
	return nil
}

// compress compresses the values of a page.
func (e *encoder) compress() {
	e.spare = s2.EncodeSnappy(e.spare[:cap(e.spare)], e.packed)
	e.packed, e.spare = e.spare, e.packed
}

// here is where the next page comes to stand.
func (e *encoder) here() int64 { return int64(len(magic) + len(e.group.raw)) }

// move moves the places of a row group by so many bytes.
func (g *rowGroup) move(by int64) {
	for i := range g.Columns {
		c := &g.Columns[i].MetaData
		c.DataPageOffset += by
		if c.DictionaryPageOffset > 0 {
			c.DictionaryPageOffset += by
		}
		for k := range g.offsets[i].PageLocations {
			g.offsets[i].PageLocations[k].Offset += by
		}
	}
}
