package format

import (
	"fmt"
	"strings"

	"gyrolith/core/nav"
)

// FieldKeys names the fields of items where each key can stand but once, and not at all if a property has it.
type FieldKeys struct {
	Reserve func(key string) bool // further keys that no field can have; may be nil

	data    *nav.Dataset
	taken   map[string]bool
	judged  map[string]bool // what reserved said of a key, since datasets repeat few keys many times
	all     map[string]bool // of the dataset; made when it is needed
	renamed map[occurrence]string
	Ledger  nav.Ledger // what was renamed, each key once
}

// occurrence is the second, third … field of one key.
type occurrence struct {
	key string
	n   int
}

// NewFieldKeys names fields beside properties whose words are given; case does not count.
func NewFieldKeys(d *nav.Dataset, properties ...string) *FieldKeys {
	k := &FieldKeys{data: d, taken: map[string]bool{}, judged: map[string]bool{}, renamed: map[occurrence]string{}}
	for _, p := range properties {
		k.taken[strings.ToLower(p)] = true
	}
	return k
}

// Names gives the keys under which the fields of an item are written.
func (k *FieldKeys) Names(fields []nav.Field) []string {
	if len(fields) == 0 {
		return nil
	}
	out := make([]string, len(fields))
	const few = 16 // which are compared sooner than a map is made
	var seen map[string]int
	if len(fields) > few {
		seen = make(map[string]int, len(fields))
	}
	for i := range fields {
		key := fields[i].Key
		n := seen[key]
		if seen != nil {
			seen[key]++
		} else {
			for j := range i {
				if fields[j].Key == key {
					n++
				}
			}
		}
		if n == 0 && !k.reserved(key) {
			out[i] = key
			continue
		}
		out[i] = k.rename(occurrence{key, n})
	}
	return out
}

func (k *FieldKeys) reserved(key string) bool {
	is, known := k.judged[key]
	if !known {
		is = k.taken[strings.ToLower(key)] || k.Reserve != nil && k.Reserve(key)
		k.judged[key] = is
	}
	return is
}

// Clash says whether some field of an item can't have its own key.
func (k *FieldKeys) Clash(fields []nav.Field) bool {
	for i := range fields {
		if k.reserved(fields[i].Key) {
			return true
		}
		for j := range i {
			if fields[j].Key == fields[i].Key {
				return true
			}
		}
	}
	return false
}

// rename finds a key that is free, the same for every item.
func (k *FieldKeys) rename(o occurrence) string {
	if name := k.renamed[o]; name != "" {
		return name
	}
	if k.all == nil {
		k.all = map[string]bool{}
		for fields := range k.data.AllFields() {
			for i := range fields {
				k.all[strings.ToLower(fields[i].Key)] = true
			}
		}
	}
	name := ""
	for n := 2; name == "" || k.all[strings.ToLower(name)] || k.reserved(name); n++ {
		name = fmt.Sprintf("%s_%d", o.key, n)
	}
	k.all[strings.ToLower(name)] = true
	k.renamed[o] = name
	why := "a property has that name"
	if o.n > 0 {
		why = "an earlier field has the same name"
	}
	k.Ledger = append(k.Ledger, nav.Entry{KindWord: "field", What: nav.PropertyFieldName, Old: o.key, New: name, Why: why,
		Count: 1})
	return name
}
