package archive_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
)

// packed makes an archive of members in their order.
func packed(t testing.TB, members ...[2]string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, m := range members {
		w, err := z.Create(m[0])
		if err != nil {
			t.Fatal(err)
		}
		w.Write([]byte(m[1]))
	}
	z.Close()
	return out.Bytes()
}

// shapes gives the files of a shapefile of one waypoint, by their extensions.
func shapes(t testing.TB, name string) map[string]string {
	t.Helper()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: name}, Point: nav.At(-47.6, 11.3)}}}
	parts, _, err := all.Formats.ByName("shp").StoreSet(d, &format.WriteOptions{})
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, p := range parts {
		var b bytes.Buffer
		p.Write(&b)
		out[p.Suffix] = b.String()
	}
	return out
}

func load(t testing.TB, raw []byte, opt *format.ReadOptions) (*format.Loaded, error) {
	return all.Formats.Load(format.FromBytes(t.Context(), "mail.zip", raw), "", false, opt)
}

// An archive as it comes by mail: two shapefiles in folders, a table, a note, and what systems leave behind.
func TestMailedArchive(t *testing.T) {
	a, b := shapes(t, "Well"), shapes(t, "Spring")
	raw := packed(t, [2]string{"survey/", ""}, [2]string{"survey/README.txt", "Bring back the keys."},
		[2]string{"survey/wells.DBF", a[".dbf"]}, [2]string{"survey/wells.shp", a[".shp"]},
		[2]string{"survey/wells.prj", a[".prj"]}, [2]string{"survey/old/springs.shp", b[".shp"]},
		[2]string{"survey/old/springs.dbf", b[".dbf"]}, [2]string{"__MACOSX/survey/._wells.shp", "\x00"},
		[2]string{"list.csv", "name,lat,lon\nHut,-47.5,11.2\n"})
	in, err := load(t, raw, &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, w := range in.Data.Waypoints {
		got = append(got, w.Group+"/"+w.Name)
	}
	if fmt.Sprint(got) != "[wells/Well springs/Spring list/Hut]" || in.Format.Name != "zip" {
		t.Errorf("%v as %s", got, in.Format.Name)
	}
	if !strings.Contains(fmt.Sprint(in.Data.Problems), "survey/README.txt") {
		t.Errorf("the note is left out in silence: %+v", in.Data.Problems)
	}
}

func TestRefusedArchives(t *testing.T) {
	bomb := packed(t, [2]string{"list.csv", "name,lat,lon\n" + strings.Repeat("A,1,2\n", 1<<20)})
	good := packed(t, [2]string{"list.csv", "name,lat,lon\nHut,-47.5,11.2\n"})
	for want, c := range map[string]struct {
		raw []byte
		opt format.ReadOptions
	}{
		"contains no readable data file": {packed(t, [2]string{"a.txt", "hello"}), format.ReadOptions{}},
		"times its size":                 {bomb, format.ReadOptions{}},
		"more than the limit":            {bomb, format.ReadOptions{MaxUnpacked: 1 << 20}},
		"damaged or cut off":             {good[:len(good)-30], format.ReadOptions{}},
	} {
		if _, err := load(t, c.raw, &c.opt); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}

func FuzzArchive(f *testing.F) {
	f.Add(packed(f, [2]string{"list.csv", "name,lat,lon\nHut,-47.5,11.2\n"}))
	f.Fuzz(func(t *testing.T, raw []byte) {
		in, err := load(t, raw, &format.ReadOptions{MaxUnpacked: 1 << 20})
		if err != nil {
			return
		}
		for p := range in.Data.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
	})
}
