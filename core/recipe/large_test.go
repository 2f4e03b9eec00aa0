package recipe

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// A list gives paths with their sizes, and names inputs below the folder that all are in.
func TestListed(t *testing.T) {
	list := "path\tsize\r\n/data/b/walk.gpx\t2000\r\n/data/a/walk.gpx,500\n\n/data/a/no size.gpx\n/data/c, d.gpx\n"
	inputs, err := Listed(strings.NewReader(list), "list.txt")
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, in := range inputs {
		got = append(got, fmt.Sprintf("%d %s %s %d", in.Number, in.Rel, filepath.ToSlash(in.Path), in.Size))
	}
	want := "1 a/no size.gpx /data/a/no size.gpx 0|2 a/walk.gpx /data/a/walk.gpx 500|3 b/walk.gpx /data/b/walk.gpx 2000|" +
		"4 c, d.gpx /data/c, d.gpx 0"
	if strings.Join(got, "|") != want {
		t.Errorf("%q", got)
	}
	for list, want := range map[string]string{"a.gpx\tbig\n": `list.txt:1: "big" is not a size`,
		"x/a.gpx\nx/./a.gpx\n": "twice"} {
		if _, err := Listed(strings.NewReader(list), "list.txt"); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", list, err)
		}
	}
}

// Shares by bytes are of all inputs, of each once, about equally large, and hardly change with one input more.
func TestSharesByBytes(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	var inputs []Input
	total := int64(0)
	for i := range 5000 {
		size := int64(1000 * (1 + r.ExpFloat64()*100))
		inputs = append(inputs, Input{Rel: fmt.Sprintf("%05d.gpx", i), Size: size})
		total += size
	}
	of := func(inputs []Input) map[string]int {
		seen := map[string]int{}
		for part := 1; part <= 20; part++ {
			bytes := int64(0)
			for _, in := range (Share{part, 20}).ByBytes(inputs) {
				if seen[in.Rel] != 0 {
					t.Fatalf("%s is in two shares", in.Rel)
				}
				seen[in.Rel] = part
				bytes += in.Size
			}
			if share := float64(bytes) * 20 / float64(total); share < 0.9 || share > 1.1 {
				t.Errorf("share %d has %.2f of its part", part, share)
			}
		}
		if len(seen) != len(inputs) {
			t.Errorf("%d of %d inputs", len(seen), len(inputs))
		}
		return seen
	}
	before, moved := of(inputs), 0
	after := of(append(inputs, Input{Rel: "new.gpx", Size: 50_000}))
	for name, part := range before {
		if after[name] != part {
			moved++
		}
	}
	if moved > 40 {
		t.Errorf("%d inputs are in another share with one input more", moved)
	}
}

// By times nothing is read that looks as it did; without, what was changed under the same time and size is found.
func TestByTimes(t *testing.T) {
	b := newBench(t, "a", "d")
	byTimes := func(r *Runner) { r.ByTimes = true }
	b.run(func(*Runner) {})
	in := filepath.Join(b.dir, "in", "a")
	info, err := os.Stat(in)
	if err != nil {
		t.Fatal(err)
	}
	kept := func(how func(*Runner)) (n int) {
		b.run(func(r *Runner) {
			how(r)
			tell := r.Tell
			r.Tell = func(o *Outcome) {
				if tell(o); o.Entry.Status == Kept {
					n++
				}
			}
		})
		return
	}
	if n := kept(byTimes); n != 2 {
		t.Errorf("%d kept", n)
	}
	text, _ := os.ReadFile(in)
	os.WriteFile(in, []byte(strings.ToUpper(string(text))), 0o666)
	if n := kept(byTimes); n != 1 {
		t.Errorf("%d kept after a change", n)
	}
	os.WriteFile(in, text, 0o666)
	b.run(func(*Runner) {})
	os.WriteFile(in, []byte(strings.ToUpper(string(text))), 0o666)
	os.Chtimes(in, info.ModTime(), info.ModTime())
	stamps := filepath.Join(b.dir, "out", "journal.stamps")
	if _, err := os.Stat(stamps); err != nil {
		t.Fatal(err)
	}
	if n := kept(func(*Runner) {}); n != 1 {
		t.Errorf("%d kept by their sums, of which one is another", n)
	}
	// Stamps that are lost or damaged cost a look at the sums, and nothing else.
	os.WriteFile(stamps, []byte("no stamps\nat all\n"), 0o666)
	if n := kept(byTimes); n != 2 {
		t.Errorf("%d kept without stamps", n)
	}
	os.Remove(filepath.Join(b.dir, "out", "d.out"))
	if n := kept(byTimes); n != 1 {
		t.Errorf("%d kept where an output is gone", n)
	}
}

// The sum of a large file is kept until its size, time or number changes, and is the same with and without.
func TestSumsKept(t *testing.T) {
	dir, out := t.TempDir(), t.TempDir()
	path := filepath.Join(dir, "terrain.hgt")
	write := func(first byte, at time.Time) {
		text := make([]byte, 2<<20)
		text[0] = first
		if err := os.WriteFile(path, text, 0o666); err != nil {
			t.Fatal(err)
		}
		os.Chtimes(path, at, at)
	}
	long := time.Now().Add(-time.Hour)
	write(1, long)
	plain, err := SumOfAll([]string{dir})
	if err != nil {
		t.Fatal(err)
	}
	for range 3 {
		if kept, err := SumKept([]string{dir}, out); err != nil || kept != plain {
			t.Errorf("%s, want %s: %v", kept, plain, err)
		}
	}
	k := &keptSums{known: map[string]keptSum{}}
	info, _ := os.Stat(path)
	now := keptSum{Size: info.Size(), Time: info.ModTime().UnixNano(), Sum: "known"}
	now.Changed, now.Inode = changeOf(info)
	k.known[path] = now
	if sum, _ := k.of(path, info); sum != "known" {
		t.Errorf("a known sum was taken again: %s", sum)
	}
	write(2, long.Add(time.Minute))
	info, _ = os.Stat(path)
	if sum, _ := k.of(path, info); sum == "known" {
		t.Error("the sum of a file that was changed is the old one")
	}
	if kept, err := SumKept([]string{dir}, out); err != nil || kept == plain {
		t.Errorf("%s is that of the file before: %v", kept, err)
	}
	if _, err := SumKept([]string{dir}, filepath.Join(out, "none")); err != nil {
		t.Errorf("without a folder: %v", err)
	}
}
