package flatgeobuf

import (
	"encoding/binary"
	"errors"

	flatbuffers "github.com/google/flatbuffers/go"
)

// table is a FlatBuffer's table. Its accessors panic where offsets lead out of the buffer; guard catches that.
type table struct{ flatbuffers.Table }

var errDamaged = errors.New("its contents are damaged")

// guard runs what reads tables.
func guard(read func() error) (err error) {
	defer func() {
		if recover() != nil {
			err = errDamaged
		}
	}()
	return read()
}

func root(b []byte) table {
	return table{flatbuffers.Table{Bytes: b, Pos: flatbuffers.GetUOffsetT(b)}}
}

// slot is where a value stands; 0 is nowhere.
func (t *table) slot(n int) flatbuffers.UOffsetT {
	o := t.Offset(flatbuffers.VOffsetT(4 + 2*n))
	if o == 0 {
		return 0
	}
	return t.Pos + flatbuffers.UOffsetT(o)
}

func (t *table) byte(n int) byte {
	if at := t.slot(n); at != 0 {
		return t.Bytes[at]
	}
	return 0
}

func (t *table) uint16(n int, unless uint16) uint16 {
	if at := t.slot(n); at != 0 {
		return t.GetUint16(at)
	}
	return unless
}

func (t *table) uint64(n int) uint64 {
	if at := t.slot(n); at != 0 {
		return t.GetUint64(at)
	}
	return 0
}

func (t *table) string(n int) string {
	if at := t.slot(n); at != 0 {
		return string(t.ByteVector(at)) // a copy, which outlives the buffer
	}
	return ""
}

func (t *table) table(n int) (table, bool) {
	at := t.slot(n)
	if at == 0 {
		return table{}, false
	}
	return table{flatbuffers.Table{Bytes: t.Bytes, Pos: t.Indirect(at)}}, true
}

// vector gives the bytes of a vector of values of a size.
func (t *table) vector(n, size int) []byte {
	at := t.slot(n)
	if at == 0 {
		return nil
	}
	at += t.GetUOffsetT(at)
	count, begin := int(binary.LittleEndian.Uint32(t.Bytes[at:])), int(at)+4
	return t.Bytes[begin : begin+count*size]
}

// tables gives the tables of a vector.
func (t *table) tables(n int) (out []table) {
	at := t.slot(n)
	if at == 0 {
		return nil
	}
	at += t.GetUOffsetT(at)
	count := int(binary.LittleEndian.Uint32(t.Bytes[at:]))
	if count > len(t.Bytes)/4 {
		panic(errDamaged)
	}
	for i := range count {
		at := at + 4 + flatbuffers.UOffsetT(4*i)
		out = append(out, table{flatbuffers.Table{Bytes: t.Bytes, Pos: at + t.GetUOffsetT(at)}})
	}
	return out
}
