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

	"github.com/urfave/cli/v3"
	"go.bug.st/serial"

	"gyrolith/core/format/talker"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

func (a *app) send() *cli.Command {
	return &cli.Command{
		Name:      "send",
		Usage:     "upload waypoints and routes over a marine talker line, by TCP or a serial port",
		ArgsUsage: "FILES… --to ADDRESS",
		Description: "Sends the sentences WPL and RTE (IEC 61162-1), as fast as the line's rate lets them go. When the connection\n" +
			"breaks, the route that was interrupted is begun again. Such a line is one-way: it says 'sent, not confirmed',\n" +
			"unless the other end gives the reply that docs/formats/talker.md describes, as the stand-in does.",
		Flags: flags([]cli.Flag{
			&cli.StringFlag{Name: "to", Usage: "the `ADDRESS`: tcp://HOST:PORT, or serial:DEVICE such as serial:/dev/ttyUSB0"},
			&cli.StringFlag{Name: "unit", Usage: "fit the data to this `UNIT` first"},
			&cli.IntFlag{Name: "rate", Value: 4800, Usage: "the line's rate in `BITS` a second"},
			&cli.IntFlag{Name: "retries", Value: 3, Usage: "how many `TIMES` a broken connection is made again"},
			&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "print the sentences and send nothing"},
		}, readFlags(), answerFlags()),
		Action: a.runSend,
	}
}

func (a *app) runSend(ctx context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	rate := int(c.Int("rate"))
	if rate < 300 || rate > 4_000_000 {
		return usageError("send: --rate: %d is no rate of a line; 4800 and 38400 are the usual ones", rate)
	}
	if c.Int("retries") < 0 || c.Int("retries") > 1000 {
		return usageError("send: --retries is a number from 0 to 1000")
	}
	open, err := opener(c.String("to"), rate)
	if err != nil && !o.dryRun {
		return usageError("send: --to: %v", err)
	}
	inputs, err := a.load(c.Name, c.Args().Slice(), o)
	if err != nil {
		return err
	}
	data, err := a.merged(inputs, o)
	if err != nil {
		return err
	}
	var ledger nav.Ledger
	if c.String("unit") != "" {
		p, err := theUnit(c)
		if err != nil {
			return err
		}
		fitted := unit.Fit(data, p)
		data, ledger = fitted.Data, fitted.Ledger
	}
	groups, lost := talker.Encode(data)
	ledger = append(ledger, lost...)
	if len(groups) == 0 {
		return faultIn(inputs[0].Path, "has no waypoint and no route to send (it holds %s)", contents(data))
	}
	if n := ledger.Losses(); o.strict && n > 0 {
		a.ledger(ledger, o)
		return strictError("%s would not be sent, refused by --strict; nothing was sent", plural(n, "thing", "things"))
	}
	if o.dryRun {
		for _, g := range groups {
			for _, s := range g.Sentences {
				io.WriteString(a.out, s)
			}
		}
		a.ledger(ledger, o)
		return nil
	}
	return a.upload(ctx, c, open, groups, ledger, o)
}

func (a *app) upload(ctx context.Context, c *cli.Command, open func(context.Context) (io.ReadWriteCloser, error), groups []talker.Group, ledger nav.Ledger, o *options) error {
	total := 0
	for _, g := range groups {
		for _, s := range g.Sentences {
			total += len(s)
		}
	}
	var sent atomic.Int64
	stop := a.progress(o, "sending", int64(total), sent.Load)
	u := &unit.Upload{Open: open, Rate: int(c.Int("rate")), Retries: int(c.Int("retries")), Wait: 2 * time.Second,
		Progress: func(n, _ int) { sent.Store(int64(n)) },
		Broken: func(group string, err error) {
			if !o.quiet {
				a.err.printf("%s the connection broke in the middle of %s (%s); it is begun again\n", a.err.paint(yellow, "note:"), show(group), show(err.Error()))
			}
		}}
	done, err := u.Send(ctx, groups)
	stop()
	if err != nil {
		return fmt.Errorf("%s: %w", c.String("to"), err)
	}
	if o.json {
		return a.printJSON(map[string]any{"to": c.String("to"), "sentences": done.Sentences, "restarts": done.Restarts, "confirmed": done.Confirmed,
			"unit_holds": map[string]int{"waypoints": done.Waypoints, "routes": done.Routes}, "ledger": append(nav.Ledger{}, ledger...)})
	}
	a.ledger(ledger, o)
	if o.quiet {
		return nil
	}
	what := plural(done.Sentences, "sentence", "sentences")
	if done.Confirmed {
		a.err.printf("%s %s; the unit says that it holds %s and %s\n", a.err.paint(green, "sent and confirmed:"), what, plural(done.Waypoints, "waypoint", "waypoints"), plural(done.Routes, "route", "routes"))
		return nil
	}
	a.err.printf("%s %s; such a line is one-way: look on the unit whether all is there\n", a.err.paint(yellow, "sent, not confirmed:"), what)
	return nil
}

// errAddress is given for an address of no known form.
var errAddress = errors.New("write tcp://HOST:PORT, or serial:DEVICE such as serial:/dev/ttyUSB0")

// opener gives how a line is opened.
func opener(address string, rate int) (func(context.Context) (io.ReadWriteCloser, error), error) {
	if address == "" {
		return nil, errors.New("it is missing: " + errAddress.Error())
	}
	if host, ok := strings.CutPrefix(address, "tcp://"); ok {
		if _, _, err := net.SplitHostPort(host); err != nil {
			return nil, fmt.Errorf("%q has no port: %w", address, errAddress)
		}
		return func(ctx context.Context) (io.ReadWriteCloser, error) {
			d := net.Dialer{Timeout: 10 * time.Second}
			conn, err := d.DialContext(ctx, "tcp", host)
			if err != nil {
				return nil, fmt.Errorf("nobody answers: %w", err)
			}
			return conn, nil
		}, nil
	}
	device, ok := strings.CutPrefix(address, "serial:")
	if !ok || device == "" {
		return nil, fmt.Errorf("%q is no address: %w", address, errAddress)
	}
	return func(context.Context) (io.ReadWriteCloser, error) {
		if _, err := os.Stat(device); err != nil && strings.HasPrefix(device, "/") {
			return nil, errors.New("there is no such device; is it plugged in?")
		}
		return serial.Open(device, &serial.Mode{BaudRate: rate})
	}, nil
}
