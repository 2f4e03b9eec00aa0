package motion

import "gyrolith/core/nav"

// What the track of a vessel that was heard by radio has for its type, and the own ship's for its comment.
const (
	ContactType = "AIS"
	OwnShip     = "own ship"
)

// IsContact says whether a track is that of another vessel, and no recording of one's own.
func IsContact(t *nav.Track) bool { return t.Type == ContactType && t.Comment != OwnShip }
