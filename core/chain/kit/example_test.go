package kit_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/job"
	"gyrolith/core/param"
)

// A chain is made of the verbs and words of recipes, and run without a recipe.
func Example() {
	dir, err := os.MkdirTemp("", "chain")
	if err != nil {
		fmt.Println(err)
		return
	}
	defer os.RemoveAll(dir)
	plan := filepath.Join(dir, "plan.gpx")
	os.WriteFile(plan, []byte(`<gpx><wpt lat="-47.55" lon="11.33"><name>Rock 1</name></wpt></gpx>`), 0o666)

	tools := kit.New(time.Now(), "", nil)
	stage := tools.NewStage("dress")
	if err := stage.Params().Set(nil, []param.Setting{
		{Name: "match", Values: []string{"waypoints:Rock*"}}, {Name: "symbol", Values: []string{"rock"}}}); err != nil {
		fmt.Println(err)
		return
	}
	end, _ := tools.NewEnd("convert")
	end.Name = "plan.csv"
	c := &chain.Chain{Reading: tools.NewReading(), Stages: []*chain.Stage{stage}, Ends: []*chain.End{end}}
	var text bytes.Buffer
	result, err := job.Run(context.Background(), c, []string{plan}, export.To(&text))
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Print(strings.ReplaceAll(text.String(), "\r\n", "\n"))
	_, lost := result.Changes()
	fmt.Println(result.Reports[0].Counts, lost)
	// Output:
	// kind,name,lat,lon,symbol
	// waypoint,Rock 1,-47.55,11.33,rock
	// [{dressed 1}] 0
}
