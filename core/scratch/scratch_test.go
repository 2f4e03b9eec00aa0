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
