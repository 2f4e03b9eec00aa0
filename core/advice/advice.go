// Package advice names what a user can do about a fault or a loss. The core attaches the name; whoever talks to the
// user turns it into words that fit the place: an option of a command line, a key of a recipe, a field of a form.
package advice

import (
	"errors"
	"fmt"
)

// Code names one way to help.
type Code string

// Limits and forms of reading.
const (
	AllowNesting   Code = "allow-nesting"
	AllowUnpacked  Code = "allow-unpacked"
	AllowRatio     Code = "allow-ratio"
	Salvage        Code = "salvage"
	NameFormat     Code = "name-format"
	AsSequence     Code = "as-sequence" // of GeoJSON
	ChooseTalker   Code = "choose-talker"
	RealFixes      Code = "real-fixes"
	NameEncoding   Code = "name-encoding"
	SayO           Code = "say-o"
	LeaveHidden    Code = "leave-hidden"
	NameZone       Code = "name-zone"
	GiveFixes      Code = "give-fixes"
	MoveDates      Code = "move-dates"     // Arg is the day
	NameFirstDay   Code = "name-first-day" // of times without a date
	NameDay        Code = "name-day"       // of the magnetic declination
	StateHeights   Code = "state-heights"
	StepOverGround Code = "step-over-ground" // Arg is the distance
)

// Tables, layers and coordinate systems.
const (
	NameSystemIn   Code = "name-system-in"
	DropSystemIn   Code = "drop-system-in"
	NameSystem     Code = "name-system"
	FindSystem     Code = "find-system"
	NameShiftIn    Code = "name-shift-in"
	NameShift      Code = "name-shift"
	NameColumns    Code = "name-columns"
	AskWhen        Code = "ask-when" // Arg is the file
	NumberColumns  Code = "number-columns"
	SwapColumns    Code = "swap-columns" // Arg is the layout
	NameDatum      Code = "name-datum"   // Arg is the system
	NameLines      Code = "name-lines"   // Arg is the column
	ItemsAsRows    Code = "items-as-rows"
	PointsOfTracks Code = "points-of-tracks"
)

// Choosing and recasting.
const (
	ChooseOne       Code = "choose-one" // Arg is the kind
	ChooseLess      Code = "choose-less"
	ChooseGroup     Code = "choose-group"
	LookAtIt        Code = "look-at-it"
	ListSymbols     Code = "list-symbols"
	AskForSomething Code = "ask-for-something"
	TracksToRoutes  Code = "tracks-to-routes"
	MakeRoutes      Code = "make-routes"
	RoutesToPoints  Code = "routes-to-points"
	JoinFirst       Code = "join-first"
	JoinWider       Code = "join-wider"
	CloseWider      Code = "close-wider"
	NameIt          Code = "name-it"
	OtherOrder      Code = "other-order"
	GiveStart       Code = "give-start"
	GivePace        Code = "give-pace"
	ShiftTimes      Code = "shift-times"
	SetDeclination  Code = "set-declination"
	LargerPicture   Code = "larger-picture"
)

// Outputs and cards.
const (
	Wait        Code = "wait" // for another program
	Replace     Code = "replace"
	ReplaceOurs Code = "replace-ours"
	SetValue    Code = "set-value"    // Arg is the value of a recipe
	ReadKeys    Code = "read-keys"    // Arg is the verb
	ReplaceCard Code = "replace-card" // Arg is the folder for archives
	KeepOffCard Code = "keep-off-card"

	AddOrReplace      Code = "add-or-replace"
	PreferSide        Code = "prefer-side"
	ReplaceUnreadable Code = "replace-unreadable"
	LookAtUnit        Code = "look-at-unit" // Arg is the card
	MergeShown        Code = "merge-shown"
	BringHome         Code = "bring-home" // Arg is the card
	NameCard          Code = "name-card"
	FinishOrUndo      Code = "finish-or-undo" // Arg is the card
	UndoCard          Code = "undo-card"      // Arg is the card
	FinishCard        Code = "finish-card"    // Arg is the card
)

// Advice is a way to help, with what it is about.
type Advice struct {
	Code Code
	Arg  string
}

// Error is an error with advice. It reads like the error that it wraps.
type Error struct {
	Advice
	Err error
}

func (e *Error) Error() string { return e.Err.Error() }

// Unwrap gives the error without advice.
func (e *Error) Unwrap() error { return e.Err }

// Errorf makes an error with advice.
func Errorf(code Code, format string, args ...any) error {
	return &Error{Advice{Code: code}, fmt.Errorf(format, args...)}
}

// About makes an error with advice that is about something, such as a card.
func About(code Code, arg, format string, args ...any) error {
	return &Error{Advice{code, arg}, fmt.Errorf(format, args...)}
}

// Of finds the advice of an error; the zero advice is none.
func Of(err error) Advice {
	if e, ok := errors.AsType[*Error](err); ok {
		return e.Advice
	}
	if e, ok := errors.AsType[interface {
		error
		Advised() Advice
	}](err); ok {
		return e.Advised()
	}
	return Advice{}
}
