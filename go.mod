module gyrolith

go 1.26.0

require (
	github.com/go-json-experiment/json v1.27.2
	github.com/jedib0t/go-pretty/v6 v6.8.3
	github.com/pelletier/go-toml/v2 v2.4.3
	github.com/schollz/progressbar/v3 v3.19.1
	github.com/urfave/cli/v3 v3.14.0
	golang.org/x/image v0.47.0
	golang.org/x/sync v0.25.0
	golang.org/x/term v0.48.0
	golang.org/x/text v0.44.0
)

require (
	github.com/mattn/go-runewidth v0.0.16 // indirect
	github.com/mitchellh/colorstring v0.0.0-20190213212951-d06e56a500db // indirect
	github.com/rivo/uniseg v0.4.7 // indirect
	golang.org/x/sys v0.50.0 // indirect
)
