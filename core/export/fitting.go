package export

import (
	"gyrolith/core/param"
	"gyrolith/core/unit"
)

// Fitting is the unit that data are fitted to, where one is named.
type Fitting struct {
	Units func(name string) (*unit.Profile, error) // finds the profile of a unit; nil where none is known

	name    string
	version int           // of the unit's cards; 0 is the usual one
	Profile *unit.Profile // once it is open; nil for none
}

// FittingParams lists the parameters.
func (f *Fitting) FittingParams() param.Table {
	name := param.Text("unit", &f.name, "UNIT", "fit the data to this `UNIT`, as stow does")
	name.Path = param.Maybe
	return param.Table{name, param.CardVersion(&f.version)}
}

// Find reads the profile.
func (f *Fitting) Find() (err error) {
	if f.name == "" {
		if f.version != 0 {
			return param.Errorf("card-version", "is the version of a unit's cards, but no unit is named")
		}
		return nil
	}
	if f.Profile, err = f.Units(f.name); err != nil {
		return &param.Error{Name: "unit", Err: err}
	}
	if f.Profile, err = f.Profile.ForVersion(f.version); err != nil {
		return &param.Error{Name: "card-version", Err: err}
	}
	return nil
}

// Files lists the files that the profile is made of.
func (f *Fitting) Files() []string {
	if f.Profile == nil {
		return nil
	}
	return f.Profile.Files()
}
