package all_test

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// What was read and is written again and again stays as it is: nothing grows, moves or wears off.
func TestWrittenAgainAndAgain(t *testing.T) {
	var data []*nav.Dataset
	for i := range uint64(8) {
		g := &generator{Rand: rand.New(rand.NewPCG(5, i)), far: i%4 == 3}
		data = append(data, g.random(2+int(i)))
	}
	for _, v := range variants() {
		if v.Set != nil {
			continue
		}
		t.Run(v.String(), func(t *testing.T) {
			t.Parallel()
			for label, x := range data {
				d, _ := v.through(t, x.Clone())
				if d == nil {
					continue
				}
				var texts [2][]byte
				for i := range texts {
					var out bytes.Buffer
					if _, err := v.Store(&out, d, &v.opt); err != nil {
						t.Fatalf("%d: %v", label, err)
					}
					texts[i] = out.Bytes()
					var err error
					if d, err = v.Read(format.FromBytes(t.Context(), "a"+v.Extensions[0], texts[i]),
						&format.ReadOptions{}); err != nil {
						t.Fatalf("%d: %v", label, err)
					}
				}
				if !bytes.Equal(texts[0], texts[1]) {
					t.Fatalf("%d:\n%.2000s\nbecame\n%.2000s", label, texts[0], texts[1])
				}
			}
		})
	}
}
