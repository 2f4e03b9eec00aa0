package all

import (
	"testing"

	"gyrolith/core/pattern"
)

// Every pattern of the formats, and of what they use, compiles.
func TestPatterns(t *testing.T) {
	if n := pattern.Compile(); n < 60 {
		t.Errorf("only %d patterns", n)
	}
}
