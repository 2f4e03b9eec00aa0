package main

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/safefile"
)

// newest is the archive of a folder that was made last.
func (f *folder) newest(folder string) string {
	f.t.Helper()
	archives, _ := filepath.Glob(f.path(folder + "/*.zip"))
	if len(archives) == 0 {
		f.t.Fatalf("no archive in %s", folder)
	}
	last := archives[0]
	for _, a := range archives {
		was, _ := os.Stat(last)
		is, _ := os.Stat(a)
		if is.ModTime().After(was.ModTime()) {
			last = a
		}
	}
	rel, _ := filepath.Rel(f.dir, last)
	return rel
}

// whole is the state of a card with its manifest.
func (f *folder) whole(card string) map[string]string {
	out := f.state(card)
	if b, err := os.ReadFile(f.path(card + "/gyrolith-manifest.json")); err == nil {
		out["gyrolith-manifest.json"] = string(b)
	}
	return out
}

// A card that is restored is what it was when it was archived, byte for byte, its manifest too: on every unit and on
// profiles of one's own, after another list, and after what a crew did. What came since is archived, and what is not
// the unit's stays.
func TestRestoredIsWhatWas(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("counting.txt", "briefing.txt")
	f.put("first.csv", "name,lat,lon\nAlder,-47.5,11.3\nBirch,-47.51,11.3\n")
	f.put("second.csv", "name,lat,lon\nCedar,-47.55,11.3\nElm,-47.56,11.3\nAlder,-47.5,11.4\n")
	text, err := os.ReadFile("../../core/unit/profiles/gpx-folder.toml")
	if err != nil {
		t.Fatal(err)
	}
	f.put("mine.toml", strings.Replace(string(text), `"gpx-folder"`, `"mine"`, 1))
	for _, unit := range []string{"ridge", "keel", "vane", "csv-list", "mine.toml"} {
		first, second := "first.csv", "second.csv"
		if unit == "vane" {
			first, second = "counting.txt", "briefing.txt"
		}
		card, keep := "card-"+unit, "kept-"+unit
		f.put(card+"/PHOTO.JPG", "a picture")
		f.must("stow", first, "--unit", unit, "--card", card, "--archives", keep)
		if unit == "ridge" || unit == "keel" {
			f.must("boot", "--card", card, "--make", "Mooring", "47.6 S 11.2 E")
		}
		was := f.whole(card)
		f.must("stow", second, "--unit", unit, "--card", card, "--replace", "--archives", keep)
		archive := f.newest(keep)
		f.put(card+"/PHOTO2.JPG", "another")
		if unit == "ridge" || unit == "keel" {
			f.must("boot", "--card", card, "--make", "Wreck", "47.61 S 11.2 E")
		}
		since := f.whole(card)
		f.refuses(1, "--replace", "unstow", "--restore", archive, "--card", card, "--archives", keep)
		r := f.must("unstow", "--restore", archive, "--card", card, "--replace", "--archives", keep+"-2")
		now := f.whole(card)
		if now["PHOTO2.JPG"] != "another" {
			t.Errorf("%s: a picture is gone", unit)
		}
		if delete(now, "PHOTO2.JPG"); !same(now, was) {
			t.Errorf("%s: restored %v, not %v\n%s", unit, names(now), names(was), r.err)
		}
		// And back again.
		f.must("unstow", "--restore", f.newest(keep+"-2"), "--card", card, "--replace", "--archives", keep+"-3")
		if now := f.whole(card); !same(now, since) {
			t.Errorf("%s: brought back %v, not %v", unit, names(now), names(since))
		}
		// A whole card, too.
		f.must("unstow", "--card", card, "-o", card+".zip")
		f.must("stow", first, "--unit", unit, "--card", card, "--replace", "--archives", keep)
		f.must("unstow", "--restore", card+".zip", "--card", card, "--replace", "--archives", keep)
		if now := f.whole(card); !same(now, since) {
			t.Errorf("%s: the whole card is %v, not %v", unit, names(now), names(since))
		}
	}
}

// A restore that is killed says so, and is completed or undone.
func TestRestoreKilled(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("first.csv", "name,lat,lon\nAlder,-47.5,11.3\nBirch,-47.51,11.3\n")
	f.put("second.csv", "name,lat,lon\nCedar,-47.55,11.3\nElm,-47.56,11.3\n")
	f.put("start/.here", "")
	f.must("stow", "first.csv", "--unit", "ridge", "--card", "start", "--archives", "kept")
	meant := f.whole("start")
	f.must("stow", "second.csv", "--unit", "ridge", "--card", "start", "--replace", "--archives", "kept")
	before := f.whole("start")
	archive := f.newest("kept")
	killed := 0
	for n := 1; ; n++ {
		card := fmt.Sprint("card-", n)
		if err := os.CopyFS(f.path(card), os.DirFS(f.path("start"))); err != nil {
			t.Fatal(err)
		}
		f.killedAt(n)
		r := f.run("unstow", "--restore", archive, "--card", card, "--replace", "--archives", "kept-"+card)
		f.killedAt(0)
		if r.status == 0 {
			break
		}
		killed++
		now := f.whole(card)
		for name := range now {
			if strings.HasSuffix(name, ".part") {
				delete(now, name)
			}
		}
		boot := f.run("boot", "--unit", "ridge", "--card", card)
		if !strings.Contains(boot.err, "restore of this card was interrupted") {
			if !same(now, before) && !same(now, meant) {
				t.Errorf("step %d: the card is between two states, and nobody says so: %v", n, names(now))
			}
			continue
		}
		f.refuses(1, "interrupted", "unstow", "--restore", archive, "--card", card, "--replace", "--archives", "more")
		f.refuses(1, "interrupted", "stow", "first.csv", "--unit", "ridge", "--card", card, "--replace")
		os.CopyFS(f.path(card+"u"), os.DirFS(f.path(card)))
		f.must("stow", "--finish", "--card", card)
		if now := f.whole(card); !same(now, meant) {
			t.Errorf("step %d: finished, the card is %v", n, slicesOf(now, meant))
		}
		f.must("stow", "--undo", "--card", card+"u", "--archives", "kept-undone")
		if now := f.whole(card + "u"); !same(now, before) {
			t.Errorf("step %d: undone, the card is %v", n, slicesOf(now, before))
		}
	}
	if killed < 5 {
		t.Errorf("only %d steps", killed)
	}
}

// slicesOf tells the files of which two states differ.
func slicesOf(a, b map[string]string) (out []string) {
	for name := range maps.Keys(a) {
		if a[name] != b[name] {
			out = append(out, name+" here")
		}
	}
	for name := range maps.Keys(b) {
		if a[name] != b[name] {
			out = append(out, name+" there")
		}
	}
	return
}

// While a card is written nobody archives, restores or merges it: they say so, or wait.
func TestCardIsHeld(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("list.csv", "name,lat,lon\nAlder,-47.5,11.3\n")
	f.put("card/.here", "")
	f.must("stow", "list.csv", "--unit", "keel", "--card", "card")
	f.must("unstow", "--card", "card", "-o", "card.zip")
	release, err := safefile.Lock(t.Context(), f.path("card"), 0)
	if err != nil {
		t.Fatal(err)
	}
	for _, args := range [][]string{
		{"unstow", "--card", "card", "-o", "x.zip"},
		{"merge", "list.csv", "--card", "card", "-o", "x.csv"},
		{"unstow", "--card", "card", "--restore", "card.zip"},
		{"stow", "list.csv", "--unit", "keel", "--card", "card", "--replace"},
	} {
		f.refuses(1, "is being written by another gyrolith", args...)
	}
	time.AfterFunc(300*time.Millisecond, release)
	f.must("unstow", "--card", "card", "-o", "x.zip", "--wait", "20s")
	f.must("merge", "list.csv", "--card", "card", "-o", "x.csv", "--wait", "20s")
}
