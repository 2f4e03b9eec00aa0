package kit_test

import (
	"context"
	"io"
	"testing"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/compare"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/inspect"
	"gyrolith/core/merge"
	"gyrolith/core/motion"
	"gyrolith/core/param"
	"gyrolith/core/tally"
)

// chains are steps and outputs with their settings, by turns.
var chains = []struct {
	verb, end, name string
	step, output    []param.Setting
}{
	{"clean", "convert", "x.gpx", set("also", "heights", "also", "stops", "also", "epoch", "also", "gaps", "also",
		"crumbs",
		"thin-within", "5m"), nil},
	{"clean", "convert", "x.csv", set("thin-to", "5", "repeats-within", "3m"), nil},
	{"recast", "convert", "x.kml", set("tracks-to", "routes", "routes-to", "tracks", "thin-to", "7"), nil},
	{"recast", "convert", "x.geojson", set("join", "true", "split-at", "90s"), nil},
	{"recast", "convert", "x.shp", set("waypoints-to", "routes", "order", "near"), nil},
	{"dress", "convert", "x.gpkg", set("match", "all", "rename", "{name} {date} {time} {length} {height}", "symbol",
		"hazard"), nil},
	{"convert", "convert", "x.gpx", set("unit", "keel"), nil},
	{"convert", "convert", "x.parquet", nil, set("track-points", "true")},
	{"convert", "legs", "x.csv", nil, set("speed", "5kn")},
	{"convert", "draw", "x.svg", nil, set("section", "distance")},
	{"convert", "draw", "x.html", nil, nil},
}

func set(pairs ...string) (out []param.Setting) {
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, param.Setting{Name: pairs[i], Values: []string{pairs[i+1]}})
	}
	return
}

const mostFuzzed = 300 // points, since drawing and joining take their time

// FuzzVerbs puts whatever can be read through whole verbs: none ends the program, whatever its numbers are.
func FuzzVerbs(f *testing.F) {
	for _, text := range []string{
		`<gpx><trk><trkseg><trkpt lat="1" lon="2"><ele>1e23</ele><time>1690-01-01T00:00:00Z</time></trkpt>` +
			`<trkpt lat="1.1" lon="-179"><ele>-1e300</ele><time>2260-01-01T00:00:00Z</time></trkpt>` +
			`<trkpt lat="-90" lon="180"></trkpt></trkseg></trk><rte><rtept lat="90" lon="0"/><rtept lat="-90" lon="0"/></rte>` +
			`<wpt lat="1" lon="2"><name>a</name></wpt><wpt lat="1" lon="2"><name>a</name></wpt></gpx>`,
		"name,lat,lon,height,time\nA,47,11,9e99,2026-03-14\nA,47,11,-9e99,1700-01-01T00:00:00Z\n,0,180,,\n",
		`{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"depth":1e308},"geometry":` +
			`{"type":"Polygon","coordinates":[[[0,0],[179,0],[-179,89],[0,0]]]}}]}`,
		`<kml><Placemark><name>x</name><LineString><coordinates>0,0,1e40 0,0,-1e40 1,1</coordinates></LineString>` +
			`</Placemark></kml>`,
	} {
		f.Add([]byte(text))
	}
	now := time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)
	tools := kit.New(now, "", nil)
	f.Fuzz(func(t *testing.T, raw []byte) {
		ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
		defer cancel()
		read := func() *format.Loaded {
			opt := tools.NewReading().Options
			in, err := tools.Formats.Load(format.FromBytes(t.Context(), "x", raw), "", true, &opt)
			if err != nil || in.Data.Points() > mostFuzzed {
				return nil
			}
			return in
		}
		in := read()
		if in == nil || in.Data.Points() == 0 {
			return
		}
		if _, err := inspect.Look(t.Context(), in, now, motion.Limits{}); err != nil {
			t.Error(err)
		}
		compare.Compare(t.Context(), in.Data, read().Data, compare.Options{})
		merge.Merge(t.Context(), nil, in.Data, read().Data, merge.Options{})
		if _, err := (&tally.Step{}).Of(ctx, read().Data, "x", ""); err != nil {
			t.Log(err)
		}
		for _, c := range chains {
			stage := tools.NewStage(c.verb)
			end, _ := tools.NewEnd(c.end)
			end.Name = c.name
			if err := stage.Params().Set(nil, c.step); err != nil {
				t.Fatal(c.verb, err)
			}
			if err := end.Params().Set(nil, c.output); err != nil {
				t.Fatal(c.end, err)
			}
			work := &chain.Work{Data: read().Data, Source: "x"}
			whole := &chain.Chain{Reading: tools.NewReading(), Stages: []*chain.Stage{stage}, Ends: []*chain.End{end}}
			if err := stage.Step.Check(); err != nil {
				t.Fatal(c.verb, err)
			}
			if err := end.Check(); err != nil {
				t.Fatal(c.end, err)
			}
			if err := whole.Open(ctx); err != nil {
				t.Fatal(c.verb, c.end, err)
			}
			if err := whole.Apply(ctx, work); err == nil {
				_, err = end.Write(ctx, work, end.Name, export.To(io.Discard))
				if err != nil {
					t.Log(c.verb, c.end, err)
				}
			}
			whole.Close()
			if ctx.Err() != nil {
				t.Fatalf("%s to %s of %d points does not end", c.verb, c.name, in.Data.Points())
			}
		}
	})
}
