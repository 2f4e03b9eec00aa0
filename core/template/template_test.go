package template

import (
	"errors"
	"strings"
	"testing"
)

func known(word, arg string) error {
	if word != "name" && word != "field" {
		return errors.New("no {" + word + "}")
	}
	return nil
}

func TestWrite(t *testing.T) {
	values := map[string]string{"name": " rock 7b of 12.5 m ", "field:ward": "NORTH cape"}
	for text, want := range map[string]string{
		"{name|trim}!":             "rock 7b of 12.5 m!",
		"{name|trim|upper}":        "ROCK 7B OF 12.5 M",
		"{field:ward|lower}":       "north cape",
		"{field:ward|title}":       "North Cape",
		"{name|trim|pad:3}":        "rock 007b of 012.5 m",
		"no values":                "no values",
		"{field:ward}-{name|trim}": "NORTH cape-rock 7b of 12.5 m",
	} {
		x, err := Parse(text, known)
		got := x.Write(func(word, arg string) string { return values[strings.TrimSuffix(word+":"+arg, ":")] })
		if err != nil || got != want {
			t.Errorf("%s: %q, %v, want %q", text, got, err, want)
		}
	}
	for text, want := range map[string]string{"{name": "without a }", "name}": "without a {", "{nme}": "no {nme}",
		"{name|shout}": "there is no |shout; there are |trim", "{name|pad}": "number of digits"} {
		if _, err := Parse(text, known); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %s", text, err, want)
		}
	}
}

// What is no value of the text stays as it stands.
func TestReplace(t *testing.T) {
	of := func(word string) (string, bool) { return "Rock 7", word == "item" }
	for text, want := range map[string]string{
		"out/{item|upper}.gpx": "out/ROCK 7.gpx", "{item}{date}": "Rock 7{date}", "{item": "{item", "a}b{item}": "a}bRock 7",
		"{item|odd}": "{item|odd}", "{}": "{}",
	} {
		if got := Replace(text, of); got != want {
			t.Errorf("%s: %q, want %q", text, got, want)
		}
	}
	if !Has("x/{date|trim}.gpx", "item", "date") || Has("x/{dates}.gpx", "date") {
		t.Error("values are found by their words")
	}
}
