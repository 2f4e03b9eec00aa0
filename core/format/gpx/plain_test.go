package gpx

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// pad makes a document long enough that its points are read in one step, and varies the first of them.
func pad(point string) string {
	rest := strings.Repeat(`<trkpt lat="-47.6" lon="11.3"><ele>1.0</ele><time>2026-03-14T05:31:20Z</time></trkpt>`+"\n",
		20)
	return "<gpx><trk><name>T</name><trkseg>" + rest + point + rest + "</trkseg></trk></gpx>"
}

// The step that reads a plain point reads the same as the scanner, tag by tag.
func FuzzPlainPoint(f *testing.F) {
	for _, p := range []string{
		`<trkpt lat="-47.600" lon="11.3"><ele>5.10</ele><time>2026-03-14T05:31:20.25Z</time></trkpt>`,
		`<trkpt lon='11.3' lat='-47.6'/>`, `<trkpt lat="-47.6" lon="11.3"></trkpt>`, `<trkpt lat="97" lon="11.3"></trkpt>`,
		`<trkpt lat="-47.6" lon="180"><time>2026-03-14T05:31:20Z</time><ele>5</ele></trkpt>`,
		`<trkpt lat="1" lat="2"></trkpt>`,
		`<trkpt lat="-47.6" lon="11.3"><ele>5</ele><ele>6</ele></trkpt>`,
		`<trkpt lat="1e1" lon="11.3"><name>x</name></trkpt>`,
		`<trkpt lat="1.123456789012345678" lon="11.3"><time>2026-03-14</time></trkpt>`,
		`<trkpt lat="1" lon="2">text<!-- c --><ele>1</ele></trkpt>`,
		`<trkpt lat="1" lon="2"><ele>1</ele><fix>3d</fix><sat>9</sat> <hdop>0.90</hdop></trkpt>`,
		`<trkpt lat="1" lon="2"><sat>9</sat><sat>10</sat><magvar>-28</magvar><sat></sat><sat> 7 </sat></trkpt>`,
		`<trkpt lat="1" lon="2"><fix>a&amp;b</fix><speed>0007</speed><course>é</course></trkpt>`,
		`<trkpt lat="1" lon="2"><extensions><power>70</power><hr>7</hr></extensions></trkpt>` +
			`<trkpt lat="1" lon="2"><sat>9</sat><extensions><power>70</power><hr>7</hr></extensions></trkpt>`,
		`<trkpt lat="1" lon="2"><extensions><a><cad>7</cad></a></extensions><extensions/></trkpt>` +
			`<trkpt lat="1" lon="2"><extensions><a><cad>7</cad></a></extensions><extensions/></trkpt>`,
		`<trkpt lat="1" lon="2"><extensions><power>7</power><a:b xmlns:a="u"><a:hr>7</a:hr><x/><a:cad>70</a:cad>` +
			`<depth>1.7</depth></a:b></extensions></trkpt>`,
		`<trkpt lat="1" lon="2"><extensions> <hr> 7</hr>7<cad x="9">9</cad>9<b>1</b><c>0<hr/></c></extensions></trkpt>`,
		`<trkpt lat="1" lon="2"><sat>9</sta></trkpt>`, `<trkpt lat="1" lon="2"><sat x="1">9</sat></trkpt>`,
		`<trkpt lat="1" lon="2"><vdop>1</vdop><pdop>2</pdop><dgpsid>3</dgpsid><ageofdgpsdata>4</ageofdgpsdata></trkpt>`,
	} {
		f.Add(p)
	}
	f.Fuzz(func(t *testing.T, point string) {
		// What comes again is known by its text, in its segment and in the next, or by its shape among other numbers.
		other := strings.NewReplacer("1", "23", "7", "8", "9", "1.5", "0", "-4").Replace(point)
		doc := pad(point + point + other + point + other + "</trkseg><trkseg>" + point + point)
		plain, err1 := read(format.FromBytes(t.Context(), "a", []byte(doc)), &format.ReadOptions{})
		// A prefix on the segments keeps the points from being read in one step.
		dressed := strings.NewReplacer("<trkseg>", "<g:trkseg>", "</trkseg>", "</g:trkseg>", "<gpx>",
			`<gpx xmlns:g="http://www.topografix.com/GPX/1/1">`)
		tagged, err2 := read(format.FromBytes(t.Context(), "a", []byte(dressed.Replace(doc))), &format.ReadOptions{})
		if strings.Contains(point, "trkseg") || strings.Contains(point, "gpx") || strings.Contains(point, "trk>") {
			return
		}
		if (err1 == nil) != (err2 == nil) {
			t.Fatalf("%q: %v, tag by tag %v", point, err1, err2)
		}
		if err1 != nil {
			return
		}
		for range 2 {
			a, _ := writeString(t, plain)
			b, _ := writeString(t, tagged)
			if strings.ReplaceAll(b, ` xmlns:g="http://www.topografix.com/GPX/1/1"`, "") != strings.ReplaceAll(a,
				` xmlns:g="http://www.topografix.com/GPX/1/1"`, "") {
				t.Fatalf("%q:\n%s\ntag by tag\n%s", point, a, b)
			}
			detailedOnly(plain) // where hardly any share what they have, they are written one by one
			detailedOnly(tagged)
		}
	})
}

// detailedOnly leaves only the points that have more than position, height and time.
func detailedOnly(d *nav.Dataset) {
	for i := range d.Tracks {
		for j := range d.Tracks[i].Segments {
			s := &d.Tracks[i].Segments[j]
			var some []int
			for k := range s.Points {
				if s.HasDetail(&s.Points[k]) {
					some = append(some, k)
				}
			}
			*s = s.Pick(some)
		}
	}
}

// A file that is written again is the same: an element with a namespace of its own says its value already.
func TestWrittenAgain(t *testing.T) {
	var points strings.Builder
	for i := range 60 {
		fmt.Fprintf(&points, `<trkpt lat="-47.6" lon="11.3"><extensions><b:hr>%d</b:hr><power>%d</power>`+
			`<cad a=":">%d</cad><b:x>0%d</b:x><depth> 1.%d
</depth></extensions></trkpt>`, i*7, i, i*3, i, i)
	}
	first, _ := writeString(t, readString(t, `<gpx xmlns:b="urn:b"><trk><trkseg>`+points.String()+
		strings.Repeat(" ", 2000)+"</trkseg></trk></gpx>"))
	again, _ := writeString(t, readString(t, first))
	if first != again {
		t.Errorf("%.700s became %.900s", first, again)
	}
}

// What GPX has elements for needs no extension of ours, whatever values take turns.
func TestNoExtensionForElementsOfGPX(t *testing.T) {
	var points strings.Builder
	for i := range 60 {
		fmt.Fprintf(&points, `<trkpt lat="-47.6" lon="11.3"><fix>%s</fix><sat>%d</sat><hdop>0.%d</hdop><dgpsid>%d</dgpsid>`+
			`<extensions><hr>%d</hr></extensions></trkpt>`, []string{"2d", "3d"}[i%2], i, i, i, 60+i)
	}
	text, _ := writeString(t, readString(t, "<gpx><trk><trkseg>"+points.String()+strings.Repeat(" ", 2000)+
		"</trkseg></trk></gpx>"))
	if strings.Contains(text, "gyro:item") || strings.Contains(text, "xmlns:gyro") ||
		strings.Count(text, "<fix>3d</fix>") != 30 {
		t.Errorf("%.900s", text)
	}
}

// Numbers that the schema does not allow among others that it does: what is written can be read, with all values.
func TestValuesOfOneFormAreWrittenEachAsItHasTo(t *testing.T) {
	var s nav.Segment
	s.Points = make([]nav.Point, 60)
	value := func(key, text string) nav.Field { return nav.Field{Key: key, Value: text, Literal: true} }
	for i := range s.Points {
		s.Points[i] = nav.At(-47.6, 11.3+float64(i)/1000)
		values := []nav.Field{value("sat", fmt.Sprint(i-3)), value("dgpsid", fmt.Sprint(i*30)), value("hr", fmt.Sprint(60+i))}
		if i%7 == 0 { // numbers that are among the others by chance
			values[2].Value = values[0].Value
		}
		switch {
		case i%11 == 0:
			values = []nav.Field{{Key: "fix", Value: []string{"3d", "a&b"}[i%2]}, value("hdop", fmt.Sprint(i))}
		case i%11 < 3: // twice, as no standard has it
			values = []nav.Field{{Key: "fix", Value: fixes[i%5]}, {Key: "fix", Value: fixes[i%3]}}
		}
		s.Attach(&s.Points[i], nav.Detail{Values: values})
	}
	text, _ := writeString(t, &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{s}}}})
	back := readString(t, text).Tracks[0].Segments[0]
	for i := range s.Points {
		a, b := s.Values(nil, &s.Points[i]), back.Values(nil, &back.Points[i])
		for _, f := range a {
			if !slices.Contains(b, f) || len(a) != len(b) {
				t.Fatalf("point %d: %v became %v in\n%.600s", i, a, b, text)
			}
		}
	}
	if err := checkSchema(text); err != nil {
		t.Error(err)
	}
}

// A prefix that means something else further on is not mistaken for what it meant before.
func TestPrefixesOfTracks(t *testing.T) {
	track := func(uri string) string {
		point := `<trkpt lat="-47.6" lon="11.3"><extensions><b:body><b:hr>%d</b:hr></b:body></extensions></trkpt>`
		text := `<trk xmlns:b="` + uri + `"><trkseg>`
		for i := range 40 {
			text += fmt.Sprintf(point, 90+i%3)
		}
		return text + "</trkseg></trk>"
	}
	d := readString(t, `<gpx>`+track("urn:one")+track("urn:two")+strings.Repeat(" ", 2000)+`</gpx>`)
	for i, want := range []string{"urn:one", "urn:two"} {
		seg := &d.Tracks[i].Segments[0]
		for k := range seg.Details() {
			if x := seg.DetailAt(k); x.Kept[0].Spaces[0].URI != want {
				t.Fatalf("track %d, detail %d: %+v", i, k, x.Kept)
			}
		}
	}
}

// Points with the same values share them, and each is counted.
func TestSharedValues(t *testing.T) {
	point := func(i int, rest string) string {
		return fmt.Sprintf("<trkpt lat=\"-47.%03d\" lon=\"11.3\"><ele>5</ele>%s</trkpt>\n", i, rest)
	}
	var b strings.Builder
	for i := range 900 {
		b.WriteString(point(i, []string{"<sat>7</sat>", "<sat>8</sat><hdop>0.9</hdop>", ""}[i%3]))
	}
	d := readString(t, "<gpx><trk><name>T</name><trkseg>"+b.String()+"</trkseg></trk></gpx>")
	seg := &d.Tracks[0].Segments[0]
	if seg.Details() > 40 || seg.Detailed() != 600 {
		t.Errorf("%d details for %d points", seg.Details(), seg.Detailed())
	}
	for i := range seg.Points {
		want := [3]string{"7", "8", ""}[i%3]
		got := ""
		if x := seg.Detail(&seg.Points[i]); x != nil {
			got, _ = nav.Get(x.Values, "sat")
		}
		if got != want {
			t.Fatalf("point %d has %q satellites, not %q", i, got, want)
		}
	}
	text, _ := writeString(t, d)
	if n := strings.Count(text, "<sat>7</sat>"); n != 300 || strings.Count(text, "<hdop>0.9</hdop>") != 300 {
		t.Errorf("%d points are written with 7 satellites", n)
	}
	losses := (&holds.Declaration{Noun: "It", Holds: holds.Places{holds.Track: holds.Everything(holds.Track),
		holds.TrackPoint: holds.Only(holds.Height)}}).Losses(d, "gpx")
	for _, e := range losses {
		if e.What == holds.What(holds.TrackPoint, holds.FixQuality) && e.Count == 900 && e.Name == "T" {
			return
		}
	}
	t.Errorf("600 points with 900 values: %+v", losses)
}
