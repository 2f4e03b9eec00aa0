// Package scratch gives room for values that are many: in a file without a name, mapped into memory, so that the
// machine may put them aside while they are not looked at. The room is never given back before the program ends.
package scratch

import (
	"errors"
	"iter"
	"reflect"
	"sync/atomic"
	"unsafe"
)

var errNone = errors.New("this system has no scratch room")

// Of gives room for n values, which may have no pointers in them. There is none where the disk is full or the system
// has no such thing; it is a matter of memory alone, and the heap does instead.
func Of[T any](n int) ([]T, error) {
	var one T
	if hasPointers(reflect.TypeFor[T]()) {
		panic("scratch: values with pointers")
	}
	room, err := reserve(int64(n) * int64(unsafe.Sizeof(one)))
	if err != nil {
		return nil, err
	}
	return unsafe.Slice((*T)(unsafe.Pointer(&room[0])), n), nil
}

// Make gives room for n values, in the heap unless they are very many.
func Make[T any](n int) []T {
	if Many(n) {
		if room, err := Of[T](n); err == nil {
			return room
		}
	}
	return make([]T, n)
}

// Many says whether so many values are worth a file.
func Many(n int) bool { return n >= 1<<20 }

// used says that there is scratch room at all.
var used atomic.Bool

// passed is how many bytes were passed over since all was put aside.
var passed atomic.Int64

// atOnce is how many bytes of scratch room are passed over before they are put aside.
const atOnce = 16 << 20

// Passed says that n values were looked at, one after the other, and may be put aside.
func Passed[T any](n int) {
	if !used.Load() {
		return
	}
	var one T
	if passed.Add(int64(n)*int64(unsafe.Sizeof(one))) > atOnce {
		passed.Store(0)
		putAside()
	}
}

// Blocks goes through values in blocks, each of which may be put aside when it was looked at.
func Blocks[T any](values []T) iter.Seq[[]T] {
	const block = 1 << 14
	return func(yield func([]T) bool) {
		for len(values) > 0 {
			n := min(block, len(values))
			if !yield(values[:n]) {
				return
			}
			values = values[n:]
			Passed[T](n)
		}
	}
}

// Any says whether one of many values is such.
func Any[T any](values []T, such func(*T) bool) bool {
	for block := range Blocks(values) {
		for i := range block {
			if such(&block[i]) {
				return true
			}
		}
	}
	return false
}

func hasPointers(t reflect.Type) bool {
	switch t.Kind() {
	case reflect.Struct:
		for i := range t.NumField() {
			if hasPointers(t.Field(i).Type) {
				return true
			}
		}
		return false
	case reflect.Array:
		return hasPointers(t.Elem())
	}
	return t.Kind() > reflect.Complex128
}
