package card

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/format/all"
	"gyrolith/core/merge"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
	"gyrolith/core/unit/seasontest"
	"gyrolith/core/unit/standin"
)

// season is a list of marks and a route, with names that units have to shorten.
func season(n int) *nav.Dataset {
	d := &nav.Dataset{}
	for i := range n {
		w := nav.Waypoint{Point: nav.At(-47.5-float64(i)/1000, 11.25)}
		w.Name, w.Style.Symbol = fmt.Sprintf("Mooring %d – south basin, outer row", 201+i), "mooring"
		d.Waypoints = append(d.Waypoints, w)
	}
	d.Routes = []nav.Route{{Item: nav.Item{Name: "Round"}, Points: slices.Clone(d.Waypoints[:2])}}
	return d
}

// beside stows data on a card that may hold something.
func beside(t *testing.T, d *nav.Dataset, p *unit.Profile, on On) (*Plan, *Stowed) {
	t.Helper()
	plan, err := MakeOn(context.Background(), d, p, "plan", all.Formats, on)
	if err != nil {
		t.Fatal(err)
	}
	out, err := plan.Stow(context.Background(), on.Card, Options{Keep: on.Keep, Replace: true, Now: time.Unix(0, 0)})
	if err != nil {
		t.Fatal(err)
	}
	if len(out.Result.Differences) > 0 {
		t.Fatalf("the unit does not show what was intended: %+v", out.Result.Differences[0])
	}
	return plan, out
}

// shownNames lists what a unit shows, as name and latitude.
func shownNames(t *testing.T, p *unit.Profile, card string) (out []string) {
	t.Helper()
	shown, err := Boot(p, card)
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range shown.Data.Waypoints {
		out = append(out, fmt.Sprintf("%s %.4f", w.Name, w.Lat))
	}
	slices.Sort(out)
	return
}

// The circle on every unit: the office's list, what was on the card before, the crew's marks, and the list again.
func TestCircle(t *testing.T) {
	for _, name := range []string{"keel", "ridge", "vane"} {
		p := find(t, name)
		on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add,
			Chosen: func(nav.Kind, *nav.Item) bool { return true }}
		office := season(5)
		beside(t, office, p, on)
		first := shownNames(t, p, on.Card)
		if len(first) != 5 {
			t.Fatalf("%s: %q", name, first)
		}
		// Once more changes nothing, and doubles nothing.
		plan, _ := beside(t, office, p, on)
		if b := plan.Beside; len(plan.Files) > 0 || b.Kept[nav.Waypoints] != 5 || b.Added != [4]int{} ||
			b.Updated != [4]int{} {
			t.Errorf("%s, the same again: %d files, %+v", name, len(plan.Files), b)
		}
		// A mark is new, and one has moved in the office.
		next := season(6)
		next.Waypoints[1].Lat += 0.01
		plan, _ = beside(t, next, p, on)
		if b := plan.Beside; b.Kept[nav.Waypoints] != 4 || b.Updated[nav.Waypoints] != 1 || b.Added[nav.Waypoints] != 1 {
			t.Errorf("%s, one new and one moved: %+v", name, b)
		}
		names := shownNames(t, p, on.Card)
		if len(names) != 6 || !strings.HasPrefix(names[1], strings.Fields(first[1])[0]) {
			t.Errorf("%s: %q, and then %q", name, first, names)
		}
		// The crew makes one, moves one and deletes one.
		at := func(i int) string { return names[i][:strings.LastIndex(names[i], " ")] }
		for _, d := range []standin.Deed{{Do: standin.Make, Name: "SEAL", At: nav.At(-47.6, 11.3)},
			{Do: standin.Move, Name: at(2), At: nav.At(-47.7, 11.4)}, {Do: standin.Delete, Name: at(3)}} {
			if err := Act(p, on.Card, d); err != nil {
				t.Fatalf("%s: %v", name, err)
			}
		}
		there, err := LookAt(context.Background(), p, on.Card, on.Keep, all.Formats)
		if err != nil {
			t.Fatal(err)
		}
		deeds := map[Deed]string{}
		for _, a := range there.Aboard() {
			deeds[a.What] = a.Name
		}
		if len(deeds) != 3 || deeds[Made] != "SEAL" || deeds[Moved] != at(2) || deeds[Deleted] != at(3) {
			t.Errorf("%s, done aboard: %v", name, deeds)
		}
		// The list goes out again before anybody has merged: the crew's work stays.
		plan, _ = beside(t, next, p, on)
		if len(plan.Beside.Aboard) != 3 {
			t.Errorf("%s: unseen work: %+v", name, plan.Beside.Aboard)
		}
		if now := shownNames(t, p, on.Card); !slices.Contains(now, "SEAL -47.6000") ||
			!slices.Contains(now, at(2)+" -47.7000") || len(now) != 6 {
			t.Errorf("%s: the crew's work is gone: %q", name, now)
		}
		// The card comes home.
		back, err := Return(context.Background(), next, p, on.Card, on.Keep, all.Formats)
		if err != nil {
			t.Fatal(err)
		}
		home, report, _ := merge.Merge(t.Context(), back.Base, back.Office, back.Card, merge.Options{Within: 0.2})
		back.Settle(home)
		if len(report.Added) != 1 || len(report.Moved) != 1 || len(report.Removed) != 1 || len(report.Conflicts) != 0 {
			t.Errorf("%s, home: %+v", name, report)
		}
		if len(home.Waypoints) != 6 || home.Waypoints[2].Name != next.Waypoints[2].Name || home.Waypoints[2].Lat != -47.7 ||
			home.Waypoints[0].Style.Symbol != "mooring" || home.Waypoints[0].ID != "" {
			t.Errorf("%s, home: %+v", name, home.Waypoints)
		}
		// And out again: nothing is doubled, and nothing is left to tell.
		plan, _ = beside(t, home, p, on)
		if now := shownNames(t, p, on.Card); len(now) != 6 || plan.Beside.Added != [4]int{} {
			t.Errorf("%s, out again: %q %+v", name, now, plan.Beside)
		}
		there, err = LookAt(context.Background(), p, on.Card, on.Keep, all.Formats)
		if err != nil || len(there.Aboard()) != 0 {
			t.Errorf("%s: still to tell: %+v %v", name, there.Aboard(), err)
		}
	}
}

// What the office has renamed is renamed on the unit, and what it has deleted stays, and is told.
func TestRenamedAndStale(t *testing.T) {
	p := find(t, "keel")
	on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add, Chosen: func(nav.Kind, *nav.Item) bool { return true }}
	office := season(4)
	beside(t, office, p, on)
	office.Waypoints[0].Name = "The wreck"
	office.Waypoints = office.Waypoints[:3]
	plan, _ := beside(t, office, p, on)
	if now := shownNames(t, p, on.Card); len(now) != 4 || !slices.Contains(now, "The wreck -47.5000") {
		t.Errorf("%q", now)
	}
	if b := plan.Beside; len(b.Stale) != 1 || b.Stale[0].Name != "Mooring 204" || b.Updated[nav.Waypoints] != 1 {
		t.Errorf("%+v", b)
	}
}

// A card that holds something is refused with the names of what would go; dropping takes off what is named, and a name
// that nothing has is an error with the nearest one.
func TestOccupied(t *testing.T) {
	for _, name := range []string{"keel", "ridge", "vane"} {
		p := find(t, name)
		on := On{Card: t.TempDir(), Keep: t.TempDir()}
		beside(t, season(4), p, on)
		other := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Camp"}, Point: nav.At(-47, 11)}}}
		_, err := MakeOn(context.Background(), other, p, "other", all.Formats, on)
		occupied, ok := errors.AsType[*Occupied](err)
		if !ok || len(occupied.Beside.Gone) != 5 ||
			!strings.Contains(err.Error(), "4 waypoints and 1 route would no longer") {
			t.Fatalf("%s: %v", name, err)
		}
		on.Mode, on.Drop = Add, []choose.Choice{{Text: "waypoints:Moring*", Kinds: [4]bool{true}, Pattern: "moring*"}}
		if _, err := MakeOn(context.Background(), other, p, "other", all.Formats, on); err == nil ||
			!strings.Contains(err.Error(), "the unit shows no") {
			t.Errorf("%s: %v", name, err)
		}
		names := shownNames(t, p, on.Card)
		gone, _, _ := strings.Cut(names[1], " -")
		on.Drop = []choose.Choice{{Kinds: [4]bool{true}, Pattern: strings.ToLower(gone)}}
		plan, _ := beside(t, &nav.Dataset{}, p, on)
		if now := shownNames(t, p, on.Card); len(now) != 3 || slices.Contains(now, names[1]) ||
			plan.Beside.Dropped[nav.Waypoints] != 1 {
			t.Errorf("%s: %q", name, now)
		}
		on.Mode, on.Drop = Replace, nil
		beside(t, other, p, on)
		shown, err := Boot(p, on.Card)
		if err != nil || shown.Data.Counts() != [4]int{1} {
			t.Errorf("%s: replaced: %v %v", name, shown.Data.Counts(), err)
		}
	}
}

// A unit that wipes what it does not know does not make a card a stranger: the copy of the record tells.
func TestWipedRecord(t *testing.T) {
	p := find(t, "keel")
	on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add}
	beside(t, season(5), p, on)
	if err := os.Remove(filepath.Join(on.Card, ManifestName)); err != nil {
		t.Fatal(err)
	}
	if err := Act(p, on.Card, standin.Deed{Do: standin.Make, Name: "SEAL", At: nav.At(-47.6, 11.3)}); err != nil {
		t.Fatal(err)
	}
	there, err := LookAt(context.Background(), p, on.Card, on.Keep, all.Formats)
	if err != nil || there.Copied == "" || len(there.Aboard()) != 1 || there.Aboard()[0].What != Made {
		t.Fatalf("%+v %v", there.Aboard(), err)
	}
	// What another has written is not the crew's.
	strange := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add}
	if err := Act(p, strange.Card, standin.Deed{Do: standin.Make, Name: "OLD", At: nav.At(-47.6, 11.3)}); err != nil {
		t.Fatal(err)
	}
	beside(t, season(3), p, strange)
	there, err = LookAt(context.Background(), p, strange.Card, strange.Keep, all.Formats)
	if err != nil || len(there.Things) != 5 || len(there.Aboard()) != 0 {
		t.Errorf("%+v %v", there.Aboard(), err)
	}
}

// A full unit: what is there stays, and what does not fit is told by name.
func TestFullCard(t *testing.T) {
	p := *find(t, "keel")
	p.Waypoints.Most = 6
	on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add}
	beside(t, season(5), &p, on)
	if err := Act(&p, on.Card, standin.Deed{Do: standin.Make, Name: "SEAL", At: nav.At(-47.6, 11.3)}); err != nil {
		t.Fatal(err)
	}
	plan, _ := beside(t, season(8), &p, on)
	var out []string
	for _, e := range plan.Ledger {
		if e.What == unit.LeftOut {
			out = append(out, e.Name)
		}
	}
	if now := shownNames(t, &p, on.Card); len(now) != 6 || !slices.Contains(now, "SEAL -47.6000") || len(out) != 3 ||
		!strings.HasPrefix(out[0], "Mooring 206") {
		t.Errorf("%q, left out %q", now, out)
	}
}

// On a unit where one identifier is one place, plans share their fixes, those of an older plan too.
func TestSharedFixes(t *testing.T) {
	p := find(t, "vane")
	on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add}
	route := func(name string, lats ...float64) *nav.Dataset {
		r := nav.Route{Item: nav.Item{Name: name}}
		for i, lat := range lats {
			r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: []string{"TARRO", "ORSUM", "VELDN"}[i]},
				Point: nav.At(lat, 11)})
		}
		return &nav.Dataset{Routes: []nav.Route{r}}
	}
	beside(t, route("One", -47, -48), p, on)
	beside(t, route("Two", -47, -48.5, -49), p, on)
	shown, err := Boot(p, on.Card)
	if err != nil {
		t.Fatal(err)
	}
	place := map[string]float64{}
	for _, r := range shown.Data.Routes {
		for _, w := range r.Points {
			if at, known := place[w.Name]; known && at != w.Lat {
				t.Errorf("%s is at %g and at %g", w.Name, at, w.Lat)
			}
			place[w.Name] = w.Lat
		}
	}
	if len(place) != 4 || place["TARRO"] != -47 || place["ORSUM"] != -48 {
		t.Errorf("%v", place)
	}
}

// Broken off before any step, a card that is added to or replaced is finished or undone, to what it was meant to be or
// to what it was.
func TestBesideBrokenOff(t *testing.T) {
	for _, name := range []string{"keel", "ridge", "vane"} {
		for _, mode := range []Mode{Add, Replace} {
			p := find(t, name)
			on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add}
			before := season(4)
			before.Tracks = []nav.Track{seasontest.Line("Walk", 5)}
			beside(t, before, p, on)
			was := snapshot(t, on.Card)
			on.Mode = mode
			plan, err := MakeOn(context.Background(), season(6), p, "next", all.Formats, on)
			if err != nil {
				t.Fatal(err)
			}
			var steps, cards []string // the card as it is before each step
			_, err = plan.Stow(context.Background(), on.Card, Options{Keep: on.Keep, Replace: true, Now: time.Unix(0, 0),
				Step: func(step string) {
					at := filepath.Join(t.TempDir(), "card")
					if err := os.CopyFS(at, os.DirFS(on.Card)); err != nil {
						t.Fatal(err)
					}
					steps, cards = append(steps, step), append(cards, at)
				}})
			if err != nil {
				t.Fatal(err)
			}
			meant := snapshot(t, on.Card)
			for i, card := range cards {
				if CheckFinished(card) == nil { // nothing had its name yet
					if now := snapshot(t, card); now != was {
						t.Errorf("%s, before %q: %s, was %s", name, steps[i], now, was)
					}
					continue
				}
				finished := filepath.Join(t.TempDir(), "card")
				if err := os.CopyFS(finished, os.DirFS(card)); err != nil {
					t.Fatal(err)
				}
				undo := Options{Keep: t.TempDir(), Now: time.Unix(0, 0)}
				if _, _, err := Undo(context.Background(), card, undo); err != nil || snapshot(t, card) != was {
					t.Errorf("%s, undone before %q: %v: %s, was %s", name, steps[i], err, snapshot(t, card), was)
				}
				if _, err := Finish(finished); err != nil || snapshot(t, finished) != meant {
					t.Errorf("%s, finished before %q: %v: %s, meant %s", name, steps[i], err, snapshot(t, finished), meant)
				}
			}
		}
	}
}

// snapshot is all that is on a card, but for unfinished parts.
func snapshot(t *testing.T, card string) string {
	t.Helper()
	root, err := open(card)
	if err != nil {
		t.Fatal(err)
	}
	defer root.Close()
	all, err := list(root)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, f := range all.Files {
		if strings.Contains(f, ".part") || strings.HasPrefix(filepath.Base(f), ".") {
			continue
		}
		out = append(out, f+"="+sumOf([]byte(get(card, f)))[:8])
	}
	return strings.Join(out, " ")
}

// Names that somebody has settled are taken, and those that can't be shown or that two would have are refused.
func TestSettledNames(t *testing.T) {
	p := find(t, "keel")
	on := On{Card: t.TempDir(), Keep: t.TempDir(), Mode: Add, Names: &Names{}}
	d := season(3)
	beside(t, d, p, on)
	on.Names.Settle("waypoint", "", d.Waypoints[1].Name, "The buoy")
	if err := on.Names.Check(p); err != nil {
		t.Fatal(err)
	}
	beside(t, d, p, on)
	if now := shownNames(t, p, on.Card); len(now) != 3 || !slices.ContainsFunc(now,
		func(s string) bool { return strings.HasPrefix(s, "The buoy ") }) {
		t.Errorf("%q", now)
	}
	for _, bad := range []string{"The buoy", "much longer than twenty characters", "a\tb", "Бу"} {
		n := &Names{}
		n.Settle("waypoint", "", "one", "The buoy")
		n.Settle("waypoint", "", "two", bad)
		if n.Check(p) == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}
