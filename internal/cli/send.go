package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"strings"
	"sync/atomic"
	"time"

	"go.bug.st/serial"

	"gyrolith/core/format/talker"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/core/unit/line"
	"gyrolith/internal/cli/console"
)

// sendTask is the work of send.
type sendTask struct {
	*task
	to            string
	unit          unitChoice
	rate, retries int
}

// sendVerb is send.
var sendVerb = verb{name: "send", stage: toUnits,
	brief: "upload over a marine talker line",
	usage: "upload waypoints and routes over a marine talker line, by TCP or a " +
		"serial port",
	args: "FILES… --to ADDRESS",
	help: "Sends WPL and RTE sentences (IEC 61162-1) at the rate of the line. When the " +
		"connection\n" +
		"breaks, the interrupted route is sent again. Talker lines are one-way: the result is 'sent, not confirmed'\n" +
		"unless the other end replies as docs/formats/talker.md describes, as the stand-in does.",
	examples: []string{"send run.gpx --dry-run"},
	tried:    []string{"upload"},
	own:      []string{"unit"},
	make:     (*app).send}

func (a *app) send(v *verb) made {
	s := &sendTask{task: a.newTask(v.name), rate: 4800, retries: 3}
	rate := param.Count("rate", &s.rate, 300, 4_000_000, "BITS", "the rate of the line in `BITS` per second")
	rate.Default = "4800"
	retries := param.Count("retries", &s.retries, 0, 1000, "TIMES", "reconnect up to so many `TIMES`")
	retries.Default = "3"
	return made{tables: append([]param.Table{param.Table{
		param.Text("to", &s.to, "ADDRESS", "the `ADDRESS`: tcp://HOST:PORT, or serial:DEVICE such as serial:/dev/ttyUSB0"),
		param.Text("unit", &s.unit.name, "UNIT", "fit the data to this `UNIT` first"),
		rate,
		retries,
		s.dry(),
	}.In("Line").ForOneRun()}, append(s.readTables(), s.answering())...), run: s.run}
}

func (s *sendTask) run(ctx context.Context, l *commandLine) error {
	open, err := opener(s.to, s.rate)
	if err != nil && !s.dryRun {
		return usageError("send: --to: %v", err)
	}
	w, path, err := s.gather(ctx, l.args)
	if err != nil {
		return err
	}
	data := w.Data
	var ledger nav.Ledger
	if s.unit.name != "" {
		p, err := s.unit.profile(s.app)
		if err != nil {
			return err
		}
		fitted, err := unit.Fit(ctx, data, p)
		if err != nil {
			return err
		}
		data, ledger = fitted.Data, fitted.Ledger
	}
	groups, lost := talker.Encode(data)
	ledger = append(ledger, lost...)
	if len(groups) == 0 {
		return faultIn(path, "has no waypoint and no route to send (it has %s)", contents(data))
	}
	if n := ledger.Losses(); s.strict && n > 0 {
		s.ledger(ledger)
		return strictError("%s would not be sent, refused by --strict; nothing was sent", plural(n, "thing", "things"))
	}
	if s.dryRun {
		for _, g := range groups {
			for _, x := range g.Sentences {
				io.WriteString(s.out, x)
			}
		}
		s.ledger(ledger)
		return nil
	}
	return s.upload(ctx, open, groups, ledger)
}

func (s *sendTask) upload(ctx context.Context, open func(context.Context) (io.ReadWriteCloser, error),
	groups []talker.Group,
	ledger nav.Ledger) error {
	total := 0
	for _, g := range groups {
		for _, x := range g.Sentences {
			total += len(x)
		}
	}
	var sent atomic.Int64
	stop := s.progress("sending", int64(total), sent.Load)
	u := &line.Upload{Open: open, Rate: s.rate, Retries: s.retries, Wait: 2 * time.Second,
		Progress: func(n, _ int) { sent.Store(int64(n)) },
		Broken: func(group string, err error) {
			s.note(fmt.Sprintf("the connection broke in the middle of %s (%v); sending it again", group, err))
		}}
	done, err := u.Send(ctx, groups)
	stop()
	if err != nil {
		return fmt.Errorf("%s: %w", s.to, err)
	}
	if s.json {
		if err := s.printJSON(map[string]any{"to": s.to, "sentences": done.Sentences, "restarts": done.Restarts,
			"confirmed":  done.Confirmed,
			"unit_holds": map[string]int{"waypoints": done.Held.Waypoints, "routes": done.Held.Routes},
			"ledger":     told(ledger)}); err != nil {
			return err
		}
	} else {
		s.ledger(ledger)
	}
	held := func(h line.Held) string {
		return plural(h.Waypoints, "waypoint", "waypoints") + " and " + plural(h.Routes, "route", "routes")
	}
	if done.Answered && !done.Confirmed {
		return fmt.Errorf("%s: the unit reports %s, but %s were sent; check what is missing on the unit", s.to,
			held(done.Held), held(done.Sent))
	}
	if s.quiet || s.json {
		return nil
	}
	what := plural(done.Sentences, "sentence", "sentences")
	if done.Confirmed {
		s.err.Printf("%s %s; the unit reports %s\n", s.err.Paint(console.Green, "sent and confirmed:"), what,
			held(done.Held))
		return nil
	}
	s.err.Printf("%s %s; talker lines are one-way, so check on the unit that everything has arrived\n",
		s.err.Paint(console.Yellow, "sent, not confirmed:"), what)
	return nil
}

// errAddress is given for an address of no known form.
var errAddress = errors.New("write tcp://HOST:PORT, or serial:DEVICE such as serial:/dev/ttyUSB0")

// opener gives how a line is opened.
func opener(address string, rate int) (func(context.Context) (io.ReadWriteCloser, error), error) {
	if address == "" {
		return nil, errors.New("missing: " + errAddress.Error())
	}
	if host, ok := strings.CutPrefix(address, "tcp://"); ok {
		if _, _, err := net.SplitHostPort(host); err != nil {
			return nil, fmt.Errorf("%q has no port: %w", address, errAddress)
		}
		return func(ctx context.Context) (io.ReadWriteCloser, error) {
			d := net.Dialer{Timeout: 10 * time.Second}
			conn, err := d.DialContext(ctx, "tcp", host)
			if err != nil {
				return nil, fmt.Errorf("no answer: %w", err)
			}
			return conn, nil
		}, nil
	}
	device, ok := strings.CutPrefix(address, "serial:")
	if !ok || device == "" {
		return nil, fmt.Errorf("%q is not an address: %w", address, errAddress)
	}
	return func(context.Context) (io.ReadWriteCloser, error) {
		if _, err := os.Stat(device); err != nil && strings.HasPrefix(device, "/") {
			return nil, errors.New("no such device; is it plugged in?")
		}
		return serial.Open(device, &serial.Mode{BaudRate: rate})
	}, nil
}
