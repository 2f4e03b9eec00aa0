package picture

import (
	"fmt"
	"math"
	"sort"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

func distance(lat1, lon1, lat2, lon2 float64) float64 {
	return geodesy.Distance(lat1, lon1, lat2, lon2)
}

// Section says whether heights along the line are drawn, and over what.
type Section struct {
	Along string // distance or time; "" is none
	Alone bool   // without the map
}

// Profile is the course of heights and speeds along one line.
type Profile struct {
	Line    string
	Samples []Sample
	Frame   Rect // of its plot
	Along   string
}

// Sample is a point of a profile.
type Sample struct {
	Distance float64 // metres from the start
	Seconds  float64 // from the start; NaN without times
	Height   float64 // metres; NaN without
	Speed    float64 // m/s; NaN without
	Lat, Lon float64
	Map      XY // its place on the map
	X        float64
}

// profileLine chooses the line: the longest with heights, or else the longest.
func (m *Map) profileLine() (name string, points []nav.Point) {
	best := -1.0
	consider := func(n string, p []nav.Point, length float64, heights int) {
		if heights > 1 {
			length += 1e9
		}
		if length > best && len(p) > 1 {
			name, points, best = n, p, length
		}
	}
	for i := range m.Data.Tracks {
		t := &m.Data.Tracks[i]
		var all []nav.Point
		for j := range t.Segments {
			all = append(all, t.Segments[j].Points...)
		}
		s := t.Summary()
		consider(t.Name, all, s.Length, s.Heights)
	}
	for i := range m.Data.Routes {
		s := m.Data.Routes[i].Summary()
		consider(m.Data.Routes[i].Name, m.Data.Routes[i].Line(), s.Length, s.Heights)
	}
	return
}

// newProfile measures a line.
func newProfile(name string, points []nav.Point) *Profile {
	p := &Profile{Line: name}
	start := int64(math.MinInt64)
	length := 0.0
	for i := range points {
		q := &points[i]
		if i > 0 {
			length += distance(points[i-1].Lat, points[i-1].Lon, q.Lat, q.Lon)
		}
		s := Sample{Distance: length, Seconds: math.NaN(), Height: q.Height(), Speed: math.NaN(), Lat: q.Lat, Lon: q.Lon}
		if q.HasTime() {
			if start == math.MinInt64 {
				start = q.UnixNano()
			}
			s.Seconds = float64(q.UnixNano()-start) / 1e9
		}
		p.Samples = append(p.Samples, s)
	}
	// The speed over a quarter of a minute, or a hundred metres where points are rarer.
	j := 0
	for i := range p.Samples {
		a := &p.Samples[i]
		for j < i && (a.Seconds-p.Samples[j+1].Seconds >= 15 && a.Distance-p.Samples[j+1].Distance >= 10 ||
			math.IsNaN(p.Samples[j].Seconds)) {
			j++
		}
		if b := &p.Samples[j]; a.Seconds > b.Seconds {
			a.Speed = (a.Distance - b.Distance) / (a.Seconds - b.Seconds)
		}
	}
	return p
}

// section draws the profile into a part of the drawing.
func (d *drawing) section(r Rect) {
	name, points := d.profileLine()
	if len(points) == 0 {
		d.note("there is no line with heights to draw")
		return
	}
	p := newProfile(name, points)
	p.Along = d.Section.Along
	t := d.Theme
	heights, speeds, times := false, false, false
	low, high, fast := math.Inf(1), math.Inf(-1), 0.0
	for i := range p.Samples {
		s := &p.Samples[i]
		if !math.IsNaN(s.Height) {
			heights, low, high = true, min(low, s.Height), max(high, s.Height)
		}
		if !math.IsNaN(s.Speed) {
			speeds, fast = true, max(fast, s.Speed)
		}
		times = times || !math.IsNaN(s.Seconds) && s.Seconds > 0
	}
	if p.Along == "time" && !times {
		p.Along = "distance"
		d.note("%s has no times, so its section is over the distance", orLine(name))
	}
	if !heights && !speeds {
		d.note("%s has neither heights nor times to show in a section; elevate adds heights", orLine(name))
	}
	d.scene.add(Shape{Layer: "section", Path: box(r), Fill: t.Panel, Stroke: t.Grid, Width: 1})
	plot := Rect{r.X + 52, r.Y + 28, r.W - 52 - 56, r.H - 28 - 26}
	p.Frame = plot
	value := func(s *Sample) float64 {
		if p.Along == "time" {
			return s.Seconds
		}
		return s.Distance
	}
	span := 0.0
	for i := range p.Samples {
		if v := value(&p.Samples[i]); !math.IsNaN(v) {
			span = max(span, v)
		}
	}
	if span == 0 {
		span = 1
	}
	for i := range p.Samples {
		s := &p.Samples[i]
		s.X = plot.X + plot.W*value(s)/span
		if d.view != nil {
			s.Map = d.view.place(s.Lat, s.Lon)
		}
	}
	title := "heights along " + orLine(name)
	if !heights {
		title = "speed along " + orLine(name)
	}
	d.scene.add(Shape{Layer: "section", Text: title, At: XY{plot.X, r.Y + 17}, Size: 12, Bold: true, Fill: t.Ink})
	if heights {
		d.heightsOf(p, plot, low, high)
	}
	d.acrossAxis(p, plot, span)
	if speeds && fast > 0 {
		d.speedsOf(p, plot, fast)
	}
	d.passed(p, plot)
	d.scene.add(Shape{Layer: "section", Path: box(plot), Stroke: t.Faint, Width: 1})
	d.out.Profile = p
}

func orLine(name string) string {
	if name == "" {
		return "the line"
	}
	return name
}

// nice gives round values over a span, about as many as wanted.
func nice(low, high float64, want int) (values []float64) {
	step := roundLength((high - low) / float64(want))
	if step <= 0 || math.IsNaN(step) || math.IsInf(step, 0) {
		return nil
	}
	for v := math.Ceil(low/step) * step; v <= high+step*1e-9; v += step {
		values = append(values, v)
	}
	return
}

// heightsOf draws the heights, what is climbed shaded by how steep it is.
func (d *drawing) heightsOf(p *Profile, plot Rect, low, high float64) {
	t := d.Theme
	if high-low < 10 {
		low, high = low-5, high+5
	}
	pad := (high - low) * 0.06
	low, high = low-pad, high+pad
	y := func(h float64) float64 { return plot.Y + plot.H*(1-(h-low)/(high-low)) }
	name, unit := d.Measure.HeightMeasure()
	for _, v := range nice(low/unit, high/unit, max(int(plot.H/36), 2)) {
		d.scene.line("section", faded(t.Grid, 160), 0.8, XY{plot.X, y(v * unit)}, XY{plot.X + plot.W, y(v * unit)})
		d.scene.add(Shape{Layer: "section", Text: trimmed(v), At: XY{plot.X - 6, y(v*unit) + 4}, Anchor: 1, Size: 10.5,
			Fill: t.Faint})
	}
	d.scene.add(Shape{Layer: "section", Text: name, At: XY{plot.X - 6, plot.Y - 8}, Anchor: 1, Size: 10.5, Fill: t.Faint})
	// One height a pixel, by interpolation; steepness over ten of them.
	columns := columnsOf(p, plot)
	var top []XY
	flush := func() {
		if len(top) > 1 {
			d.scene.add(Shape{Layer: "section", Path: polyline(top...), Stroke: t.Ink, Width: 1.6})
		}
		top = nil
	}
	const over = 5
	for i := range columns {
		c := &columns[i]
		if math.IsNaN(c.height) {
			flush()
			continue
		}
		a, b := max(i-over, 0), min(i+over, len(columns)-1)
		colour := faded(t.Ground, 255)
		if run := columns[b].along - columns[a].along; run > 0 && !math.IsNaN(columns[a].height+columns[b].height) {
			if grade := (columns[b].height - columns[a].height) / run; grade > 0.03 {
				colour = mixed(t.Climb, t.Steep, (grade-0.03)/0.27)
			}
		}
		x := plot.X + float64(i)
		d.scene.add(Shape{Layer: "section", Path: box(Rect{x, y(c.height), 1.05, plot.Y + plot.H - y(c.height)}),
			Fill: faded(colour, 190)})
		top = append(top, XY{x, y(c.height)})
	}
	flush()
	x := plot.X + plot.W - 250
	for i, row := range []struct {
		text  string
		grade float64
	}{{"climb 5 %", 0.05}, {"15 %", 0.15}, {"30 %", 0.30}} {
		at := x + float64(i)*86
		d.scene.add(Shape{Layer: "section", Path: box(Rect{at, plot.Y - 20, 12, 10}),
			Fill: faded(mixed(t.Climb, t.Steep, (row.grade-0.03)/0.27), 190)},
			Shape{Layer: "section", Text: row.text, At: XY{at + 16, plot.Y - 11}, Size: 10.5, Fill: t.Faint})
	}
}

// pixel is one column of a profile.
type pixel struct{ height, along float64 }

func columnsOf(p *Profile, plot Rect) []pixel {
	out := make([]pixel, int(plot.W))
	j := 0
	for i := range out {
		x := plot.X + float64(i)
		for j+1 < len(p.Samples) && !(p.Samples[j+1].X >= x) {
			j++
		}
		if j+1 >= len(p.Samples) {
			out[i] = pixel{math.NaN(), math.NaN()}
			continue
		}
		a, b := &p.Samples[j], &p.Samples[j+1]
		k := 0.0
		if b.X > a.X {
			k = min(max((x-a.X)/(b.X-a.X), 0), 1)
		}
		out[i] = pixel{a.Height + k*(b.Height-a.Height), a.Distance + k*(b.Distance-a.Distance)}
	}
	return out
}

func mixed(a, b nav.Colour, k float64) nav.Colour {
	k = min(max(k, 0), 1)
	m := func(x, y uint8) uint8 { return uint8(float64(x) + k*(float64(y)-float64(x))) }
	return nav.RGB(m(a.R, b.R), m(a.G, b.G), m(a.B, b.B))
}

// acrossAxis labels distance or time.
func (d *drawing) acrossAxis(p *Profile, plot Rect, span float64) {
	t := d.Theme
	mark := func(x float64, text string) {
		d.scene.line("section", t.Faint, 1, XY{x, plot.Y + plot.H}, XY{x, plot.Y + plot.H + 4})
		d.scene.add(Shape{Layer: "section", Text: text, At: XY{x, plot.Y + plot.H + 17}, Anchor: 0.5, Size: 10.5,
			Fill: t.Faint})
	}
	if p.Along == "time" {
		step := 3600.0
		for _, s := range []float64{60, 120, 300, 600, 900, 1800, 3600, 7200, 10800, 21600, 43200, 86400} {
			if step = s; span/s <= plot.W/90 {
				break
			}
		}
		for v := 0.0; v <= span; v += step {
			mark(plot.X+plot.W*v/span, clockOf(time.Duration(v)*time.Second))
		}
		return
	}
	name, unit := d.Measure.LongMeasure()
	if span/unit < 1 {
		name, unit = "m", 1
	}
	for _, v := range nice(0, span/unit, max(int(plot.W/90), 2)) {
		mark(plot.X+plot.W*v*unit/span, trimmed(v)+" "+name)
	}
}

func clockOf(d time.Duration) string {
	return fmt.Sprintf("%d:%02d h", int(d.Hours()), int(d.Minutes())%60)
}

// speedsOf draws the speed as a second line, with its own axis on the right.
func (d *drawing) speedsOf(p *Profile, plot Rect, fast float64) {
	t := d.Theme
	sorted := make([]float64, 0, len(p.Samples))
	for i := range p.Samples {
		if v := p.Samples[i].Speed; !math.IsNaN(v) {
			sorted = append(sorted, v)
		}
	}
	sort.Float64s(sorted)
	fast = max(sorted[len(sorted)*99/100]*1.15, 0.5) // a jump that was left in does not flatten the rest
	name, unit := d.Measure.SpeedMeasure()
	c := t.Lines[0]
	y := func(v float64) float64 { return plot.Y + plot.H*(1-min(v/fast, 1)) }
	for _, v := range nice(0, fast/unit, max(int(plot.H/50), 2)) {
		d.scene.add(Shape{Layer: "section", Text: trimmed(v), At: XY{plot.X + plot.W + 6, y(v*unit) + 4}, Size: 10.5,
			Fill: c})
	}
	d.scene.add(Shape{Layer: "section", Text: name + ", over 15 s", At: XY{plot.X + plot.W + 40, plot.Y - 8}, Anchor: 1,
		Size: 10.5, Fill: c})
	var path []Op
	last := math.Inf(-1)
	for i := range p.Samples {
		s := &p.Samples[i]
		if math.IsNaN(s.Speed) || math.IsNaN(s.X) || s.X-last < 0.8 {
			continue
		}
		op := lineTo(s.X, y(s.Speed))
		if len(path) == 0 {
			op.Kind = 'M'
		}
		path = append(path, op)
		last = s.X
	}
	d.scene.add(Shape{Layer: "section", Path: path, Stroke: faded(c, 200), Width: 1.2})
}

// passed marks the waypoints that the line goes by.
func (d *drawing) passed(p *Profile, plot Rect) {
	const near = 150 // metres
	tree := newPlacer(Rect{plot.X, plot.Y - 2, plot.W, plot.H})
	for i := range d.Data.Waypoints {
		w := &d.Data.Waypoints[i]
		best, at := float64(near), -1
		for j := range p.Samples {
			s := &p.Samples[j]
			if math.Abs(s.Lat-w.Lat) > 0.01 {
				continue
			}
			if m := distance(s.Lat, s.Lon, w.Lat, w.Lon); m < best {
				best, at = m, j
			}
		}
		if at < 0 || w.Name == "" || math.IsNaN(p.Samples[at].X) {
			continue
		}
		x := p.Samples[at].X
		d.scene.line("section", faded(d.Theme.Faint, 170), 1, XY{x, plot.Y}, XY{x, plot.Y + plot.H})
		if where, anchor, ok := tree.beside(w.Name, XY{x, plot.Y + 10}, 4, 10.5, false); ok {
			d.scene.add(Shape{Layer: "section", Item: fmt.Sprintf("w%d", i+1), Text: w.Name, At: where, Anchor: anchor,
				Size: 10.5, Fill: d.Theme.Ink, Halo: d.Theme.Panel})
		}
	}
}
