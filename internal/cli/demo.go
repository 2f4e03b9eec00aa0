package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"gyrolith/demo"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// demoVerb is demo.
var demoVerb = frame.Verb{Name: "demo", Stage: frame.Know,
	Brief: "the complete example, in a folder",
	Usage: "run the complete example, a survey of the Veldrin Isles, in a folder",
	Args:  "[DIR]",
	Help: "Puts the example files into DIR, which must be new or empty, and runs the steps of the example on them,\n" +
		"printing each command line as you would type it. Without DIR it makes a temporary folder.",
	Bare:      true,
	Completes: frame.FolderNames,
	Make:      makeDemo}

func makeDemo(a *frame.App, v *frame.Verb) frame.Made {
	return frame.Made{Run: func(ctx context.Context, l *frame.Line) error {
		if len(l.Args) > 1 {
			return frame.UsageError("demo: name one folder, or none for a temporary one")
		}
		dir, err := demoFolder(frame.First(l.Args))
		if err != nil {
			return err
		}
		return playDemo(ctx, a, dir)
	}}
}

func demoFolder(dir string) (string, error) {
	if dir == "" {
		return os.MkdirTemp("", "gyrolith-demo-")
	}
	entries, err := os.ReadDir(dir)
	switch {
	case err == nil && len(entries) > 0:
		return "", fmt.Errorf("%s: is not empty; name a new folder for the demo", dir)
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return "", fmt.Errorf("%s: can't be used for the demo: %w", dir, err)
	}
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return "", fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	return filepath.Abs(dir)
}

func playDemo(ctx context.Context, a *frame.App, dir string) error {
	files, err := fs.Sub(demo.Files, "files")
	if err != nil {
		return err
	}
	if err := os.CopyFS(dir, files); err != nil {
		return err
	}
	for _, card := range []string{"card", "keel-card", "vane-card"} {
		if err := os.Mkdir(filepath.Join(dir, card), 0o777); err != nil {
			return err
		}
	}
	back, err := os.Getwd()
	if err != nil {
		return err
	}
	if err := os.Chdir(dir); err != nil {
		return err
	}
	defer os.Chdir(back)
	for _, s := range demo.Scenes() {
		if s.Says != "" {
			a.Out.Printf("%s\n", a.Out.Paint(console.Faint, "# "+s.Says))
		}
		a.Out.Printf("%s gyrolith %s\n", a.Out.Paint(console.Green, "$"), s.Line)
		inner := frame.NewApp(verbs, strings.NewReader(""), a.Out, a.Out)
		inner.Out, inner.Err = a.Out, a.Out
		inner.KeepIn, inner.Alone = "kept", true // nothing of an example goes into the user's own folder, or comes of it
		err := runLine(ctx, inner, strings.Fields(s.Line))
		if err != nil {
			inner.Complain(err)
		}
		if (err != nil) != s.Refused {
			return fmt.Errorf("the demo failed at 'gyrolith %s' in %s", s.Line, dir)
		}
		a.Out.Printf("\n")
	}
	a.Out.Printf("All files are in %s\nthe map of the day is %s, and the page to open in a browser is %s\n",
		console.Show(dir), console.Show(filepath.Join(dir, "day.png")), console.Show(filepath.Join(dir, "day.html")))
	return nil
}
