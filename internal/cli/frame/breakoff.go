//go:build !breakoff

package frame

// BreakOff and breakOffRun give what is called before the steps of a stow and of a run. Tests build the program
// with the tag breakoff, and kill it there.
func BreakOff() func(string) { return nil }
func BreakOffRun() func()    { return nil }
