package param

import (
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
)

// What stands in the tables of several steps and outputs is made here, so that it is one option with one help.

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

// Clock is the parameter of the zone of times without one, and of times that are shown.
func Clock(set func(*Env, *time.Location)) Param {
	p := FuncIn("clock", "ZONE", "the `ZONE` of times without one, and of times shown: UTC, local, ±HH:MM, "+
		"or a name of the time zone database (Area/City)",
		func(env *Env, text string) error {
			zone, err := instant.ParseZone(text)
			if err == nil {
				set(env, zone)
			}
			return err
		})
	p.Words = []string{"UTC", "local"}
	return p
}

// CardVersion is the parameter of the version of a unit's cards.
func CardVersion(to *int) Param {
	return Count("card-version", to, 1, 99, "VERSION", "the card `VERSION`, for older units")
}

// HazardsTake is the parameter that chooses among hazards.
func HazardsTake(to *[]choose.Choice) Param {
	return Choices("hazards-take", to, "only these hazards, `KIND[:GLOB]`; repeatable")
}
