package recipe

import (
	"embed"
	"path"
	"strings"
)

//go:embed shipped/*.toml
var shipped embed.FS

// Shipped lists the recipes that come with the program.
func Shipped() (out []*Recipe) {
	files, err := shipped.ReadDir("shipped")
	if err != nil {
		panic(err)
	}
	for _, f := range files {
		text, err := shipped.ReadFile(path.Join("shipped", f.Name()))
		if err != nil {
			panic(err)
		}
		r, err := Parse(strings.TrimSuffix(f.Name(), ".toml"), text)
		if err != nil {
			panic(err)
		}
		out = append(out, r)
	}
	return
}
