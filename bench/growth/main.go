//go:build unix

// Growth runs every verb and every format on n and on ten times n items, and prints by which power of n their time and
// memory grow: go run ./bench/growth. More than 1.15 is a defect.
package main

import (
	"flag"
	"fmt"
	"log"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// tasks are the lines to run; OUT is a name of an output that is new.
var tasks = []string{
	"look marks", "look tracks", "look routes", "look same", "look folders",
	"convert marks -o OUT.gpx", "convert marks -o OUT.kml", "convert marks -o OUT.kmz", "convert marks -o OUT.gpkg",
	"convert marks -o OUT.shp", "convert marks -o OUT.fgb", "convert marks -o OUT.parquet", "convert marks -o OUT.xlsx",
	"convert marks -o OUT.gml", "convert marks -o OUT.geojson", "convert marks -o OUT.geojsonl",
	"convert marks -o OUT.csv",
	"convert marks --write-as talker -o OUT.txt", "convert marks --unit gpx-folder -o OUT.gpx",
	"convert same --unit gpx-folder -o OUT.gpx", "convert folders -o OUT.kml", "convert tracks -o OUT.kml",
	"convert tracks --track-points -o OUT.gpkg", "convert tracks --track-points -o OUT.parquet",
	"convert tracks -o OUT.gpx",
	"clean marks -o OUT.gpx", "clean same --repeats-within 5m -o OUT.gpx", "clean tracks -o OUT.gpx",
	"clean tracks --thin-within 5m -o OUT.gpx", "clean tracks --thin-to 20 -o OUT.gpx", "recast tracks --join -o OUT.gpx",
	"recast tracks --tracks-to=routes -o OUT.gpx", "recast marks --waypoints-to=routes --order near -o OUT.gpx",
	"dress marks --match waypoints:* --symbol rock -o OUT.gpx", "legs routes --hazards marks --clear 50m -o OUT.csv",
	"compare marks same", "compare marks marks2", "merge marks same -o OUT.gpx", "tally tracks -o OUT.csv",
	"compare at1 at2 --within 20m", "merge at1 at2 -o OUT.gpx", "compare near1 near2 --within 20m",
	"merge near1 near2 --within 20m -o OUT.gpx", "merge --base marks marks2 same -o OUT.gpx", "look tracks --duplicates",
	"legs routes --hazards far --clear 50m --detour OUT.gpx", "convert marks2 --append -o appended.gpkg",
	"near 1 2 marks --most 10", "near --to marks tracks --most 1 -o OUT.csv", "when 2026-03-14T00:05Z --along tracks",
	"draw marks -o OUT.png", "draw tracks -o OUT.svg", "draw marks -o OUT.html", "draw long -o OUT.png",
	"look long", "tally long", "clean long -o OUT.gpx", "clean long --thin-within 200m -o OUT.gpx",
	"recast passed --tracks-to=routes -o OUT.gpx", "recast passed --split-at waypoint:P* -o OUT.gpx",
	"recast tracks --split-at 100m -o OUT.gpx", "convert marks --inside areas.geojson -o OUT.gpx",
	"convert marks --inside outline.geojson -o OUT.gpx", "convert tracks --inside areas.geojson -o OUT.gpx",
	"near --to marks areas.geojson --most 1 -o OUT.csv", "near --to marks outline.geojson --most 1 -o OUT.csv",
	"near --to marks long --most 1 -o OUT.csv", "tally tracks --areas areas.geojson",
	"tally tracks --areas outline.geojson", "legs routes --hazards areas.geojson --clear 50m -o OUT.csv",
	"legs routes --hazards outline.geojson --clear 50m -o OUT.csv",
	"convert areas.geojson -o OUT.kml", "convert outline.geojson -o OUT.kml", "overlay union areas.geojson -o OUT.geojson",
	"overlay intersection tracks --with areas.geojson -o OUT.gpx",
	"overlay intersection areas.geojson --with outline.geojson -o OUT.geojson",
	"overlay difference outline.geojson --with areas.geojson -o OUT.geojson",
	"overlay divide outline.geojson --parts 4 -o OUT.geojson", "overlay buffer marks --distance 20m -o OUT.geojson",
	"overlay buffer outline.geojson --distance -200m -o OUT.geojson", "lay corridor tracks --width 40m -o OUT.geojson",
	"lay lines --over outline.geojson --spacing 2km -o OUT.gpx", "dress areas.geojson --rules rules.toml -o OUT.gpx",
}

// allowed is the largest power that is no defect.
const allowed = 1.15

func main() {
	log.SetFlags(0)
	n := flag.Int("n", 2000, "items of the smaller inputs")
	only := flag.String("only", "", "lines that have this in them")
	flag.Parse()
	dir, err := os.MkdirTemp("", "growth-")
	if err != nil {
		log.Fatal(err)
	}
	defer os.RemoveAll(dir)
	program := filepath.Join(dir, "gyrolith")
	if out, err := exec.Command("go", "build", "-o", program, "./cmd/gyrolith").CombinedOutput(); err != nil {
		log.Fatalf("%v\n%s", err, out)
	}
	for _, size := range []int{*n, 10 * *n} {
		if err := generate(filepath.Join(dir, fmt.Sprint(size)), size); err != nil {
			log.Fatal(err)
		}
	}
	idle, _, err := run(program, dir, "--version")
	if err != nil {
		log.Fatal(err)
	}
	defects := 0
	fmt.Printf("%-60s %9s %9s %6s %8s %8s %6s\n", "", "time", "10 n", "power", "memory", "10 n", "power")
	for i, task := range tasks {
		if !strings.Contains(task, *only) {
			continue
		}
		var took [2]float64
		var peak [2]int64
		for k, size := range []int{*n, 10 * *n} {
			line := strings.ReplaceAll(task, "OUT", fmt.Sprint("out", i))
			if took[k], peak[k], err = run(program, filepath.Join(dir, fmt.Sprint(size)), strings.Fields(line)...); err != nil {
				fmt.Printf("%-60s %v\n", task, err)
				break
			}
		}
		if err != nil {
			continue
		}
		// What any program takes that does nothing is no part of what grows.
		time10 := math.Log10(max(took[1]-idle, 1e-3) / max(took[0]-idle, 2e-3))
		memory := math.Log10(float64(peak[1]) / float64(peak[0]))
		mark := ""
		if time10 > allowed || memory > allowed {
			mark, defects = "  !", defects+1
		}
		fmt.Printf("%-60s %8.3fs %8.3fs %6.2f %6dMB %6dMB %6.2f%s\n", task, took[0], took[1], time10,
			peak[0]>>20, peak[1]>>20, memory, mark)
	}
	if defects > 0 {
		fmt.Printf("%d of more than %.2f\n", defects, allowed)
	}
}

// run runs the program three times and gives the shortest time and the largest memory.
func run(program, dir string, args ...string) (seconds float64, peak int64, err error) {
	seconds = math.Inf(1)
	args = named(dir, args)
	for range 3 {
		for _, old := range must(filepath.Glob(filepath.Join(dir, "out[0-9]*"))) {
			os.Remove(old)
		}
		cmd := exec.Command(program, args...)
		cmd.Dir = dir
		begun := time.Now()
		out, err := cmd.CombinedOutput()
		took := time.Since(begun).Seconds()
		if err != nil && cmd.ProcessState.ExitCode() != 0 {
			lines := strings.Split(strings.TrimSpace(string(out)), "\n")
			return 0, 0, fmt.Errorf("%s", lines[len(lines)-1])
		}
		seconds = min(seconds, took)
		if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
			peak = max(peak, usage.Maxrss<<10)
		}
	}
	return
}

// named gives inputs the ends of their names.
func named(dir string, args []string) (out []string) {
	for _, arg := range args {
		if _, err := os.Stat(filepath.Join(dir, arg+".gpx")); err == nil {
			arg += ".gpx"
		}
		out = append(out, arg)
	}
	return
}

func must[T any](v T, err error) T {
	if err != nil {
		log.Fatal(err)
	}
	return v
}

const head = `<gpx version="1.1" creator="bench" xmlns="http://www.topografix.com/GPX/1/1">` + "\n"

// generate writes inputs of a size: marks, marks of one name, in folders, small tracks, one route. However many they
// are, they lie equally close, so that what is near something does not become more.
func generate(dir string, n int) error {
	if err := os.Mkdir(dir, 0o777); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(1, uint64(n)))
	side := 0.3 * math.Sqrt(float64(n)/2000)
	place := func() (lat, lon float64) { return -48 + side*random.Float64(), 10 + 1.5*side*random.Float64() }
	wayLat, wayLon, step := -48.0, 10.0, side*math.Sqrt(1.5/float64(n))
	files := map[string]*strings.Builder{}
	for _, name := range []string{"marks", "marks2", "same", "folders", "tracks", "routes", "at1", "at2", "near1",
		"near2", "far"} {
		files[name] = &strings.Builder{}
		files[name].WriteString(head)
	}
	files["routes"].WriteString("<rte><name>All</name>")
	at := time.Date(2026, 3, 14, 0, 0, 0, 0, time.UTC)
	for i := range n {
		lat, lon := place()
		for name, called := range map[string]string{"marks": fmt.Sprintf("Mark %05d", i), "same": "Mark",
			"marks2": fmt.Sprintf("Other %05d", i)} {
			fmt.Fprintf(files[name], "<wpt lat=\"%.6f\" lon=\"%.6f\"><name>%s</name></wpt>\n", lat, lon, called)
		}
		fmt.Fprintf(files["folders"], "<wpt lat=\"%.6f\" lon=\"%.6f\"><name>%d</name><type>Folder %d</type></wpt>\n",
			lat, lon, i, i%97)
		for k, name := range []string{"1", "2"} { // all at one place, and all of one name
			fmt.Fprintf(files["at"+name], "<wpt lat=\"-47.5\" lon=\"10.5\"><name>%d of %d</name></wpt>\n", i, k)
			fmt.Fprintf(files["near"+name], "<wpt lat=\"%.6f\" lon=\"%.6f\"><name>Buoy</name></wpt>\n", lat+5e-5*float64(k), lon)
		}
		fmt.Fprintf(files["far"], "<wpt lat=\"%.6f\" lon=\"%.6f\"><name>F%d</name></wpt>\n", lat+3, lon, i)
		// A route that winds through all.
		wayLon += step
		if wayLon > 10+1.5*side {
			wayLat, wayLon = wayLat+step, 10
		}
		fmt.Fprintf(files["routes"], "<rtept lat=\"%.6f\" lon=\"%.6f\"><name>P%d</name></rtept>\n", wayLat, wayLon, i)
		if i%50 == 0 {
			fmt.Fprintf(files["tracks"], "<trk><name>Track %d</name><trkseg>\n", i)
			for k := range 100 {
				fmt.Fprintf(files["tracks"], "<trkpt lat=\"%.6f\" lon=\"%.6f\"><time>%s</time></trkpt>\n", lat+1e-4*float64(k),
					lon+1e-5*float64(k*k%31), at.Add(time.Duration(i*100+k)*5*time.Second).Format(time.RFC3339))
			}
			files["tracks"].WriteString("</trkseg></trk>\n")
		}
	}
	files["routes"].WriteString("</rte>")
	long(files, n, at)
	for name, text := range files {
		text.WriteString("</gpx>\n")
		if err := os.WriteFile(filepath.Join(dir, name+".gpx"), []byte(text.String()), 0o666); err != nil {
			return err
		}
	}
	return areas(dir, n, side, place)
}

// long writes a track of a flight, three kilometres from point to point, and a walk straight past as many waypoints.
func long(files map[string]*strings.Builder, n int, at time.Time) {
	random := rand.New(rand.NewPCG(2, uint64(n)))
	for _, name := range []string{"long", "passed"} {
		files[name] = &strings.Builder{}
		files[name].WriteString(head)
	}
	for i := range n {
		fmt.Fprintf(files["passed"], "<wpt lat=\"-47.6\" lon=\"%.6f\"><name>P%d</name></wpt>\n", 10.00005+1e-4*float64(i), i)
	}
	for _, name := range []string{"long", "passed"} {
		fmt.Fprintf(files[name], "<trk><name>%s</name><trkseg>\n", name)
	}
	lat, lon, course := -47.6, 10.0, 0.5
	for i := range n {
		fmt.Fprintf(files["passed"], "<trkpt lat=\"-47.6\" lon=\"%.6f\"></trkpt>\n", 10+1e-4*float64(i))
		fmt.Fprintf(files["long"], "<trkpt lat=\"%.6f\" lon=\"%.6f\"><time>%s</time></trkpt>\n", lat, lon,
			at.Add(time.Duration(i)*12*time.Second).Format(time.RFC3339))
		course += 0.05 * random.NormFloat64()
		if math.Abs(lat) > 60 {
			course = math.Pi - course
		}
		lat, lon = lat+0.026*math.Cos(course), math.Remainder(lon+0.036*math.Sin(course), 360)
	}
	for _, name := range []string{"long", "passed"} {
		files[name].WriteString("</trkseg></trk>")
	}
}

// areas writes small areas, one with as many corners around all of them, and rules for what is inside.
func areas(dir string, n int, side float64, place func() (lat, lon float64)) error {
	ring := func(lat, lon, size float64, corners int) string {
		var out []string
		for i := range corners + 1 {
			sin, cos := math.Sincos(2 * math.Pi * float64(i%corners) / float64(corners))
			out = append(out, fmt.Sprintf("[%.7f,%.7f]", lon+size*cos, lat+size*sin))
		}
		return strings.Join(out, ",")
	}
	feature := `{"type":"Feature","properties":{"name":"%s"},"geometry":{"type":"Polygon","coordinates":[[%s]]}}`
	var small []string
	for i := range n {
		lat, lon := place()
		small = append(small, fmt.Sprintf(feature, fmt.Sprint("Area ", i), ring(lat, lon, 0.001, 6)))
	}
	around := fmt.Sprintf(feature, "Around", ring(-48+side/2, 10+0.75*side, 0.4*side, n))
	for name, features := range map[string]string{"areas": strings.Join(small, ","), "outline": around} {
		text := `{"type":"FeatureCollection","features":[` + features + "]}\n"
		if err := os.WriteFile(filepath.Join(dir, name+".geojson"), []byte(text), 0o666); err != nil {
			return err
		}
	}
	rules := "[[rule]]\nname = \"inside\"\ninside = \"Area*\"\nset.colour = \"#c8102e\"\n"
	return os.WriteFile(filepath.Join(dir, "rules.toml"), []byte(rules), 0o666)
}
