package console

import (
	"time"

	"github.com/schollz/progressbar/v3"
)

// soon is how long work may take before it shows progress.
const soon = 600 * time.Millisecond

// Progress shows, on a terminal without NO_COLOR and only when it takes long, that something is done and how far it is;
// total is 0 where that can't be told. What it gives ends it and clears its line.
func (s *Stream) Progress(label string, total int64, done func() int64) (stop func()) {
	if !s.Terminal || !s.Colours {
		return func() {}
	}
	ended, cleared := make(chan bool), make(chan bool)
	go func() {
		defer close(cleared)
		select {
		case <-ended:
			return
		case <-time.After(soon):
		}
		if total == 0 {
			total = -1
		}
		bar := progressbar.NewOptions64(total, progressbar.OptionSetWriter(s), progressbar.OptionSetDescription(label),
			progressbar.OptionSetWidth(24), progressbar.OptionClearOnFinish(), progressbar.OptionSpinnerType(14),
			progressbar.OptionSetTheme(progressbar.Theme{Saucer: "━", SaucerHead: "━", SaucerPadding: "╌", BarStart: "",
				BarEnd: ""}))
		tick := time.NewTicker(100 * time.Millisecond)
		defer tick.Stop()
		for {
			select {
			case <-tick.C:
				if done != nil {
					bar.Set64(min(done(), max(total-1, 0)))
				} else {
					bar.Add(1)
				}
			case <-ended:
				bar.Finish()
				return
			}
		}
	}()
	return func() { close(ended); <-cleared }
}
