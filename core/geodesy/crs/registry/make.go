//go:build ignore

// Command make draws the tables of this folder from the EPSG geodetic registry in the SQLite form in which open
// projection libraries ship it: go run make.go REGISTRY.db
package main

import (
	"bufio"
	"cmp"
	"database/sql"
	"fmt"
	"log"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"

	_ "modernc.org/sqlite"
)

type box struct{ w, s, e, n float64 }

func (b box) center() (lat, lon float64) {
	e := b.e
	if e < b.w {
		e += 360
	}
	return (b.s + b.n) / 2, math.Mod((b.w+e)/2+540, 360) - 180
}

func (b box) holds(lat, lon float64) bool {
	if lat < b.s || lat > b.n {
		return false
	}
	if b.w <= b.e {
		return lon >= b.w && lon <= b.e
	}
	return lon >= b.w || lon <= b.e
}

func (b box) size() float64 {
	e := b.e
	if e < b.w {
		e += 360
	}
	return (e - b.w) * (b.n - b.s)
}

type geographic struct {
	code                        int
	name, datum, ellipse, alias string
	a, rf, meridian             float64
	area                        box
	twin                        int // the same on Greenwich
	like84, ensemble            bool
	accuracy                    float64
}

type shift struct {
	code     int
	name     string
	source   int
	accuracy float64
	v        [7]float64
	area     box
	direct   bool // to WGS 84 itself
}

type units map[int]float64

func (u units) value(v sql.NullFloat64, code sql.NullInt64) (float64, string) {
	switch code.Int64 {
	case 9110: // DDD.MMSSsss
		s := strconv.FormatFloat(math.Abs(v.Float64), 'f', 10, 64)
		d, f, _ := strings.Cut(s, ".")
		deg, _ := strconv.ParseFloat(d, 64)
		min, _ := strconv.ParseFloat(f[:2], 64)
		sec, _ := strconv.ParseFloat(f[2:4]+"."+f[4:], 64)
		return math.Copysign(deg+min/60+sec/3600, v.Float64), "angle"
	case 9102, 9122:
		return v.Float64, "angle"
	}
	return v.Float64 * u[int(code.Int64)], ""
}

func number(v float64) string {
	s := strconv.FormatFloat(v, 'g', 15, 64)
	if s == "-0" {
		return "0"
	}
	return s
}

func main() {
	db, err := sql.Open("sqlite", "file:"+os.Args[1]+"?mode=ro")
	check(err)
	factor, isAngle := units{}, map[int]bool{}
	each(db, "SELECT code, coalesce(conv_factor,0), type FROM unit_of_measure WHERE auth_name='EPSG'",
		func(scan func(...any)) {
			var code int
			var f float64
			var kind string
			scan(&code, &f, &kind)
			if isAngle[code] = kind == "angle"; isAngle[code] {
				f *= 180 / math.Pi
			}
			factor[code] = f
		})
	areaOf := func(table string) map[int]struct {
		name string
		box
	} {
		out := map[int]struct {
			name string
			box
		}{}
		each(db, "SELECT u.object_code, e.name, coalesce(west_lon,-180), coalesce(south_lat,-90), coalesce(east_lon,180), "+
			"coalesce(north_lat,90) FROM usage u JOIN extent e ON e.code=u.extent_code AND e.auth_name=u.extent_auth_name "+
			"WHERE u.object_auth_name='EPSG' AND u.object_table_name='"+table+"'", func(scan func(...any)) {
			var code int
			var name string
			var b box
			scan(&code, &name, &b.w, &b.s, &b.e, &b.n)
			if old, ok := out[code]; !ok || b.size() > old.size() {
				out[code] = struct {
					name string
					box
				}{name, b}
			}
		})
		return out
	}
	geoAreas, sysAreas, shiftAreas := areaOf("geodetic_crs"), areaOf("projected_crs"), areaOf("helmert_transformation")
	geos := map[int]*geographic{}
	each(db, `SELECT g.code, g.name, d.name, l.name, coalesce((SELECT min(alt_name) FROM alias_name WHERE `+
		`table_name='geodetic_datum' AND auth_name='EPSG' AND code=d.code AND source='ESRI'),''), `+
		`l.semi_major_axis*u.conv_factor, coalesce(l.inv_flattening,0), coalesce(l.semi_minor_axis*u.conv_factor,0),
		m.longitude, m.uom_code, coalesce(d.ensemble_accuracy,0), d.frame_reference_epoch IS NOT NULL
		FROM geodetic_crs g JOIN geodetic_datum d ON d.code=g.datum_code AND d.auth_name='EPSG' JOIN ellipsoid l ON `+
		`l.code=d.ellipsoid_code AND l.auth_name='EPSG'
		JOIN unit_of_measure u ON u.code=l.uom_code AND u.auth_name='EPSG' JOIN prime_meridian m ON `+
		`m.code=d.prime_meridian_code AND m.auth_name='EPSG'
		WHERE g.auth_name='EPSG' AND g.type='geographic 2D' AND g.deprecated=0 AND l.celestial_body_code NOT IN `+
		`('Moon')`, func(scan func(...any)) {
		g := &geographic{}
		var b float64
		var lon sql.NullFloat64
		var uom sql.NullInt64
		var dynamic bool
		scan(&g.code, &g.name, &g.datum, &g.ellipse, &g.alias, &g.a, &g.rf, &b, &lon, &uom, &g.accuracy, &dynamic)
		if g.rf == 0 && b > 0 && b != g.a {
			g.rf = g.a / (g.a - b)
		}
		g.meridian, _ = factor.value(lon, uom)
		g.area = geoAreas[g.code].box
		g.ensemble = strings.Contains(g.datum, "ensemble") || g.accuracy > 0
		g.like84 = g.code == 4326 || strings.HasPrefix(g.name, "ITRF") || strings.HasPrefix(g.name, "WGS 84 (") ||
			strings.HasPrefix(g.name, "IGS") || strings.HasPrefix(g.name, "IGb")
		geos[g.code] = g
	})
	var shifts []shift
	nullTo84 := map[int]float64{4326: 0}
	each(db, `SELECT code, name, method_code, source_crs_code, target_crs_code, coalesce(accuracy,-1), tx,ty,tz,`+
		`translation_uom_code, coalesce(rx,0),coalesce(ry,0),coalesce(rz,0),rotation_uom_code,
		coalesce(scale_difference,0),scale_difference_uom_code, coalesce(px,0),coalesce(py,0),coalesce(pz,0) FROM `+
		`helmert_transformation_table WHERE auth_name='EPSG' AND deprecated=0
		AND method_code IN (9603,9606,9607,9636,1063)`, func(scan func(...any)) {
		var s shift
		var method, target int
		var t, r, p [3]float64
		var ds float64
		var tu, ru, su sql.NullInt64
		scan(&s.code, &s.name, &method, &s.source, &target, &s.accuracy, &t[0], &t[1], &t[2], &tu, &r[0], &r[1], &r[2], &ru,
			&ds, &su, &p[0], &p[1], &p[2])
		sign := 1.0
		if method == 9607 || method == 9636 {
			sign = -1
		}
		for i := range 3 {
			t[i] *= factor[int(tu.Int64)]
			r[i] *= sign * factor[int(ru.Int64)] // degrees
		}
		ds *= factor[int(su.Int64)]
		// About a pivot: X = T + P + (1+s)R(X-P).
		rad := math.Pi / 180
		rp := [3]float64{p[0] - r[2]*rad*p[1] + r[1]*rad*p[2], r[2]*rad*p[0] + p[1] - r[0]*rad*p[2], -r[1]*rad*p[0] +
			r[0]*rad*p[1] + p[2]}
		for i := range 3 {
			s.v[i] = t[i] + p[i] - (1+ds)*rp[i]
			s.v[3+i] = r[i] * 3600
		}
		s.v[6] = ds * 1e6
		s.area = shiftAreas[s.code].box
		if s.direct = target == 4326; s.direct {
			shifts = append(shifts, s)
			null := true
			for _, v := range s.v {
				null = null && v == 0
			}
			if null && s.accuracy >= 0 {
				nullTo84[s.source] = max(s.accuracy, 1)
			}
			return
		}
		s.name += fmt.Sprintf("\x00%d", target)
		shifts = append(shifts, s)
	})
	// A shift to a system that is WGS 84 itself within a metre or two is as good.
	kept := shifts[:0]
	for _, s := range shifts {
		name, to, other := strings.Cut(s.name, "\x00")
		s.name = name
		if other {
			code, _ := strconv.Atoi(to)
			more, ok := nullTo84[code]
			if !ok || s.accuracy < 0 {
				continue
			}
			s.accuracy = math.Max(s.accuracy, more)
		}
		kept = append(kept, s)
	}
	shifts = kept
	each(db, "SELECT source_crs_code, target_crs_code FROM other_transformation WHERE auth_name='EPSG' AND "+
		"method_code=9601 AND deprecated=0", func(scan func(...any)) {
		var from, to int
		scan(&from, &to)
		if g := geos[from]; g != nil {
			g.twin = to
		}
	})
	best := func(g *geographic, b box) int {
		if g.like84 {
			return 0
		}
		codes := []int{g.code}
		if g.twin != 0 {
			codes = append(codes, g.twin)
		}
		lat, lon := b.center()
		var found []shift
		for _, s := range shifts {
			if slices.Contains(codes, s.source) && s.area.holds(lat, lon) {
				found = append(found, s)
			}
		}
		if len(found) == 0 {
			return -1
		}
		slices.SortFunc(found, func(a, b shift) int {
			// The most exact, of these the one for the smallest area, of these the newest.
			acc := func(s shift) float64 {
				if s.accuracy < 0 {
					return 999
				}
				return s.accuracy
			}
			rank := map[bool]int{true: 0, false: 1}
			return cmp.Or(cmp.Compare(acc(a), acc(b)), rank[a.direct]-rank[b.direct],
				cmp.Compare(a.area.size(), b.area.size()), cmp.Compare(b.code, a.code))
		})
		return found[0].code
	}
	used := map[int]bool{}
	out := func(name, head string) (*bufio.Writer, func()) {
		f, err := os.Create(name)
		check(err)
		w := bufio.NewWriter(f)
		fmt.Fprintln(w, "# EPSG geodetic registry, © IOGP, "+version(db)+"; "+head)
		return w, func() { check(w.Flush()); check(f.Close()) }
	}
	w, done := out("geographic.tsv", "code, name, datum, the same in files of projections, ellipsoid, semi-major axis "+
		"(m), inverse flattening (0: a sphere), prime meridian (°), W S E N, shift (0: none is needed, -1: none is known)")
	for _, code := range sorted(geos) {
		g := geos[code]
		s := best(g, g.area)
		if s > 0 {
			used[s] = true
		}
		fmt.Fprintf(w, "%d\t%s\t%s\t%s\t%s\t%s\t%s\t%s\t%s\t%d\n", code, g.name, strings.TrimSuffix(g.datum, " ensemble"),
			g.alias, g.ellipse, number(g.a), number(g.rf), number(g.meridian), area(g.area), s)
	}
	done()
	methods := map[int]bool{9807: true, 9808: true, 9801: true, 9802: true, 9803: true, 9804: true, 9805: true,
		1024: true, 9820: true, 9822: true, 9810: true, 9829: true, 9809: true, 9812: true, 9815: true, 9819: true,
		1041: true, 9806: true, 9835: true, 1051: true, 9830: true}
	measure := map[int]int{}
	each(db, "SELECT coordinate_system_code, min(uom_code) FROM axis WHERE auth_name='EPSG' GROUP BY 1",
		func(scan func(...any)) {
			var cs int
			var uom sql.NullInt64
			scan(&cs, &uom)
			measure[cs] = int(uom.Int64)
		})
	column := map[int]int{8801: 0, 8811: 0, 8821: 0, 8832: 0, 8802: 1, 8812: 1, 8822: 1, 8833: 1, 8823: 2, 8818: 2,
		8824: 3, 8805: 4, 8815: 4, 8819: 4, 1038: 4, 8813: 5, 1036: 5, 8814: 6, 8806: 7, 8816: 7, 8826: 7, 8807: 8, 8817: 8,
		8827: 8}
	w, done = out("projected.tsv", "code, name, geographic system, method, latitude and longitude of origin (°), "+
		"standard parallels (°), scale, azimuth (°), skew (°), false easting and northing (m), metres of its measure, W S E "+
		"N, area, shift")
	each(db, `SELECT p.code, p.name, p.coordinate_system_code, p.geodetic_crs_code, c.method_code, param1_code,`+
		`param1_value,param1_uom_code,param2_code,param2_value,param2_uom_code,param3_code,param3_value,param3_uom_code,
		param4_code,param4_value,param4_uom_code,param5_code,param5_value,param5_uom_code,param6_code,param6_value,`+
		`param6_uom_code,param7_code,param7_value,param7_uom_code
		FROM projected_crs p JOIN conversion_table c ON c.code=p.conversion_code AND c.auth_name='EPSG' WHERE `+
		`p.auth_name='EPSG' AND p.deprecated=0 AND p.geodetic_crs_auth_name='EPSG' ORDER BY p.code`, func(scan func(...any)) {
		var code, cs, geo, method int
		var name string
		var pc, pu [7]sql.NullInt64
		var pv [7]sql.NullFloat64
		to := []any{&code, &name, &cs, &geo, &method}
		for i := range 7 {
			to = append(to, &pc[i], &pv[i], &pu[i])
		}
		scan(to...)
		g := geos[geo]
		if !methods[method] || g == nil {
			return
		}
		v := [9]float64{4: 1}
		for i := range 7 {
			if !pc[i].Valid {
				continue
			}
			at, ok := column[int(pc[i].Int64)]
			if !ok {
				log.Fatalf("%d: parameter %d", code, pc[i].Int64)
			}
			v[at], _ = factor.value(pv[i], pu[i])
		}
		words := make([]string, 9)
		for i := range v {
			words[i] = number(v[i])
		}
		b := sysAreas[code].box
		s := best(g, b)
		if s > 0 {
			used[s] = true
		}
		fmt.Fprintf(w, "%d\t%s\t%d\t%d\t%s\t%s\t%s\t%s\t%d\n", code, name, geo, method, strings.Join(words, " "),
			number(factor[measure[cs]]), area(b), sysAreas[code].name, s)
	})
	done()
	w, done = out("shifts.tsv", "code, name, accuracy (m, -1: unknown), translation (m), rotation of the position vector "+
		"(″), scale (10⁻⁶)")
	slices.SortFunc(shifts, func(a, b shift) int { return a.code - b.code })
	for _, s := range shifts {
		if used[s.code] {
			words := make([]string, 7)
			for i := range s.v {
				words[i] = strconv.FormatFloat(s.v[i], 'g', 10, 64)
			}
			fmt.Fprintf(w, "%d\t%s\t%s\t%s\n", s.code, s.name, number(s.accuracy), strings.Join(words, " "))
		}
	}
	done()
}

func area(b box) string {
	return fmt.Sprintf("%s %s %s %s", number(b.w), number(b.s), number(b.e), number(b.n))
}

func version(db *sql.DB) (v string) {
	check(db.QueryRow("SELECT value FROM metadata WHERE key='EPSG.VERSION'").Scan(&v))
	return
}

func sorted(m map[int]*geographic) (out []int) {
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return
}

func each(db *sql.DB, query string, visit func(scan func(...any))) {
	rows, err := db.Query(query)
	check(err)
	defer rows.Close()
	for rows.Next() {
		visit(func(to ...any) { check(rows.Scan(to...)) })
	}
	check(rows.Err())
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}
