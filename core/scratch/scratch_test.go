package scratch

import (
	"os"
	"testing"
)

type value struct {
	number int64
	marks  [3]uint8
}

// What is put aside again and again comes back as it was.
func TestRoom(t *testing.T) {
	const n = 3_000_000 // 48 MB, several times what is passed at once
	room, err := Of[value](n)
	if err == errNone {
		t.Skip(err)
	} else if err != nil {
		t.Fatal(err)
	}
	for i := range room {
		room[i] = value{int64(i), [3]uint8{uint8(i), 1, 2}}
	}
	at := 0
	for block := range Blocks(room) {
		for i := range block {
			if block[i] != (value{int64(at), [3]uint8{uint8(at), 1, 2}}) {
				t.Fatalf("value %d comes back as %+v", at, block[i])
			}
			block[i].number = -block[i].number
			at++
		}
	}
	if at != n {
		t.Errorf("%d of %d values are in blocks", at, n)
	}
	if !Any(room, func(v *value) bool { return v.number == 1-n }) ||
		Any(room, func(v *value) bool { return v.number > 0 }) {
		t.Error("values do not keep what was written")
	}
}

// The room is not to be seen among the files, so that nothing is left behind however the program ends.
func TestNothingLeft(t *testing.T) {
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	if _, err := Of[int64](1000); err != nil {
		t.Skip(err)
	}
	if entries, err := os.ReadDir(dir); err != nil || len(entries) > 0 {
		t.Errorf("%v %v", entries, err)
	}
	t.Setenv("TMPDIR", dir+"/missing")
	if _, err := Of[int64](1000); err == nil {
		t.Error("there is room in a folder that is not there")
	}
}

// Values with pointers would be lost to the collector of garbage.
func TestPointers(t *testing.T) {
	defer func() {
		if recover() == nil {
			t.Error("values with pointers are taken")
		}
	}()
	_, _ = Of[struct{ name string }](1)
}

// A list gives back what was put into it, in whatever pieces, also where it has gone on in scratch room.
func TestList(t *testing.T) {
	var l List[[3]int64]
	const n = 4 << 20 // about 100 MB
	var some [][3]int64
	for i := range int64(n) {
		if some = append(some, [3]int64{i, -i, i * i}); len(some) == int(i%1000)+1 {
			l.Append(some...)
			some = some[:0]
		}
	}
	l.Append(some...)
	if l.Len() != n {
		t.Fatalf("%d values of %d", l.Len(), n)
	}
	for _, i := range []int{0, 1, 1 << 17, n / 2, n - 1} {
		if got := *l.At(i); got != [3]int64{int64(i), -int64(i), int64(i) * int64(i)} {
			t.Errorf("value %d is %v", i, got)
		}
	}
	at := 12345
	for part := range l.Between(at, n-5) {
		for _, v := range part {
			if v[0] != int64(at) {
				t.Fatalf("value %d is %v", at, v)
			}
			at++
		}
	}
	if at != n-5 {
		t.Errorf("the values end at %d", at)
	}
}
