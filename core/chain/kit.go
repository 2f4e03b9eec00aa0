package chain

import (
	"io"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
)

// Kit is what chains are made of: the formats, the units, and the verbs that steps and outputs can be.
type Kit struct {
	Formats format.Formats
	Units   func(name string) (*unit.Profile, error)
	Now     time.Time
	Stdin   io.Reader
	Steps   []StepVerb
	Outputs []OutputVerb
}

// StepVerb makes steps of one sort.
type StepVerb struct {
	Name string
	New  func(*Kit) Step
}

// OutputVerb makes outputs of one sort. Key is the word for the name of what they make: file or card.
type OutputVerb struct {
	Name, Key string
	New       func(*Kit) Output
}

// NewReading makes a reading with the formats of the kit.
func (k *Kit) NewReading() *input.Reading {
	r := input.New(k.Formats, k.Now)
	r.Stdin = k.Stdin
	return r
}

// NewStage makes a stage of a verb; nil where there is no such step.
func (k *Kit) NewStage(verb string) *Stage {
	i := slices.IndexFunc(k.Steps, func(v StepVerb) bool { return v.Name == verb })
	if i < 0 {
		return nil
	}
	return &Stage{Verb: verb, Step: k.Steps[i].New(k)}
}

// NewEnd makes an end of a verb, and gives the word for its name; nil where there is no such output.
func (k *Kit) NewEnd(verb string) (end *End, key string) {
	i := slices.IndexFunc(k.Outputs, func(v OutputVerb) bool { return v.Name == verb })
	if i < 0 {
		return nil, ""
	}
	return &End{Verb: verb, Output: k.Outputs[i].New(k)}, k.Outputs[i].Key
}

// Params lists what is chosen for a stage, and the parameters of its step.
func (s *Stage) Params() param.Table { return append(s.Step.Params(), input.Choosing(&s.Take)...) }

// Params lists what is chosen for an end, and the parameters of its output.
func (e *End) Params() param.Table {
	return append(append(e.Output.Params(), e.Parting()...), input.Choosing(&e.Take)...)
}

// PointsOf says how many points of each kind a unit takes.
func (k *Kit) PointsOf(name string) (points [4]int, err error) {
	p, err := k.Units(name)
	if err != nil {
		return points, err
	}
	for _, kind := range nav.Kinds {
		points[kind] = p.Of(kind).Points
	}
	return points, nil
}

// Stem is the name of a file without folder and extension.
func Stem(path string) string {
	if path == "-" || path == "standard input" {
		return "standard input"
	}
	path = strings.TrimSuffix(path, ".gz")
	return strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))
}
