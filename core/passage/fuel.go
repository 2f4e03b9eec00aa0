package passage

import (
	"fmt"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/pattern"
)

// Fuel is an amount, or an amount an hour, in the measure that it was given in.
type Fuel struct {
	Amount float64
	Of     string // the measure, such as l
}

var fuelForm = pattern.New(`^(\d+(?:[.,]\d+)?) ?([A-Za-z]{1,8})(/h)?$`)

// parseFuel reads an amount such as 100l, or an hourly one such as 32l/h.
func parseFuel(text string, hourly bool) (Fuel, error) {
	m := fuelForm.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil || (m[3] != "") != hourly {
		if hourly {
			return Fuel{}, fmt.Errorf("%q is not a fuel consumption: write 32l/h, or gal/h or kg/h", text)
		}
		return Fuel{}, fmt.Errorf("%q is not an amount of fuel: write 100l, or gal or kg", text)
	}
	v, _, ok := decimal.Parse([]byte(strings.Replace(m[1], ",", ".", 1)))
	if !ok {
		return Fuel{}, fmt.Errorf("%q is not a number", m[1])
	}
	return Fuel{v, m[2]}, nil
}

// burn fills in the fuel of a table's legs, and finds where it does not last.
func (s *Step) burn(t *Table) {
	if s.Burn.Amount == 0 {
		return
	}
	said, stayed, used := false, false, 0.0
	for i := range t.Legs {
		l := &t.Legs[i]
		if l.Time == 0 {
			return
		}
		change := s.BurnClimb
		if l.Climb < 0 {
			change = s.BurnDescent
		}
		if change.Amount == 0 {
			change = s.Burn
		}
		used += l.ByPhase.Hours()*change.Amount + (l.Time-l.ByPhase).Hours()*s.Burn.Amount
		l.FuelUsed = used
		if l.Wait > 0 {
			stay := s.Burn
			if s.BurnStay.Of != "" {
				stay = s.BurnStay
			} else if !stayed {
				stayed = true
				t.Notes = append(t.Notes, Finding{Code: BurnsInStay, Route: t.Route.Name, Leg: i + 1,
					Why: fmt.Sprintf("stays burn %g %s an hour, as cruising does", s.Burn.Amount, s.Burn.Of)})
			}
			used += l.Wait.Hours() * stay.Amount
		}
		if s.Aboard.Amount == 0 {
			continue
		}
		l.FuelLeft = s.Aboard.Amount - l.FuelUsed
		if l.FuelLeft < s.Reserve.Amount && !said {
			said = true
			why := fmt.Sprintf("%.1f %s are left on arrival, less than the reserve of %g %s", l.FuelLeft, s.Burn.Of,
				s.Reserve.Amount, s.Burn.Of)
			if l.FuelLeft < 0 {
				why = fmt.Sprintf("not enough fuel: %.1f %s are missing on arrival", -l.FuelLeft, s.Burn.Of)
			}
			t.Findings = append(t.Findings, Finding{Code: OutOfFuel, Route: t.Route.Name, Leg: i + 1, Why: why})
		}
	}
}
