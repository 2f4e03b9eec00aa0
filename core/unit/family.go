package unit

import "strings"

// family is the names that begin with the same word: Mooring 11, Mooring 12, Mooring office.
type family struct {
	members []map[string]bool // the words of each
	with    map[string][]int  // the members that have a word
}

// key is the word by which a name belongs to its family: the one that says what it is.
func key(list []word) string {
	if i := headOf(list); i >= 0 {
		return list[i].key
	}
	return ""
}

// Learn tells the namer names that it is going to be asked to fit, so that what they share can go and what tells them
// apart can stay, and so that no other name takes the place of one that fits as it is.
func (n *Namer) Learn(names ...string) {
	for _, name := range names {
		text := n.spelled(name)
		if text == "" || n.learned[text] {
			continue
		}
		n.learned[text] = true
		if as := n.asItIs(text); as != "" {
			n.claimed[strings.ToLower(as)]++
		}
		if n.text.Length == 0 {
			continue
		}
		list := words(text)
		f := n.families[key(list)]
		if f == nil {
			f = &family{with: map[string][]int{}}
			n.families[key(list)] = f
		}
		member := map[string]bool{}
		for _, w := range list {
			if !member[w.key] {
				member[w.key] = true
				f.with[w.key] = append(f.with[w.key], len(f.members))
			}
		}
		f.members = append(f.members, member)
	}
}

// family finds the family of a name; an empty one where it has none.
func (n *Namer) family(list []word) *family {
	if f := n.families[key(list)]; f != nil {
		return f
	}
	return &family{}
}

// shares says whether all names of the family have a word.
func (f *family) shares(text string) bool {
	return len(f.members) > 1 && len(f.with[text]) == len(f.members)
}

// needs says whether a name could be taken for another one of its family without one of its words.
func (f *family) needs(list []word, without int) bool {
	var left []string
	for i, w := range list {
		if i != without {
			left = append(left, w.key)
		}
	}
	rarest := []int(nil)
	for _, text := range left {
		if with := f.with[text]; rarest == nil || len(with) < len(rarest) {
			rarest = with
		}
	}
	own := 0
	for _, m := range rarest {
		fits := true
		for _, text := range left {
			fits = fits && f.members[m][text]
		}
		if fits {
			own++
		}
	}
	return own > 1
}
