package card

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// Side is whose place is right of an item that the data and a card have at two places.
type Side string

// The sides.
const (
	CardSide Side = "card"
	DataSide Side = "data"
)

// Apart is an item of the data and a thing on a card of one name, which nothing else has, at two places: the same one,
// moved on one side, or two.
type Apart struct {
	Kind   nav.Kind  `json:"-"`
	Word   string    `json:"kind"`
	Name   string    `json:"name"`
	Card   nav.Point `json:"-"` // where the unit shows it
	Data   nav.Point `json:"-"`
	Metres float64   `json:"shift_m"`

	source, thing int
}

func apartOf(source, thing *identity.Thing, i, j int) Apart {
	a := Apart{Kind: thing.Kind, Word: thing.Kind.One(), Name: source.Item.Name, Metres: identity.Apart(source, thing),
		source: i, thing: j}
	a.Card, _ = thing.First()
	a.Data, _ = source.First()
	return a
}

// Displaced is the error for a card that has items of the data at other places, since nobody knows which is right.
type Displaced struct {
	Card  string
	Items []Apart
}

func (m *Displaced) Error() string {
	a := &m.Items[0]
	more := ""
	if n := len(m.Items) - 1; n > 0 {
		more = fmt.Sprintf(", and %d more items", n)
	}
	return fmt.Sprintf("%s: %s %q is in another place on the card than in the data, %.0f m away%s; nothing was written",
		m.Card, a.Word, a.Name, a.Metres, more)
}

// Advised says how one settles it.
func (m *Displaced) Advised() advice.Advice { return advice.Advice{Code: advice.PreferSide} }

// settleApart settles items at two places: as is asked for, or as a merge of this card has settled them before.
func (b *stowing) settleApart() error {
	if b.Mode == Empty || len(b.apart) == 0 {
		return nil
	}
	settled := readSettled(b.Keep, b.profile.Name)
	var open []Apart
	for _, a := range b.apart {
		switch {
		case b.Mode == Replace, b.Prefer == DataSide, settled.has(b, &a):
			b.is(a.source, a.thing)
		case b.Prefer == CardSide:
			b.is(a.source, a.thing)
			b.cards[a.source] = true
		default:
			open = append(open, a)
		}
	}
	if len(open) > 0 {
		return &Displaced{b.Card, open}
	}
	return nil
}

// settledBefore says whether a merge has taken the office's place of a thing that was moved on both sides.
func (b *stowing) settledBefore(source int) bool {
	things := b.same[source]
	return len(things) == 1 && slices.Contains(readSettled(b.Keep, b.profile.Name),
		settlementOf(&b.there.Things[things[0]].Thing, &b.sources[source]))
}

// settlement is a thing of a card of which a merge has taken the place that the office's list has.
type settlement struct {
	Kind   string  `json:"kind"`
	Name   string  `json:"name"` // on the unit
	Lat    float64 `json:"lat"`  // where the unit shows it
	Lon    float64 `json:"lon"`
	Source string  `json:"source"` // the identity of the office's item
}

type settlements []settlement

func settlementOf(thing, source *identity.Thing) settlement {
	p, _ := thing.First()
	return settlement{thing.Kind.One(), thing.Item.Name, p.Lat, p.Lon, identity.Of(source)}
}

func (s settlements) has(b *stowing, a *Apart) bool {
	return slices.Contains(s, settlementOf(&b.there.Things[a.thing].Thing, &b.sources[a.source]))
}

// settledFile is where settlements of a unit's cards stand, beside the copies of records.
func settledFile(keep, unit string) string {
	return filepath.Join(keep, recordsFolder, "settled-"+unit+".json")
}

func readSettled(keep, unit string) (out settlements) {
	if text, err := os.ReadFile(settledFile(keep, unit)); keep != "" && err == nil {
		json.Unmarshal(text, &out) // of a damaged one nothing is settled
	}
	return
}

// mostSettled bounds how many settlements are kept; the oldest go.
const mostSettled = 5000

// keepSettled adds settlements to those that are kept.
func keepSettled(keep, unit string, more settlements) error {
	if keep == "" || len(more) == 0 {
		return nil
	}
	all := readSettled(keep, unit)
	for _, s := range more {
		if !slices.Contains(all, s) {
			all = append(all, s)
		}
	}
	all = all[max(0, len(all)-mostSettled):]
	text, err := json.MarshalIndent(all, "", " ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Join(keep, recordsFolder), 0o777); err != nil {
		return err
	}
	p, err := safefile.CreateOver(settledFile(keep, unit))
	if err != nil {
		return err
	}
	defer p.Discard()
	if _, err := p.Write(text); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}
