package recipe_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"time"

	"gyrolith/core/chain/kit"
	"gyrolith/core/recipe"
)

const text = `about = "points that repeat taken out, as KML"
[[step]]
do = "clean"
only = "repeats"
[[output]]
file = "{name}.kml"
`

// A recipe is run over a folder, as the command line does it.
func Example() {
	dir, err := os.MkdirTemp("", "recipe")
	if err != nil {
		fmt.Println(err)
		return
	}
	defer os.RemoveAll(dir)
	os.WriteFile(filepath.Join(dir, "a.gpx"),
		[]byte(`<gpx><wpt lat="-47.6" lon="11.3"/><wpt lat="-47.6" lon="11.3"/></gpx>`), 0o666)

	ctx := context.Background()
	tools := kit.New(time.Now(), "", nil)
	r, err := recipe.Parse("tidy.toml", []byte(text))
	if err != nil {
		fmt.Println(err)
		return
	}
	into := filepath.Join(dir, "out")
	inputs, _, err := recipe.Gather([]string{dir}, into,
		func(name string) bool { return tools.Formats.ByPath(name) != nil })
	if err != nil {
		fmt.Println(err)
		return
	}
	if err := os.Mkdir(into, 0o777); err != nil {
		fmt.Println(err)
		return
	}
	run := &recipe.Runner{Recipe: r, Inputs: inputs, Into: into, Share: recipe.Share{Part: 1, Of: 1},
		NewWorker: func() (recipe.Worker, error) { return r.NewWorker(ctx, tools, "", false) },
		Tell: func(o *recipe.Outcome) {
			fmt.Println(o.Entry.Input, o.Entry.Status, o.Entry.Counts)
		}}
	var done atomic.Int64
	if err := run.Run(ctx, &done); err != nil {
		fmt.Println(err)
	}
	_, err = os.Stat(filepath.Join(into, "a.kml"))
	fmt.Println("written:", err == nil)
	// Output:
	// a.gpx done [{cleaned: repeats 1}]
	// written: true
}
