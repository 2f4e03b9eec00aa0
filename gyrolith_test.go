package gyrolith_test

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith"
	"gyrolith/demo"
)

// isles puts the files of the example scenario into a new folder.
func isles() string {
	dir, err := os.MkdirTemp("", "gyrolith")
	if err != nil {
		log.Fatal(err)
	}
	files, _ := fs.Sub(demo.Files, "files")
	if err := os.CopyFS(dir, files); err != nil {
		log.Fatal(err)
	}
	return dir
}

// A recording is cleaned, gets the heights that it lacks, and is written as KML.
func Example() {
	ctx, dir := context.Background(), isles()
	defer os.RemoveAll(dir)
	data, err := gyrolith.Read(ctx, filepath.Join(dir, "walk.gpx"))
	if err != nil {
		log.Fatal(err)
	}
	report, err := data.Clean(ctx, "also=heights,stops")
	if err == nil {
		_, err = data.Elevate(ctx, filepath.Join(dir, "terrain"))
	}
	if err == nil {
		_, err = data.Write(ctx, filepath.Join(dir, "walk.kml"))
	}
	if err != nil {
		log.Fatal(err)
	}
	fmt.Println(len(data.Notes), "notes,", report.Lines[0])
	fmt.Println(data.Counts())
	// Output:
	// 2 notes, strays: Cairn Hill and back: left out: latitude "NaN" is not a number
	// {2 0 1 0 1609}
}

// The landing places of a plan, for a unit, as a table.
func ExampleData_Fit() {
	ctx, dir := context.Background(), isles()
	defer os.RemoveAll(dir)
	data, err := gyrolith.Read(ctx, filepath.Join(dir, "planning.kmz"))
	if err != nil {
		log.Fatal(err)
	}
	if err := data.Take("waypoints:Landings"); err != nil {
		log.Fatal(err)
	}
	if _, err := data.Fit(ctx, "vane"); err != nil {
		log.Fatal(err)
	}
	longest := 0
	for w := range data.Waypoints() {
		longest = max(longest, len(w.Name))
	}
	fmt.Println(data.Counts().Waypoints, "waypoints, with names of up to", longest, "letters")
	// Output:
	// 6 waypoints, with names of up to 5 letters
}

// What was read is what is written; what is there is not written over; nothing taken is one error.
func TestData(t *testing.T) {
	ctx, dir := t.Context(), isles()
	defer os.RemoveAll(dir)
	read := func(name string) *gyrolith.Data {
		t.Helper()
		d, err := gyrolith.Read(ctx, filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	walk := read("walk.gpx")
	out := filepath.Join(dir, "out.gpx")
	if _, err := walk.Write(ctx, out); err != nil {
		t.Fatal(err)
	}
	if a, b := walk.Counts(), read("out.gpx").Counts(); a != b {
		t.Errorf("%v became %v", a, b)
	}
	if _, err := walk.Write(ctx, out); err == nil || !strings.Contains(err.Error(), "already exists") {
		t.Errorf("written over: %v", err)
	}
	part := walk.Clone()
	noon := time.Date(2026, 3, 14, 12, 0, 0, 0, time.UTC)
	if err := part.Between(noon, time.Time{}); !errors.Is(err, gyrolith.ErrNothing) {
		t.Errorf("after noon: %v", err)
	}
	if err := walk.Between(time.Time{}, time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	last := time.Time{}
	for p := range walk.Points() {
		last = p.Time
	}
	if last.Hour() != 6 || last.Minute() != 0 { // where it is cut
		t.Errorf("the last is of %v", last)
	}
	if err := walk.Take("seals"); err == nil {
		t.Error("a kind that there is not is taken")
	}
	if _, err := walk.Do(ctx, "clean", "aslo=heights"); err == nil || !strings.Contains(err.Error(), "aslo") {
		t.Errorf("an option that there is not: %v", err)
	}
	var text strings.Builder
	if report, err := read("planning.kmz").WriteTo(ctx, &text, "x.csv"); err != nil || report.Lost == 0 ||
		!strings.Contains(text.String(), "Sorrel Landing") {
		t.Errorf("%v %+v", err, report)
	}
	zoned, err := gyrolith.Reading{Options: []string{"clock=+02:00", "read-as=csv"}}.From(ctx, "a list",
		strings.NewReader("name,lat,lon,time\nA,-47.5,11.3,2026-03-14 07:00\n"))
	if err != nil {
		t.Fatal(err)
	}
	for w := range zoned.Waypoints() {
		if w.Time.Hour() != 5 {
			t.Errorf("%v", w.Time)
		}
	}
	if _, err := gyrolith.Read(ctx, filepath.Join(dir, "gone.gpx")); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a file that there is not: %v", err)
	}
}
