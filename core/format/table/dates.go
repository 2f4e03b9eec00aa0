package table

import (
	"strconv"
	"strings"
	"time"

	"gyrolith/core/format/headings"
	"gyrolith/core/pattern"
)

// century is what is missing of a year of two digits: those from 70 on are of the last century, before that there was
// no time that a receiver could have noted.
func century(year int) int {
	if year >= 70 {
		return 1900
	}
	return 2000
}

var (
	bareDate = pattern.New(`^((?:19|20)\d\d)(\d\d)(\d\d)(?:[ T_-]?(\d\d)(\d\d)(\d\d)?(?:[.,](\d{1,9}))?(Z?))?$`)
	dayMonth = pattern.New(`^(?:\pL+\.?,? +)?(\d{1,2})(?:\.|st|nd|rd|th|er|º|ª)?[ -]*(?:de |of )?(\pL{3,}\.?)[ -]*` +
		`(?:de |del )?'?(\d{4}|\d{2})(?:[ T,]+(.*))?$`)
	monthDay = pattern.New(`^(?:\pL+\.?,? +)?(\pL{3,}\.?) +(\d{1,2})(?:st|nd|rd|th)?,? +(\d{4})(?:[ T,]+(.*))?$`)
)

// months are the beginnings of the names of months in the languages of offices, folded, three letters or as many as
// tell them apart.
var months = map[string]time.Month{"jan": 1, "ene": 1, "gen": 1, "sty": 1, "feb": 2, "fev": 2, "lut": 2, "mar": 3,
	"mrz": 3, "maa": 3, "mrt": 3, "apr": 4, "abr": 4, "avr": 4, "may": 5, "mai": 5, "maj": 5, "mag": 5, "mei": 5,
	"jun": 6, "juin": 6, "giu": 6, "jul": 7, "juil": 7, "lug": 7, "aug": 8, "ago": 8, "aou": 8, "sep": 9, "set": 9,
	"oct": 10, "okt": 10, "out": 10, "ott": 10, "nov": 11, "dec": 12, "dez": 12, "des": 12, "dic": 12}

// monthOf finds the month that a word names; 0 is none.
func monthOf(word string) time.Month {
	word = headings.Folded(word)
	for _, n := range []int{4, 3} {
		if len(word) >= n {
			if m, ok := months[word[:n]]; ok {
				return m
			}
		}
	}
	return 0
}

// writtenDate reads a date with the name of its month, or one without marks between its numbers, and gives the text of
// the time of day behind it.
func writtenDate(text string) (day time.Time, clock string, ok bool) {
	var y, m, d int
	if p := bareDate.FindStringSubmatch(text); p != nil {
		y, _ = strconv.Atoi(p[1])
		m, _ = strconv.Atoi(p[2])
		d, _ = strconv.Atoi(p[3])
		if p[4] != "" {
			clock = p[4] + ":" + p[5] + p[8]
			if p[6] != "" {
				clock = p[4] + ":" + p[5] + ":" + p[6]
				if p[7] != "" {
					clock += "." + p[7]
				}
				clock += p[8]
			}
		}
	} else if p := dayMonth.FindStringSubmatch(text); p != nil {
		d, _ = strconv.Atoi(p[1])
		m = int(monthOf(p[2]))
		y, _ = strconv.Atoi(p[3])
		if clock = strings.TrimSpace(p[4]); len(p[3]) == 2 {
			y += century(y)
		}
	} else if p := monthDay.FindStringSubmatch(text); p != nil {
		m = int(monthOf(p[1]))
		d, _ = strconv.Atoi(p[2])
		y, _ = strconv.Atoi(p[3])
		clock = strings.TrimSpace(p[4])
	}
	day = time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	return day, clock, y > 0 && m > 0 && day.Day() == d && int(day.Month()) == m
}
