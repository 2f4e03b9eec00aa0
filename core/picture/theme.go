package picture

import (
	"fmt"

	"gyrolith/core/nav"
)

// Theme is the set of colours of a drawing.
type Theme struct {
	Name                          string
	Paper, Ink, Faint, Grid       nav.Colour
	Ground, Sea, Contour          nav.Colour
	Panel                         nav.Colour
	Climb, Steep                  nav.Colour
	Lines                         []nav.Colour // of tracks and routes that have none of their own
	Area, Hazard, Symbol, Removed nav.Colour
}

func faded(c nav.Colour, alpha uint8) nav.Colour { c.A = alpha; return c }

// The lines' colours stay apart for the colour-blind: M. Okabe and K. Ito, Color Universal Design, 2008, in another
// order and without its yellow.
var (
	blue, vermilion, green = nav.RGB(0, 114, 178), nav.RGB(213, 94, 0), nav.RGB(0, 158, 115)
	orange, sky            = nav.RGB(230, 159, 0), nav.RGB(86, 180, 233)
)

// Themes are the themes by their words.
var Themes = map[string]*Theme{
	"light": {Name: "light", Paper: nav.RGB(250, 250, 247), Ink: nav.RGB(28, 33, 38), Faint: nav.RGB(105, 112, 118),
		Grid: nav.RGB(196, 201, 204), Ground: nav.RGB(236, 232, 218), Sea: nav.RGB(206, 225, 236),
		Contour: nav.RGB(176, 152, 118), Panel: nav.RGB(255, 255, 255), Climb: nav.RGB(230, 159, 0),
		Steep: nav.RGB(170, 40, 20), Lines: []nav.Colour{blue, vermilion, green, nav.RGB(150, 60, 120),
			nav.RGB(118, 90, 10), nav.RGB(70, 70, 70)},
		Area: nav.RGB(204, 121, 167), Hazard: nav.RGB(190, 30, 45), Symbol: nav.RGB(28, 33, 38),
		Removed: nav.RGB(190, 30, 45)},
	"dark": {Name: "dark", Paper: nav.RGB(22, 26, 30), Ink: nav.RGB(228, 232, 235), Faint: nav.RGB(150, 158, 165),
		Grid: nav.RGB(62, 69, 76), Ground: nav.RGB(48, 51, 46), Sea: nav.RGB(24, 40, 54),
		Contour: nav.RGB(120, 105, 80), Panel: nav.RGB(32, 37, 42), Climb: nav.RGB(230, 159, 0),
		Steep: nav.RGB(255, 110, 90), Lines: []nav.Colour{sky, orange, nav.RGB(60, 200, 150), nav.RGB(224, 150, 190),
			nav.RGB(255, 110, 80), nav.RGB(220, 220, 220)},
		Area: nav.RGB(224, 150, 190), Hazard: nav.RGB(255, 100, 100), Symbol: nav.RGB(228, 232, 235),
		Removed: nav.RGB(255, 100, 100)},
	"print": {Name: "print", Paper: nav.RGB(255, 255, 255), Ink: nav.RGB(0, 0, 0), Faint: nav.RGB(80, 80, 80),
		Grid: nav.RGB(190, 190, 190), Ground: nav.RGB(250, 250, 248), Sea: nav.RGB(228, 238, 244),
		Contour: nav.RGB(180, 170, 155), Panel: nav.RGB(255, 255, 255), Climb: nav.RGB(200, 200, 200),
		Steep: nav.RGB(110, 110, 110), Lines: []nav.Colour{nav.RGB(0, 80, 140), nav.RGB(180, 60, 0), nav.RGB(0, 110, 80),
			nav.RGB(150, 60, 110), nav.RGB(60, 60, 60)},
		Area: nav.RGB(150, 60, 110), Hazard: nav.RGB(170, 0, 20), Symbol: nav.RGB(0, 0, 0), Removed: nav.RGB(170, 0, 20)},
}

// ParseTheme finds a theme by its word.
func ParseTheme(word string) (*Theme, error) {
	if word == "" {
		word = "light"
	}
	t, ok := Themes[word]
	if !ok {
		return nil, fmt.Errorf("%q is not a theme: use light, dark or print", word)
	}
	return t, nil
}
