package nav

import (
	"encoding/hex"
	"fmt"
	"strings"
	"sync"
)

// ParseColour reads #rrggbb or #rrggbbaa, or the word for a colour in one of several languages.
func ParseColour(text string) (Colour, bool) {
	digits, ok := strings.CutPrefix(text, "#")
	if !ok {
		c, ok := colourWords()[strings.ToLower(strings.TrimSpace(text))]
		return c, ok
	}
	if len(digits) == 3 { // each stands for two of the same
		digits = strings.Repeat(digits[:1], 2) + strings.Repeat(digits[1:2], 2) + strings.Repeat(digits[2:], 2)
	}
	b, err := hex.DecodeString(digits)
	if err != nil || len(b) != 3 && len(b) != 4 {
		return Colour{}, false
	}
	c := RGB(b[0], b[1], b[2])
	if len(b) == 4 {
		c.A = b[3]
	}
	return c, true
}

// colourWords are the words for colours, with the values that CSS Color Module Level 4, section 6.1, has for the
// English ones.
var colourWords = sync.OnceValue(func() map[string]Colour {
	out := map[string]Colour{}
	for _, c := range []struct {
		r, g, b uint8
		words   string
	}{
		{0, 0, 0, "black schwarz noir negro nero preto zwart svart sort czarny černá musta"},
		{255, 255, 255, "white weiß weiss blanc blanco bianco branco wit hvid hvit vit biały bílá valkoinen"},
		{255, 0, 0, "red rot rouge rojo rosso vermelho rood rød röd czerwony červená punainen"},
		{0, 128, 0, "green grün gruen vert verde groen grøn grønn grön zielony zelená vihreä"},
		{0, 0, 255, "blue blau bleu azul blu blauw blå niebieski modrá sininen"},
		{255, 255, 0, "yellow gelb jaune amarillo giallo amarelo geel gul żółty žlutá keltainen"},
		{255, 165, 0, "orange naranja arancione laranja oranje oransje pomarańczowy oranžová oranssi"},
		{128, 0, 128, "purple violet lila violett violeta viola morado roxo paars fioletowy fialová violetti"},
		{165, 42, 42, "brown braun brun marron marrón marrone castanho bruin brązowy hnědá ruskea"},
		{128, 128, 128, "grey gray grau gris grigio cinza cinzento grijs grå szary šedá harmaa"},
		{255, 192, 203, "pink rosa rose roze różowy růžová vaaleanpunainen"},
		{0, 255, 255, "cyan aqua türkis turquoise turquesa turchese"},
		{255, 0, 255, "magenta fuchsia"},
	} {
		for w := range strings.FieldsSeq(c.words) {
			out[w] = RGB(c.r, c.g, c.b)
		}
	}
	return out
})

// String writes the colour as #rrggbb, with the opacity behind it where it is not opaque; "" if unset.
func (c Colour) String() string {
	switch {
	case !c.Set:
		return ""
	case c.A == 255:
		return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B)
	}
	return fmt.Sprintf("#%02x%02x%02x%02x", c.R, c.G, c.B, c.A)
}
