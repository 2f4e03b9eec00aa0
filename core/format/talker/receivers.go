package talker

import (
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// receivers are the logs of those that speak in one file: one for all, or one for each talker that has fixes of its
// own.
type receivers struct {
	opt   *format.ReadOptions
	apart bool
	logs  map[string]*log // by talker; "" is that of all
	order []string
	fixes map[string]map[string]int // how many sentences of a kind with positions each talker has
	other int                       // sentences with positions of talkers that are not wanted
}

func newReceivers(opt *format.ReadOptions, apart bool) receivers {
	r := receivers{opt: opt, apart: apart, logs: map[string]*log{}, fixes: map[string]map[string]int{}}
	if !apart {
		r.of("")
	}
	return r
}

// of gives the log of a talker.
func (r *receivers) of(talker string) *log {
	l := r.logs[talker]
	if l == nil {
		l = newLog()
		l.realOnly = r.opt.RealFixes
		r.logs[talker], r.order = l, append(r.order, talker)
	}
	return l
}

// placed are the kinds of sentences with a position.
var placed = []string{"GGA", "RMC", "GNS", "GLL"}

// sentence takes one of a log, and says whether it can be read.
func (r *receivers) sentence(p *parted, stamp int64) bool {
	fixes := slices.Contains(placed, p.kind)
	if fixes {
		if r.fixes[p.talker] == nil {
			r.fixes[p.talker] = map[string]int{}
		}
		r.fixes[p.talker][p.kind]++
	}
	if r.opt.Talker != "" && p.talker != r.opt.Talker && (fixes || p.kind == "ZDA" || p.kind == "VTG") {
		r.other++
		return true
	}
	switch {
	case !r.apart:
		return r.of("").sentence(p.kind, p.fields, stamp)
	case fixes:
		return r.of(p.talker).sentence(p.kind, p.fields, stamp)
	case p.kind == "ZDA" || p.kind == "VTG":
		if l := r.logs[p.talker]; l != nil {
			return l.sentence(p.kind, p.fields, stamp)
		}
		return true
	}
	sound := true
	for _, talker := range r.order { // what other instruments say goes beside the fixes of all
		sound = r.logs[talker].sentence(p.kind, p.fields, stamp) && sound
	}
	return sound
}

// several says whether two talkers say positions by sentences of the same kind, as one receiver never does: those that
// complete one another are one.
func (r *receivers) several() bool {
	const least = 2 // of each
	for _, kind := range placed {
		talkers := 0
		for talker, kinds := range r.fixes {
			if kinds[kind] >= least && (r.opt.Talker == "" || talker == r.opt.Talker) {
				talkers++
			}
		}
		if talkers > 1 {
			return true
		}
	}
	return false
}

// moment is the time of the last sentence that said one.
func (r *receivers) moment() (int64, bool) {
	for _, talker := range r.order {
		if at, ok := r.logs[talker].moment(); ok {
			return at, true
		}
	}
	return 0, false
}

// tracks makes a recording of each log.
func (r *receivers) tracks(d *nav.Dataset) (out []*nav.Track) {
	unreal := map[string]int{}
	var said []string
	for _, talker := range r.order {
		l := r.logs[talker]
		t := l.track(d)
		for word, n := range l.unreal {
			unreal[word] += n
		}
		if t == nil {
			continue
		}
		if r.apart {
			t.Name += " " + talker
			said = append(said, talker+" with "+measure.Counted(l.fixes, "fix", "fixes"))
		}
		out = append(out, t)
	}
	if len(said) > 1 {
		d.Tell(nav.ProblemLines, "several receivers are in the log, each a recording of its own: "+strings.Join(said, ", ")).
			AdviseAbout(advice.ChooseTalker, r.order[0])
	}
	for _, word := range []string{fixEstimated, fixManual, fixSimulated} {
		if n := unreal[word]; n > 0 && r.opt.RealFixes {
			d.Tell(nav.ProblemLines, "left out, as requested: "+measure.Counted(n, word+" fix", word+" fixes"))
		} else if n > 0 {
			d.Tell(nav.ProblemLines, "marked in the value fix: "+measure.Counted(n, word+" fix", word+" fixes")).
				Advise(advice.RealFixes)
		}
	}
	if r.opt.Talker != "" && r.other > 0 {
		d.Tell(nav.ProblemLines, "left out, as requested: "+measure.Counted(r.other, "sentence", "sentences")+
			" of other talkers than "+r.opt.Talker)
	}
	return out
}
