package gpkg

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// The index is sound by the database's own check, of any size; it finds in a window what lies there, and what is added
// and deleted later too.
func TestIndex(t *testing.T) {
	for _, n := range []int{1, 2, mostEntries, mostEntries + 1, 3000, mostEntries*mostEntries + 1} {
		random := rand.New(rand.NewPCG(1, uint64(n)))
		d := &nav.Dataset{}
		inside := 0
		for i := range n {
			p := nav.At(-60+120*random.Float64(), -179+358*random.Float64())
			if p.Lat >= -10 && p.Lat <= 20 && p.Lon >= 30 && p.Lon <= 90 {
				inside++
			}
			d.Waypoints = append(d.Waypoints, nav.Waypoint{Point: p, Item: nav.Item{Name: fmt.Sprint(i)}})
		}
		_, db := written(t, d, &format.WriteOptions{})
		const index = "rtree_waypoints_geom"
		window := "SELECT count(*) FROM " + index + " WHERE minx >= 30 AND maxx <= 90 AND miny >= -10 AND maxy <= 20"
		astray := "SELECT count(*) FROM waypoints w JOIN " + index + " r ON w.fid = r.id WHERE " +
			"abs(r.minx - ST_MinX(w.geom)) > 1e-4 OR r.minx > ST_MinX(w.geom) OR r.maxx < ST_MaxX(w.geom) OR " +
			"r.miny > ST_MinY(w.geom) OR r.maxy < ST_MaxY(w.geom)"
		for query, want := range map[string]string{
			"SELECT rtreecheck('" + index + "')": "ok",
			"SELECT count(*) FROM " + index:      fmt.Sprint(n),
			window:                               fmt.Sprint(inside),
			astray:                               "0",
		} {
			if got := ask(t, db, query); got != want {
				t.Errorf("%d: %s: %s, want %s", n, query, got, want)
			}
		}
		if _, err := db.Exec("INSERT INTO waypoints (geom, name) SELECT geom, 'again' FROM waypoints; " +
			"DELETE FROM waypoints WHERE fid % 3 = 0"); err != nil {
			t.Fatal(err)
		}
		if got, want := ask(t, db, "SELECT count(*), rtreecheck('"+index+"') FROM "+index),
			ask(t, db, "SELECT count(*), 'ok' FROM waypoints"); got != want {
			t.Errorf("%d: after changes %s, want %s", n, got, want)
		}
	}
}
