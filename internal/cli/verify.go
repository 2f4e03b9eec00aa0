package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/inspect"
	"gyrolith/core/measure"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// verifyAnswer is what look --verify answers as JSON.
type verifyAnswer struct {
	Files []verified `json:"files"`
}

type verified struct {
	Path   string        `json:"path"`
	Format string        `json:"format,omitempty"`
	State  inspect.State `json:"state"`
	Why    string        `json:"why,omitempty"`
}

// lookVerify says of each file whether it is whole.
func lookVerify(ctx context.Context, j *frame.Task, g *input.Gathered) error {
	for i := range g.Files { // what its name says is data is not passed over when its content no longer shows that
		ext := strings.ToLower(filepath.Ext(g.Files[i].Path))
		if x := j.Reading.Formats.ByPath(ext); x != nil && x.Writes() && !x.Tabular && x.Extensions[0] == ext {
			g.Files[i].Found = false
		}
	}
	all := make([]verified, len(g.Files))
	failed, others, err := j.EachFile(ctx, "verifying", g.Files, func(i int, in *format.Loaded) error {
		all[i].Format = in.Format.Name
		all[i].State, all[i].Why = inspect.StateOf(in, nil)
		return nil
	})
	if err != nil {
		return err
	}
	out, bad := verifyAnswer{Files: []verified{}}, 0
	var rows [][]string
	for i, v := range all {
		if others[i] {
			continue
		}
		if v.Path = g.Files[i].Path; failed[i] != nil {
			v.State, v.Why = inspect.StateOf(nil, failed[i])
		}
		colour := console.Green
		if v.State != inspect.Whole {
			colour = console.Red
			bad++
		}
		out.Files = append(out.Files, v)
		rows = append(rows, []string{console.OneLine(v.Path, 60), j.Out.Paint(colour, string(v.State)), v.Format, v.Why})
	}
	if j.JSON {
		err = j.PrintJSON(out)
	} else {
		j.Out.Table("", []console.Column{{Title: "file"}, {Title: "state"}, {Title: "format"}, {Title: "why"}}, rows)
	}
	if bad > 0 && err == nil {
		return fmt.Errorf("look: %s of %s not whole", measure.Count(bad), measure.Counted(len(out.Files), "file", "files"))
	}
	return err
}
