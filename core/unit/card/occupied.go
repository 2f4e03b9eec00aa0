package card

import (
	"fmt"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/nav"
)

// Occupied is the error for a card on which a unit shows something already.
type Occupied struct {
	Card       string
	Beside     Beside
	Unreadable []error
}

func (o *Occupied) Error() string {
	var now, gone []string
	left := [4]int{}
	for _, t := range o.Beside.Gone {
		left[t.Kind]++
	}
	for _, kind := range nav.Kinds {
		if n := o.Beside.Before[kind]; n > 0 {
			now = append(now, numbered(n, kind))
		}
		if n := left[kind]; n > 0 {
			gone = append(gone, numbered(n, kind))
		}
	}
	if len(now) == 0 {
		return fmt.Sprintf("%s: the card has data that can't be read (%v)", o.Card, o.Unreadable[0])
	}
	out := fmt.Sprintf("%s: the unit shows %s with this card", o.Card, listed(now))
	if len(gone) > 0 {
		out += "; " + listed(gone) + " would no longer be shown"
	}
	return out
}

// listed joins words as one says them.
func listed(words []string) string {
	if n := len(words) - 1; n > 1 {
		return strings.Join(words[:n], ", ") + " and " + words[n]
	}
	return strings.Join(words, " and ")
}

func numbered(n int, kind nav.Kind) string {
	if n == 1 {
		return "1 " + kind.One()
	}
	return strconv.Itoa(n) + " " + kind.String()
}

// Advised says how to keep or to replace what is there.
func (o *Occupied) Advised() advice.Advice {
	if len(o.Unreadable) > 0 {
		return advice.Advice{Code: advice.ReplaceUnreadable}
	}
	return advice.Advice{Code: advice.AddOrReplace}
}
