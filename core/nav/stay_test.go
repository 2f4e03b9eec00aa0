package nav

import (
	"testing"
	"time"
)

func TestISODuration(t *testing.T) {
	for text, want := range map[string]time.Duration{"PT45M": 45 * time.Minute, "P1DT2H": 26 * time.Hour,
		"PT0.5S": 500 * time.Millisecond,
		"P2W":    14 * 24 * time.Hour} {
		if got, ok := ParseISODuration(text); !ok || got != want {
			t.Errorf("%s: %v %v", text, got, ok)
		}
	}
	for _, text := range []string{"", "P", "PT", "45M", "P1M", "P1Y", "PTM", "PT1X", "-PT1H", "PT1H2", "P999999999D"} {
		if got, ok := ParseISODuration(text); ok {
			t.Errorf("%q is %v", text, got)
		}
	}
}
