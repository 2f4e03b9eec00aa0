package when

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/jpeg"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/bep/imagemeta"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

var begin = time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)

// eastward is a recording that goes east with 2 m/s, a fix every minute, but for twenty minutes in which it was off.
func eastward(t *testing.T, limits ...motion.Limits) *Recordings {
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: make([]nav.Segment, 1)}}}
	for i := range 60 {
		if i > 20 && i < 40 {
			continue
		}
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, 90, float64(i)*120)
		p := nav.At(lat, lon)
		p.SetTime(begin.Add(time.Duration(i)*time.Minute).UnixNano(), instant.Seconds)
		p.SetHeight(float64(i), decimal.PrecisionOf(0), nav.MeanSeaLevel)
		s := &d.Tracks[0].Segments[0]
		s.Points = append(s.Points, p)
	}
	r := &Recordings{}
	for _, l := range limits {
		r.Motion = l
	}
	if _, _, err := r.Add(context.Background(), d, "walk.gpx"); err != nil {
		t.Fatal(err)
	}
	return r
}

// What is named has a place where all recordings agree, and none where they don't, with the candidates; it keeps what
// the recording has of the fix.
func TestSeveralRecordings(t *testing.T) {
	walk := func(lat float64) *nav.Dataset {
		s := nav.Segment{}
		for i := range 10 {
			p := nav.At(lat, 11.3+float64(i)*1e-4)
			p.SetTime(begin.Add(time.Duration(i)*time.Second).UnixNano(), instant.Seconds)
			s.Attach(&p, nav.Detail{Values: []nav.Field{{Key: "depth", Value: fmt.Sprint(i)}}})
			s.Points = append(s.Points, p)
		}
		return &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Log 1"}, Segments: []nav.Segment{s}}}}
	}
	r := &Recordings{}
	add := func(lat float64, file string) {
		if _, _, err := r.Add(context.Background(), walk(lat), file); err != nil {
			t.Fatal(err)
		}
	}
	asked := []Asked{{Name: "p.jpg", At: begin.Add(4 * time.Second)}}
	add(-47.6, "a.gpx")
	add(-47.6, "copy.gpx")
	places, refused := r.Find(asked)
	if len(places) != 1 || len(refused) != 0 {
		t.Fatalf("copies of one: %+v %+v", places, refused)
	}
	if w := Waypoints(places).Waypoints[0]; fmt.Sprint(w.Fields) != "[{depth 4 false false}]" {
		t.Errorf("the waypoint has %v", w.Fields)
	}
	add(-47.1, "b.gpx")
	if places, refused = r.Find(asked); len(places) != 0 || len(refused) != 1 ||
		!strings.Contains(refused[0].Why, `ambiguous: 3 recordings, 55.59 km apart: "Log 1" of a.gpx`) {
		t.Errorf("%+v %+v", places, refused)
	}
	asked[0].Name = ""
	if places, _ = r.Find(asked); len(places) != 3 {
		t.Errorf("a time by itself: %+v", places)
	}
}

// A position lies on the way between two fixes, as far as the time is; beyond the ends and in a long gap there is none.
func TestPlaces(t *testing.T) {
	r := eastward(t, motion.Limits{Gap: 5 * time.Minute})
	at := func(s float64) Asked { return Asked{Name: "x", At: begin.Add(time.Duration(s * 1e9))} }
	places, refused := r.Find([]Asked{at(0), at(90), at(605.5), at(-60), at(3600), at(1800)})
	if len(places) != 3 || len(refused) != 3 {
		t.Fatalf("%d places, %d refused", len(places), len(refused))
	}
	for i, s := range []float64{0, 90, 605.5} {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, 90, 2*s)
		if off := geodesy.Distance(lat, lon, places[i].Point.Lat, places[i].Point.Lon); off > 0.05 {
			t.Errorf("after %v s: %.3f m off", s, off)
		}
		if h := places[i].Point.Height(); math.Abs(h-s/60) > 0.06 {
			t.Errorf("after %v s: height %v", s, h)
		}
	}
	if p := places[1]; p.Gap != time.Minute || p.Off != 30*time.Second || math.Abs(p.Away-60) > 0.1 {
		t.Errorf("%+v", p)
	}
	for i, why := range []string{"before", "after", "in a gap of 20 min"} {
		if !strings.Contains(refused[i].Why, why) {
			t.Errorf("%q, want %q", refused[i].Why, why)
		}
	}
	long := eastward(t, motion.Limits{Gap: time.Hour})
	if places, _ := long.Find([]Asked{at(1800)}); len(places) != 1 {
		t.Error("a gap that is allowed is not bridged")
	}
}

// A gap of centuries is no short one.
func TestCenturies(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: make([]nav.Segment, 1)}}}
	for i, year := range []int{1700, 2010} {
		p := nav.At(-47.6, 11.3+float64(i))
		p.SetTime(time.Date(year, 1, 1, 0, 0, 0, 0, time.UTC).UnixNano(), instant.Seconds)
		d.Tracks[0].Segments[0].Points = append(d.Tracks[0].Segments[0].Points, p)
	}
	r := &Recordings{}
	if _, _, err := r.Add(context.Background(), d, "old.gpx"); err != nil {
		t.Fatal(err)
	}
	places, refused := r.Find([]Asked{{At: time.Date(1800, 1, 1, 0, 0, 0, 0, time.UTC)}})
	if len(places) != 0 || len(refused) != 1 {
		t.Errorf("%+v", places)
	}
}

// The clock of a camera is found by the waypoint where a picture was taken.
func TestPassage(t *testing.T) {
	lat, lon, _ := geodesy.Direct(-47.6, 11.3, 90, 5*120)
	at, ok := eastward(t).Passage(lat, lon, begin.Add(time.Hour), 2*time.Hour, 100)
	if !ok || at != begin.Add(5*time.Minute) {
		t.Errorf("%v %v", at, ok)
	}
	if _, ok := eastward(t).Passage(lat+1, lon, begin, time.Hour, 100); ok {
		t.Error("a place that the recording did not come to")
	}
}

// taken makes a picture with Exif data of a camera, among them something of the maker's with a place in the file.
func taken(t *testing.T, exif bool) []byte {
	var plain bytes.Buffer
	if err := jpeg.Encode(&plain, image.NewGray(image.Rect(0, 0, 8, 8)), nil); err != nil {
		t.Fatal(err)
	}
	if !exif {
		return plain.Bytes()
	}
	le := binary.LittleEndian
	tiff := le.AppendUint32([]byte("II*\x00"), 8)
	add := func(tag, kind uint16, count, value uint32) {
		tiff = le.AppendUint32(le.AppendUint32(le.AppendUint16(le.AppendUint16(tiff, tag), kind), count), value)
	}
	tiff = le.AppendUint16(tiff, 2)
	add(0x010f, typeASCII, 8, 38) // the maker
	add(0x8769, typeLong, 1, 46)
	tiff = append(le.AppendUint32(tiff, 0), "Veldrin\x00"...)
	tiff = le.AppendUint16(tiff, 2)
	add(0x9003, typeASCII, 20, 76)
	add(0x9011, typeASCII, 7, 96)
	tiff = append(le.AppendUint32(tiff, 0), "2026:03:14 08:10:30\x00+02:00\x00"...)
	raw := plain.Bytes()
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0, byte(2 + 6 + len(tiff))}, "Exif\x00\x00"...)
	return append(append(out, tiff...), raw[2:]...)
}

// A copy of a picture has its position as another program reads it, everything that it had, and the same image.
func TestPictures(t *testing.T) {
	dir := t.TempDir()
	for name, content := range map[string][]byte{"with.jpg": taken(t, true), "without.jpg": taken(t, false)} {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, content, 0o666); err != nil {
			t.Fatal(err)
		}
		a, err := ReadPicture(path, &Moments{})
		if name == "without.jpg" {
			if err == nil || !strings.Contains(err.Error(), "doesn't record when") {
				t.Errorf("%s: %v", name, err)
			}
		} else if err != nil || !a.At.Equal(begin.Add(630*time.Second)) { // 08:10:30 in a zone two hours east
			t.Errorf("%s: %v %v", name, a.At, err)
		}
		p := nav.At(-47.602345, -0.00012)
		p.SetHeight(-3.25, decimal.PrecisionOf(2), nav.MeanSeaLevel)
		p.SetTime(begin.UnixNano(), instant.Seconds)
		made, err := WithPosition(content, &p)
		if err != nil {
			t.Fatal(err)
		}
		tags := imagemeta.Tags{}
		if _, err = imagemeta.Decode(imagemeta.Options{R: bytes.NewReader(made), ImageFormat: imagemeta.JPEG,
			Sources: imagemeta.EXIF, ShouldHandleTag: func(imagemeta.TagInfo) bool { return true },
			HandleTag: func(x imagemeta.TagInfo) error { tags.Add(x); return nil }}); err != nil {
			t.Fatal(err)
		}
		lat, lon, err := tags.GetLatLong()
		if err != nil || math.Abs(lat-p.Lat) > 2e-8 || math.Abs(lon-p.Lon) > 2e-8 {
			t.Errorf("%s: %v %v %v", name, lat, lon, err)
		}
		if name == "with.jpg" && (tags.EXIF()["Make"].Value != "Veldrin" ||
			tags.EXIF()["DateTimeOriginal"].Value != "2026:03:14 08:10:30") {
			t.Errorf("what the camera wrote is gone: %v", tags.EXIF())
		}
		if _, err := jpeg.Decode(bytes.NewReader(made)); err != nil {
			t.Errorf("%s: the image: %v", name, err)
		}
		if twice, err := WithPosition(made, &p); err != nil || !bytes.HasSuffix(twice, content[len(content)-100:]) {
			t.Errorf("%s: a second time: %v", name, err)
		}
	}
	for _, bad := range []string{"", "GIF89a", "\xff\xd8\xff\xe1\xff\xff"} {
		p := nav.At(1, 2)
		if _, err := WithPosition([]byte(bad), &p); err == nil {
			t.Errorf("%q is given a position", bad)
		}
	}
}

// Whatever a file holds, a picture is given a position or is refused.
func FuzzPicture(f *testing.F) {
	t := &testing.T{}
	f.Add(taken(t, true))
	f.Add(taken(t, false))
	f.Fuzz(func(t *testing.T, content []byte) {
		p := nav.At(-47.6, 11.3)
		made, err := WithPosition(content, &p)
		if err == nil && len(made) < len(content) {
			t.Errorf("%d bytes of %d are left", len(made), len(content))
		}
	})
}

// Lists are read with their separators and titles; a row without a time names its line.
func TestLists(t *testing.T) {
	dir := t.TempDir()
	m := &Moments{Zone: time.FixedZone("", 7200), Day: begin}
	for name, c := range map[string]struct {
		text, want string
	}{
		"comma":     {"Name,Time\nA,08:10\n", "A 06:10:00"},
		"semicolon": {"\ufefftime;station\n2026-03-14T08:10:05;B\n", "B 06:10:05"},
		"date":      {"picture\tdate\ttime\nC.jpg\t2026-03-14\t23:59:59\n", "C.jpg 21:59:59"},
		"unnamed":   {"time\n2026-03-14T06:10Z\n", "row 2 06:10:00"},
		"bad":       {"name,time\nA,soon\n", `:2: "soon" is not a time`},
		"untitled":  {"A,08:10\nB,08:11\n", "no column is called time"},
		"short":     {"name,time\n", "a header row"},
	} {
		path := filepath.Join(dir, name+".csv")
		if err := os.WriteFile(path, []byte(c.text), 0o666); err != nil {
			t.Fatal(err)
		}
		got, err := ReadList(path, m)
		text := ""
		if err != nil {
			text = err.Error()
		} else {
			text = got[0].Name + " " + got[0].At.UTC().Format("15:04:05")
		}
		if !strings.Contains(text, c.want) {
			t.Errorf("%s: %s, want %s", name, text, c.want)
		}
	}
	path := filepath.Join(dir, "more.csv")
	if err := os.WriteFile(path, []byte("count,name,time,,species\n007,A,08:10,x,tern\n"), 0o666); err != nil {
		t.Fatal(err)
	}
	got, err := ReadList(path, m)
	if err != nil {
		t.Fatal(err)
	}
	d := Waypoints([]Place{{Asked: got[0], Point: nav.At(-47.5, 11.2)}})
	if text := fmt.Sprint(d.Waypoints[0].Fields); text != "[{count 007 false false} {column 4 x false false} "+
		"{species tern false "+
		"false}]" {
		t.Errorf("the other columns of the list are %s", text)
	}
	if _, err := (&Moments{}).Parse("14:35"); err == nil || !strings.Contains(err.Error(), "no day") {
		t.Errorf("a time of no day: %v", err)
	}
}
