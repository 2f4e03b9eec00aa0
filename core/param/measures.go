package param

import "gyrolith/core/measure"

// Measures is the parameter of the measures that are shown, and of tables and templates.
func Measures(set func(measure.System)) Param {
	p := Func("measure", "SYSTEM", "the `SYSTEM` of lengths, heights and speeds: metric, nautical or flight",
		func(text string) error {
			system, err := measure.ParseSystem(text)
			if err == nil {
				set(system)
			}
			return err
		})
	p.Words = measure.Systems
	return p
}
