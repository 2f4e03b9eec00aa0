package main

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// marked is a mark of a history: where each side has it, and what was done since the sides last met.
type marked struct {
	office, card           *spot // nil where the side has none
	officeMoved, crewMoved bool
	officeGone, crewGone   bool // deleted by somebody: it never comes back by itself
	agreed                 bool // both sides knew it when they met
	settled                bool // at two places, and somebody has been asked
}

// circle is a card that goes back and forth between an office and a crew, with a small model of what must be where.
type circle struct {
	*folder
	r      *rand.Rand
	unit   string
	card   string
	keep   string
	marks  map[string]*marked
	made   int
	places map[spot]bool
	told   strings.Builder // the history, for whoever reads a failure
}

// place is a free one, some hundred metres or more from all others.
func (c *circle) place() *spot {
	for {
		s := spot{-47_500_000 - c.r.IntN(300)*1000, 11_200_000 + c.r.IntN(300)*1000}
		if !c.places[s] {
			c.places[s] = true
			return &s
		}
	}
}

func (c *circle) pick(fits func(m *marked) bool) (string, *marked) {
	var names []string
	for _, name := range slices.Sorted(maps.Keys(c.marks)) {
		if fits(c.marks[name]) {
			names = append(names, name)
		}
	}
	if len(names) == 0 {
		return "", nil
	}
	name := names[c.r.IntN(len(names))]
	return name, c.marks[name]
}

// many says whether both sides keep some marks if one is deleted.
func (c *circle) many() bool {
	both := 0
	for _, m := range c.marks {
		if m.office != nil && m.card != nil && !m.crewGone && !m.officeGone {
			both++
		}
	}
	return both > 2
}

func (c *circle) say(format string, args ...any) { fmt.Fprintf(&c.told, format+"\n", args...) }

// putOffice writes the office's list.
func (c *circle) putOffice() {
	text := "kind,name,lat,lon,line\n"
	for _, name := range slices.Sorted(maps.Keys(c.marks)) {
		at := c.marks[name].office
		switch {
		case at == nil:
		case c.unit == "vane": // it shows routes alone
			text += fmt.Sprintf("route,a,%s,%s,%s\nroute,b,-47.4,11.1,%s\n", degrees(at.lat), degrees(at.lon), name, name)
		default:
			text += fmt.Sprintf("waypoint,%s,%s,%s,\n", name, degrees(at.lat), degrees(at.lon))
		}
	}
	c.put("office.csv", text)
}

// crew does a deed on the card: as the unit does where there is a stand-in, else in the card's own file.
func (c *circle) crew(deed, name string, at *spot) {
	position := ""
	if at != nil {
		position = fmt.Sprintf("%.6f S %.6f E", -float64(at.lat)/1e6, float64(at.lon)/1e6)
	}
	if c.unit == "ridge" || c.unit == "keel" {
		args := []string{"boot", "--card", c.card, "--" + deed, name}
		if at != nil {
			args = append(args, position)
		}
		if c.unit != "" {
			args = append(args, "--unit", c.unit)
		}
		c.must(args...)
		return
	}
	file := ""
	for _, f := range c.list() {
		if strings.HasPrefix(f, c.card+"/") && !strings.Contains(f, "manifest") && !strings.Contains(f, "/.") {
			file = f
		}
	}
	text := c.get(file)
	if strings.HasSuffix(file, ".CSV") {
		row := regexp.MustCompile(`(?m)^;` + name + `;.*\r?\n`)
		text = row.ReplaceAllString(text, "")
		if at != nil {
			text += fmt.Sprintf(";%s;%s;%s;;\r\n", name, degrees(at.lat), degrees(at.lon))
		}
	} else {
		row := regexp.MustCompile(`(?s)<wpt [^>]*>\s*<name>` + name + `</name>.*?</wpt>\s*`)
		text = row.ReplaceAllString(text, "")
		if at != nil {
			text = strings.Replace(text, "</gpx>", fmt.Sprintf("<wpt lat=%q lon=%q><name>%s</name></wpt>\n</gpx>",
				degrees(at.lat), degrees(at.lon), name), 1)
		}
	}
	c.put(file, text)
}

// shown reads what is on the card, by the project's own reader of the unit's files.
func (c *circle) shown() map[string]spot { return c.marksOf("unstowed.csv", c.card) }

func (c *circle) office() map[string]spot { return c.marksOf("", "office.csv") }

func (c *circle) marksOf(_, path string) map[string]spot {
	c.t.Helper()
	out := map[string]spot{}
	var files []string
	for _, f := range c.list() {
		if (f == path || strings.HasPrefix(f, path+"/")) && !strings.Contains(f, "manifest") && !strings.Contains(f, "/.") {
			files = append(files, f)
		}
	}
	for _, f := range files {
		kind, columns := "waypoints", "name,lat,lon"
		if c.unit == "vane" {
			kind = "routes"
		}
		args := []string{"convert", f, "--take", kind, "-o", "-", "--write-as", "csv", "--rows", "items", "--columns",
			columns,
			"-q"}
		if strings.HasSuffix(f, ".CSV") {
			args = append(args, "--columns-in", "name=NAME,lat=LATITUDE,lon=LONGITUDE")
		}
		r := c.run(args...)
		for _, row := range strings.Split(strings.TrimSpace(r.out), "\n")[1:] {
			cells := strings.Split(strings.TrimSpace(row), ",")
			if _, twice := out[cells[0]]; twice || strings.Contains(cells[0], "(") {
				c.t.Fatalf("%s: %s is doubled\n%s", c.unit, cells[0], c.told.String())
			}
			var lat, lon float64
			fmt.Sscan(cells[1], &lat)
			fmt.Sscan(cells[2], &lon)
			round := func(v float64) int { return int(v*1e6 + map[bool]float64{true: 0.5, false: -0.5}[v > 0]) }
			out[cells[0]] = spot{round(lat), round(lon)}
		}
	}
	return out
}

// crewStep is a step of the crew's.
func (c *circle) crewStep() { c.do([]int{2, 4, 6}[c.r.IntN(3)]) }

// step does something on one side; on a unit without marks only the office does.
func (c *circle) step() {
	what := c.r.IntN(8)
	if c.unit == "vane" {
		what = []int{0, 3, 5}[c.r.IntN(3)]
	}
	c.do(what)
}

func (c *circle) do(what int) {
	switch what {
	case 0, 1: // the office adds one
		name := fmt.Sprint("N", c.made)
		c.made++
		c.marks[name] = &marked{office: c.place()}
		c.say("the office adds %s at %v", name, *c.marks[name].office)
	case 2: // the crew makes one, perhaps of a name that the office has just given
		name, m := c.pick(func(m *marked) bool { return !m.agreed && m.card == nil && m.office != nil && !m.settled })
		if m == nil || c.r.IntN(4) == 0 {
			name, m = fmt.Sprint("N", c.made), &marked{}
			c.made++
			c.marks[name] = m
		}
		m.card = c.place()
		c.crew("make", name, m.card)
		c.say("the crew makes %s at %v", name, *m.card)
	case 3: // the office moves one
		if name, m := c.pick(func(m *marked) bool { return m.office != nil && !m.crewGone }); m != nil {
			m.office, m.officeMoved = c.place(), true
			c.say("the office moves %s to %v", name, *m.office)
		}
	case 4: // the crew moves one
		name, m := c.pick(func(m *marked) bool { return m.card != nil && m.officeMoved && !m.officeGone })
		if m == nil || c.r.IntN(2) == 0 { // else one that the office has moved as well
			name, m = c.pick(func(m *marked) bool { return m.card != nil && !m.officeGone })
		}
		if m != nil {
			m.card, m.crewMoved = c.place(), true
			c.crew("move", name, m.card)
			c.say("the crew moves %s to %v", name, *m.card)
		}
	case 5: // the office deletes one that nobody else has touched
		if name, m := c.pick(func(m *marked) bool {
			return c.many() && m.agreed && m.office != nil && m.card != nil && !m.crewMoved && !m.crewGone
		}); m != nil {
			m.office, m.officeGone = nil, true
			c.say("the office deletes %s", name)
		}
	case 6: // the crew deletes one
		if name, m := c.pick(func(m *marked) bool {
			return c.many() && m.agreed && m.office != nil && m.card != nil && !m.officeMoved && !m.officeGone
		}); m != nil {
			m.card, m.crewGone = nil, true
			c.crew("delete", name, nil)
			c.say("the crew deletes %s", name)
		}
	}
	c.putOffice()
}

// meet brings the card home, the office's place winding up right where both gave one, and stows the list again.
func (c *circle) meet() {
	c.say("they meet")
	c.must("merge", "office.csv", "--card", c.card, "--unit", c.unit, "--archives", c.keep, "--prefer", "first", "-o",
		"merged.csv", "--replace")
	c.put("office.csv", c.get("merged.csv"))
	c.must("stow", "office.csv", "--unit", c.unit, "--card", c.card, "--archives", c.keep, "--add")
	for name, m := range c.marks {
		switch {
		case m.officeGone || m.crewGone:
			m.office = nil
		case m.office == nil: // the crew's
			m.office = m.card
		case m.card == nil || m.officeMoved || !m.agreed:
			m.card = m.office
		case m.crewMoved:
			m.office = m.card
		}
		if m.officeGone && m.card == nil || m.crewGone {
			delete(c.marks, name)
			continue
		}
		m.agreed, m.officeMoved, m.crewMoved = !m.officeGone, false, false
	}
	c.compare("after they met", c.office(), func(m *marked) *spot { return m.office })
	c.compare("on the card after they met", c.shown(), func(m *marked) *spot { return m.card })
	// Again, nothing changes.
	before, shown := c.get("office.csv"), fmt.Sprint(c.shown())
	c.must("merge", "office.csv", "--card", c.card, "--unit", c.unit, "--archives", c.keep, "-o", "merged.csv",
		"--replace")
	c.must("stow", "merged.csv", "--unit", c.unit, "--card", c.card, "--archives", c.keep, "--add")
	if c.get("merged.csv") != before || fmt.Sprint(c.shown()) != shown {
		c.t.Fatalf("%s: meeting again changes something\n%s\n%s\n%s", c.unit, before, c.get("merged.csv"), c.told.String())
	}
}

// stowAlone writes the office's list on the card without bringing home what the crew did: that stays, and what is at
// two places is refused until somebody says which is right.
func (c *circle) stowAlone() {
	args := []string{"stow", "office.csv", "--unit", c.unit, "--card", c.card, "--archives", c.keep, "--add"}
	twice := false
	for _, m := range c.marks {
		twice = twice || !m.agreed && m.office != nil && m.card != nil && *m.office != *m.card
	}
	if twice {
		c.say("the office stows, and is asked")
		c.refuses(1, "--prefer card keeps it where the unit shows it", args...)
		args = append(args, "--prefer", "card")
	}
	if c.r.IntN(3) == 0 {
		c.killed(args)
	}
	c.say("the office stows")
	c.must(args...)
	for _, m := range c.marks {
		switch {
		case m.officeGone || m.crewGone || m.office == nil:
		case m.card == nil:
			m.card, m.agreed, m.officeMoved = m.office, true, false
		case m.agreed && m.officeMoved && !m.crewMoved:
			m.card, m.officeMoved = m.office, false
		}
	}
	c.compare("on the card after a stow", c.shown(), func(m *marked) *spot { return m.card })
}

// restore archives the card, has the crew do things, and brings back what was.
func (c *circle) restore() {
	c.say("the card is archived")
	was, marks := c.whole(c.card), map[string]*marked{}
	for name, m := range c.marks {
		one := *m
		marks[name] = &one
	}
	os.Remove(c.path("whole.zip"))
	c.must("unstow", "--card", c.card, "-o", "whole.zip")
	for range 3 {
		c.crewStep()
	}
	c.say("and restored")
	c.must("unstow", "--card", c.card, "--restore", "whole.zip", "--replace", "--archives", c.keep)
	if now := c.whole(c.card); !same(now, was) {
		c.t.Fatalf("%s: restored, the card has other %v\n%s", c.unit, slicesOf(now, was), c.told.String())
	}
	for name := range c.marks { // what the office has done stays
		if m, old := c.marks[name], marks[name]; old == nil {
			delete(c.marks, name)
		} else {
			m.card, m.crewMoved, m.crewGone = old.card, old.crewMoved, old.crewGone
		}
	}
}

// killed stows as the program dies at some step, and finishes what was begun, or not.
func (c *circle) killed(args []string) {
	c.killedAt(1 + c.r.IntN(14))
	c.run(args...)
	c.killedAt(0)
	probe := c.run("stow", "--verify", "--card", c.card)
	if strings.Contains(probe.err, "interrupted") {
		end := []string{"--finish", "--undo"}[c.r.IntN(2)]
		c.say("killed, and %s", end)
		c.must("stow", end, "--card", c.card, "--archives", c.keep)
	}
}

// loseRecord writes the list on the card from another computer, after the record and its copy are lost. A mark at two
// places is asked about, and the office's is right.
func (c *circle) loseRecord() {
	for _, m := range c.marks {
		if m.officeGone || m.crewGone { // nobody can know that any more
			return
		}
	}
	c.say("the record is lost, and the office stows")
	os.Remove(c.path(c.card + "/gyrolith-manifest.json"))
	c.keep += "-2"
	args := []string{"stow", "office.csv", "--unit", c.unit, "--card", c.card, "--archives", c.keep, "--add"}
	for _, m := range c.marks {
		if m.office != nil && m.card != nil && *m.office != *m.card {
			c.refuses(1, "--prefer data moves it there", args...)
			break
		}
	}
	c.must(append(args, "--prefer", "data")...)
	for _, m := range c.marks {
		if m.office != nil {
			m.card = m.office
		}
		m.agreed, m.officeMoved, m.crewMoved = m.office != nil, false, false
	}
	c.compare("on the card after the record was lost", c.shown(), func(m *marked) *spot { return m.card })
}

// compare holds a side against the model.
func (c *circle) compare(when string, has map[string]spot, want func(m *marked) *spot) {
	c.t.Helper()
	for name, m := range c.marks {
		at, there := has[name]
		switch w := want(m); {
		case w == nil && there:
			c.t.Fatalf("%s %s: %s came back\n%s", c.unit, when, name, c.told.String())
		case w != nil && !there:
			c.t.Fatalf("%s %s: %s vanished\n%s", c.unit, when, name, c.told.String())
		case w != nil && (at.lat-w.lat > 1 || w.lat-at.lat > 1 || at.lon-w.lon > 1 || w.lon-at.lon > 1):
			c.t.Fatalf("%s %s: %s is at %v, not at %v\n%s", c.unit, when, name, at, *w, c.told.String())
		}
	}
	for name := range has {
		if c.marks[name] == nil {
			c.t.Fatalf("%s %s: %s came back, or from nowhere\n%s", c.unit, when, name, c.told.String())
		}
	}
}

// Whatever an office and a crew do to a card's marks, none is doubled, none vanishes that nobody deleted, none comes
// back that somebody deleted, each is where somebody put it last or is asked about, and meeting again changes nothing.
func TestCircleOfMarks(t *testing.T) {
	t.Parallel()
	for n, unit := range []string{"ridge", "keel", "vane", "csv-list", "gpx-folder"} {
		f := newFolder(t)
		c := &circle{folder: f, r: rand.New(rand.NewPCG(20260314, uint64(n))), unit: unit, card: "card", keep: "kept",
			marks: map[string]*marked{}, places: map[spot]bool{}}
		f.put("card/.here", "")
		for range 4 {
			c.marks[fmt.Sprint("N", c.made)] = &marked{office: c.place()}
			c.made++
		}
		c.putOffice()
		c.must("stow", "office.csv", "--unit", unit, "--card", "card", "--archives", "kept")
		for _, m := range c.marks {
			m.card, m.agreed = m.office, true
		}
		for range 5 {
			for range 2 + c.r.IntN(4) {
				c.step()
			}
			if c.r.IntN(2) == 0 {
				c.stowAlone()
				c.step()
			}
			if c.r.IntN(3) == 0 {
				c.loseRecord()
			}
			if c.r.IntN(3) == 0 && unit != "vane" {
				c.restore()
			}
			c.meet()
		}
	}
}
