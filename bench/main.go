// Bench measures the built program as whole processes, against the standard library's XML decoder reading the
// same file, in one run on one machine: go run ./bench
package main

import (
	"bufio"
	"encoding/xml"
	"flag"
	"fmt"
	"io"
	"log"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"
)

func main() {
	log.SetFlags(0)
	points := flag.Int("points", 1_000_000, "points of the generated track")
	runs := flag.Int("runs", 5, "runs of each, after one that does not count")
	tokens := flag.String("tokens", "", "only read the tokens of this file with the standard library (used by the "+
		"run itself)")
	idle := flag.Bool("idle", false, "do nothing (used by the run itself)")
	flag.Parse()
	switch {
	case *idle:
		return
	case *tokens != "":
		readTokens(*tokens)
		return
	}
	if err := measure(*points, *runs); err != nil {
		log.Fatal(err)
	}
}

// readTokens is the yardstick: encoding/xml merely asked for every token.
func readTokens(path string) {
	f, err := os.Open(path)
	if err != nil {
		log.Fatal(err)
	}
	defer f.Close()
	d := xml.NewDecoder(bufio.NewReaderSize(f, 1<<20))
	for {
		if _, err := d.Token(); err == io.EOF {
			return
		} else if err != nil {
			log.Fatal(err)
		}
	}
}

// Recordings are tracks with a time and a height at every point, about 105 bytes each, and what receivers and sensors
// add.
var recordings = []struct{ name, what, more string }{
	{"plain", "with times and heights", ""},
	{"fixes", "with satellites", "<fix>3d</fix><sat>%[1]d</sat><hdop>0.%[2]d</hdop>"},
	{"hearts", "with a heart rate", "<extensions><b:body xmlns:b=\"urn:example:body\"><b:hr>%[3]d</b:hr>" +
		"<b:cad>%[4]d</b:cad></b:body></extensions>"},
	{"power", "with power", "<extensions><power>%[5]d</power><b:body xmlns:b=\"urn:example:body\"><b:hr>%[3]d</b:hr>" +
		"<b:cad>%[4]d</b:cad><b:depth>%[6].3f</b:depth></b:body></extensions>"},
}

// writeTrack generates a recording; more is what every point has besides, by the values that it takes.
func writeTrack(path string, points int, more string) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer f.Close()
	w := bufio.NewWriterSize(f, 1<<20)
	fmt.Fprint(w, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<gpx version=\"1.1\" creator=\"bench\" "+
		"xmlns=\"http://www.topografix.com/GPX/1/1\">\n<trk><name>Long walk</name><trkseg>\n")
	at := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	for i := range points {
		t := float64(i)
		fmt.Fprintf(w, "  <trkpt lat=\"%.8f\" lon=\"%.8f\"><ele>%.2f</ele><time>%s</time>",
			-47.6+0.3*math.Sin(t/90000), 11.3+0.3*math.Cos(t/70000), 150+90*math.Sin(t/3000),
			at.Add(time.Duration(i)*time.Second).Format(time.RFC3339))
		if more != "" {
			fmt.Fprintf(w, more, 6+i%7, 7+i/3%3, 90+i/5%60, 70+i/7%20, i*7919%400, math.Mod(t*1.618, 9))
		}
		fmt.Fprint(w, "</trkpt>\n")
	}
	fmt.Fprint(w, "</trkseg></trk>\n</gpx>\n")
	return w.Flush()
}

// figures are those of one process.
type figures struct{ wall, peak float64 }

func run(before func(), name string, args ...string) (figures, error) {
	if before != nil {
		before()
	}
	cmd := exec.Command(name, args...)
	cmd.Env = append(os.Environ(), "NO_COLOR=1")
	began := time.Now()
	if out, err := cmd.CombinedOutput(); err != nil {
		return figures{}, fmt.Errorf("%s %v: %v\n%s", name, args, err, out)
	}
	return figures{time.Since(began).Seconds(), peakMemory(cmd.ProcessState)}, nil
}

// medians runs commands in turn, so that all meet the same machine, and gives the median of each.
func medians(runs int, commands ...func() (figures, error)) ([]figures, error) {
	out := make([]figures, len(commands))
	walls := make([][]float64, len(commands))
	for i := range runs + 1 {
		for k, command := range commands {
			f, err := command()
			if err != nil {
				return nil, err
			}
			if i > 0 {
				walls[k] = append(walls[k], f.wall)
				out[k].peak = math.Max(out[k].peak, f.peak)
			}
		}
	}
	for k := range out {
		slices.Sort(walls[k])
		out[k].wall = walls[k][(len(walls[k])-1)/2]
	}
	return out, nil
}

func measure(points, runs int) error {
	base := "/dev/shm" // a file system in memory, so that the disk is not measured
	if _, err := os.Stat(base); err != nil {
		base = ""
	}
	dir, err := os.MkdirTemp(base, "gyrolith-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	program, self := filepath.Join(dir, "gyrolith"), filepath.Join(dir, "bench")
	for out, pkg := range map[string]string{program: "./cmd/gyrolith", self: "./bench"} {
		build := exec.Command("go", "build", "-o", out, pkg)
		build.Env = append(os.Environ(), "CGO_ENABLED=0")
		if text, err := build.CombinedOutput(); err != nil {
			return fmt.Errorf("%s%v", text, err)
		}
	}
	fmt.Printf("a track of %d points; median of %d runs in turn\n", points, runs)
	for _, r := range recordings {
		in := filepath.Join(dir, r.name+".gpx")
		if err := writeTrack(in, points, r.more); err != nil {
			return err
		}
		commands := []func() (figures, error){func() (figures, error) { return run(nil, self, "-tokens", in) }}
		outputs := []string{"kml", "gpx", "geojson", "csv", "parquet"}
		for _, to := range outputs {
			out := filepath.Join(dir, "out."+to)
			args := []string{"convert", in, "-o", out}
			if to == "parquet" {
				args = append(args, "--track-points")
			}
			commands = append(commands, func() (figures, error) {
				return run(func() { os.Remove(out) }, program, args...)
			})
		}
		all, err := medians(runs, commands...)
		if err != nil {
			return err
		}
		info, err := os.Stat(in)
		if err != nil {
			return err
		}
		size := float64(info.Size())
		fmt.Printf("%s, %.1f MB: the tokens alone take %.2f s\n", r.what, size/1e6, all[0].wall)
		for i, to := range outputs {
			f := all[i+1]
			fmt.Printf("  to %-10s %6.2f s   %5.1f times faster   peak memory %6.1f MB, %3.0f %% of the input\n",
				to, f.wall, all[0].wall/f.wall, f.peak/1e6, 100*f.peak/size)
		}
		os.Remove(in)
	}
	both, err := medians(4*runs,
		func() (figures, error) { return run(nil, program, "--version") },
		func() (figures, error) { return run(nil, self, "-idle") })
	if err != nil {
		return err
	}
	fmt.Printf("%-30s %6.1f ms  a program that does nothing %6.1f ms   %5.1f times as long\n", "--version",
		1e3*both[0].wall, 1e3*both[1].wall, both[0].wall/both[1].wall)
	return nil
}
