package cli

import (
	"errors"
	"fmt"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain/kit"
	"gyrolith/core/dress"
	"gyrolith/core/param"
	"gyrolith/core/terrain"
)

// words are what the core's advice means on a command line. %s is what the advice is about.
var words = map[advice.Code]string{
	advice.AllowNesting:  "--max-nesting allows more",
	advice.AllowUnpacked: "--max-unpacked allows more",
	advice.AllowRatio:    "--max-ratio allows more",
	advice.Salvage:       "--salvage takes what is complete before that",
	advice.NameFormat:    "'gyrolith formats' lists what is read, --read-as NAME insists on one",
	advice.AsSequence:    "--read-as geojsonseq reads a sequence",
	advice.NameZone:      "--clock names the zone",
	advice.GiveFixes:     "--fixes FILE looks it up in a file of known fixes",
	advice.NameDay:       "--as-of names another day",

	advice.NameSystemIn: "--crs-in names it, such as --crs-in 32732; 'gyrolith crs WORD' finds it",
	advice.DropSystemIn: "leave --crs-in out, or name the columns with --columns-in easting=…,northing=…",
	advice.NameSystem:   "--crs names it",
	advice.FindSystem:   "'gyrolith crs WORD' finds the numbers",
	advice.NameShiftIn: "say it with --shift X,Y,Z, --shift-grid FILE or --shift none, or name another system with " +
		"--crs-in",
	advice.NameShift:      "say it with --shift X,Y,Z, --shift-grid FILE or --shift none",
	advice.AskWhen:        "'gyrolith when %s --along TRACKS' says where recordings were at these times",
	advice.NameColumns:    "name them with --columns-in lat=TITLE,lon=TITLE, by their titles or numbers",
	advice.NumberColumns:  "number the columns instead, as in --columns-in lat=2,lon=3",
	advice.SwapColumns:    "--columns-in %s reads them the other way",
	advice.NameLines:      "--line-by %s makes routes or tracks of them",
	advice.ItemsAsRows:    "--rows items has a row for each item",
	advice.PointsOfTracks: "--track-points writes them",

	advice.ChooseOne:   "--take routes:NAME chooses one",
	advice.ChooseLess:  "choose less with --take, or thin the lines with 'gyrolith clean --thin-to'",
	advice.ChooseGroup: "choose one with --take waypoints:GROUP, or make one of all with --name NAME",
	advice.LookAtIt:    "'gyrolith look' shows what is in it",
	advice.ListSymbols: "'gyrolith symbols' lists them",
	advice.AskForSomething: "say what becomes of a kind, such as --tracks-to routes, or --reverse, --join, --split-at, " +
		"--speed or --shift-time",
	advice.TracksToRoutes: "'gyrolith recast --tracks-to routes' makes plans of them",
	advice.MakeRoutes:     "'gyrolith recast --tracks-to routes' or --waypoints-to routes makes one",
	advice.RoutesToPoints: "'gyrolith recast --routes-to waypoints' gives points",
	advice.JoinFirst:      "--join makes one of them",
	advice.JoinWider:      "--join-within says how far they may be",
	advice.CloseWider:     "--closing-within says how far they may be",
	advice.NameIt:         "--name gives it another",
	advice.OtherOrder:     "--order file, name or near do without",
	advice.GiveStart:      "--depart and --speed give new ones",
	advice.GivePace:       "--speed gives them",
	advice.ShiftTimes:     "--shift-time moves them",
	advice.SetDeclination: "--declination sets the declination by hand",
	advice.LargerPicture:  "a larger --size or --scale has room for more",

	advice.Wait:              "--wait 5min waits for it to finish",
	advice.Replace:           "--replace writes it and keeps the old one beside",
	advice.ReplaceOurs:       "--replace writes it and keeps the other beside",
	advice.ReplaceCard:       "--replace writes them and archives the old ones in %s",
	advice.AddOrReplace:      "--add keeps it and updates the same items, --replace takes it off, archived",
	advice.ReplaceUnreadable: "--replace archives it and takes it off",
	advice.LookAtUnit:        "'gyrolith boot --card %s' shows what there is",
	advice.MergeShown:        "'gyrolith boot -o SHOWN.gpx' writes what the unit shows, to be merged without a base",
	advice.BringHome:         "'gyrolith merge OFFICE --card %s -o FILE' brings that into the office's file",
	advice.KeepOffCard:       "--archives names a folder elsewhere",
	advice.NameCard:          "--card names the folder that is the card",
	advice.FinishOrUndo: "'gyrolith stow --finish --card %[1]s' carries it through, 'gyrolith stow --undo --card %[1]s' " +
		"puts back what was there",
	advice.UndoCard:   "'gyrolith stow --undo --card %s' puts back what was there",
	advice.FinishCard: "'gyrolith stow --finish --card %s' tries again",
	advice.SetValue:   "--value %s=PATH names another",
	advice.ReadKeys:   "its keys are the options that 'gyrolith %s --help' lists",
}

// adviceWords says what to do; "" where there is no advice.
func adviceWords(a advice.Advice) string {
	text := words[a.Code]
	if strings.Contains(text, "%") {
		return fmt.Sprintf(text, a.Arg)
	}
	return text
}

// advised adds the advice to a text.
func advised(text string, a advice.Advice) string {
	if w := adviceWords(a); w != "" {
		return text + "; " + w
	}
	return text
}

// missing words the faults of what is not given at all.
func missing(verb string, p *param.Error) string {
	switch {
	case errors.Is(p.Err, kit.ErrNoUnit):
		return verb + ": say for which unit: --unit NAME; 'gyrolith units' lists them"
	case errors.Is(p.Err, terrain.ErrNoSource):
		return verb + ": say where the heights come from: --terrain PATH, or --geoid GRID to bring heights above the " +
			"ellipsoid to " +
			"mean sea level"
	case errors.Is(p.Err, dress.ErrNoRules):
		return verb + ": say by which rules: --rules FILE, or --match KIND:GLOB with what to set; 'gyrolith dress --help' " +
			"shows both"
	}
	return ""
}

// advisedError is the text of an error with its advice.
func advisedError(err error) string { return advised(err.Error(), advice.Of(err)) }
