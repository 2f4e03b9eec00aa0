package all_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/format/holds"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// variant is a format in one of its versions and layouts.
type variant struct {
	*format.Format
	opt format.WriteOptions
}

func (v *variant) String() string { return strings.TrimSuffix(v.Name+":"+v.opt.Version, ":") }

// variants are all formats that are both written and read, in every version.
func variants() (out []*variant) {
	for _, f := range all.Formats {
		if !f.Writes() || f.Read == nil {
			continue
		}
		versions := f.Versions
		if len(versions) == 0 {
			versions = []string{""}
		}
		for _, version := range versions {
			out = append(out, &variant{f, format.WriteOptions{Version: version}})
		}
	}
	return
}

// wellFormed says what is wrong with a document that ought to be XML.
func wellFormed(text []byte) error {
	const declaration = "<?xml"
	if !bytes.HasPrefix(text, []byte(declaration)) {
		return nil
	}
	if bytes.Count(text, []byte(declaration)) > 1 {
		return errors.New("a second XML declaration")
	}
	for in := xml.NewDecoder(bytes.NewReader(text)); ; {
		if _, err := in.Token(); err == io.EOF {
			return nil
		} else if err != nil {
			return err
		}
	}
}

// through writes data and reads them again. A format that refuses the data gives nil.
func (v *variant) through(t testing.TB, d *nav.Dataset) (*nav.Dataset, nav.Ledger) {
	t.Helper()
	if v.Set != nil {
		return v.throughSet(t, d)
	}
	var out bytes.Buffer
	done, err := v.Store(&out, d, &v.opt)
	if err != nil {
		return nil, nil
	}
	if err := wellFormed(out.Bytes()); err != nil {
		t.Fatalf("%v: %v\n%.2000s", v, err, out.Bytes())
	}
	back, err := v.Read(format.FromBytes(t.Context(), "a"+v.Extensions[0], out.Bytes()), &format.ReadOptions{})
	if err != nil {
		t.Fatalf("%v can't be read again: %v\n%.2000s", v, err, out.Bytes())
	}
	return unmade(back), done.Ledger
}

// unmade leaves out identities that a format gives where there are none: that of a feature, and the one that leads to
// what an item was.
func unmade(d *nav.Dataset) *nav.Dataset {
	d.Each(func(_ nav.Kind, it *nav.Item) {
		if identity.Own(it.ID) == "" || identity.Local(it.ID) {
			it.ID = ""
		}
	})
	return d
}

func (v *variant) throughSet(t testing.TB, d *nav.Dataset) (*nav.Dataset, nav.Ledger) {
	t.Helper()
	parts, done, err := v.StoreSet(d, &v.opt)
	if err != nil {
		return nil, nil
	}
	files := map[string]map[string][]byte{}
	for _, p := range parts {
		var out bytes.Buffer
		if err := p.Write(&out); err != nil {
			t.Fatal(err)
		}
		stem, ext, _ := strings.Cut(p.Suffix, ".")
		if files[stem] == nil {
			files[stem] = map[string][]byte{}
		}
		files[stem]["."+ext] = out.Bytes()
	}
	whole := &nav.Dataset{}
	for _, stem := range []string{"", "-points", "-lines", "-areas"} {
		if files[stem] == nil {
			continue
		}
		main := files[stem][v.Extensions[0]]
		back, err := v.Read(format.WithParts(t.Context(), "a"+stem+v.Extensions[0], main, files[stem]), &format.ReadOptions{})
		if err != nil {
			t.Fatalf("%v can't be read again: %v", v, err)
		}
		whole.Merge(back)
	}
	return unmade(whole), done.Ledger
}

// says says whether an entry of a ledger tells of a difference.
func says(e *nav.Entry, d *difference) bool {
	if d.what == "positions" || d.what == "heights" || d.what == "times" {
		return e.What == d.what && e.KindWord == "point"
	}
	if (e.What == nav.PropertyName || e.What == nav.PropertyPointName) && e.Old == d.old &&
		(d.what == holds.What(d.at, holds.Name) || d.what == holds.Blanks) {
		return true
	}
	if e.Name != "" && e.Name != d.name && e.Old != d.name && e.KindWord != "field" {
		return false
	}
	what := e.What
	if details := holds.What(d.at, holds.Details); strings.HasPrefix(string(what), string(details)+" ") {
		what = details // of which piece is said as well
	}
	if (what == d.what || what == d.also) && (e.KindWord == d.at.String() || e.Name == d.name) {
		return true
	}
	for part, whole := range map[holds.Property]holds.Property{holds.LinkTexts: holds.Links} {
		if d.what == holds.What(d.at, part) && e.What == holds.What(d.at, whole) && e.KindWord == d.at.String() {
			return true
		}
	}
	switch e.What { // all of an item
	case "waypoint", "route", "track", "area":
		return string(e.What) == d.at.Kind().One() && d.at != holds.File
	case holds.EmptyWord(d.at), holds.What(d.at, holds.OnePoint):
		return e.KindWord == d.at.String() && d.new == "gone"
	case holds.Blanks:
		return d.what == holds.Blanks && e.KindWord == d.at.String()
	case "characters":
		return true
	}
	return strings.HasPrefix(string(d.what), "field ") && e.What == holds.What(d.at, holds.Fields) &&
		e.KindWord == d.at.String()
}

// judge fails a test where a difference is not in a ledger, or a loss of the ledger is none; each sort once.
type judge struct {
	testing.TB
	seen map[string]bool
}

func (j *judge) fault(sort, text string, args ...any) {
	j.Helper()
	if j.seen[sort] {
		return
	}
	if j.seen == nil {
		j.seen = map[string]bool{}
	}
	j.seen[sort] = true
	j.Errorf(text, args...)
}

func (j *judge) check(v *variant, label string, before, after *nav.Dataset, ledger nav.Ledger) {
	j.Helper()
	found := differences(before, after, ledger, v.Holds(&v.opt).Datums)
	told := make([]bool, len(ledger))
	for i := range found {
		any := false
		for k := range ledger {
			if says(&ledger[k], &found[i]) {
				any, told[k] = true, true
			}
			if e := &ledger[k]; e.What == holds.What(found[i].at, holds.HeightReference) &&
				found[i].what == holds.What(found[i].at, holds.Height) { // of those heights that are there
				told[k] = true
			}
		}
		if d := &found[i]; !any {
			j.fault(d.at.String()+string(d.what), "%s: not told: %v", label, *d)
		}
	}
	for k := range ledger {
		if e := &ledger[k]; !told[k] && e.Loss && !e.Asked {
			j.fault("lost "+e.KindWord+string(e.What), "%s: said to be lost, and is not: %s %q: %s: %s", label, e.KindWord,
				e.Name, e.What, e.Why)
		}
	}
}

// cases are small datasets that use one property each, and random ones of many.
func cases(random int) map[string]*nav.Dataset {
	out := map[string]*nav.Dataset{}
	for _, at := range holds.AllPlaces {
		for p := range holds.Of(at).Each() {
			for i, plain := range []bool{true, false, false} {
				g := &generator{Rand: rand.New(rand.NewPCG(uint64(p)<<8|uint64(at), uint64(i))), plain: plain}
				d := g.base()
				if !g.set(d, at, p) {
					panic(fmt.Sprintf("the generator can't use %v of a %v", p, at))
				}
				out[fmt.Sprintf("%v of %v %d", p, at, i)] = d
			}
		}
	}
	for i := range random {
		g := &generator{Rand: rand.New(rand.NewPCG(7, uint64(i))), far: i%4 == 3}
		out[fmt.Sprintf("random %d", i)] = g.random(3 + i%9)
	}
	return out
}

// What a format does not give back of any property, alone or together with others, is in the ledger of the writing, and
// nothing is in it that comes back.
func TestLedgerOfEveryFormat(t *testing.T) {
	all := cases(60)
	for _, v := range variants() {
		t.Run(v.String(), func(t *testing.T) {
			t.Parallel()
			j := &judge{TB: t}
			for _, label := range slices.Sorted(maps.Keys(all)) {
				d := all[label]
				if back, ledger := v.through(t, d.Clone()); back != nil {
					j.check(v, label, d, back, ledger)
				}
			}
		})
	}
}

// Data that went into one format and on into another, and come back, are what they were but for what the ledger of
// either writing tells.
func TestLedgerOfEveryPair(t *testing.T) {
	var data []*nav.Dataset
	for i := range 3 {
		g := &generator{Rand: rand.New(rand.NewPCG(11, uint64(i))), far: i == 2}
		data = append(data, g.random(2+i))
	}
	all := variants()
	for _, a := range all {
		t.Run(a.String(), func(t *testing.T) {
			t.Parallel()
			j := &judge{TB: t}
			for i, d := range data {
				first, _ := a.through(t, d.Clone())
				if first == nil {
					continue
				}
				for _, b := range all {
					second, told := b.through(t, first.Clone())
					if second == nil {
						continue
					}
					label := fmt.Sprintf("%d by %v", i, b)
					j.check(b, label, first, second, told)
					if back, told := a.through(t, second.Clone()); back != nil {
						j.check(a, label+" and back", second, back, told)
					}
				}
			}
		})
	}
}

// FuzzLedger makes data of any properties and takes them through any format.
func FuzzLedger(f *testing.F) {
	for i := range uint64(8) {
		f.Add(i, i, uint8(i), i%2 == 0)
	}
	all := variants()
	f.Fuzz(func(t *testing.T, a, b uint64, way uint8, far bool) {
		g := &generator{Rand: rand.New(rand.NewPCG(a, b)), far: far}
		d := g.random(2 + int(way>>5))
		v := all[int(way)%len(all)]
		if back, ledger := v.through(t, d.Clone()); back != nil {
			(&judge{TB: t}).check(v, v.String(), d, back, ledger)
		}
	})
}
