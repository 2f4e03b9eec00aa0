package identity

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Matching says which things of two lists are the same item.
type Matching struct {
	First, Second []int // the partner of each thing of a list in the other; -1 for none

	// things that could be each other as well as others, of the first list and of the second: they have no partners
	Ambiguous [2][]int
}

// Within how many metres an item is looked for at least: one of several of its name, and one that has another name.
const (
	near      = 10
	samePlace = 1
)

// Match finds the same items of one kind in two lists: those of one identity; then those of one name at one place; then
// those whose name nothing else has in either list, wherever they are; then those at one place, where nothing else is.
// Within is how many metres apart one place may be. What could be several others has no partner, and is told.
func Match(a, b []Thing, within float64) *Matching { return match(a, b, within, true) }

// MatchUnrelated finds the same items of two lists of which neither is a later version of the other: as Match does,
// but a name alone makes no two things one, and recordings are the same by their fixes alone.
func MatchUnrelated(a, b []Thing, within float64) *Matching { return match(a, b, within, false) }

func match(a, b []Thing, within float64, versions bool) *Matching {
	m := &matcher{a: a, b: b, within: max(within, near), place: max(within, samePlace), versions: versions,
		Matching: Matching{First: alone(len(a)), Second: alone(len(b))}}
	m.byIdentity()
	m.byStanding()
	m.byNameAndPlace(m.within, true)
	if versions {
		m.byName()
	}
	m.byPlace()
	m.tell()
	return &m.Matching
}

func alone(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	return out
}

// matcher is a matching that is being made.
type matcher struct {
	a, b          []Thing
	within, place float64
	versions      bool // one list is a later version of the other
	Matching
}

// may says whether two things that have a name or a place in common can be one.
func (m *matcher) may(i, j int) bool {
	a, b := &m.a[i], &m.b[j]
	return m.versions || a.Kind != nav.Tracks || !timed(a) && !timed(b) || SameRecording(a, b)
}

func timed(t *Thing) bool { _, _, ok := t.Times(); return ok }

func (m *matcher) pair(i, j int) { m.First[i], m.Second[j] = j, i }

// index sorts the things that have no partner by some key; those with "" are left out.
func index(list []Thing, partner []int, key func(*Thing) string) map[string][]int {
	out := map[string][]int{}
	for i := range list {
		if partner[i] < 0 {
			if k := key(&list[i]); k != "" {
				out[k] = append(out[k], i)
			}
		}
	}
	return out
}

// byIdentity matches those of one identity: of features only in versions of one file, and not where one of the two
// stands exactly where another stood, as after features were numbered anew.
func (m *matcher) byIdentity() {
	leads := func(t Thing) bool { return strings.HasPrefix(t.Item.ID, made) } // to what it was
	past := slices.ContainsFunc(m.a, leads) || slices.ContainsFunc(m.b, leads)
	id := func(t *Thing) string {
		switch {
		case Local(t.Item.ID) && !m.versions:
			return ""
		case past:
			return Of(t)
		}
		return t.Item.ID
	}
	there := index(m.b, m.Second, id)
	var stood [2]map[standing]bool
	for k, here := range index(m.a, m.First, id) {
		if len(here) != 1 || len(there[k]) != 1 {
			continue
		}
		i, j := here[0], there[k][0]
		if Local(k) {
			if stood[0] == nil {
				stood = [2]map[standing]bool{standings(m.a), standings(m.b)}
			}
			if at, now := standingOf(&m.a[i]), standingOf(&m.b[j]); at != now && (stood[1][at] || stood[0][now]) {
				continue
			}
		}
		m.pair(i, j)
	}
}

func standings(list []Thing) map[standing]bool {
	out := map[standing]bool{}
	for i := range list {
		out[standingOf(&list[i])] = true
	}
	return out
}

// standing is what an item that has not changed can be found by.
type standing struct {
	name     string
	lat, lon float64
	count    int
}

func standingOf(t *Thing) standing {
	p, _ := t.First()
	return standing{t.Item.Name, p.Lat, p.Lon, t.Points()}
}

// byStanding matches those of one name that stand where they stood; of several equal ones the first with the first.
func (m *matcher) byStanding() {
	still := make(map[standing][]int)
	for j := range m.b {
		if m.Second[j] < 0 {
			at := standingOf(&m.b[j])
			still[at] = append(still[at], j)
		}
	}
	for i := range m.a {
		if m.First[i] >= 0 {
			continue
		}
		at := standingOf(&m.a[i])
		for k, j := range still[at] {
			if m.may(i, j) {
				if k == 0 {
					still[at] = still[at][1:]
				} else {
					still[at] = slices.Delete(still[at], k, k+1)
				}
				m.pair(i, j)
				break
			}
		}
	}
}

// named is the name of an item, as a key that no empty text is.
func named(t *Thing) string { return "=" + t.Item.Name }

// byNameAndPlace matches those of one name within a distance, the nearest first. Where that gives very many candidates,
// those within half of it come first.
func (m *matcher) byNameAndPlace(within float64, halved bool) {
	const finest = 0.01 // metres
	type candidate struct {
		metres float64
		i, j   int
	}
	var all []candidate
	most := 16 * (len(m.a) + len(m.b))
	grid := shape.NewGrid(within)
	for j := range m.b {
		if p, ok := m.b[j].First(); ok && m.Second[j] < 0 {
			grid.Add(j, named(&m.b[j]), p.Lat, p.Lon)
		}
	}
	for i := range m.a {
		p, ok := m.a[i].First()
		if !ok || m.First[i] >= 0 {
			continue
		}
		grid.Near(named(&m.a[i]), p.Lat, p.Lon, func(j int) bool {
			if d := Apart(&m.a[i], &m.b[j]); d <= within && m.may(i, j) {
				all = append(all, candidate{d, i, j})
			}
			return len(all) <= most || !halved
		})
		if len(all) > most && halved && within > finest {
			m.byNameAndPlace(within/2, true)
			m.byNameAndPlace(within, false)
			return
		}
	}
	slices.SortStableFunc(all, func(x, y candidate) int { return cmp.Compare(x.metres, y.metres) })
	for _, c := range all {
		if m.First[c.i] < 0 && m.Second[c.j] < 0 {
			m.pair(c.i, c.j)
		}
	}
}

// Apart is how far the first positions of two things are from each other, in metres; infinite where one has none.
func Apart(a, b *Thing) float64 {
	p, ok := a.First()
	q, ok2 := b.First()
	if !ok || !ok2 {
		return math.Inf(1)
	}
	return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon)
}

// byName matches those whose name one thing alone has in each list. Lines without a name have to share points, and
// recordings of one name have to share times.
func (m *matcher) byName() {
	there := index(m.b, m.Second, named)
	for k, here := range index(m.a, m.First, named) {
		if len(here) != 1 || len(there[k]) != 1 {
			continue
		}
		a, b := &m.a[here[0]], &m.b[there[k][0]]
		if a.Item.Name == "" && !sharePoints(a, b) || !shareTimes(a, b) {
			continue
		}
		m.pair(here[0], there[k][0])
	}
}

// sharePoints says whether half of the points of the shorter line are in the other.
func sharePoints(a, b *Thing) bool {
	if a.Kind == nav.Waypoints {
		return false
	}
	at := map[[2]float64]bool{}
	for _, l := range a.Lines() {
		for i := range l {
			at[[2]float64{l[i].Lat, l[i].Lon}] = true
		}
	}
	shared := 0
	for _, l := range b.Lines() {
		for i := range l {
			if at[[2]float64{l[i].Lat, l[i].Lon}] {
				shared++
			}
		}
	}
	return 2*shared >= min(a.Points(), b.Points())
}

// shareTimes says whether two recordings overlap; what has no times may always be the same.
func shareTimes(a, b *Thing) bool {
	if a.Kind != nav.Tracks {
		return true
	}
	first, last, ok := a.Times()
	first2, last2, ok2 := b.Times()
	return !ok || !ok2 || first <= last2 && first2 <= last
}

// byPlace matches what stands where the other stood, under another name, if nothing else does.
func (m *matcher) byPlace() {
	// neighbour is one of what stands at the place of each thing: none, or alone there, or one of several.
	const none, several = -1, -2
	neighbour := func(from, to []Thing, partner, back []int) []int {
		grid := shape.NewGrid(m.place)
		for j := range to {
			if p, ok := to[j].First(); ok && back[j] < 0 {
				grid.Add(j, "", p.Lat, p.Lon)
			}
		}
		out := alone(len(from))
		for i := range from {
			p, ok := from[i].First()
			if !ok || partner[i] >= 0 {
				continue
			}
			grid.Near("", p.Lat, p.Lon, func(j int) bool {
				if (from[i].Kind == nav.Waypoints || from[i].Points() == to[j].Points()) &&
					Apart(&from[i], &to[j]) <= m.place {
					if out[i] != none {
						out[i] = several
						return false
					}
					out[i] = j
				}
				return true
			})
		}
		return out
	}
	near, back := neighbour(m.a, m.b, m.First, m.Second), neighbour(m.b, m.a, m.Second, m.First)
	for i, j := range near {
		switch {
		case j == none || j >= 0 && back[j] != several && !m.may(i, j):
		case j >= 0 && back[j] != several:
			m.pair(i, j)
		default:
			m.Ambiguous[0] = append(m.Ambiguous[0], i)
		}
	}
	for j, i := range back {
		if i == several || i >= 0 && near[i] == several {
			m.Ambiguous[1] = append(m.Ambiguous[1], j)
		}
	}
}

// tell adds to the ambiguous those of one name that are left in both lists.
func (m *matcher) tell() {
	least := 3
	if !m.versions {
		least = 2
	}
	there := index(m.b, m.Second, named)
	for k, here := range index(m.a, m.First, named) {
		if !m.versions && timed(&m.a[here[0]]) && m.a[here[0]].Kind == nav.Tracks { // another recording, beyond doubt
			continue
		}
		if k != named(&Thing{Item: &nav.Item{}}) && len(there[k]) > 0 && len(here)+len(there[k]) >= least {
			m.Ambiguous[0] = append(m.Ambiguous[0], here...)
			m.Ambiguous[1] = append(m.Ambiguous[1], there[k]...)
		}
	}
	for k := range m.Ambiguous {
		slices.Sort(m.Ambiguous[k])
		m.Ambiguous[k] = slices.Compact(m.Ambiguous[k])
	}
}
