//go:build !breakoff

package cli

// breakOff and breakOffRun give what is called before the steps of a stow and of a run. Tests build the program
// with the tag breakoff, and kill it there.
func breakOff() func(string) { return nil }
func breakOffRun() func()    { return nil }
