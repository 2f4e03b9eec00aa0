package nav

import "gyrolith/core/advice"

// Ledger is the record of what a command changed or could not keep, item by item.
type Ledger []Entry

// Entry is one line of a ledger.
type Entry struct {
	Kind     Kind     `json:"-"`
	KindWord string   `json:"kind,omitempty"`
	Name     string   `json:"name,omitempty"`
	What     Property `json:"property"`         // what was changed or lost
	Why      string   `json:"why,omitempty"`    // the reason, in words
	Old      string   `json:"old,omitempty"`    // before, where that can be shown
	New      string   `json:"new,omitempty"`    // after
	Count    int      `json:"count"`            // how many values; at least 1
	Others   int      `json:"others,omitempty"` // how many items it is about that are not named one by one
	Loss     bool     `json:"loss,omitempty"`   // something of the data is gone, and a strict run refuses it
	Asked    bool     `json:"asked,omitempty"`  // the user asked for it, so that it is no loss

	Advice advice.Advice `json:"-"`
}

// Property names what an entry is about: a property of items such as their names, or a whole item.
type Property string

// The properties that are read back from ledgers.
const (
	PropertyName      Property = "name"
	PropertyPointName Property = "point name"
	PropertyFieldName Property = "field name"
)

// Advise says what the user can do about the entry.
func (e *Entry) Advise(code advice.Code) { e.Advice = advice.Advice{Code: code} }

// Lost adds an entry for something that the output can't hold.
func (l *Ledger) Lost(kind Kind, name string, what Property, why string, count int) *Entry {
	return l.add(Entry{Kind: kind, KindWord: kind.One(), Name: name, What: what, Why: why, Count: count, Loss: true})
}

// Changed adds an entry for a value that was changed.
func (l *Ledger) Changed(kind Kind, name string, what Property, old, new, why string) {
	*l = append(*l, Entry{Kind: kind, KindWord: kind.One(), Name: name, What: what, Old: old, New: new, Why: why,
		Count: 1})
}

// add joins the entry to an equal one, so that a thousand points of a track are one line.
func (l *Ledger) add(e Entry) *Entry {
	if n := len(*l); n > 0 {
		last := &(*l)[n-1]
		if last.Kind == e.Kind && last.Name == e.Name && last.What == e.What && last.Why == e.Why && last.Old == "" &&
			last.New == "" {
			last.Count += e.Count
			return last
		}
	}
	*l = append(*l, e)
	return &(*l)[len(*l)-1]
}

// Losses counts the entries that lose something which was not asked for.
func (l Ledger) Losses() (n int) {
	for i := range l {
		if l[i].Loss && !l[i].Asked {
			n++
		}
	}
	return
}
