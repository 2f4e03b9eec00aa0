package instant

import (
	"strconv"
	"strings"
	"time"

	"gyrolith/core/pattern"
)

// abbreviations of zones with one meaning, in minutes east of UTC.
var abbreviations = map[string]int{"UTC": 0, "GMT": 0, "Z": 0, "ZULU": 0, "UT": 0, "WET": 0, "WEST": 60, "CET": 60,
	"MEZ": 60, "CEST": 120, "MESZ": 120, "EET": 120, "EEST": 180, "MSK": 180, "SAST": 120, "JST": 540, "AWST": 480,
	"ACST": 570, "ACDT": 630, "AEST": 600, "AEDT": 660, "NZST": 720, "NZDT": 780, "AKST": -540, "AKDT": -480,
	"HST": -600, "PST": -480, "PDT": -420, "MDT": -360, "CDT": -300, "EDT": -240, "NDT": -150}

// Abbreviations that zones far from one another share.
var shared = map[string]string{"IST": "+01:00, +02:00 or +05:30", "BST": "+01:00, +06:00 or +11:00",
	"EST": "-05:00 or +10:00", "CST": "-06:00, +08:00 or +09:30", "AST": "-04:00 or +03:00", "MST": "-07:00 or +08:00",
	"SST": "-11:00 or +08:00", "GST": "+04:00 or -02:00"}

var offsetForm = pattern.New(`^(?:(?:UTC|GMT) ?)?([+-−]) ?(\d{1,2})(?::?(\d\d)|([.,]5))?$`)

// ZoneOf finds the zone that a text names as people do: an offset (+02:00, UTC+2, -0530), an abbreviation, or a name of
// the zone database. Where an abbreviation means several there is none, and may has their offsets.
func ZoneOf(text string) (zone *time.Location, may string) {
	text = strings.TrimSpace(text)
	upper := strings.ToUpper(text)
	if minutes, ok := abbreviations[upper]; ok {
		return fixed(minutes * 60), ""
	}
	if may = shared[upper]; may != "" {
		return nil, may
	}
	if m := offsetForm.FindStringSubmatch(upper); m != nil {
		hours, _ := strconv.Atoi(m[2])
		minutes, _ := strconv.Atoi(m[3])
		if m[4] != "" {
			minutes = 30
		}
		if hours > 14 || minutes > 59 {
			return nil, ""
		}
		east := hours*3600 + minutes*60
		if m[1] != "+" {
			east = -east
		}
		return fixed(east), ""
	}
	if strings.Contains(text, "/") {
		if zone, err := time.LoadLocation(text); err == nil {
			return zone, ""
		}
	}
	return nil, ""
}

func fixed(east int) *time.Location {
	if east == 0 {
		return time.UTC
	}
	return time.FixedZone("UTC"+OffsetText(east), east)
}
