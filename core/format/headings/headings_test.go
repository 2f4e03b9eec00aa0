package headings

import "testing"

// The titles that offices write above columns, in their languages and with their trimmings.
func TestHeadings(t *testing.T) {
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
		if h, ok := Of(title); !ok || h.Holds != want {
			t.Errorf("%q is taken for %q, want %q", title, h.Holds, want)
		}
	}
	for _, title := range []string{"", "Art", "Anzahl", "latency", "longest", "Breitengasse", "lonely", "Plants",
		"note to self", "depot"} {
		if h, ok := Of(title); ok {
			t.Errorf("%q is taken for %q", title, h.Holds)
		}
	}
	for title, want := range map[string]string{"Buoy": "name", "Tonne": "name", "Boje": "name", "Mark": "name",
		"Hütte": "name", "Station": "name", "Point": "name", "depth (ft)": "depth", "Depth fathoms": "depth",
		"speed (kn)": "speed", "speed km/h": "speed", "Tiefe [Faden]": "depth", "Geschwindigkeit in Knoten": "speed",
		"Vitesse (nœuds)": "speed", "Profondeur (brasses)": "depth", "Höhe (Fuß)": "height", "COG °": "course"} {
		if h, ok := Of(title); !ok || h.Holds != want {
			t.Errorf("%q is taken for %q, want %q", title, h.Holds, want)
		}
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
