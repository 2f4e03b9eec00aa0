package cli

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// target settles where a verb writes and in which format, before anything is read.
func (a *app) target(verb string, o *options, inputs []string) error {
	switch {
	case o.output == "":
		return usageError("%s: say where to write: -o FILE, or -o - for standard output", verb)
	case strings.HasPrefix(o.output, "--"):
		return usageError("%s: -o is followed by the option %s instead of a file's name", verb, o.output)
	case o.output == "-" && o.json:
		return usageError("%s: --json and -o - both want standard output", verb)
	case o.output == "-" && o.writeAs == nil:
		return usageError("%s: standard output has no name that tells the format: add --write-as, with one of %s", verb, formats.Written())
	}
	if o.output == "-" {
		if o.writeAs.Set != nil {
			return usageError("%s: %s is a set of files and can't go to standard output: name a file", verb, o.writeAs.Name)
		}
		return nil
	}
	named := formats.ByPath(o.output)
	switch {
	case o.writeAs == nil && named == nil && filepath.Ext(o.output) == "":
		return usageError("%s: %s has no extension that tells the format: add one, or --write-as with one of %s", verb, o.output, formats.Written())
	case o.writeAs == nil && named == nil:
		return usageError("%s: the extension of %s tells no format: --write-as does, with one of %s", verb, o.output, formats.Written())
	case o.writeAs == nil:
		o.writeAs = named
	case filepath.Ext(o.output) == "":
		o.output += o.writeAs.Extensions[0]
	}
	for _, in := range inputs {
		if same(in, o.output) {
			return usageError("%s: %s is an input as well; inputs are never changed: name another output", verb, o.output)
		}
	}
	if err := o.writable(verb); err != nil {
		return err
	}
	if !o.replace && !o.dryRun && !o.append {
		if _, err := os.Lstat(o.output); err == nil {
			return &failure{statusInput, fmt.Errorf("%s: %w", o.output, safefile.ErrExists)}
		}
	}
	return nil
}

func same(a, b string) bool {
	x, err1 := os.Stat(a)
	y, err2 := os.Stat(b)
	return err1 == nil && err2 == nil && os.SameFile(x, y)
}

// write writes the data, says what was lost on the way, and refuses that under --strict.
func (a *app) write(d *nav.Dataset, before nav.Ledger, o *options) error {
	began := time.Now()
	system, err := a.outputSystem(d, o)
	if err != nil {
		return err
	}
	opt := &format.WriteOptions{Version: o.version, Table: o.table, System: system, TrackPoints: o.trackPoints}
	a.saySystem(system, true, o)
	if o.append {
		opt.Append = o.output
	}
	if o.writeAs.Set != nil {
		return a.writeSet(d, before, opt, o)
	}
	if o.output == "-" || o.dryRun {
		var whole bytes.Buffer
		to := whole.Write
		if !o.strict && !o.dryRun {
			to = a.out.Write
		}
		ledger, err := o.writeAs.Write(writerFunc(to), d, opt)
		if err != nil {
			return err
		}
		ledger = append(before, ledger...)
		if err := strictLedger(ledger, o); err != nil {
			a.ledger(ledger, o)
			return err
		}
		if !o.dryRun {
			if _, err := a.out.Write(whole.Bytes()); err != nil {
				return err
			}
		}
		return a.wrote(d, ledger, "", o)
	}
	p, err := safefile.Create(o.output, o.replace || o.append)
	if err != nil {
		return err
	}
	defer p.Discard()
	ledger, err := o.writeAs.Write(p, d, opt)
	if err != nil {
		return err
	}
	ledger = append(before, ledger...)
	if err := strictLedger(ledger, o); err != nil {
		a.ledger(ledger, o)
		return err
	}
	kept, err := p.Commit()
	if err != nil {
		return err
	}
	o.log.Debug("wrote", "file", o.output, "format", o.writeAs.Name, "took", time.Since(began))
	return a.wrote(d, ledger, kept, o)
}

// writeSet writes a format of several files, all of them or none.
func (a *app) writeSet(d *nav.Dataset, before nav.Ledger, opt *format.WriteOptions, o *options) error {
	parts, ledger, err := o.writeAs.Set(d, opt)
	if err != nil {
		return faultIn(o.output, "%v", err)
	}
	ledger = append(before, ledger...)
	if err := strictLedger(ledger, o); err != nil {
		a.ledger(ledger, o)
		return err
	}
	stem := strings.TrimSuffix(o.output, filepath.Ext(o.output))
	var files []*safefile.Pending
	var names []string
	for _, part := range parts {
		name := stem + part.Suffix
		names = append(names, name)
		if o.dryRun {
			continue
		}
		p, err := safefile.Create(name, o.replace)
		if err != nil {
			return err
		}
		defer p.Discard()
		if err := part.Write(p); err != nil {
			return err
		}
		files = append(files, p)
	}
	kept, err := safefile.CommitAll(files)
	if err != nil {
		return err
	}
	o.files = names
	return a.wrote(d, ledger, strings.Join(kept, ", "), o)
}

// writable refuses options that the format of the output knows nothing of.
func (o *options) writable(verb string) error {
	name := o.writeAs.Name
	table := name == "csv" || name == "xlsx"
	layer := name == "shp" || name == "gpkg"
	switch {
	case o.table != nil && (len(o.table.Columns) > 0 || o.table.Items) && !table:
		return usageError("%s: --columns and --rows are of tables; %s is none (csv and xlsx are)", verb, name)
	case o.crs != "" && !o.writeAs.Systems:
		return usageError("%s: --crs: %s holds WGS 84 only; csv, xlsx, shp and gpkg can be written in another system", verb, name)
	case o.trackPoints && !layer:
		return usageError("%s: --track-points is of layers (shp and gpkg); %s has the points of tracks as they are", verb, name)
	case o.append && name != "gpkg":
		return usageError("%s: --append adds to a GeoPackage; %s is written whole", verb, name)
	case o.append && o.replace:
		return usageError("%s: --append keeps what is there and --replace does not; give one of them", verb)
	}
	return nil
}

type writerFunc func([]byte) (int, error)

func (f writerFunc) Write(b []byte) (int, error) { return f(b) }

func strictLedger(l nav.Ledger, o *options) error {
	if n := l.Losses(); o.strict && n > 0 {
		return strictError("%s: %s would be lost, refused by --strict; nothing was written", o.output, plural(n, "thing", "things"))
	}
	return nil
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return measure.Count(n) + " " + many
}

// written says what of a dataset was written: items that the ledger has as left out whole are not.
func written(d *nav.Dataset, ledger nav.Ledger) string {
	counts, missing := d.Counts(), false
	for _, e := range ledger {
		for _, kind := range nav.Kinds {
			if e.Loss && !e.Asked && (e.What == kind.One() || e.What == kind.String()) && e.Kind == kind && counts[kind] > 0 {
				counts[kind] -= min(e.Count, counts[kind])
				missing = true
			}
		}
	}
	if missing {
		return countWords(counts)
	}
	return contents(d) + ", " + plural(d.Points(), "point", "points")
}

// contents says what a dataset holds: 12 waypoints, 1 route, 3 tracks.
func contents(d *nav.Dataset) string { return countWords(d.Counts()) }

func countWords(counts [4]int) string {
	var parts []string
	for i, n := range counts {
		if n > 0 {
			parts = append(parts, plural(n, nav.Kind(i).One(), nav.Kind(i).String()))
		}
	}
	if len(parts) == 0 {
		return "nothing"
	}
	return strings.Join(parts, ", ")
}

// wrote ends a verb that makes data: the ledger, and one line that says what stands where.
func (a *app) wrote(d *nav.Dataset, ledger nav.Ledger, kept string, o *options) error {
	if o.json {
		c := d.Counts()
		return a.printJSON(struct {
			Output    string     `json:"output"`
			Files     []string   `json:"files,omitempty"`
			Format    string     `json:"format"`
			Kept      string     `json:"kept,omitempty"`
			DryRun    bool       `json:"dry_run,omitempty"`
			Waypoints int        `json:"waypoints"`
			Routes    int        `json:"routes"`
			Tracks    int        `json:"tracks"`
			Areas     int        `json:"areas"`
			Points    int        `json:"points"`
			Ledger    nav.Ledger `json:"ledger"`
		}{o.output, o.files, o.writeAs.Name, kept, o.dryRun, c[0], c[1], c[2], c[3], d.Points(), append(nav.Ledger{}, ledger...)})
	}
	a.ledger(ledger, o)
	if o.quiet {
		return nil
	}
	verb := a.err.paint(green, "wrote")
	if o.dryRun {
		verb = "would write"
	}
	name := o.output
	if name == "-" {
		name = "standard output"
	}
	if len(o.files) > 0 {
		name = strings.Join(shortened(o.files), ", ")
	}
	a.err.printf("%s %s (%s): %s\n", verb, show(name), o.writeAs.Name, written(d, ledger))
	if kept != "" {
		a.err.printf("the older file is kept as %s\n", show(kept))
	}
	return nil
}

// shortened tells the files of sets by their first: survey-points.shp with .shx .dbf .prj .cpg.
func shortened(files []string) (out []string) {
	for _, f := range files {
		stem, ext := strings.TrimSuffix(f, filepath.Ext(f)), filepath.Ext(f)
		if n := len(out) - 1; n >= 0 && strings.HasPrefix(out[n], stem+".") {
			if !strings.Contains(out[n], " with ") {
				out[n] += " with"
			}
			out[n] += " " + ext
			continue
		}
		out = append(out, f)
	}
	return
}

func (a *app) printJSON(v any) error {
	enc := json.NewEncoder(a.out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}

// manyRows is the longest table of renamed or changed items that is printed whole.
const manyRows = 60

// ledger prints what was changed and lost: new names in a table, changes and losses of one sort together.
func (a *app) ledger(l nav.Ledger, o *options) {
	if len(l) == 0 || o.quiet || o.json {
		return
	}
	var names [][]string
	var changes, losses sorts
	for _, e := range l {
		switch {
		case e.What == "name" || e.What == "point name" || e.What == "field name":
			names = append(names, []string{e.KindWord, oneLine(e.Old, 48), "→", oneLine(e.New, 32)})
		case e.Old != "" || e.New != "":
			changes.add(e, e.Old+" → "+e.New)
		default:
			losses.add(e, "")
		}
	}
	if len(names) > 0 {
		a.err.printf("%s\n", a.err.paint(bold, "renamed"))
		a.err.table("  ", []column{{title: "kind"}, {title: "was"}, {}, {title: "is"}}, names[:min(len(names), manyRows)])
		if n := len(names) - manyRows; n > 0 {
			a.err.printf("  … and %s more; --json lists them all\n", measure.Count(n))
		}
	}
	if len(changes) > 0 {
		a.err.printf("%s\n", a.err.paint(bold, "changed"))
		a.err.table("  ", []column{{title: "what"}, {title: "count", right: true}, {title: "change"}, {title: "of"}, {title: "why"}}, changes.rows())
	}
	if len(losses) > 0 {
		a.err.printf("%s\n", a.err.paint(yellow, "not carried over"))
		a.err.table("  ", []column{{title: "what"}, {title: "count", right: true}, {}, {title: "of"}, {title: "why"}}, losses.rows())
	}
}

// sorts gathers entries of a ledger that say the same of different items.
type sorts []*sort

type sort struct {
	what, change, why string
	count             int
	items             []string
}

func (s *sorts) add(e nav.Entry, change string) {
	var at *sort
	for _, x := range *s {
		if x.what == e.What && x.change == change && x.why == e.Why {
			at = x
			break
		}
	}
	if at == nil {
		at = &sort{what: e.What, change: change, why: e.Why}
		*s = append(*s, at)
	}
	at.count += e.Count
	if e.Name != "" {
		at.items = append(at.items, e.Name)
	}
}

func (s sorts) rows() [][]string {
	var rows [][]string
	for _, x := range s[:min(len(s), manyRows)] {
		of := ""
		if len(x.items) > 0 {
			of = oneLine(x.items[0], 28)
			if n := len(x.items) - 1; n > 0 {
				of += fmt.Sprintf(" and %s more", measure.Count(n))
			}
		}
		rows = append(rows, []string{x.what, measure.Count(x.count), oneLine(x.change, 40), of, x.why})
	}
	return rows
}
