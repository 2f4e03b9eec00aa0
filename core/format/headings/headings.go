// Package headings knows what the words above columns and on attributes mean, in the languages that offices use.
package headings

import (
	"maps"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"gyrolith/core/pattern"
)

// heads are the words that stand above columns in several languages, by what the column holds, the surest first. They
// are compared without marks on the letters, case and signs.
var heads = map[string][]string{
	"lat": {"lat", "latitude", "latitud", "latitudine", "latitudes", "breite", "breitengrad", "geogr breite",
		"geographische breite", "breddegrad", "breddgrad", "bredde", "breedtegraad", "breedte",
		"szerokosc", "szerokosc geograficzna", "sirka", "zemepisna sirka", "leveysaste", "leveyspiiri", "phi", "широта",
		"πλάτος", "γεωγραφικό πλάτος", "緯度", "纬度", "위도", "enlem"},
	"lon": {"lon", "long", "lng", "longitude", "longitud", "longitudine", "longitudes", "lange", "laenge", "langengrad",
		"laengengrad", "geogr lange", "geographische lange", "lengdegrad", "laengdegrad", "langdgrad",
		"lengde", "lengtegraad", "lengte", "dlugosc", "dlugosc geograficzna", "delka", "zemepisna delka", "pituusaste",
		"pituuspiiri", "lambda", "долгота", "μήκος", "γεωγραφικό μήκος", "経度", "经度", "경도", "boylam"},
	"position": {"position", "pos", "coordinates", "coordinate", "coords", "coord", "koordinaten", "koordinate",
		"koordinater", "koordinat", "coordonnees", "coordenadas", "coordinate geografiche", "coordinaten",
		"lat lon", "lat long", "latlon", "latlong", "lat lng", "mgrs", "mgrs reference", "grid reference", "grid ref",
		"gridref", "utm", "utmref", "location", "standort", "posicion", "posizione", "posicao", "positie", "sijainti",
		"polozenie", "wkt", "wkb", "ewkb", "geom", "geometry", "the geom", "geojson", "wkt geom", "wkb geometry",
		"geometrie", "geometria"},
	"easting": {"easting", "eastings", "east", "e", "rechtswert", "rechts", "rw", "ostwert", "ost", "estinc", "est",
		"este", "oost", "ostlig", "utm e", "utm easting", "utm east", "e utm"},
	"northing": {"northing", "northings", "north", "n", "hochwert", "hoch", "hw", "nordwert", "nord", "norte", "noord",
		"nordlig", "utm n", "utm northing", "utm north", "n utm"},
	"x": {"x", "x coord", "xcoord", "x coordinate", "coord x", "x koordinate", "coordonnee x", "coordenada x",
		"coordinata x", "point x", "pos x"},
	"y": {"y", "y coord", "ycoord", "y coordinate", "coord y", "y koordinate", "coordonnee y", "coordenada y",
		"coordinata y", "point y", "pos y"},
	"zone": {"zone", "utm zone", "zona", "fuso", "fuseau", "huso", "sone", "zon", "strefa", "vyohyke"},
	"height": {"height", "elevation", "ele", "elev", "alt", "altitude", "hohe", "hoehe", "hoehenlage", "hauteur",
		"altura", "altitud", "altitudine", "cota", "quota", "elevacion", "hoogte", "hoyde", "hojde", "hojd",
		"wysokosc", "vyska", "korkeus", "z", "h", "hight",
		"ellipsoidal height", "ellipsoid height", "height above ellipsoid", "ellipsoidische hohe", "orthometric height",
		"height above sea level", "hohe uber ellipsoid", "высота", "υψόμετρο", "標高", "高度", "海拔", "고도", "yükseklik"},
	"depth": {"depth", "tiefe", "profondeur", "profundidad", "profondita", "profundidade", "diepte", "dybde", "djup",
		"glebokosc", "hloubka", "syvyys"},
	"name": {"name", "waypoint", "waypoint name", "station", "stationsname", "station name", "punktname", "bezeichnung",
		"nom", "nombre", "nome", "naam", "navn", "namn", "nazwa", "nazev", "nimi", "point name", "site", "site name", "label",
		"title", "titel", "ort", "lieu", "lugar", "luogo", "place", "plats", "sted", "stasjon", "stazione", "estacion",
		"estacao", "wpt", "wp", "ident", "identifier", "punkt", "point", "punto", "ponto", "buoy", "buoy name", "tonne",
		"boje", "bake", "bouee", "balise", "boa", "boya", "boei", "boye", "boj", "mark", "marke", "seamark", "beacon",
		"hutte", "huette", "hut", "refuge", "refugio", "rifugio", "cabane", "hytte", "stuga", "code", "id", "point id",
		"punktnummer", "punkt nr", "nr", "no", "название", "имя", "όνομα", "名前", "名称", "地点", "이름", "ad"},
	"description": {"description", "desc", "beschreibung", "descripcion", "descrizione", "descricao", "omschrijving",
		"beskrivelse", "beskrivning", "opis", "popis", "kuvaus", "remarks", "remark", "bemerkung", "bemerkungen",
		"remarque", "remarques", "observaciones", "note", "notes", "notiz", "notizen", "anmerkung", "opmerking", "merknad",
		"anmarkning", "huomautus", "описание", "περιγραφή", "説明", "描述", "설명", "примечание", "備考", "备注"},
	"comment": {"comment", "comments", "kommentar", "commentaire", "commentaires", "comentario", "comentarios",
		"commento", "commenti", "cmt"},
	"time": {"time", "datetime", "date time", "timestamp", "time stamp", "zeitpunkt", "zeitstempel", "utc",
		"time utc", "zeit", "uhrzeit", "heure", "hora", "ora", "tid", "tijd", "tijdstip", "horodatage", "klokkeslett",
		"klockslag", "czas", "cas", "aika", "recorded", "recorded at", "время", "ώρα", "時刻", "時間", "时间", "시간"},
	"date": {"date", "datum", "dato", "fecha", "data", "jour", "dia", "day", "tag", "giorno", "dag", "dd",
		"paivamaara", "pvm", "дата", "ημερομηνία", "日付", "日期", "날짜"},
	"symbol": {"symbol", "sym", "icon", "zeichen", "symbole", "simbolo", "symbool", "symboli"},
	"colour": {"colour", "color", "farbe", "couleur", "colore", "cor", "kleur", "farge", "farve", "farg", "kolor",
		"barva", "vari"},
	"group": {"group", "gruppe", "groupe", "grupo", "gruppo", "groep", "grupp", "grupa", "skupina", "ryhma",
		"folder", "ordner", "category", "kategorie", "categorie", "categoria"},
	"type":    {"type"},
	"kind":    {"kind"},
	"line":    {"line"},
	"item":    {"item"},
	"item id": {"item id"},
	"segment": {"segment"},
	"speed": {"speed", "speed m s", "geschwindigkeit", "vitesse", "velocidad", "velocita", "snelheid", "hastighet",
		"hastighed", "fart"},
	"course": {"course", "cog", "kurs", "cap", "rumbo", "rotta", "koers"},
	"time zone": {"tz", "timezone", "time zone", "zeitzone", "utc offset", "gmt offset", "fuseau horaire", "zona horaria",
		"fuso orario", "tidssone", "tidszon", "tijdzone", "tzid", "tz offset"},
	"year": {"year", "jahr", "ano", "annee", "anno", "jaar", "ar", "rok", "yyyy", "vuosi"},
	"month": {"month", "monat", "mes", "mois", "mese", "maand", "maned", "manad", "mm", "miesiac", "mesic",
		"kuukausi"},
	"hour":   {"hour", "hours", "stunde", "stunden", "hora utc", "heures", "uur", "timme", "time h", "hh", "hr"},
	"minute": {"minute", "minutes", "minuto", "minuut", "minutt", "minut", "min"},
	"second": {"second", "seconds", "sekunde", "sekunden", "seconde", "segundo", "secondo", "sec", "ss"},
	"north south": {"hemisphere", "hemi", "halbkugel", "hemisferio", "emisfero", "halvkule", "n s", "ns",
		"lat hemisphere", "lat hemi", "lat ns", "lat dir", "lat n s"},
	"east west": {"e w", "ew", "e o", "lon hemisphere", "lon hemi", "lon ew", "lon dir", "lon e w"},
}

// OfLines are the words above a column that might name lines, to which --line-by is then pointed.
var OfLines = []string{"route", "track", "line", "linie", "ligne", "linea", "linha", "lijn", "linje", "transect",
	"transekt", "transecte", "path", "trail", "strecke", "leg", "profile", "profil"}

var (
	inBrackets = pattern.New(`[(\[{]([^)\]}]*)[)\]}]`)
	letters    = strings.NewReplacer("ß", "ss", "æ", "ae", "ø", "o", "ł", "l", "đ", "d", "Ł", "l", "Ø", "o", "Æ", "ae")
	// What may be added to a word for a coordinate.
	trimmings = pattern.New(
		`\b(?:wgs ?84|wgs|dd|ddm|dms|dec|deg|decimal|degrees|degree|grad|gps|geo|epsg ?\d+|etrs89|` +
			`utm(?: (?:zone )?\d{1,2} ?[ns]?)?|m|ft|feet|metres|meters|amsl|msl|utc|local)\b`)
	// DegreePart is the end of the title of a part of a coordinate.
	DegreePart = pattern.New(`\b(?:deg|degrees|grad|d|min|minutes|minuten|m|sec|seconds|sekunden|s)$`)
)

// Plain takes the marks off the letters of a name: Länge becomes Lange.
func Plain(name string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(letters.Replace(name)) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// Folded brings a title to small letters without marks, and other signs to single blanks.
func Folded(title string) string {
	var b strings.Builder
	blank := false
	for _, r := range norm.NFD.String(letters.Replace(title)) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if blank && b.Len() > 0 {
				b.WriteByte(' ')
			}
			blank = false
			b.WriteRune(unicode.ToLower(r))
		default:
			blank = true
		}
	}
	return b.String()
}

var headRanks = func() map[string]Heading {
	out := map[string]Heading{}
	for holds, words := range heads {
		for i, w := range words {
			out[Folded(w)] = Heading{holds, i}
		}
	}
	return out
}()

// Heading is what a title is taken for and how surely; the smallest rank is the surest.
type Heading struct {
	Holds string
	Rank  int
}

// Of says what a title is a word for, of a part of a coordinate too: Lat deg, Lat min.
func Of(title string) (Heading, bool) {
	plain := Folded(inBrackets.ReplaceAllString(title, " "))
	for _, t := range []string{plain, Folded(title), withoutMeasure(plain), withoutMeasure(Folded(title))} {
		if h, ok := headRanks[t]; ok {
			return h, true
		}
	}
	if bare := strings.Join(strings.Fields(trimmings.ReplaceAllString(plain, "")), " "); bare != "" && bare != plain {
		if h, ok := headRanks[bare]; ok {
			return Heading{h.Holds, h.Rank + 100}, true
		}
	}
	if r := []rune(title); len(r) == 10 { // as tables of attributes cut longer names
		for _, holds := range slices.Sorted(maps.Keys(heads)) {
			i := slices.IndexFunc(heads[holds], func(w string) bool { return len(w) > 10 && strings.HasPrefix(w, plain) })
			if i >= 0 && holds != "position" {
				return Heading{holds, i}, true
			}
		}
	}
	if bare, power := WithoutPower(plain); power != 0 {
		if h, ok := headRanks[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + sideRank}, true
		}
	}
	whole := Folded(title)
	if bare := strings.TrimSpace(DegreePart.ReplaceAllString(whole, "")); bare != whole {
		if h, ok := headRanks[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + partRank}, true
		}
	}
	if bare, side := withoutSide(title); side != "" {
		if h, ok := headRanks[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + sideRank}, true
		}
	}
	return Heading{}, false
}

// Words of the starts and ends of lines, folded, in the languages of offices.
var endWords = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("start begin beginning from von anfang beginn inicio inicial debut depart desde " +
		"inizio begynnelse fra fran begin1 start1 1") {
		out[w] = false
	}
	for w := range strings.FieldsSeq("end finish to bis ende fin final fine slut slutt til till hasta arrivee stop " +
		"einde 2") {
		out[w] = true
	}
	return out
}()

// EndOf finds what the column of the start or the end of a line holds, by its title: Start Lat, Lon to. It is "" where
// the title is none of such a column, or holds no position and no time.
func EndOf(title string) (holds string, end bool) {
	words := strings.Fields(Folded(inBrackets.ReplaceAllString(title, " ")))
	if len(words) < 2 {
		return "", false
	}
	for _, at := range []int{0, len(words) - 1} {
		end, ok := endWords[words[at]]
		if !ok {
			continue
		}
		h, known := Of(strings.Join(slices.Delete(slices.Clone(words), at, at+1), " "))
		if known && slices.Contains([]string{"lat", "lon", "position", "easting", "northing", "time"}, h.Holds) {
			return h.Holds, end
		}
	}
	return "", false
}

// IsDay says whether a title is that of the number of a day in its month.
func IsDay(title string) bool {
	return slices.Contains([]string{"day", "tag", "dia", "jour", "giorno", "dag", "den", "dzien", "paiva", "dd"},
		Folded(title))
}

// WithoutPower takes the power of ten off a folded title of whole numbers: lat e7 and late7 are degrees times 10⁷. The
// power is 0 where none is named.
func WithoutPower(folded string) (bare string, power int) {
	for n, end := range map[int]string{6: "e6", 7: "e7"} {
		if rest, ok := strings.CutSuffix(folded, end); ok {
			return strings.TrimSpace(rest), n
		}
	}
	return folded, 0
}

// Claimed lists the meanings among wanted that titles of fields would be taken for, where no column has them: a table
// then needs that column, though it is empty, so that the fields stay fields.
func Claimed(keys []string, wanted ...string) (out []string) {
	for _, key := range keys {
		if h, ok := Of(key); ok && slices.Contains(wanted, h.Holds) && !slices.Contains(out, h.Holds) {
			out = append(out, h.Holds)
		}
	}
	return
}

// sideRank is added for a title that names a hemisphere beside its word.
const sideRank = 50

// partRank is from where the ranks of parts of a coordinate begin.
const partRank = 200

// Part says whether the title is that of a part of a coordinate.
func (h Heading) Part() bool { return h.Rank >= partRank }

// Meanings says of the attributes of a layer what each holds; "" is a field. Of several with one meaning the surest has
// it.
func Meanings(titles []string, wanted ...string) []string {
	out := make([]string, len(titles))
	best := map[string]int{}
	for i, t := range titles {
		h, ok := Of(t)
		if !ok || !slices.Contains(wanted, h.Holds) {
			continue
		}
		if j, taken := best[h.Holds]; taken {
			if other, _ := Of(titles[j]); other.Rank <= h.Rank {
				continue
			}
			out[j] = ""
		}
		best[h.Holds], out[i] = i, h.Holds
	}
	return out
}
