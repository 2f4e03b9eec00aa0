package card

import (
	"errors"
	"io/fs"
	"slices"

	"gyrolith/core/safefile"
)

// reason words what a card's file system says.
func reason(err error) string {
	err = safefile.Bare(err)
	is := func(list []error) bool {
		return slices.ContainsFunc(list, func(x error) bool { return errors.Is(err, x) })
	}
	switch {
	case is(cardFull):
		return "the card is full"
	case is(cardReadOnly):
		return "the card is read-only: is its lock switched on?"
	case is(badName):
		return "the card's file system can't store this name"
	case is(cardGone):
		return "the card does not respond: was it taken out?"
	case errors.Is(err, fs.ErrNotExist):
		return "its folder is gone: was the card taken out?"
	case errors.Is(err, fs.ErrPermission):
		return "permission denied on the card"
	}
	return err.Error()
}
