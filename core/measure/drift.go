package measure

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Drift is a wind or a current: where it goes to, in degrees true, and how fast, in m/s.
type Drift struct{ To, Speed float64 }

// Vector gives how far it sets in a second, in metres to the east and to the north.
func (d Drift) Vector() (east, north float64) {
	sin, cos := math.Sincos(d.To * math.Pi / 180)
	return d.Speed * sin, d.Speed * cos
}

// DriftOf is the drift that sets so far in a second.
func DriftOf(east, north float64) Drift {
	return Drift{math.Mod(math.Atan2(east, north)*180/math.Pi+360, 360), math.Hypot(east, north)}
}

// ParseDrift reads a direction and a speed, such as 240/15kn; a wind is named by where it comes from.
func ParseDrift(text string, comesFrom bool) (Drift, error) {
	direction, speed, ok := strings.Cut(text, "/")
	degrees, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(direction), "°"), 64)
	if !ok || err != nil {
		return Drift{}, fmt.Errorf("%q is not a direction and a speed: write 240/15kn", text)
	}
	if !(degrees >= 0 && degrees <= 360) {
		return Drift{}, fmt.Errorf("%q: the direction %s is not from 0 to 360", text, direction)
	}
	v, err := ParseSpeed(speed)
	if err != nil {
		return Drift{}, err
	}
	if comesFrom {
		degrees += 180
	}
	return Drift{To: degrees, Speed: v}, nil
}
