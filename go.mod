module gyrolith

go 1.26.0

require (
	codeberg.org/go-pdf/fpdf v0.12.0
	git.sr.ht/~sbinet/gg v0.8.0
	github.com/bep/imagemeta v1.0.1
	github.com/go-json-experiment/json v1.27.2
	github.com/gofrs/flock v0.13.2
	github.com/golang/freetype v0.0.0-20170609003504-e2365dfdc4a0
	github.com/google/flatbuffers v25.12.19+incompatible
	github.com/jedib0t/go-pretty/v6 v6.8.3
	github.com/klauspost/compress v1.17.9
	github.com/mozillazg/go-unidecode v0.2.0
	github.com/parquet-go/parquet-go v0.25.1
	github.com/pelletier/go-toml/v2 v2.4.3
	github.com/peterstace/simplefeatures v0.50.0
	github.com/schollz/progressbar/v3 v3.19.1
	github.com/tidwall/rtree v1.10.0
	github.com/urfave/cli/v3 v3.14.0
	github.com/xuri/excelize/v2 v2.11.1
	go.bug.st/serial v1.6.4
	golang.org/x/image v0.47.0
	golang.org/x/net v0.62.0
	golang.org/x/sync v0.25.0
	golang.org/x/sys v0.50.0
	golang.org/x/term v0.48.0
	golang.org/x/text v0.44.0
	modernc.org/sqlite v1.62.0
)

require (
	github.com/andybalholm/brotli v1.1.0 // indirect
	github.com/creack/goselect v0.1.2 // indirect
	github.com/dustin/go-humanize v1.1.0 // indirect
	github.com/google/uuid v1.6.0 // indirect
	github.com/mattn/go-isatty v0.0.24 // indirect
	github.com/mattn/go-runewidth v0.0.16 // indirect
	github.com/mitchellh/colorstring v0.0.0-20190213212951-d06e56a500db // indirect
	github.com/ncruces/go-strftime v1.1.0 // indirect
	github.com/pierrec/lz4/v4 v4.1.21 // indirect
	github.com/remyoudompheng/bigfft v0.0.0-20230129092748-24d4a6f8daec // indirect
	github.com/richardlehane/mscfb v1.0.9 // indirect
	github.com/richardlehane/msoleps v1.0.6 // indirect
	github.com/rivo/uniseg v0.4.7 // indirect
	github.com/tidwall/geoindex v1.7.0 // indirect
	github.com/tiendc/go-deepcopy v1.7.2 // indirect
	github.com/xuri/efp v0.0.3-0.20260924042702-217b81952dec // indirect
	github.com/xuri/nfp v0.0.2-0.20250530014748-2ddeb826f9a9 // indirect
	golang.org/x/crypto v0.58.0 // indirect
	modernc.org/libc v1.80.1 // indirect
	modernc.org/mathutil v1.7.1 // indirect
	modernc.org/memory v1.12.1 // indirect
)
