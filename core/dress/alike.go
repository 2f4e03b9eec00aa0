package dress

import "gyrolith/core/nav"

// alike counts the items of which a rule made the name one that another of their kind has, though the two could be told
// apart before, and gives one of these names; and those whose name it took away.
func alike(d *nav.Dataset, l nav.Ledger) (count int, name string, nameless int) {
	type of struct {
		kind nav.Kind
		name string
	}
	became := map[of]map[string]int{} // how many came from each earlier name
	for i := range l {
		switch e := &l[i]; {
		case e.What != nav.PropertyName:
		case e.New == "":
			nameless++
		default:
			k := of{e.Kind, e.New}
			if became[k] == nil {
				became[k] = map[string]int{}
			}
			became[k][e.Old]++
		}
	}
	if len(became) == 0 {
		return 0, "", nameless
	}
	d.Each(func(kind nav.Kind, it *nav.Item) {
		if from := became[of{kind, it.Name}]; from != nil {
			from[it.Name]++ // with those that had it before; taken back below
		}
	})
	for k, from := range became {
		renamed, all := 0, from[k.name]
		for old, n := range from {
			if old != k.name {
				renamed += n
			}
		}
		if len(from) > 2 || all > renamed {
			if count += renamed; name == "" || k.name < name {
				name = k.name
			}
		}
	}
	return count, name, nameless
}
