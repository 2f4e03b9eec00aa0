package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"image/png"
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"
)

func TestDraw(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putTerrain()
	f.putDemo("planning.kmz", "walk.gpx", "briefing.txt")
	r := f.must("draw", "planning.kmz", "walk.gpx", "--terrain", "terrain", "--section", "distance", "-o", "map.png",
		"--size", "900x600")
	img, err := png.Decode(strings.NewReader(f.get("map.png")))
	if err != nil || img.Bounds().Dx() != 900 || img.Bounds().Dy() != 600 {
		t.Fatalf("%v", err)
	}
	if !strings.Contains(r.err, "contour lines every 20 m") || !strings.Contains(r.err, "scale about 1:") {
		t.Errorf("%s", r.err)
	}
	f.must("draw", "planning.kmz", "-o", "map.svg", "--theme", "print", "--scale", "1:50000", "--quiet")
	if svg := f.get("map.svg"); !strings.HasPrefix(svg, "<?xml") || !strings.Contains(svg, ">Sorrel Landing</text>") {
		t.Errorf("%.300s", svg)
	}
	f.must("draw", "briefing.txt", "--hazards", "planning.kmz", "--hazards-take", "waypoints", "--clear", "150m", "-o",
		"near.svg", "--quiet")
	if svg := f.get("near.svg"); !strings.Contains(svg, "too near to a hazard") ||
		!strings.Contains(svg, `data-layer="hazards"`) {
		t.Error("the clearance is not drawn")
	}
	// Two hazards of one name have their circles each about itself.
	f.put("route.gpx", `<gpx><rte><name>R</name><rtept lat="-47.6" lon="11.2"/><rtept lat="-47.6" lon="11.4"/></rte>`+
		`</gpx>`)
	f.put("rocks.csv", "name,lat,lon\nRock,-47.6005,11.25\nRock,-47.6005,11.35\n")
	f.must("draw", "route.gpx", "--hazards", "rocks.csv", "--clear", "200m", "-o", "rocks.svg", "--quiet")
	if n := strings.Count(f.get("rocks.svg"), ">Rock</text>"); n != 2 {
		t.Errorf("%d names of circles about two rocks of one name", n)
	}
	f.must("clean", "walk.gpx", "-o", "clean.gpx", "--rejects", "removed.gpx", "--quiet")
	f.must("draw", "clean.gpx", "--before", "walk.gpx", "--removed", "removed.gpx", "-o", "clean.svg", "--quiet")
	if svg := f.get("clean.svg"); !strings.Contains(svg, "spikes, removed (") ||
		!strings.Contains(svg, `data-layer="before"`) {
		t.Error("what was taken out is not marked by fault")
	}
	f.refuses(2, "doesn't give the form of the drawing", "draw", "walk.gpx", "-o", "map.gpx")
	f.refuses(2, "no output given", "draw", "walk.gpx")
	f.refuses(2, "is not a size", "draw", "walk.gpx", "-o", "x.png", "--size", "huge")
	f.refuses(2, "is not a scale", "draw", "walk.gpx", "-o", "x.png", "--scale", "1:x")
	f.refuses(2, "is not a theme", "draw", "walk.gpx", "-o", "x.png", "--theme", "blue")
	f.refuses(1, "already exists", "draw", "walk.gpx", "-o", "map.png")
	f.refuses(1, "no such picture", "draw", "walk.gpx", "-o", "x.png", "--backdrop", "gone.png")
	// The ground overlay of a KMZ is a backdrop.
	f.refuses(1, "not in it (files/chart.png)", "draw", "walk.gpx", "--backdrop", "planning.kmz", "-o", "x.png")
	var kmz bytes.Buffer
	z := zip.NewWriter(&kmz)
	w, _ := z.Create("doc.kml")
	w.Write([]byte(`<kml><GroundOverlay><Icon><href>chart.png</href></Icon><LatLonBox><north>-47.5</north><south>` +
		`-47.7</south><east>11.4</east><west>11.2</west></LatLonBox></GroundOverlay></kml>`))
	w, _ = z.Create("chart.png")
	w.Write([]byte(f.get("map.png")))
	z.Close()
	f.put("chart.kmz", kmz.String())
	f.must("draw", "walk.gpx", "--backdrop", "chart.kmz", "-o", "over.svg", "--quiet")
	if !strings.Contains(f.get("over.svg"), `data-layer="backdrop"`) {
		t.Error("the overlay is not drawn")
	}
	if r := f.must("look", "walk.gpx", "--map"); !strings.Contains(r.out, "north is up") ||
		!strings.Contains(r.out, "heights along Cairn Hill and back") {
		t.Errorf("look --map: %s", r.out)
	}
}

// scaleOf is how many pixels of the window one of the drawing takes.
func scaleOf(dom string) (s float64) {
	if m := regexp.MustCompile(`id="world"[^>]*scale\(([\d.]+)\)`).FindStringSubmatch(dom); m != nil {
		s, _ = strconv.ParseFloat(m[1], 64)
	}
	return s
}

// browser is a headless Chromium, in which the page runs as it does for a user.
func browser(t *testing.T) string {
	for _, name := range []string{"chromium", "chromium-browser", "google-chrome"} {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	t.Skip("there is no Chromium here, so that the page was not tried: install Debian's package chromium")
	return ""
}

// dom opens a page with a fragment and gives the document that came of it.
func (f *folder) dom(chromium, page, fragment string) string {
	f.t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	profile := f.t.TempDir()
	cmd := exec.CommandContext(ctx, chromium, "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic",
		"--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
		"--disable-dev-shm-usage", "--user-data-dir="+profile, "--window-size=1280,800", "--dump-dom",
		"file://"+f.path(page)+"#"+fragment)
	cmd.Env = append(os.Environ(), "HOME="+profile)
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	if err := cmd.Run(); err != nil {
		f.t.Fatalf("%v\n%.2000s", err, errOut.String())
	}
	return out.String()
}

// The page works as it comes out of the program: items can be chosen, zoomed to, layers hidden, by its fragment;
// nothing of the data is markup, and no network is asked.
func TestPage(t *testing.T) {
	t.Parallel()
	chromium := browser(t)
	f := newFolder(t)
	f.putTerrain()
	f.putDemo("planning.kmz", "walk.gpx")
	f.put("evil.gpx", `<gpx><wpt lat="-47.59" lon="11.31"><name>&lt;/script&gt;&lt;img src=x `+
		`onerror="document.title='owned'"&gt;</name><desc>&lt;b&gt;bold&lt;/b&gt;</desc></wpt></gpx>`)
	f.must("draw", "planning.kmz", "walk.gpx", "evil.gpx", "--terrain", "terrain", "--section", "distance", "-o",
		"page.html", "--quiet")
	page := f.get("page.html")
	if m := regexp.MustCompile(`(?i)(src|href)="(https?:)?//`).FindString(page); m != "" ||
		!strings.Contains(page, "default-src &#39;none&#39;") {
		t.Errorf("the page asks a network (%q), or has no policy", m)
	}
	open := f.dom(chromium, "page.html", "")
	if !strings.Contains(open, `data-zoom="1.00"`) || strings.Contains(open, "<title>owned") ||
		strings.Contains(open, "<img") || strings.Contains(open, "<b>bold") {
		t.Errorf("opened:\n%.600s", open)
	}
	var data struct {
		Items []struct{ ID, Kind, Name string }
	}
	_, rest, _ := strings.Cut(page, `id="data">`)
	text, _, _ := strings.Cut(rest, "</script>")
	if err := json.Unmarshal([]byte(text), &data); err != nil || len(data.Items) < 30 {
		t.Fatalf("%v, %d items", err, len(data.Items))
	}
	id := ""
	for _, it := range data.Items {
		if it.Name == "Skarn Gully" {
			id = it.ID
		}
	}
	chosen := f.dom(chromium, "page.html", "item="+id)
	if !regexp.MustCompile(`<button[^>]*data-item="`+id+`"[^>]*aria-current="true"`).MatchString(chosen) ||
		!strings.Contains(chosen, `data-zoom="3.00"`) ||
		!regexp.MustCompile(`id="said"[^>]*>waypoint Skarn Gully`).MatchString(chosen) {
		t.Error("choosing an item does not show it")
	}
	// The position under the middle is that of the waypoint, to the drawing's tenth of a pixel.
	at := regexp.MustCompile(`id="where"[^>]*>47°38\.(09|10)\d′ S 011°20\.7[56]\d′ E: [0-3] m, \d{3}° true from ` +
		`Skarn Gully<`)
	if !at.MatchString(chosen) {
		t.Errorf("the position: %s", regexp.MustCompile(`id="where"[^>]*>[^<]*`).FindString(chosen))
	}
	icon := regexp.MustCompile(`data-item="` + id + `"[^>]*><svg class="look"[^>]*><use href="#(look-\d+)"`)
	if m := icon.FindStringSubmatch(open); m == nil || !strings.Contains(page, `id="`+m[1]+`"`) {
		t.Error("the list does not show the item's symbol")
	}
	if n := strings.Count(page, `xlink" width="1123"`); n != 2 ||
		!strings.Contains(page, "@page{size:1123px 794px") {
		t.Errorf("the page prints %d sheets of A4, not the map and the section", n)
	}
	searched := f.dom(chromium, "page.html", "find=skarn+landings")
	if !strings.Contains(searched, `>1 of `) ||
		!regexp.MustCompile(`<li><button[^>]*data-item="`+id+`"`).MatchString(searched) ||
		strings.Count(searched, "<li><button") != 1 {
		t.Error("the list does not show what is searched")
	}
	zoomed := f.dom(chromium, "page.html", "z=4&at=300,200&off=names,grid")
	if !strings.Contains(zoomed, `data-zoom="4.00"`) ||
		scaleOf(zoomed) < 3.99*scaleOf(open) || scaleOf(zoomed) > 4.01*scaleOf(open) {
		t.Errorf("the page does not zoom: %v and %v", scaleOf(zoomed), scaleOf(open))
	}
	over := func(dom string) string {
		_, rest, _ := strings.Cut(dom, `<g id="over"`)
		names, _, _ := strings.Cut(rest, `<g id="scale"`)
		return names
	}
	if name := ">Skarn Gully</text>"; !strings.Contains(over(open), name) || strings.Contains(over(zoomed), name) ||
		regexp.MustCompile(`class="layer hidden" data-layer="tracks"`).MatchString(zoomed) {
		t.Error("hiding a layer hides something else")
	}
	// The bar shows a round length that belongs to the zoom.
	bar := regexp.MustCompile(`id="length"[^>]*>([^<]+)<`)
	one, four := bar.FindStringSubmatch(open), bar.FindStringSubmatch(zoomed)
	if one == nil || four == nil || one[1] == four[1] {
		t.Errorf("the bar: %v and %v", one, four)
	}
}
