package main

import (
	"strings"
	"testing"
)

// What people type by mistake gets one line that says what to do, the right status, and no file.
func TestMistakes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx", "briefing.txt", "counting.txt", "rules.toml")
	f.put("there.gpx", "something of the user's")
	f.put("card/.here", "")
	f.put("empty.txt", "")
	f.put("rules-of-nothing.toml", "# none yet\n")
	whole := f.get("planning.kmz")
	f.put("cut.kmz", whole[:len(whole)/2])
	for _, c := range []struct {
		status int
		says   string
		line   string
	}{
		{1, "already exists", "recast walk.gpx --tracks-to routes -o there.gpx"},
		{1, "already exists", "dress planning.kmz --rules rules.toml -o there.gpx"},
		{1, "already exists", "legs briefing.txt --hazards planning.kmz --clear 60m --detour there.gpx"},
		{2, "is an input as well", "recast walk.gpx --reverse -o walk.gpx"},
		{2, "no output given", "recast walk.gpx --reverse"},
		{2, "no output given", "dress planning.kmz --rules rules.toml"},
		{2, "are tracks already", "recast walk.gpx --tracks-to tracks -o x.gpx"},
		{2, "has no unit", "recast walk.gpx --tracks-to routes --thin-within 10 -o x.gpx"},
		{2, "is not greater than zero", "recast walk.gpx --tracks-to routes --thin-within 0m -o x.gpx"},
		{2, "is not a speed", "recast walk.gpx --speed fast -o x.gpx"},
		{2, "needs a speed", "recast walk.gpx --depart 2026-03-14 -o x.gpx"},
		{2, "could be minutes or metres", "recast walk.gpx --shift-time 5m -o x.gpx"},
		{2, "is not one of file, name", "recast planning.kmz --waypoints-to routes --order alphabetical -o x.gpx"},
		{2, "only with the order near", "recast planning.kmz --waypoints-to routes --first A -o x.gpx"},
		{2, "there is no unit", "recast walk.gpx --split-at unit:nothing -o x.gpx"},
		{2, "contains no rule", "dress planning.kmz --rules rules-of-nothing.toml -o x.gpx"},
		{2, "have no {nam}", "dress planning.kmz --match waypoints --rename {nam} -o x.gpx"},
		{2, "is not a number of pixels", "dress planning.kmz --match areas --width wide -o x.gpx"},
		{2, "is not a valid line width", "dress planning.kmz --match areas --width 0 -o x.gpx"},
		{2, "no rules given", "dress planning.kmz -o x.gpx"},
		{2, "no symbol matches", "symbols zzz"},
		{2, "has no unit", "legs briefing.txt --speed 8"},
		{2, "from 0 to 360", "legs briefing.txt --speed 8kn --wind 400/5kn"},
		{2, "not a number of degrees", "legs briefing.txt --declination west"},
		{2, "chooses among hazards", "legs briefing.txt --hazards-take waypoints"},
		{1, "no such file", "legs briefing.txt --hazards none.gpx"},
		{1, "no matching hazards", "legs briefing.txt --hazards planning.kmz --hazards-take waypoints:zzz --quiet"},
		{2, "is not a kind of item", "legs briefing.txt --keep-out Nesting"},
		{1, "no such file", "convert briefing.txt --fixes none.gpx -o x.gpx"},
		{2, "is not a time", "convert briefing.txt --as-of soon -o x.gpx"},
		{2, "there is no unit", "convert briefing.txt --unit nothing -o x.gpx"},
		{1, "is empty (0 bytes)", "convert empty.txt -o x.gpx"},
		{1, "--salvage takes what is complete", "convert cut.kmz -o x.gpx"},
		{2, "there is no verb", "recasts walk.gpx"},
		{2, `did you mean "clean"?`, "help cleen"},
		{2, "there is no option --witin", "recast walk.gpx --witin 5m -o x.gpx"},
		{1, "no such folder", "stow briefing.txt --unit keel --card nowhere --quiet"},
		{2, "takes no files", "stow briefing.txt --verify --card card"},
		{2, "takes no files", "boot briefing.txt --unit keel --card card"},
		{1, "the unit shows nothing", "boot --unit keel --card card"},
		{2, "vane has no talker line", "boot --unit vane --listen 127.0.0.1:0"},
		{1, "the card is", "unstow --card nowhere -o x.zip"},
		{2, "--like needs --new", "units --like ridge"},
		{1, "can't be read", "units --check none.toml"},
		{2, "too small: the minimum is 300", "send briefing.txt --to tcp://127.0.0.1:1 --rate 1"},
		{2, "has no port", "send briefing.txt --to tcp://127.0.0.1"},
		{2, "--to: missing", "send briefing.txt"},
	} {
		if c.says == "the card is" { // the line says which folder is not there
			c.says = "no such folder"
		}
		f.refuses(c.status, c.says, strings.Fields(c.line)...)
	}
	if f.get("there.gpx") != "something of the user's" {
		t.Error("the user's file is changed")
	}
}

// Help is had as a verb as well as by the option.
func TestHelpAsVerb(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for as, option := range map[string]string{"help": "--help", "help clean": "clean --help", "help run": "run -h"} {
		if r := f.must(strings.Fields(as)...); r.out == "" || r.out != f.must(strings.Fields(option)...).out {
			t.Errorf("%s:\n%s", as, r.out)
		}
	}
}

// A dry run says what would be done, and does nothing.
func TestDryRuns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "briefing.txt")
	f.put("card/.here", "")
	f.put("full/A.GPX", "a")
	f.must("unstow", "--card", "full", "-o", "full.zip")
	f.put("full/A.GPX", "b")
	f.put("full/EXTRA.GPX", "x")
	before := strings.Join(f.list(), " ")
	for line, says := range map[string]string{
		"unstow --card full -o x.zip --dry-run":                     "would archive in x.zip: 2 files",
		"unstow --restore full.zip --card full --dry-run":           "would restore A.GPX",
		"unstow --restore full.zip --card full --dry-run --replace": "would leave EXTRA.GPX",
	} {
		if r := f.must(strings.Fields(line)...); !strings.Contains(r.err, says) {
			t.Errorf("%s:\n%s", line, r.err)
		}
	}
	if f.get("full/A.GPX") != "b" {
		t.Error("a dry run changed the card")
	}
	f.refuses(2, "can't be combined with --dry-run", "stow", "--undo", "--card", "card", "--dry-run")
	for _, line := range []string{
		"recast planning.kmz --areas-to tracks -o x.gpx --dry-run",
		"dress planning.kmz --match waypoints --symbol rock -o x.gpx --dry-run",
		"legs briefing.txt --hazards planning.kmz --hazards-take waypoints --clear 150m --detour x.gpx -o x.csv --dry-run",
		"stow planning.kmz --unit keel --card card --dry-run", "convert briefing.txt --unit vane -o x.vpl --dry-run",
	} {
		if r := f.must(strings.Fields(line)...); !strings.Contains(r.err, "would write") {
			t.Errorf("%s:\n%s", line, r.err)
		}
	}
	if after := strings.Join(f.list(), " "); after != before {
		t.Errorf("a dry run wrote: %s", after)
	}
}

// The answers as JSON hold the figures that the tables do.
func TestJSONOfNewVerbs(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt")
	f.put("card/.here", "")
	v := f.answer("recast", "planning.kmz", "--areas-to", "tracks", "-o", "a.gpx", "--json")
	if v["tracks"] != 11.0 || v["areas"] != 0.0 || len(v["ledger"].([]any)) < 3 {
		t.Errorf("recast: %v", v)
	}
	v = f.answer("dress", "planning.kmz", "--match", "waypoints:*rock*", "--symbol", "hazard", "-o", "b.gpx", "--json")
	changed := 0
	for _, e := range v["ledger"].([]any) {
		if m := e.(map[string]any); m["property"] == "symbol" && m["old"] == "rock" && m["new"] == "hazard" {
			changed++
		}
	}
	if changed != 20 {
		t.Errorf("dress changes %d symbols in its ledger", changed)
	}
	v = f.answer("stow", "counting.txt", "--unit", "vane", "--card", "card", "--json")
	if v["unit"] != "vane" || len(v["differences"].([]any)) != 0 || v["on_card"].([]any)[1] != 1.0 {
		t.Errorf("stow: %v", v)
	}
	v = f.answer("stow", "--verify", "--card", "card", "--json")
	if v["files"] != 1.0 || len(v["differences"].([]any)) != 0 {
		t.Errorf("verify: %v", v)
	}
	v = f.answer("legs", "counting.txt", "--hazards", "planning.kmz", "--hazards-take", "waypoints", "--clear", "100m",
		"--detour", "d.gpx", "--json")
	if len(v["routes"].([]any)) != 1 || !strings.Contains(f.get("d.gpx"), "<rte>") {
		t.Errorf("legs with a detour: %v", v)
	}
	v = f.answer("units", "--json")
	if len(v["units"].([]any)) < 7 {
		t.Errorf("units: %v", v)
	}
	if n := len(f.answer("symbols", "--json")["symbols"].([]any)); n < 50 {
		t.Errorf("%d symbols", n)
	}
}

// Every notation of the output is read again as a pasted plan, at the same place to a metre or the notation's own step.
func TestNotationsRoundTrip(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("counting.txt")
	for _, notation := range []string{"deg", "min", "sec", "utm", "mgrs", "plan"} {
		r := f.must("look", "counting.txt", "--list", "--notation", notation)
		var rows []string
		for line := range strings.Lines(r.out) {
			if name, rest, ok := strings.Cut(line, "waypoint"); ok && strings.Contains(name, "VC0") {
				rest, _, _ = strings.Cut(strings.TrimSpace(rest)+"   ", "   ")
				fields := strings.Fields(rest)
				if n := len(fields); n > 2 && fields[n-1] == "ft" {
					fields = fields[:n-2]
				}
				rows = append(rows, strings.Trim(strings.TrimSpace(name), "├└ •")+" "+strings.Join(fields, " "))
			}
		}
		f.put("again-"+notation+".txt", strings.Join(rows, "\n")+"\n")
		within := "2m"
		if notation == "plan" {
			within = "32m"
		}
		c := f.must("compare", "counting.txt", "again-"+notation+".txt", "--list", "--within", within)
		if strings.Contains(c.out, "moved") || strings.Contains(c.out, "lost") {
			t.Errorf("%s:\n%s\n%s", notation, strings.Join(rows, "\n"), c.out)
		}
	}
}
