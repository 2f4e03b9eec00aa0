package headings

import "testing"

// What a title says of the hemisphere, and what only looks like it.
func TestSides(t *testing.T) {
	for title, want := range map[string]string{
		"Lat (S)": "S", "Lat (°S)": "S", "Latitude South": "S", "South latitude": "S", "lat [deg S]": "S",
		"Breite Süd": "S", "südl. Breite": "S", "Latitud (Sur)": "S", "Lat S": "S", "Lat (N)": "N", "Lat": "",
		"Lat (S negative)": "", "Lat (N/S)": "", "Lat (+N, -S)": "", "Lat (WGS84)": "", "Lat (s)": "S",
	} {
		if got := SideOf(title, "lat"); got != want {
			t.Errorf("%q: %q, want %q", title, got, want)
		}
		if h, ok := Of(title); !ok || h.Holds != "lat" {
			t.Errorf("%q is taken for %q", title, h.Holds)
		}
	}
	for title, want := range map[string]string{
		"Lon (W)": "W", "Lon (°W)": "W", "Longitude West": "W", "Länge (O)": "E", "Longitud (O)": "W", "Lon (O)": "O",
		"Longitude (O)": "O", "Longitudine O": "W", "Longitud (Ö)": "E", "Long. Ø": "E",
		"Länge Ost": "E", "westl. Länge": "W", "Lon (S)": "", "Lon (E)": "E", "Lon (W/E)": "",
	} {
		if got := SideOf(title, "lon"); got != want {
			t.Errorf("%q: %q, want %q", title, got, want)
		}
	}
	for _, title := range []string{"South", "West", "Westerly", "Lat N S E"} {
		if h, ok := Of(title); ok && (h.Holds == "lat" || h.Holds == "lon") {
			t.Errorf("%q is taken for %q", title, h.Holds)
		}
	}
}
