package format

import (
	"fmt"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
)

// Charset is an encoding of texts that are not Unicode.
type Charset struct {
	Name string
	encoding.Encoding
}

// charsets are those that texts are tried in, the usual one first.
var charsets = []Charset{{"Windows-1252", charmap.Windows1252}, {"Windows-1250", charmap.Windows1250},
	{"Windows-1251", charmap.Windows1251}, {"Windows-1253", charmap.Windows1253}, {"Shift_JIS", japanese.ShiftJIS},
	{"EUC-JP", japanese.EUCJP}, {"GB18030", simplifiedchinese.GB18030}, {"EUC-KR", korean.EUCKR},
	{"Macintosh", charmap.Macintosh}, {"code page 850", charmap.CodePage850}, {"code page 852", charmap.CodePage852},
	{"code page 866", charmap.CodePage866}, {"KOI8-R", charmap.KOI8R}, {"Windows-1254", charmap.Windows1254}}

// GuessCharset finds the encoding in which a text that is not UTF-8 has the most words that are known, as counted by a
// function; the usual one where none has more.
func GuessCharset(raw []byte, known func(text string) int) *Charset {
	best, most := 0, -1
	for i := range charsets {
		text, err := charsets[i].NewDecoder().Bytes(raw)
		if err != nil || i > 0 && strings.ContainsRune(string(text), '\uFFFD') {
			continue
		}
		if n := known(string(text)); n > most {
			best, most = i, n
		}
	}
	return &charsets[best]
}

// CharsetNamed finds an encoding by a name of its own (WHATWG Encoding, 4.2) or the number of a code page.
func CharsetNamed(name string) (*Charset, error) {
	word := strings.ToLower(strings.TrimSpace(name))
	number := strings.TrimLeft(word, "abcdefghijklmnopqrstuvwxyz -_")
	if page := map[string]encoding.Encoding{"437": charmap.CodePage437, "850": charmap.CodePage850,
		"852": charmap.CodePage852, "855": charmap.CodePage855, "858": charmap.CodePage858, "860": charmap.CodePage860,
		"862": charmap.CodePage862, "863": charmap.CodePage863, "865": charmap.CodePage865, "866": charmap.CodePage866,
		"1250": charmap.Windows1250, "1251": charmap.Windows1251, "1252": charmap.Windows1252,
		"1253": charmap.Windows1253, "1254": charmap.Windows1254, "1257": charmap.Windows1257, "932": japanese.ShiftJIS,
		"936": simplifiedchinese.GBK, "949": korean.EUCKR, "54936": simplifiedchinese.GB18030}[number]; page != nil {
		return &Charset{name, page}, nil
	}
	if part, ok := strings.CutPrefix(number, "8859"); ok { // ISO 88591, 8859-1
		word = "iso-8859-" + strings.Trim(part, "-_ ")
	}
	enc, err := htmlindex.Get(word)
	if err != nil {
		return nil, fmt.Errorf("%q is not the name of an encoding: write windows-1250, shift_jis, gb18030, macintosh, cp850 "+
			"or the like", name)
	}
	return &Charset{name, enc}, nil
}
