package format

import "testing"

// The titles that offices write above columns, in their languages and with their trimmings.
func TestHeadOf(t *testing.T) {
	for title, want := range map[string]string{
		"Lat": "lat", "LATITUDE": "lat", "lat_dd": "lat", "Latitude (WGS84)": "lat", "Breite": "lat",
		"Geogr. Breite": "lat", "Breddegrad": "lat", "szerokość": "lat", "GPS latitude": "lat", "Lat [deg]": "lat",
		"Lat min": "lat",
		"Länge":   "lon", "Längengrad": "lon", "lng": "lon", "Longitud": "lon", "długość": "lon", "Lengdegrad": "lon",
		"LON_WGS84":  "lon",
		"Rechtswert": "easting", "Easting (m)": "easting", "UTM_E": "easting", "Hochwert": "northing", "N": "northing",
		"X": "x", "Y-Koordinate": "y", "UTM-Zone": "zone",
		"Höhe": "height", "Höhe [m ü. M.]": "height", "ELE": "height", "Elevation ft": "height", "altitud": "height",
		"Tiefe": "depth",
		"Name":  "name", "Stationsname": "name", "Nombre": "name", "Waypoint": "name", "WPT": "name", "ID": "name",
		"Bemerkungen": "description", "Observaciones": "description", "Beschreibung": "description",
		"Datum": "date", "fecha": "date", "Uhrzeit": "time", "Timestamp": "time", "time (UTC)": "time", "Farbe": "colour",
		"Symbole": "symbol", "Gruppe": "group", "MGRS": "position", "Koordinaten": "position",
		"descriptio": "description", "beschreibu": "description", "N/S": "north south",
	} {
		if h, ok := HeadOf(title); !ok || h.Holds != want {
			t.Errorf("%q is taken for %q, want %q", title, h.Holds, want)
		}
	}
	for _, title := range []string{"", "Art", "Anzahl", "latency", "longest", "Breitengasse", "lonely", "Plants",
		"note to self", "depot"} {
		if h, ok := HeadOf(title); ok {
			t.Errorf("%q is taken for %q", title, h.Holds)
		}
	}
	if UnitOf("Height (ft)") != 0.3048 || UnitOf("Höhe m") != 1 || UnitOf("left") != 1 {
		t.Error("the measure of a title")
	}
}

// Of several columns with one meaning the surest has it.
func TestMeanings(t *testing.T) {
	got := Meanings([]string{"id", "name", "desc", "notes", "site"}, "name", "description")
	for i, want := range []string{"", "name", "description", "", ""} {
		if got[i] != want {
			t.Errorf("column %d holds %q, want %q", i, got[i], want)
		}
	}
}

func TestParseColumns(t *testing.T) {
	got, err := ParseColumns(`name, lat=Breite,"lon=Länge, Grad",field:depth=Tiefe,field:x`)
	want := []Column{{"name", "name"}, {"Breite", "lat"}, {"Länge, Grad", "lon"}, {"Tiefe", "field:depth"},
		{"x", "field:x"}}
	if err != nil || len(got) != len(want) {
		t.Fatalf("%v %v", got, err)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%v, want %v", got[i], want[i])
		}
	}
	for _, text := range []string{"", "nme", "field:", "name,,lat"} {
		if got, err := ParseColumns(text); err == nil {
			t.Errorf("%q is %v", text, got)
		}
	}
}

func TestDecodeText(t *testing.T) {
	for raw, want := range map[string]string{"Größe": "Größe", "\ufeffGröße": "Größe", "Gr\xf6\xdfe": "Größe",
		"\xff\xfeG\x00\xf6\x00": "Gö", "\xfe\xff\x00G\x00\xf6": "Gö", "cut Gr\xc3": "cut Gr\xc3"} {
		if got, _ := DecodeText([]byte(raw)); string(got) != want {
			t.Errorf("%q is %q, want %q", raw, got, want)
		}
	}
	if _, guessed := DecodeText([]byte("Gr\xf6\xdfe")); !guessed {
		t.Error("the guess is not told")
	}
}
