package cards

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/compare"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/unit/card"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// stowAnswer is what stow answers as JSON.
type stowAnswer struct {
	Kept         map[string]int       `json:"kept"`
	Updated      map[string]int       `json:"updated"`
	Added        map[string]int       `json:"added"`
	Dropped      map[string]int       `json:"dropped"`
	Gone         []card.Thing         `json:"gone"`
	Aboard       []card.Aboard        `json:"aboard"`
	RemovedFiles []string             `json:"removed_files"`
	Unit         string               `json:"unit"`
	Card         string               `json:"card"`
	Files        []fileJSON           `json:"files"`
	Replaced     []string             `json:"replaced"`
	Archive      string               `json:"archive"`
	Ledger       nav.Ledger           `json:"ledger"`
	Differences  []compare.Difference `json:"differences"`
	Largest      float64              `json:"largest_shift_m"`
	Before       card.Contents        `json:"before"`
	OnCard       [4]int               `json:"on_card"`
}

// mendAnswer is what stow --finish and --undo answer as JSON.
type mendAnswer struct {
	Card  string `json:"card"`
	Unit  string `json:"unit"`
	Files int    `json:"files"`
	Done  string `json:"done"`
}

// checkAnswer is what stow --verify answers as JSON.
type checkAnswer struct {
	Card        string         `json:"card"`
	Unit        string         `json:"unit"`
	Files       int            `json:"files"`
	Differences []card.Checked `json:"differences"`
	Aboard      []card.Aboard  `json:"aboard"`
}

func stowJSON(plan *card.Plan, done *card.Stowed, dir string) *stowAnswer {
	files := []fileJSON{}
	for _, f := range plan.Files {
		files = append(files, fileJSON{f.Path, len(f.Content)})
	}
	b := plan.Beside
	return &stowAnswer{byKind(b.Kept), byKind(b.Updated), byKind(b.Added), byKind(b.Dropped),
		append([]card.Thing{}, b.Gone...), append([]card.Aboard{}, b.Aboard...), append([]string{}, plan.Gone...),
		plan.Profile.Name, dir, files, append([]string{}, done.Replaced...), done.Archive,
		append(nav.Ledger{}, words.Told(plan.Ledger)...), append([]compare.Difference{}, done.Result.Differences...),
		max(done.Result.Largest, plan.Shift), done.Before, done.OnCard}
}

func printStowed(j *frame.Task, plan *card.Plan, done *card.Stowed, dir string) {
	if j.Quiet {
		return
	}
	if err := unshown(dir, done.Result.Differences); err != nil {
		j.Err.Printf("%s %v\n", j.Err.Paint(console.Red, "attention:"), err)
	}
	j.Ledger(plan.Ledger)
	room := ""
	if done.Before.Free >= 0 {
		room = fmt.Sprintf(", %s free", bytesOf(done.Before.Free))
	}
	j.Err.Printf("on the card before: %s, %s%s\n", measure.Counted(done.Before.Files, "file", "files"),
		bytesOf(done.Before.Bytes), room)
	j.Err.Printf("%s\n", j.Err.Paint(console.Bold, "written to the card in "+console.Show(dir)))
	var rows [][]string
	for _, f := range plan.Files {
		rows = append(rows, []string{console.Show(f.Path), measure.Count(len(f.Content)) + " bytes"})
	}
	const fewFiles = 10
	j.Err.List("  ", []console.Column{{}, {Right: true}}, rows, fewFiles, "")
	if done.Archive != "" {
		parts := []string{}
		if n := len(done.Replaced); n > 0 {
			parts = append(parts, measure.Counted(n, "file was replaced", "files were replaced"))
		}
		if n := len(plan.Gone); n > 0 {
			parts = append(parts, measure.Counted(n, "file was removed", "files were removed"))
		}
		j.Err.Printf("%s; the old files are archived in %s\n", strings.Join(parts, " and "), console.Show(done.Archive))
	}
	if done.Uncopied != nil {
		j.Note("no copy of the card's record could be kept: " + words.AdvisedError(done.Uncopied))
	}
	sayBeside(j, plan, dir, "")
	visible := done.OnCard
	if done.Shown != nil {
		visible = done.Shown.Data.Counts()
	}
	rows = nil
	b := plan.Beside
	count := func(n int) string {
		if n == 0 {
			return ""
		}
		return measure.Count(n)
	}
	occupied := b.Before != [4]int{}
	for i, n := range plan.Meant.Counts() {
		if n+b.Before[i] == 0 {
			continue
		}
		row := []string{nav.Kind(i).String(), measure.Count(n), measure.Count(done.OnCard[i]), measure.Count(visible[i])}
		if occupied {
			row = slices.Insert(row, 1, count(b.Kept[i]), count(b.Updated[i]), count(b.Added[i]), count(b.Dropped[i]))
		}
		rows = append(rows, row)
	}
	last := "shown by the unit"
	if done.Shown == nil {
		last = "expected"
	}
	columns := []console.Column{{Title: "on the card"}, {Title: "meant", Right: true},
		{Title: "in its files", Right: true}, {Title: last, Right: true}}
	if occupied {
		columns = slices.Insert(columns, 1, console.Column{Title: "kept", Right: true},
			console.Column{Title: "updated", Right: true}, console.Column{Title: "added", Right: true},
			console.Column{Title: "dropped", Right: true})
	}
	j.Err.Table("", columns, rows)
	switch {
	case done.Shown == nil:
		j.Err.Printf("no stand-in reads these cards; check them on the unit itself\n")
	case len(done.Result.Differences) == 0:
		j.Err.Printf("%s; the largest shift of a position is %s\n",
			j.Err.Paint(console.Green, "the unit shows what was intended"), j.Shift(max(done.Result.Largest, plan.Shift)))
	default:
		j.Err.Printf("%s\n", j.Err.Paint(console.Red, "the unit does not show what was intended"))
		j.SayDifferences(j.Err, "meant", "shown", done.Result.Differences)
	}
	j.Err.Printf("now take the card out, put it back in, and run 'gyrolith stow --verify --card %s'\n", console.Show(dir))
}

// bytesOf writes a number of bytes in short.
func bytesOf(n int64) string {
	switch {
	case n < 10_000:
		return measure.Count(int(n)) + " bytes"
	case n < 10_000_000:
		return measure.Count(int(n/1000)) + " kB"
	}
	return measure.Count(int(n/1_000_000)) + " MB"
}
