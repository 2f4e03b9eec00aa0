package words

import (
	_ "embed"
	"errors"
	"fmt"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain/kit"
	"gyrolith/core/dress"
	"gyrolith/core/elevate"
	"gyrolith/core/param"
)

//go:embed advice.txt
var adviceList string

// adviceTexts are what the core's advice means on a command line.
var adviceTexts = func() map[advice.Code]string {
	out := map[advice.Code]string{}
	for line := range strings.Lines(adviceList) {
		if code, text, ok := strings.Cut(strings.TrimSpace(line), ": "); ok {
			out[advice.Code(code)] = text
		}
	}
	return out
}()

// adviceWords says what to do; "" where there is no advice.
func adviceWords(a advice.Advice) string {
	text := adviceTexts[a.Code]
	if strings.Contains(text, "%") {
		return fmt.Sprintf(text, a.Arg)
	}
	return text
}

// Advised adds the advice to a text.
func Advised(text string, a advice.Advice) string {
	if w := adviceWords(a); w != "" {
		return text + "; " + w
	}
	return text
}

// Missing words the faults of what is not given at all.
func Missing(verb string, p *param.Error) string {
	switch {
	case errors.Is(p.Err, kit.ErrNoUnit):
		return verb + ": no unit given; add --unit NAME ('gyrolith units' lists them)"
	case errors.Is(p.Err, elevate.ErrNoSource):
		return verb + ": no source of heights given; add --terrain PATH, or --geoid GRID to convert heights above the " +
			"ellipsoid to " +
			"mean sea level"
	case errors.Is(p.Err, dress.ErrNoRules):
		return verb + ": no rules given; add --rules FILE, or --match KIND:GLOB with what to set; 'gyrolith dress --help' " +
			"shows both"
	}
	return ""
}

// AdvisedError is the text of an error with its advice.
func AdvisedError(err error) string { return Advised(err.Error(), advice.Of(err)) }
