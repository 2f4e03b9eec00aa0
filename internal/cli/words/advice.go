package words

import (
	"errors"
	"fmt"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain/kit"
	"gyrolith/core/dress"
	"gyrolith/core/elevate"
	"gyrolith/core/param"
)

// adviceTexts are what the core's advice means on a command line. %s is what the advice is about.
var adviceTexts = map[advice.Code]string{
	advice.AllowNesting:  "--max-nesting allows more",
	advice.AllowUnpacked: "--max-unpacked allows more",
	advice.AllowRatio:    "--max-ratio allows more",
	advice.Salvage:       "--salvage takes what is complete before that",
	advice.NameFormat:    "'gyrolith formats' lists the formats; --read-as NAME forces one",
	advice.AsSequence:    "--read-as geojsonseq reads a sequence",
	advice.NameZone:      "set the zone with --clock",
	advice.GiveFixes:     "--fixes FILE looks it up in a list of known fixes",
	advice.ChooseTalker:  "--talker %s takes one alone",
	advice.RealFixes:     "leave them out with --real-fixes",
	advice.NameEncoding:  "name another with --encoding",
	advice.SayO:          "say which with --o-means west or east",
	advice.LeaveHidden:   "leave them out with --no-hidden",
	advice.NameFirstDay:  "give the day of the first with --day",
	advice.NameDay:       "set another day with --as-of",

	advice.NameSystemIn: "give it with --crs-in, such as --crs-in 32732; 'gyrolith crs WORD' finds the number",
	advice.DropSystemIn: "leave --crs-in out, or name the columns with --columns-in easting=…,northing=…",
	advice.NameSystem:   "give it with --crs",
	advice.FindSystem:   "'gyrolith crs WORD' finds the numbers",
	advice.NameShiftIn: "give one with --shift X,Y,Z, --shift-grid FILE or --shift none, or choose another system with " +
		"--crs-in",
	advice.NameShift:      "give one with --shift X,Y,Z, --shift-grid FILE or --shift none",
	advice.AskWhen:        "'gyrolith when %s --along TRACKS' finds where recordings were at these times",
	advice.NameColumns:    "name them by title or number: --columns-in lat=TITLE,lon=TITLE",
	advice.NumberColumns:  "give column numbers instead, as in --columns-in lat=2,lon=3",
	advice.StateHeights:   "--heights-above says what they are above: sea, ellipsoid, ground or pressure",
	advice.StepOverGround: "--step %s adds points there",
	advice.MoveDates:      "'gyrolith clean --around %s' moves them",
	advice.NameDatum:      "--crs-in %s reads them so",
	advice.SwapColumns:    "--columns-in %s swaps them",
	advice.NameLines:      "--line-by %s turns them into routes or tracks",
	advice.ItemsAsRows:    "--rows items writes one row per item",
	advice.PointsOfTracks: "--track-points writes them",

	advice.ChooseOne:   "--take routes:NAME chooses one",
	advice.ChooseLess:  "choose fewer items with --take, or thin the lines with 'gyrolith clean --thin-to'",
	advice.ChooseGroup: "choose one with --take waypoints:GROUP, or make one route of all with --name NAME",
	advice.LookAtIt:    "'gyrolith look' shows what is in it",
	advice.ListSymbols: "'gyrolith symbols' lists them",
	advice.AskForSomething: "choose a conversion, such as --tracks-to routes, or --reverse, --join, --split-at, " +
		"--speed or --shift-time",
	advice.TracksToRoutes: "'gyrolith recast --tracks-to routes' turns them into routes",
	advice.MakeRoutes:     "'gyrolith recast --tracks-to routes' or --waypoints-to routes makes one",
	advice.RoutesToPoints: "'gyrolith recast --routes-to waypoints' gives points",
	advice.JoinFirst:      "--join makes one line of them",
	advice.JoinWider:      "--join-within sets how far apart they may be",
	advice.CloseWider:     "--closing-within sets how far apart they may be",
	advice.NameIt:         "--name sets another",
	advice.OtherOrder:     "--order file, name or near don't need them",
	advice.GiveStart:      "--depart and --speed set new ones",
	advice.GivePace:       "--speed sets them",
	advice.ShiftTimes:     "--shift-time moves them",
	advice.SetDeclination: "--declination sets it by hand",
	advice.LargerPicture:  "a larger --size or --scale leaves room for more",

	advice.Wait:              "add --wait 5min to wait for it to finish",
	advice.Replace:           "--replace overwrites it and keeps a backup",
	advice.ReplaceOurs:       "--replace overwrites it and keeps a backup",
	advice.ReplaceCard:       "--replace overwrites them and archives the old ones in %s",
	advice.PreferSide:        "--prefer card keeps it where the unit shows it, --prefer data moves it there",
	advice.AddOrReplace:      "--add keeps it and updates matching items; --replace removes it, after archiving it",
	advice.ReplaceUnreadable: "--replace archives and removes it",
	advice.LookAtUnit:        "'gyrolith boot --card %s' lists what is on it",
	advice.MergeShown:        "'gyrolith boot -o SHOWN.gpx' writes what the unit shows, to merge without a base",
	advice.BringHome:         "'gyrolith merge OFFICE --card %s -o FILE' takes these changes into the office's file",
	advice.KeepOffCard:       "name a folder elsewhere with --archives",
	advice.NameCard:          "name the card's folder with --card",
	advice.FinishOrUndo: "'gyrolith stow --finish --card %[1]s' completes it, 'gyrolith stow --undo --card %[1]s' " +
		"restores what was there",
	advice.UndoCard:   "'gyrolith stow --undo --card %s' restores what was there",
	advice.FinishCard: "'gyrolith stow --finish --card %s' tries again",
	advice.SetValue:   "--value %s=PATH names another",
	advice.ReadKeys:   "the keys are the options listed by 'gyrolith %s --help'",
}

// adviceWords says what to do; "" where there is no advice.
func adviceWords(a advice.Advice) string {
	text := adviceTexts[a.Code]
	if strings.Contains(text, "%") {
		return fmt.Sprintf(text, a.Arg)
	}
	return text
}

// Advised adds the advice to a text.
func Advised(text string, a advice.Advice) string {
	if w := adviceWords(a); w != "" {
		return text + "; " + w
	}
	return text
}

// Missing words the faults of what is not given at all.
func Missing(verb string, p *param.Error) string {
	switch {
	case errors.Is(p.Err, kit.ErrNoUnit):
		return verb + ": no unit given; add --unit NAME ('gyrolith units' lists them)"
	case errors.Is(p.Err, elevate.ErrNoSource):
		return verb + ": no source of heights given; add --terrain PATH, or --geoid GRID to convert heights above the " +
			"ellipsoid to " +
			"mean sea level"
	case errors.Is(p.Err, dress.ErrNoRules):
		return verb + ": no rules given; add --rules FILE, or --match KIND:GLOB with what to set; 'gyrolith dress --help' " +
			"shows both"
	}
	return ""
}

// AdvisedError is the text of an error with its advice.
func AdvisedError(err error) string { return Advised(err.Error(), advice.Of(err)) }
