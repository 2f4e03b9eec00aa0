package cli

import (
	"os"
	"strings"

	"gyrolith/core/symbol"
	"gyrolith/internal/cli/frame"
)

// meant are options by the words that people bring along from elsewhere, the likeliest first.
var meant = map[string][]string{
	"output": {"output", "card", "into", "to"}, "out": {"output", "card", "into", "to"}, "o": {"output", "card", "into",
		"to"},
	"outfile": {"output"}, "dest": {"output", "into", "card"}, "destination": {"output", "into", "card"}, "dir": {"into",
		"card"},
	"format": {"write-as", "read-as"}, "to-format": {"write-as"}, "output-format": {"write-as"}, "f": {"write-as"},
	"input-format": {"read-as"}, "from-format": {"read-as"}, "i": {"read-as"}, "type": {"take", "write-as"},
	"force": {"replace"}, "overwrite": {"replace"}, "y": {"replace"}, "yes": {"replace"}, "clobber": {"replace"},
	"simulate": {"dry-run"}, "n": {"dry-run"}, "test": {"dry-run"}, "preview": {"dry-run"}, "silent": {"quiet"},
	"bbox": {"inside"}, "box": {"inside"}, "clip": {"inside"}, "extent": {"inside"}, "polygon": {"inside"},
	"area":   {"inside"},
	"filter": {"take"}, "select": {"take"}, "only": {"take"}, "include": {"take"}, "kind": {"take"}, "layer": {"take",
		"sheet"},
	"exclude": {"leave"}, "skip": {"leave"}, "without": {"leave"}, "drop": {"leave"},
	"after": {"since"}, "begin": {"since", "depart"}, "start": {"depart", "since"}, "before": {"until"}, "end": {"until"},
	"simplify": {"thin-within"}, "thin": {"thin-within"}, "tolerance": {"thin-within"}, "within": {"thin-within"},
	"max-points": {"thin-to"}, "points": {"thin-to"}, "pace": {"speed"}, "for": {"unit"}, "device": {"unit"},
	"model":   {"unit"},
	"profile": {"unit"}, "epsg": {"crs", "backdrop-crs"}, "srs": {"crs", "backdrop-crs"}, "projection": {"crs",
		"backdrop-crs"},
	"crs": {"backdrop-crs"}, "from-crs": {"crs-in"}, "dem": {"terrain"}, "dtm": {"terrain"}, "elevation": {"terrain"},
	"heights": {"terrain"}, "tz": {"clock"}, "timezone": {"clock"}, "zone": {"clock"}, "utc": {"clock"},
	"units":    {"measure"},
	"imperial": {"measure"}, "metric": {"measure"}, "keep": {"archives"}, "backup": {"archives"}, "jobs": {"workers"},
	"threads": {"workers"}, "rejects": {"removed"}, "hazard": {"hazards"}, "distance": {"within", "clear", "spacing"},
	"radius": {"within"}, "timeout": {"wait"}, "fields": {"columns"}, "delimiter": {"separator"},
}

// guess finds the option of a verb that somebody means: by meaning, else by a slip or two of the finger, else not at
// all.
func guess(v *frame.Made, word string) string {
	has := map[string]bool{}
	for _, t := range v.Tables {
		for _, p := range t {
			has[p.Name] = true
		}
	}
	for _, name := range meant[strings.ToLower(word)] {
		if has[name] {
			return "--" + name
		}
	}
	best, least := "", min(3, (len(word)+1)/2)
	for name := range has {
		if d := symbol.Edits(word, name); d < least || d == least && best != "" && name < best {
			best, least = name, d
		}
	}
	if len(best) < 2 {
		return ""
	}
	return "--" + best
}

// looksLikeFile says whether what was taken for an option is the name of a file that begins with a dash.
func looksLikeFile(word string) bool {
	_, err := os.Stat(word)
	return err == nil || strings.Contains(word, ".") && !strings.Contains(word, "=")
}
