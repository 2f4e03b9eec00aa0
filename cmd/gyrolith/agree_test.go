package main

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/input"
	"gyrolith/core/param"
)

// given is a value of a parameter, with all that it needs to mean something.
type given struct {
	value string
	input string   // the file; "" is the verb's usual one
	with  []string // further options
	ext   string   // of the output; "" is the verb's usual one
	what  []string // is laid
}

// drifting is what parameters of a drift are tried with.
var drifting = []string{"drift-datum"}

// values has a value for every parameter that takes more than a word of its own list or a switch.
var values = map[string]given{
	"read-as":      {value: "plan", input: "briefing.txt"},
	"salvage":      {input: "cut.gpx"},
	"clock":        {value: "+02:00", input: "times.csv"},
	"list":         {input: "briefing.txt"},
	"fixes":        {value: "briefing.txt", input: "names.txt", with: []string{"--read-as", "plan"}},
	"as-of":        {value: "2025-06-01", input: "bearing.txt", with: []string{"--read-as", "plan"}},
	"day":          {value: "2026-03-14", input: "timed.txt"},
	"columns-in":   {value: "lat=Hoch,lon=Quer", input: "odd.csv"},
	"o-means":      {value: "west", input: "o.csv"},
	"nodata":       {value: "710", input: "hills.gpx"},
	"encoding":     {value: "windows-1251", input: "old.csv"},
	"talker":       {value: "II", input: "receivers.log"},
	"crs-in":       {value: "32732", input: "grid.csv"},
	"shift":        {value: "100,-200,50", input: "grid.csv", with: []string{"--crs-in", "20437"}},
	"shift-grid":   {value: "isles.gsb", input: "degrees.csv", with: []string{"--crs-in", "4230"}},
	"sheet":        {value: "Tracks", input: "book.xlsx"},
	"key":          {value: "name", input: "odd.csv", with: []string{"--columns-in", "lat=Hoch,lon=Quer"}},
	"line-by":      {value: "transect", input: "odd.csv", with: []string{"--columns-in", "lat=Hoch,lon=Quer"}},
	"max-nesting":  {value: "50"},
	"max-unpacked": {value: "5MB"},
	"max-ratio":    {value: "150"},
	"take":         {value: "waypoints:Landings"},
	"leave":        {value: "waypoints"},
	"inside":       {value: "11.30,-47.60,11.35,-47.58"},
	"since":        {value: "2026-03-14T05:40Z", input: "walk.gpx"},
	"until":        {value: "2026-03-14T05:40Z", input: "walk.gpx"},
	"sort":         {value: "name"},
	"sort-down":    {value: "name"},

	"clean/also":           {value: "heights,stops"},
	"clean/not":            {value: "spikes"},
	"clean/only":           {value: "repeats,order"},
	"clean/top-speed":      {value: "8km/h"},
	"clean/spike-over":     {value: "20m"},
	"clean/repeats-within": {value: "3km", input: "planning.kmz"},
	"clean/stop-within":    {value: "30m", with: []string{"--also", "stops"}},
	"clean/stop-longer":    {value: "20min", with: []string{"--also", "stops"}},
	"clean/longest-gap":    {value: "3s", with: []string{"--also", "gaps"}},
	"clean/gap-wider":      {value: "5m", with: []string{"--also", "gaps"}},
	"clean/climb-rate":     {value: "1m/s", with: []string{"--also", "heights"}},
	"clean/height-over":    {value: "100m", with: []string{"--also", "heights"}},
	"clean/around":         {value: "2006-07-29"},
	"clean/thin-within":    {value: "25m"},
	"clean/thin-to":        {value: "40"},

	"elevate/terrain": {value: "terrain"},
	"elevate/geoid":   {value: "terrain"},
	"elevate/step":    {value: "2km", with: []string{"--terrain", "terrain"}},

	"recast/keep-source":    {with: []string{"--tracks-to", "routes"}},
	"recast/thin-to":        {value: "12", with: []string{"--tracks-to", "routes"}},
	"recast/thin-within":    {value: "40m", with: []string{"--tracks-to", "routes"}},
	"recast/lend-within":    {value: "400m", with: []string{"--tracks-to", "routes"}},
	"recast/closing-within": {value: "30km", with: []string{"--tracks-to", "areas"}},
	"recast/order":          {value: "name", with: []string{"--waypoints-to", "routes", "--name", "All"}},
	"recast/first": {value: "Sorrel Landing", with: []string{"--take", "waypoints:Landings", "--waypoints-to", "routes",
		"--order", "near"}},
	"recast/last": {value: "Sorrel Landing", with: []string{"--take", "waypoints:Landings", "--waypoints-to", "routes",
		"--order", "near"}},
	"recast/name":        {value: "Round", with: []string{"--waypoints-to", "routes"}},
	"recast/step":        {value: "200m", input: "counting.txt", with: []string{"--routes-to", "tracks"}},
	"recast/reverse":     {input: "counting.txt"},
	"recast/join-within": {value: "50km"},
	"recast/depart":      {value: "2026-03-14T05:30Z", with: []string{"--speed", "4km/h"}},
	"recast/speed":       {value: "3km/h", with: []string{"--depart", "2026-03-14"}},
	"recast/level":       {with: []string{"--depart", "2026-03-14", "--speed", "3km/h"}},
	"recast/climb":       {value: "500ft/min,75kn", with: []string{"--depart", "2026-03-14", "--speed", "95kn"}},
	"recast/descent":     {value: "400ft/min", with: []string{"--depart", "2026-03-14", "--speed", "95kn"}},
	"recast/carrier":     {value: "boat", with: []string{"--depart", "2026-03-14", "--speed", "3km/h"}},
	"recast/shift-time":  {value: "-90s", input: "walk.gpx"},
	"recast/split-at":    {value: "unit:vane", input: "counting.txt"},
	"recast/routes-to":   {value: "tracks", input: "counting.txt"},
	"recast/join":        {},

	"dress/rules":     {value: "rules.toml"},
	"dress/match":     {value: "areas", with: []string{"--colour", "#c8102e"}},
	"dress/symbol":    {value: "rock", with: []string{"--match", "waypoints:Rock*"}},
	"dress/colour":    {value: "#c8102e", with: []string{"--match", "areas"}},
	"dress/width":     {value: "4", with: []string{"--match", "tracks"}},
	"dress/rename":    {value: "R{number:2}", with: []string{"--match", "waypoints:Rock*"}},
	"dress/measure":   {value: "nautical", with: []string{"--match", "areas", "--rename", "{name} {length}"}},
	"dress/regroup":   {value: `Hazards/{group}`, with: []string{"--match", "waypoints:Rock*"}},
	"dress/symbols":   {value: "symbols.csv"},
	"dress/set":       {value: "ward={area|upper}"},
	"dress/areas":     {value: "planning.kmz", input: "walk.gpx", with: []string{"--set", "ward={area}"}},
	"dress/find":      {value: "Rock ([0-9]+)", with: []string{"--change-to", "R$1"}},
	"dress/change-to": {value: "R$1", with: []string{"--find", "Rock ([0-9]+)"}},
	"dress/in":        {value: "description", with: []string{"--find", "a", "--change-to", "b"}},

	"convert/write-as":     {value: "kml:2.3", ext: "xml"},
	"convert/columns":      {value: `name,"lat=The, latitude",lon`, ext: "csv"},
	"convert/rows":         {value: "items", ext: "csv"},
	"convert/notation":     {value: "utm", ext: "csv"},
	"convert/measure":      {value: "flight", ext: "csv"},
	"convert/crs":          {value: "utm", ext: "csv"},
	"convert/shift#out":    {value: "1000,-200,50", with: []string{"--crs", "4230"}, ext: "csv"},
	"convert/shift-grid":   {value: "isles.gsb", with: []string{"--crs", "4230"}, ext: "csv"},
	"convert/track-points": {input: "walk.gpx", ext: "gpkg"},
	"convert/stamp":        {value: "2026-03-14T05:30:00Z", ext: "gpkg"},
	"convert/unit":         {value: "vane", ext: "vpl"},
	"convert/card-version": {value: "2", with: []string{"--unit", "keel"}, ext: "krd"},

	"lay/spacing":   {value: "300m"},
	"lay/heading":   {value: "40"},
	"lay/overshoot": {value: "50m"},
	"lay/turn":      {value: "60m"},
	"lay/datum":     {value: "47.5 S 11.2 E", what: []string{"expanding-square"}},
	"lay/legs":      {value: "6", what: []string{"expanding-square"}},
	"lay/size":      {value: "6nmx4nm", what: []string{"parallel-sweep"}, with: []string{"--datum", "47.5 S 11.2 E"}},
	"lay/width":     {value: "200m", what: []string{"sections"}, input: "briefing.txt"},
	"lay/radius":    {value: "1nm,2nm", what: []string{"rings"}},
	"lay/from":      {value: "20", what: []string{"rings"}, with: []string{"--radius", "1nm", "--to", "80"}},
	"lay/to":        {value: "80", what: []string{"rings"}, with: []string{"--radius", "1nm", "--from", "20"}},
	"lay/left":      {what: []string{"expanding-square"}},
	"lay/speed":     {value: "8kn", what: []string{"expanding-square"}, with: []string{"--drift", "090/1kn"}},
	"lay/drift":     {value: "090/1kn", what: []string{"expanding-square"}, with: []string{"--speed", "8kn"}},
	"lay/pattern":   {value: "triangular", what: []string{"grid"}},
	"lay/count":     {value: "5", what: []string{"grid"}, with: []string{"--pattern", "random"}},
	"lay/apart":     {value: "50m", what: []string{"grid"}, with: []string{"--pattern", "random", "--count", "5"}},
	"lay/seed":      {value: "7", what: []string{"grid"}, with: []string{"--pattern", "random", "--count", "5"}},
	"lay/name":      {value: "Run"},
	"lay/every":     {value: "10min", what: []string{"points"}, input: "walk.gpx", with: []string{"--take", "tracks"}},
	"lay/measure": {value: "nautical", what: []string{"points"}, input: "briefing.txt",
		with: []string{"--spacing", "1nm", "--name", "at {along}"}},
	"lay/last-known": {value: "47.5 S 11.2 E", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--to-time", "2026-03-14T11:00Z", "--current", "090/0.8kn"}},
	"lay/from-time": {value: "2026-03-14T04:00Z", what: drifting, with: []string{
		"--to-time", "2026-03-14T11:00Z", "--current", "090/0.8kn"}},
	"lay/to-time": {value: "2026-03-14T12:00Z", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--current", "090/0.8kn"}},
	"lay/current": {value: "080/1kn", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--to-time", "2026-03-14T11:00Z"}},
	"lay/leeway": {value: "045/0.5kn,20", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--to-time", "2026-03-14T11:00Z", "--current", "090/0.8kn"}},
	"lay/position-error": {value: "1nm", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--to-time", "2026-03-14T11:00Z", "--current", "090/0.8kn"}},
	"lay/craft-error": {value: "0.1nm", what: drifting, with: []string{
		"--from-time", "2026-03-14T05:00Z", "--to-time", "2026-03-14T11:00Z", "--current", "090/0.8kn"}},

	"overlay/with":     {value: "planning.kmz:Nesting*", what: []string{"difference"}, input: "walk.gpx", ext: "gpx"},
	"overlay/by":       {value: "group", what: []string{"union"}},
	"overlay/parts":    {value: "3", what: []string{"divide"}},
	"overlay/heading":  {value: "30", what: []string{"divide"}, with: []string{"--parts", "4"}},
	"overlay/distance": {value: "-20m", what: []string{"buffer"}, with: []string{"--take", "areas"}},

	"legs/speed":        {value: "8kn"},
	"legs/depart":       {value: "2026-03-14T05:40Z", with: []string{"--speed", "8kn"}},
	"legs/wind":         {value: "240/15kn", input: "counting.txt", with: []string{"--speed", "95kn"}},
	"legs/current":      {value: "090/1.5kn", with: []string{"--speed", "8kn"}},
	"legs/winds":        {value: "winds.csv", with: []string{"--speed", "8kn"}},
	"legs/currents":     {value: "winds2.csv", with: []string{"--speed", "8kn"}},
	"legs/climb":        {value: "500ft/min,75kn", input: "counting.txt", with: []string{"--speed", "95kn"}},
	"legs/descent":      {value: "400ft/min", input: "counting.txt", with: []string{"--speed", "95kn"}},
	"legs/stay":         {value: "2:20min", with: []string{"--speed", "8kn"}},
	"legs/declination":  {value: "-20"},
	"legs/deviation":    {value: "compass.csv"},
	"legs/burn":         {value: "32l/h", with: []string{"--speed", "8kn"}},
	"legs/burn-stay":    {value: "0l/h", with: []string{"--speed", "8kn", "--burn", "32l/h", "--stay", "2:20min"}},
	"legs/carrier":      {value: "boat", input: "hills.gpx", with: []string{"--speed", "4km/h"}},
	"legs/level":        {input: "hills.gpx", with: []string{"--speed", "4km/h"}},
	"legs/burn-climb":   {value: "45l/h", input: "counting.txt", with: climbing},
	"legs/burn-descent": {value: "25l/h", input: "counting.txt", with: climbing},
	"legs/fuel":         {value: "100l", with: []string{"--speed", "8kn", "--burn", "32l/h"}},
	"legs/reserve":      {value: "20l", with: []string{"--speed", "8kn", "--burn", "32l/h", "--fuel", "100l"}},
	"legs/terrain":      {value: "terrain", with: []string{"--corridor", "1km", "--margin", "100m"}},
	"legs/corridor":     {value: "2km", with: []string{"--terrain", "terrain", "--margin", "100m"}},
	"legs/margin":       {value: "300m", with: []string{"--terrain", "terrain", "--corridor", "1km"}},
	"legs/hazards":      {value: "planning.kmz"},
	"legs/hazards-take": {value: "waypoints", with: []string{"--hazards", "planning.kmz"}},
	"legs/clear":        {value: "400m", with: []string{"--hazards", "planning.kmz"}},
	"legs/keep-out":     {value: "areas:Nesting*", with: []string{"--hazards", "planning.kmz"}},
	"legs/columns":      {value: "leg,to,leg-distance[km]=Log,blank:ATA"},
	"legs/sort":         {value: "to"},
	"legs/sort-down":    {value: "along"},
	"legs/notation":     {value: "min"},
	"legs/measure":      {value: "flight"},
	"legs/clock": {value: "+05:00", with: []string{"--speed", "8kn", "--depart", "2026-03-14T05:40Z",
		"--columns", "leg,arrive"}},

	"stow/unit":         {value: "vane"},
	"stow/card-version": {value: "2", with: []string{"--unit", "keel"}},

	"draw/size":         {value: "640x480"},
	"draw/scale":        {value: "1:50000"},
	"draw/sheets":       {value: "map,legs,points", input: "briefing.txt", ext: "pdf"},
	"draw/notation":     {value: "min", input: "briefing.txt", with: []string{"--sheets", "points"}, ext: "pdf"},
	"draw/title":        {value: "A \"day\" \\ out"},
	"draw/terrain":      {value: "terrain"},
	"draw/backdrop":     {value: "chart.png", with: []string{"--size", "200x150"}},
	"draw/backdrop-crs": {value: "32732", with: []string{"--backdrop", "utm.png", "--size", "200x150"}},
	"draw/shift": {value: "1000,-200,50", with: []string{"--backdrop", "utm.png", "--backdrop-crs", "23032", "--size",
		"200x150"}},
	"draw/shift-grid": {value: "isles.gsb", with: []string{"--backdrop", "chart.png", "--backdrop-crs", "4230", "--size",
		"200x150"}},
	"draw/section":      {value: "time", input: "walk.gpx"},
	"draw/section-only": {input: "walk.gpx"},
	"draw/before":       {value: "walk.gpx"},
	"draw/removed":      {value: "walk.gpx"},
	"draw/hazards":      {value: "planning.kmz", input: "briefing.txt"},
	"draw/hazards-take": {value: "waypoints", input: "briefing.txt", with: []string{"--hazards", "planning.kmz"}},
	"draw/clear":        {value: "400m", input: "briefing.txt", with: []string{"--hazards", "planning.kmz"}},
	"draw/measure":      {value: "nautical"},
	"draw/clock":        {value: "+05:00", input: "walk.gpx", with: []string{"--section", "time"}},
}

// climbing is flight with a climb and a descent of its own.
var climbing = []string{"--speed", "95kn", "--climb", "500ft/min", "--descent", "400ft/min", "--burn", "32l/h"}

// usual is what a verb is tried on.
var usual = map[string]given{
	"convert": {input: "planning.kmz", ext: "kml"},
	"clean":   {input: "walk.gpx", ext: "gpx"},
	"elevate": {input: "walk.gpx", ext: "gpx", with: []string{"--terrain", "terrain"}},
	"recast":  {input: "planning.kmz", ext: "gpx"},
	"dress":   {input: "planning.kmz", ext: "kml"},
	"lay":     {input: "planning.kmz", ext: "gpx", with: []string{"--spacing", "500m"}},
	"overlay": {input: "planning.kmz", ext: "kml"},
	"legs":    {input: "briefing.txt", ext: "csv"},
	"stow":    {input: "planning.kmz"},
	"draw":    {input: "planning.kmz", ext: "svg"},
}

// A verb, the recipe that it prints, and that recipe run give the same bytes, for every parameter of every step and
// output.
func TestVerbsAndRecipesAgree(t *testing.T) {
	t.Parallel()
	f := agreeable(t)
	k := kit.New(time.Unix(0, 0), "", nil)
	tried := map[string]bool{}
	try := func(verb string, tables ...param.Table) {
		for _, table := range tables {
			for _, p := range table {
				key := verb + "/" + p.Name
				for _, key := range []string{key, key + "#out"} {
					v, known := values[key]
					if !known && strings.HasSuffix(key, "#out") || tried[key] || p.Local || strings.HasSuffix(key, "/what") {
						continue
					}
					if !known {
						v, known = values[p.Name]
					}
					tried[key] = true
					if !known && len(p.Words) > 0 {
						v.value, known = p.Words[0], true
					}
					if !known && !p.Switch() {
						t.Errorf("%s: give the parameter a value to be tried with", key)
						continue
					}
					t.Run(key, func(t *testing.T) {
						t.Parallel()
						f.agrees(t, verb, &p, v)
					})
				}
			}
		}
	}
	reading, choosing := k.NewReading().Params(), input.Choosing(&choose.Selection{})
	var some param.Table // which every verb has from the same tables
	for _, name := range []string{"clock", "crs-in", "salvage", "take", "inside"} {
		some = append(some, *append(reading[:len(reading):len(reading)], choosing...).Find(name))
	}
	for verb, shared := range map[string]param.Table{"convert": append(reading, choosing...), "stow": some, "draw": some,
		"legs": nil} {
		end, _ := k.NewEnd(verb)
		try(verb, shared, end.Output.Params())
	}
	for _, verb := range []string{"clean", "elevate", "recast", "dress", "lay", "overlay"} {
		try(verb, k.NewStage(verb).Step.Params())
	}
	if len(tried) < 100 {
		t.Errorf("only %d parameters were tried", len(tried))
	}
}

// agrees tries one parameter.
func (f *folder) agrees(t *testing.T, verb string, p *param.Param, v given) {
	u := usual[verb]
	in, ext := u.input, u.ext
	if v.input != "" {
		in = v.input
	}
	if v.ext != "" {
		ext = v.ext
	}
	dir := filepath.Join("tried", strings.NewReplacer("/", "-", "#", "-").Replace(t.Name()))
	stem := strings.TrimSuffix(in, filepath.Ext(in))
	args := append(append([]string{verb}, v.what...), append([]string{in, "--quiet"}, v.with...)...)
	if verb == "lay" && len(v.what) == 0 {
		args = append([]string{verb, "lines", in, "--quiet"}, v.with...)
	}
	for i := 0; i < len(u.with); i += 2 {
		if u.with[i] != "--"+p.Name && !(p.Name == "every" && u.with[i] == "--spacing") {
			args = append(args, u.with[i:i+2]...)
		}
	}
	if p.Switch() {
		args = append(args, "--"+p.Name)
	} else {
		args = append(args, "--"+p.Name+"="+v.value)
	}
	byHand := filepath.Join(dir, "by-hand")
	if verb == "stow" {
		os.MkdirAll(f.path(filepath.Join(byHand, stem+"-card")), 0o777)
		os.MkdirAll(f.path(filepath.Join(byHand, "card")), 0o777)
		args = append(args, "--card", filepath.Join(byHand, "card"))
		if p.Name != "unit" && p.Name != "card-version" {
			args = append(args, "--unit", "ridge")
		}
	} else {
		os.MkdirAll(f.path(byHand), 0o777)
		args = append(args, "-o", filepath.Join(byHand, stem+"."+ext))
	}
	if r := f.run(args...); r.status != 0 {
		t.Fatalf("%v: %s", args, r.err)
	}
	r := f.run(append(args, "--as-recipe")...)
	if r.status != 0 || !strings.Contains(r.out, p.Name+" = ") {
		t.Fatalf("%v: the recipe says nothing of it: %s%s", args, r.out, r.err)
	}
	recipe := strings.NewReplacer("/", "-", "#", "-").Replace(t.Name()) + ".toml"
	f.put(recipe, r.out)
	if r := f.run("run", recipe, in, "--into", filepath.Join(dir, "by-recipe"), "--quiet"); r.status != 0 {
		t.Fatalf("the recipe does not run: %s\n%s", r.err, f.get(recipe))
	}
	if verb == "stow" {
		os.Remove(f.path(filepath.Join(byHand, stem+"-card")))
		os.Rename(f.path(filepath.Join(byHand, "card")), f.path(filepath.Join(byHand, stem+"-card")))
	}
	hand, chain := f.state(byHand), f.state(filepath.Join(dir, "by-recipe"))
	for _, own := range []string{"journal.jsonl", "journal.stamps", "sums.json"} {
		delete(chain, own)
	}
	if len(hand) == 0 || !same(hand, chain) {
		t.Errorf("by hand %v, by recipe %v\n%s", names(hand), names(chain), f.get(recipe))
	}
}

func names(files map[string]string) (out []string) {
	for name, content := range files {
		out = append(out, fmt.Sprintf("%s (%d bytes)", name, len(content)))
	}
	return
}

// agreeable is a folder with a file for whatever a parameter needs.
func agreeable(t *testing.T) *folder {
	f := newFolder(t)
	f.putTerrain()
	f.putDemo("walk.gpx", "planning.kmz", "rules.toml", "briefing.txt", "counting.txt")
	f.put("cut.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt><wpt lat="-47.5" lon="11.`)
	f.put("times.csv", "name,lat,lon,time\nA,-47.6,11.3,2026-03-14 05:30:00\n")
	f.put("names.txt", "Sorrel Landing 47.59 S 11.28 E\nTeeth Gate\n")
	f.put("bearing.txt", "BASE 4735S01115E\nBASE045012\n")
	f.put("timed.txt", "A 47.6S 11.3E 14:02\nB 47.7S 11.4E 1410Z\n")
	f.put("symbols.csv", "found,symbol\nfiles/hazard.png,rock-awash\nrock.png,wreck\n")
	f.put("odd.csv", "name,transect,Hoch,Quer\nA,1,-47.6,11.3\nB,1,-47.61,11.31\nC,2,-47.62,11.32\nD,2,-47.63,11.33\n")
	f.put("o.csv", "name,lat,lon\nRock,47 36 N,11 18 O\n")
	f.put("old.csv", "name,lat,lon\n\xd1\xea\xe0\xeb\xe0,-47.6,11.3\n")
	f.put("receivers.log", "$GPRMC,053120,A,4736.000,S,01118.000,E,10.0,090.0,140326,,,A*5D\r\n"+
		"$IIRMC,053120,A,4737.000,S,01118.000,E,10.0,090.0,140326,,,A*4B\r\n"+
		"$GPRMC,053130,A,4736.010,S,01118.000,E,10.0,090.0,140326,,,A*5D\r\n"+
		"$IIRMC,053130,A,4737.010,S,01118.000,E,10.0,090.0,140326,,,A*4B\r\n")
	f.put("grid.csv", "name,easting,northing\nA,672887,4725593\nB,672987,4725693\n")
	f.put("degrees.csv", "name,lat,lon\nA,-47.6,11.3\nB,-47.2,11.2\n")
	f.put("isles.gsb", ntv2())
	f.put("compass.csv", "0,2E\n90,-3\n180,1W\n270,4\n")
	f.put("hills.gpx", `<gpx><rte><rtept lat="-47.5" lon="11.2"><ele>10</ele></rtept>`+
		`<rtept lat="-47.55" lon="11.2"><ele>710</ele></rtept></rte></gpx>`)
	f.put("winds.csv", "direction,speed kn\n240,2\n")
	f.put("winds2.csv", "to,speed kn\n240,2\n")
	f.must("convert", "walk.gpx", "planning.kmz", "-o", "book.xlsx", "--quiet")
	f.must("draw", "planning.kmz", "-o", "chart.png", "--size", "300x200", "--quiet")
	f.put("utm.png", f.get("chart.png"))
	f.put("chart.pgw", "0.001\n0\n0\n-0.001\n11.2\n-47.5\n")
	f.put("utm.pgw", "50\n0\n0\n-50\n665000\n4735000\n")
	return f
}

// ntv2 is a grid of datum shifts over the isles (NTv2, little-endian).
func ntv2() string {
	var b bytes.Buffer
	text := func(key, v string) { fmt.Fprintf(&b, "%-8s%-8s", key, v) }
	put := func(key string, v any) {
		fmt.Fprintf(&b, "%-8s", key)
		binary.Write(&b, binary.LittleEndian, v)
	}
	count := func(key string, n uint32) { put(key, []uint32{n, 0}) }
	count("NUM_OREC", 11)
	count("NUM_SREC", 11)
	count("NUM_FILE", 1)
	text("GS_TYPE", "SECONDS")
	text("VERSION", "TEST")
	text("SYSTEM_F", "ISLES24")
	text("SYSTEM_T", "WGS84")
	for i, v := range []float64{6378388, 6356911.946, 6378137, 6356752.314} {
		put([]string{"MAJOR_F", "MINOR_F", "MAJOR_T", "MINOR_T"}[i], v)
	}
	for _, key := range []string{"SUB_NAME", "PARENT", "CREATED", "UPDATED"} {
		text(key, map[string]string{"SUB_NAME": "ISLES", "PARENT": "NONE"}[key])
	}
	for i, v := range []float64{-48 * 3600, -46 * 3600, -12 * 3600, -10 * 3600, 3600, 3600} {
		put([]string{"S_LAT", "N_LAT", "E_LONG", "W_LONG", "LAT_INC", "LONG_INC"}[i], v)
	}
	count("GS_COUNT", 9)
	for i := range 9 {
		binary.Write(&b, binary.LittleEndian, [4]float32{float32(3 + i), float32(-2 - i), 0.1, 0.1})
	}
	text("END", "")
	return b.String()
}
