package table

import (
	"fmt"
	"strings"

	"gyrolith/core/format/headings"
)

// letters are the hemispheres that stand in columns of their own.
type letters struct {
	o string // what an O of the column means, which is east in some languages and west in others: E, W or "", unknown
}

// lettersOf finds out what an O means: the column's other letter is the opposite, in its title or in its rows.
func lettersOf(title string, cells []string) letters {
	other := headings.Folded(title + " " + strings.Join(cells, " "))
	east, west := false, false
	for word := range strings.FieldsSeq(other) {
		if !strings.HasPrefix(word, "o") { // which an O may be short for
			side := headings.Side(word)
			east, west = east || side == "E", west || side == "W"
		}
	}
	switch {
	case east && !west:
		return letters{o: "W"}
	case west && !east:
		return letters{o: "E"}
	}
	return letters{}
}

// hemispheres finds the columns of letters beside latitude and longitude whose titles are no known words: of both at
// once they are taken; one alone could be anything, and is pointed at where a sign depends on it.
func (f *found) hemispheres(rows [][]string) (doubt string) {
	if len(f.at["lat"]) != 1 || len(f.at["lon"]) != 1 || f.has("north south") || f.has("east west") {
		return ""
	}
	ns, ew := f.letterColumn(rows, f.at["lat"][0], "NS"), f.letterColumn(rows, f.at["lon"][0], "EWO")
	switch {
	case ns >= 0 && ew >= 0 && ns != ew:
		f.at["north south"], f.at["east west"] = []int{ns}, []int{ew}
		delete(f.fields, ns)
		delete(f.fields, ew)
	case ns >= 0:
		return fmt.Sprintf("%s beside the latitude has letters that could be its hemisphere: call it N/S if they are",
			f.title(ns))
	case ew >= 0:
		return fmt.Sprintf("%s beside the longitude has letters that could be its hemisphere: call it E/W if they are",
			f.title(ew))
	}
	return ""
}

// letterColumn finds a field beside a column whose cells are single letters of a set; -1 is none.
func (f *found) letterColumn(rows [][]string, beside int, set string) int {
next:
	for _, k := range []int{beside + 1, beside - 1} {
		if _, ok := f.fields[k]; !ok {
			continue
		}
		some := false
		for _, row := range rows[f.header+1:] {
			cell := ""
			if k < len(row) {
				cell = strings.ToUpper(strings.TrimSpace(row[k]))
			}
			if len(cell) > 1 || cell != "" && !strings.Contains(set, cell) {
				continue next
			}
			some = some || cell != ""
		}
		if some {
			return k
		}
	}
	return -1
}

// take makes a letter or a word one of two letters; it says no where it is neither for sure.
func (l letters) take(text *string, positive, negative string) bool {
	word := strings.ToUpper(strings.TrimSpace(*text))
	switch side := headings.Side(word); {
	case side == positive, strings.HasPrefix(word, positive):
		*text = positive
	case side == negative, strings.HasPrefix(word, negative):
		*text = negative
	case positive == "E" && side == "O" && l.o != "":
		*text = l.o
	default:
		return false
	}
	return true
}

// isO says whether a text is the letter that stands for east in some languages and for west in others.
func isO(text string) bool { return strings.EqualFold(strings.TrimSpace(text), "O") }
