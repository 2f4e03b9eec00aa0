package plan

import (
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/pattern"
)

// listing is a text taken apart.
type listing struct {
	rows    []row
	swapped bool // longitude before latitude, in rows of plain numbers
	counts  bool // rows begin with a running number
	message bool // of a flight plan
	day     time.Time
	heading *planHeading // nil is none
}

func parse(lines []string, system *crs.System) *listing {
	p := &listing{}
	fields, day := message(lines)
	p.message, p.day = len(fields) > 0, day
	for i, l := range lines {
		field, ok := fields[i]
		if ok {
			l = field.text
		}
		r := newRow(i+1, l, system)
		r.of = field
		p.rows = append(p.rows, r)
	}
	counted := p.counted()
	p.counts = counted
	for i := range p.rows {
		r := &p.rows[i]
		if counted && len(r.tokens) > 1 && sequence.MatchString(r.tokens[0].text) {
			if r.find(1); len(r.places) > 0 {
				continue
			}
			r.fault, r.faulty = nil, ""
		}
		r.find(0)
	}
	p.columns()
	p.heading = p.findHeading()
	return p
}

var degreeWord = pattern.New(`(?i)^(?:deg|°|º|grad)`)

// counted says whether the rows that begin with a number count up from one to the next, so that it may be their own.
func (p *listing) counted() bool {
	last, rows := 0, 0
	for i := range p.rows {
		if len(p.rows[i].tokens) == 0 {
			continue
		}
		m := sequence.FindStringSubmatch(p.rows[i].tokens[0].text)
		if m == nil {
			continue
		}
		if len(p.rows[i].tokens) > 1 && degreeWord.MatchString(p.rows[i].tokens[1].text) { // 47 degrees 36 minutes
			return false
		}
		n, _ := strconv.Atoi(m[1])
		if rows > 0 && n <= last {
			return false
		}
		last = n
		rows++
	}
	return rows > 1
}

// column is where in a row of plain numbers the position stands: the number of the first one, counted from the first
// or, below zero, from the last, and how many there are.
type column struct{ first, count int }

// columns finds the positions of rows that are nothing but numbers, from all of these rows together: the place in which
// most of them have a pair that can be a position, with the most decimals.
func (p *listing) columns() {
	var plain []*row
	for i := range p.rows {
		if r := &p.rows[i]; len(r.places) == 0 && r.fault == nil && len(r.numbers()) >= 2 {
			plain = append(plain, r)
		}
	}
	if len(plain) == 0 {
		return
	}
	p.swapped = p.longitudeFirst(plain)
	best, bestScore := column{}, 0.0
	for _, count := range []int{2, 4, 6} {
		for first := -8; first < 8; first++ {
			c := column{first, count}
			hits, decimals := 0, 0
			for _, r := range plain {
				if _, n, ok := p.at(r, c); ok {
					hits++
					decimals += min(n, 14)
				}
			}
			if 2*hits < len(plain) || decimals < 2*hits {
				continue
			}
			if score := float64(hits)*1000/float64(len(plain)) + float64(decimals)/float64(hits); score > bestScore+1e-9 {
				best, bestScore = c, score
			}
		}
	}
	if bestScore == 0 {
		return
	}
	for _, r := range plain {
		if pl, _, ok := p.at(r, best); ok {
			r.places = []place{pl}
		}
	}
}

// numbers lists the tokens that are numbers.
func (r *row) numbers() (out []int) {
	for i := range r.tokens {
		if r.tokens[i].number {
			out = append(out, i)
		} else if a, b, ok := strings.Cut(strings.Trim(r.tokens[i].text, ",;()"), ","); ok && numberToken.MatchString(a) &&
			numberToken.MatchString(b) && strings.Contains(a, ".") {
			return []int{i, i} // -47.6,11.3 in one word
		}
	}
	return
}

// at reads the position of a row at a column; decimals counts those of both of its coordinates.
func (p *listing) at(r *row, c column) (pl place, decimals int, ok bool) {
	numbers := r.numbers()
	i := c.first
	if i < 0 {
		i += len(numbers)
	}
	if i < 0 || i+c.count > len(numbers) {
		return
	}
	from, to := numbers[i], numbers[i+c.count-1]+1
	if numbers[i] != numbers[i+1] && to-from != c.count {
		return // something else stands between
	}
	text := strings.Trim(r.words(from, to), " ,;()")
	parts := strings.Fields(strings.ReplaceAll(text, ", ", " "))
	if p.swapped && len(parts)%2 == 0 {
		half := len(parts) / 2
		text = strings.Join(append(append([]string{}, parts[half:]...), parts[:half]...), " ")
	} else if a, b, one := strings.Cut(text, ","); p.swapped && one {
		text = b + "," + a
	}
	lat, lon, err := geodesy.ParsePosition(text)
	if err != nil {
		return
	}
	for _, f := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' }) {
		if k := strings.LastIndexAny(f, ".,"); k >= 0 {
			decimals += len(f) - k - 1
		}
	}
	return place{from: from, to: to, lat: lat, lon: lon}, decimals, true
}

// longitudeFirst says whether a heading has the longitude before the latitude, or the numbers themselves show it: a
// first one beyond 90 where the second never is.
func (p *listing) longitudeFirst(plain []*row) bool {
	for i := range p.rows {
		lat, lon := -1, -1
		for k, t := range p.rows[i].tokens {
			switch w := strings.ToLower(strings.Trim(t.text, ",;:()[]")); {
			case strings.HasPrefix(w, "lat") && lat < 0:
				lat = k
			case (strings.HasPrefix(w, "lon") || strings.HasPrefix(w, "lng")) && lon < 0:
				lon = k
			}
		}
		if lat >= 0 && lon >= 0 {
			return lon < lat
		}
	}
	beyond, second := 0, 0
	for _, r := range plain {
		n := r.numbers()
		if n[0] == n[1] {
			continue
		}
		value := func(i int) float64 {
			v, _, err := geodesy.ParsePosition(strings.Trim(r.tokens[i].text, ",;") + " 0")
			if err != nil && err != geodesy.ErrNoPosition {
				return math.Inf(1)
			}
			return math.Abs(v)
		}
		if value(n[len(n)-2]) > 90 {
			beyond++
		}
		if value(n[len(n)-1]) > 90 {
			second++
		}
	}
	return beyond > 0 && second == 0
}
