package cards

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
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/core/unit/line"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// sendTask is the work of send.
type sendTask struct {
	*frame.Task
	to            string
	unit          Unit
	rate, retries int
	timeout       time.Duration
}

// SendVerb is send.
var SendVerb = frame.Verb{Name: "send", Stage: frame.ToUnits,
	Brief: "upload over a marine talker line",
	Usage: "upload waypoints and routes over a marine talker line, by TCP or a " +
		"serial port",
	Args: "FILES… --to ADDRESS",
	Help: "Sends WPL and RTE sentences (IEC 61162-1) at the rate of the line. When the " +
		"connection\n" +
		"breaks, the interrupted route is sent again. Talker lines are one-way: the result is 'sent, not confirmed'\n" +
		"unless the other end replies as docs/formats/talker.md describes, as the stand-in does.",
	Examples: []string{"send run.gpx --dry-run"},
	Tried:    []string{"upload"},
	Own:      []string{"unit"},
	Answers:  []any{sendAnswer{}},
	Make:     makeSend}

func makeSend(a *frame.App, v *frame.Verb) frame.Made {
	s := &sendTask{Task: a.NewTask(v.Name), rate: 4800, retries: 3}
	rate := param.Count("rate", &s.rate, 300, 4_000_000, "BITS", "the rate of the line in `BITS` per second")
	rate.Default = "4800"
	retries := param.Count("retries", &s.retries, 0, 1000, "TIMES", "reconnect up to so many `TIMES`")
	retries.Default = "3"
	timeout := param.Span("timeout", &s.timeout, "SPAN",
		"give up when the line takes nothing for this `SPAN`, such as 1min")
	timeout.Default = "30s"
	return frame.Made{Tables: append([]param.Table{param.Table{
		param.Text("to", &s.to, "ADDRESS", "the `ADDRESS`: tcp://HOST:PORT, or serial:DEVICE such as serial:/dev/ttyUSB0"),
		param.Text("unit", &s.unit.name, "UNIT", "fit the data to this `UNIT` first"),
		rate,
		retries,
		timeout,
		s.Dry(),
	}.In("Line").ForOneRun()}, append(s.ReadTables(), s.Answering())...), Run: s.run}
}

func (s *sendTask) run(ctx context.Context, l *frame.Line) error {
	open, err := opener(s.to, s.rate)
	if err != nil && !s.DryRun {
		return frame.UsageError("send: --to: %v", err)
	}
	w, path, err := s.Gather(ctx, l.Args)
	if err != nil {
		return err
	}
	data := w.Data
	var ledger nav.Ledger
	if s.unit.name != "" {
		p, err := s.unit.Profile(s.App)
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
		return frame.FaultIn(path, "has no waypoint and no route to send (it has %s)", words.Contents(data))
	}
	if n := ledger.Losses(); s.Strict && n > 0 {
		s.Ledger(ledger)
		return frame.StrictError("%s would not be sent, refused by --strict; nothing was sent",
			measure.Counted(n, "thing", "things"))
	}
	if s.DryRun {
		for _, g := range groups {
			for _, x := range g.Sentences {
				io.WriteString(s.Out, x)
			}
		}
		s.Ledger(ledger)
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
	stop := s.Progress("sending", int64(total), sent.Load)
	u := &line.Upload{Open: open, Rate: s.rate, Retries: s.retries, Wait: 2 * time.Second, Timeout: s.timeout,
		Progress: func(n, _ int) { sent.Store(int64(n)) },
		Broken: func(group string, err error) {
			s.Note(fmt.Sprintf("the connection broke in the middle of %s (%v); sending it again", group, err))
		}}
	done, err := u.Send(ctx, groups)
	stop()
	if err != nil {
		return fmt.Errorf("%s: %w", s.to, err)
	}
	if s.JSON {
		if err := s.PrintJSON(sendAnswer{s.to, done.Sentences, done.Restarts, done.Confirmed,
			heldAnswer{done.Held.Waypoints, done.Held.Routes}, words.Told(ledger)}); err != nil {
			return err
		}
	} else {
		s.Ledger(ledger)
	}
	held := func(h line.Held) string {
		return measure.Counted(h.Waypoints, "waypoint", "waypoints") + " and " + measure.Counted(h.Routes, "route", "routes")
	}
	if done.Answered && !done.Confirmed {
		return fmt.Errorf("%s: the unit reports %s, but %s were sent; check on the unit what it has", s.to,
			held(done.Held), held(done.Sent))
	}
	if s.Quiet || s.JSON {
		return nil
	}
	what := measure.Counted(done.Sentences, "sentence", "sentences")
	if done.Confirmed {
		s.Err.Printf("%s %s; the unit reports %s\n", s.Err.Paint(console.Green, "sent and confirmed:"), what,
			held(done.Held))
		return nil
	}
	s.Err.Printf("%s %s; talker lines are one-way, so check on the unit that everything has arrived\n",
		s.Err.Paint(console.Yellow, "sent, not confirmed:"), what)
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

// sendAnswer is what send answers as JSON.
type sendAnswer struct {
	To        string     `json:"to"`
	Sentences int        `json:"sentences"`
	Restarts  int        `json:"restarts"`
	Confirmed bool       `json:"confirmed"`
	Holds     heldAnswer `json:"unit_holds"`
	Ledger    nav.Ledger `json:"ledger"`
}

type heldAnswer struct {
	Waypoints int `json:"waypoints"`
	Routes    int `json:"routes"`
}
