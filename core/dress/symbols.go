package dress

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/column"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// Found is the symbol of an item as its source has it: its word, else the address of its icon; "" is none.
func Found(st *nav.Style) string {
	if st.Symbol != "" {
		return st.Symbol
	}
	return st.Icon
}

// TakenFor is the neutral word for a symbol that was found; "" where none is known.
func TakenFor(found string) string {
	if word := symbol.Meaning(found); word != "" {
		return word
	}
	return symbol.FromIcon(found)
}

// readSymbols reads the table of symbols: what is found, and the word for it. An empty word leaves what is found.
func (s *Step) readSymbols() error {
	rows, err := column.ReadRows(s.SymbolsPath, false)
	if err != nil {
		return err
	}
	s.Symbols = map[string]string{}
	for i, cells := range rows {
		if len(cells) == 0 || i == 0 && strings.EqualFold(strings.TrimSpace(cells[0]), "found") {
			continue
		}
		if len(cells) < 2 {
			return &Error{fmt.Errorf("%s:%d: a row has two columns, what is found and the symbol for it", s.SymbolsPath, i+1)}
		}
		found, text := strings.TrimSpace(cells[0]), strings.TrimSpace(cells[1])
		if found == "" || text == "" {
			continue
		}
		var w Word
		if err := w.UnmarshalText([]byte(text)); err != nil {
			return &Error{fmt.Errorf("%s:%d: %w", s.SymbolsPath, i+1, err)}
		}
		s.Symbols[strings.ToLower(found)] = w.string
	}
	if len(s.Symbols) == 0 {
		return fmt.Errorf("%s: names no symbol", s.SymbolsPath)
	}
	return nil
}

// translate gives items the symbols of the table.
func (s *Step) translate(d *nav.Dataset, l *nav.Ledger) {
	if s.Symbols == nil {
		return
	}
	give := func(kind nav.Kind, it *nav.Item) {
		found := Found(&it.Style)
		word, ok := s.Symbols[strings.ToLower(found)]
		if !ok || word == it.Style.Symbol {
			return
		}
		*l = append(*l, nav.Entry{Kind: kind, KindWord: kind.One(), Name: it.Name, What: "symbol", Old: found, New: word,
			Why: "by the table of symbols", Count: 1, Asked: true})
		it.Style.Symbol, it.Style.Icon, it.Style.IconScale = word, "", 0
		s.translated++
	}
	for kind, w := range d.AllWaypoints() {
		give(kind, &w.Item)
	}
}

// FoundSymbol is a symbol of data: how often it is there, and what it is taken for, "" for a plain mark.
type FoundSymbol struct {
	Found  string `json:"found"`
	Symbol string `json:"symbol,omitempty"`
	Count  int    `json:"count"`
}

// FoundSymbols lists the symbols of data, the most frequent first.
func FoundSymbols(all ...*nav.Dataset) (out []FoundSymbol) {
	counts := map[string]int{}
	for _, d := range all {
		for _, w := range d.AllWaypoints() {
			if found := Found(&w.Style); found != "" {
				counts[found]++
			}
		}
	}
	for _, found := range slices.Sorted(maps.Keys(counts)) {
		out = append(out, FoundSymbol{found, TakenFor(found), counts[found]})
	}
	slices.SortStableFunc(out, func(a, b FoundSymbol) int { return b.Count - a.Count })
	return out
}
