package identity

import "gyrolith/core/nav"

// Common gives what is said of all of some items in the same words, and visits what only some of them say: the item's
// place among them and the word of the property.
func Common(items []*nav.Item, differs func(i int, word string)) (out nav.Item) {
	var areas []nav.Area
	var things []*Thing
	for _, it := range items {
		areas = append(areas, nav.Area{Item: *it})
	}
	for i := range areas {
		things = append(things, &Thing{Kind: nav.Areas, Item: &areas[i].Item, Area: &areas[i]})
	}
	made := nav.Area{}
	to := &Thing{Kind: nav.Areas, Item: &made.Item, Area: &made}
	for _, p := range Properties(things...) {
		first, same := p.get(things[0]), true
		for _, t := range things[1:] {
			same = same && p.get(t) == first
		}
		if same && p.Word != "id" {
			p.take(to, things[0])
			continue
		}
		for i, t := range things {
			if p.isSaidOf(t) && p.Word != Course && p.Word != "id" {
				differs(i, p.Word)
			}
		}
	}
	return made.Item
}
