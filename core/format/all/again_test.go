package all_test

import (
	"bytes"
	"maps"
	"slices"
	"testing"

	"gyrolith/core/format"
)

// What was read and is written again and again stays as it is: nothing grows, moves or wears off.
func TestWrittenAgainAndAgain(t *testing.T) {
	all := cases(8)
	for _, v := range variants() {
		if v.Set != nil {
			continue
		}
		t.Run(v.String(), func(t *testing.T) {
			t.Parallel()
			for _, label := range slices.Sorted(maps.Keys(all)) {
				d, _ := v.through(t, all[label].Clone())
				if d == nil {
					continue
				}
				var texts [2][]byte
				for i := range texts {
					var out bytes.Buffer
					if _, err := v.Store(&out, d, &v.opt); err != nil {
						t.Fatalf("%s: %v", label, err)
					}
					texts[i] = out.Bytes()
					var err error
					if d, err = v.Read(format.FromBytes("a"+v.Extensions[0], texts[i]), &format.ReadOptions{}); err != nil {
						t.Fatalf("%s: %v", label, err)
					}
				}
				if !bytes.Equal(texts[0], texts[1]) {
					t.Fatalf("%s:\n%.2000s\nbecame\n%.2000s", label, texts[0], texts[1])
				}
			}
		})
	}
}
