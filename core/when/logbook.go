package when

import (
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Log gives where each recording was at whole times of the clock of a zone, such as each hour on the hour, and at its
// first and last fix. Courses and speeds are those since the row before. Missed counts the times that lie in gaps.
func (r *Recordings) Log(every time.Duration, zone *time.Location, mean bool) (out []Place, missed int) {
	for i := range r.tracks {
		t := r.tracks[i]
		var last *Place
		before := int64(math.MinInt64)
		for _, at := range ticks(t.Fixes[0].UnixNano(), t.Fixes[len(t.Fixes)-1].UnixNano(), every, zone) {
			p, why, _ := t.at(Asked{At: time.Unix(0, at)})
			if why != "" {
				missed++
				continue
			}
			p.since(last)
			if mean && last != nil {
				p.Values = t.means(before, at, p.Values)
			}
			out = append(out, p)
			last, before = &out[len(out)-1], at
		}
	}
	return
}

// since gives a place its course, speed and distance from the row before.
func (p *Place) since(last *Place) {
	p.Course, p.Speed, p.Run = math.NaN(), math.NaN(), math.NaN()
	if last == nil {
		return
	}
	p.Run = p.Along - last.Along
	if span := p.At.Sub(last.At).Seconds(); span > 0 {
		p.Speed = p.Run / span
	}
	if d, course, _ := geodesy.Inverse(last.Point.Lat, last.Point.Lon, p.Point.Lat, p.Point.Lon); d >= samePlace {
		p.Course = course
	}
}

// ticks are the whole times of a clock between two times, and these themselves: counted from each midnight, so that
// hours are whole on the days on which clocks are changed, too.
func ticks(first, last int64, every time.Duration, zone *time.Location) []int64 {
	out := []int64{first}
	day := time.Unix(0, first).In(zone)
	for midnight := time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, zone); midnight.UnixNano() <= last; {
		next := time.Date(midnight.Year(), midnight.Month(), midnight.Day()+1, 0, 0, 0, 0, zone)
		k := int64(0)
		if skip := first - midnight.UnixNano(); skip > 0 {
			k = skip / int64(every)
		}
		for at := midnight.UnixNano() + k*int64(every); at < min(next.UnixNano(), last+1); at += int64(every) {
			if at > first && at < last {
				out = append(out, at)
			}
		}
		midnight = next
	}
	if last > first {
		out = append(out, last)
	}
	return out
}

// means gives values the mean over the fixes behind one time up to another: of angles by vectors. A text, and what is
// no number throughout, is that of the nearest fix.
func (t *recording) means(after, upTo int64, nearest []nav.Field) []nav.Field {
	type sum struct{ n, x, y float64 }
	sums := map[string]*sum{}
	from, _ := slices.BinarySearchFunc(t.Fixes, after+1, func(p nav.Point, at int64) int {
		return int(min(max(p.UnixNano()-at, -1), 1))
	})
	for i := from; i < len(t.Fixes) && t.Fixes[i].UnixNano() <= upTo; i++ {
		for _, f := range t.Values(&t.Fixes[i]) {
			v, _, ok := decimal.Parse([]byte(f.Value))
			s := sums[f.Key]
			if s == nil {
				s = &sum{}
				sums[f.Key] = s
			}
			switch {
			case !ok:
				s.n = math.NaN()
			case isAngle(f.Key):
				s.x, s.y, s.n = s.x+math.Cos(v*math.Pi/180), s.y+math.Sin(v*math.Pi/180), s.n+1
			default:
				s.x, s.n = s.x+v, s.n+1
			}
		}
	}
	out := slices.Clone(nearest)
	for i := range out {
		s := sums[out[i].Key]
		if s == nil || !(s.n > 0) {
			continue
		}
		v := s.x / s.n
		if isAngle(out[i].Key) {
			v = math.Mod(math.Atan2(s.y, s.x)*180/math.Pi+360, 360)
		}
		_, digits, _ := decimal.Parse([]byte(out[i].Value))
		decimals, _ := digits.Decimals()
		out[i].Value = string(decimal.AppendShort(nil, v, max(int(decimals), 1)))
	}
	return out
}

// isAngle says whether a value is a direction, by its name.
func isAngle(key string) bool {
	key = strings.ToLower(key)
	return slices.ContainsFunc([]string{"course", "heading", "bearing", "direction", "cog", "azimuth"},
		func(w string) bool { return strings.Contains(key, w) })
}

// moved gives a place by itself the course and speed between the fixes around it.
func (p *Place) moved(before, after *nav.Point) {
	p.Course, p.Speed, p.Run = math.NaN(), math.NaN(), math.NaN()
	if before == after {
		return
	}
	d, course, _ := geodesy.Inverse(before.Lat, before.Lon, after.Lat, after.Lon)
	if span := after.Since(before).Seconds(); span > 0 {
		p.Speed = d / span
	}
	if d > 0 {
		p.Course = course
	}
}

// Named gives the rows of a log names by their times, with what was worked out as values.
func Named(places []Place, zone *time.Location) []Place {
	out := slices.Clone(places)
	layout := "15:04"
	if n := len(out); n > 0 && out[0].At.In(zone).Format(time.DateOnly) != out[n-1].At.In(zone).Format(time.DateOnly) {
		layout = "2006-01-02 15:04"
	}
	for i := range out {
		p := &out[i]
		if p.Name == "" {
			p.Name = p.At.In(zone).Format(layout)
		}
		p.Values = slices.Clone(p.Values)
		for _, v := range []struct {
			key   string
			value float64
		}{{"speed", p.Speed}, {"course", p.Course}, {"along m", p.Along}} {
			if _, has := nav.Get(p.Values, v.key); !has && !math.IsNaN(v.value) {
				p.Values = append(p.Values, nav.Field{Key: v.key, Value: string(decimal.AppendShort(nil, v.value, 2))})
			}
		}
	}
	return out
}

// wayAt is how far the recording had gone at a time.
func (t *recording) wayAt(at int64) float64 {
	t.once.Do(func() { t.way = motion.WayOf(t.segments, t.limits) })
	return t.way.At(at)
}
