package main

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"image"
	"image/jpeg"
	"os"
	"strings"
	"testing"
)

// picture is a photograph whose camera noted when it was taken, as local time without a zone.
func picture(t *testing.T, at string) string {
	t.Helper()
	var plain bytes.Buffer
	if err := jpeg.Encode(&plain, image.NewGray(image.Rect(0, 0, 8, 8)), nil); err != nil {
		t.Fatal(err)
	}
	// A TIFF header, a directory with a pointer to that of Exif, and in this the time of taking (Exif 2.32, 4.6.5).
	le := binary.LittleEndian
	tiff := le.AppendUint32([]byte("II*\x00"), 8)
	entry := func(tag, kind uint16, count, value uint32) {
		tiff = le.AppendUint32(le.AppendUint32(le.AppendUint16(le.AppendUint16(tiff, tag), kind), count), value)
	}
	tiff = le.AppendUint16(tiff, 1)
	entry(0x8769, 4, 1, 26)
	tiff = le.AppendUint16(le.AppendUint32(tiff, 0), 1)
	entry(0x9003, 2, 20, 44)
	tiff = append(le.AppendUint32(tiff, 0), at+"\x00"...)
	head := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0, byte(2 + 6 + len(tiff))}, "Exif\x00\x00"...)
	return string(append(append(head, tiff...), plain.Bytes()[2:]...))
}

// Copies of pictures get the positions where the recording was, the originals stay, and the offset of the camera's
// clock is found by a picture whose true time is known.
func TestPicturesGetPositions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("line.csv", "kind,lat,lon,time,line\ntrack,-47.6,11.3,2026-03-14T06:00:00Z,A\n"+
		"track,-47.6,11.4,2026-03-14T07:40:00Z,A\n")
	one := picture(t, "2026:03:14 06:10:00")
	f.put("pics/one.jpg", one)
	f.put("pics/two.jpg", picture(t, "2026:03:14 06:20:00"))
	line := []string{"when", "pics", "--along", "line.csv", "--longest-gap", "3h", "--write-positions", "placed"}
	r := f.must(line...)
	if !strings.Contains(r.err, "wrote 2 copies with positions") || f.get("pics/one.jpg") != one {
		t.Errorf("%s", r.err)
	}
	copied := f.get("placed/one.jpg")
	if len(copied) <= len(one) || !strings.HasSuffix(copied, one[len(one)-60:]) {
		t.Error("the copy has nothing more than the picture, or another image")
	}
	f.refuses(1, "already exists", line...)
	// The camera was five minutes slow: the first was taken at 06:15.
	r = f.must("when", "pics", "--along", "line.csv", "--longest-gap", "3h", "--known", "one.jpg=06:15:00", "--json")
	for _, want := range []string{`"time": "2026-03-14T06:15:00Z"`, `"time": "2026-03-14T06:25:00Z"`} {
		if !strings.Contains(r.out, want) {
			t.Errorf("no %s in %s%s", want, r.out, r.err)
		}
	}
	if _, err := os.Stat(f.path("placed/two.jpg")); err != nil {
		t.Error(err)
	}
}

// Pictures that stand beside a KML and that its icons and links name go into a KMZ, from its folder alone; a KML loses
// nothing without them.
func TestPicturesBesideAreTakenAlong(t *testing.T) {
	f := newFolder(t)
	f.put("secret.png", "not yours")
	f.put("in/photos/a b.png", "a picture")
	f.put("in/big.txt", "no picture")
	f.put("in/a.kml", `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>A</name><description>`+
		`<![CDATA[<img src="photos/a%20b.png"><img src="../secret.png"><img src="big.txt"><img src="gone.png">]]>`+
		`</description><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark></Document></kml>`)
	if out := f.must("look", "in/a.kml").out; !strings.Contains(out, "1 picture beside the file") {
		t.Errorf("the picture is not said: %s", out)
	}
	f.must("convert", "in/a.kml", "-o", "a.kmz")
	z, err := zip.OpenReader(f.path("a.kmz"))
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	var names []string
	for _, m := range z.File {
		names = append(names, m.Name)
	}
	if len(names) != 2 || names[1] != "photos/a b.png" {
		t.Errorf("the archive has %q", names)
	}
	f.must("convert", "in/a.kml", "-o", "in/b.kml", "--strict")
}
