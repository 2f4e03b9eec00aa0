// Package line uploads waypoints and routes over a talker line.
package line

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"time"

	"gyrolith/core/format/talker"
)

// Upload sends groups of talker sentences down a line, as fast as the line's rate lets them go. It begins a group again
// whose connection broke.
type Upload struct {
	Open     func(context.Context) (io.ReadWriteCloser, error)
	Rate     int                         // bits a second; ten for each character
	Retries  int                         // times that a broken connection is made again
	Wait     time.Duration               // between two tries, and for a reply
	Timeout  time.Duration               // within which a sentence must be taken; zero is half a minute
	Progress func(sent, total int)       // in characters; nil for none
	Broken   func(group string, _ error) // is called when a connection broke; nil for none
}

// Uploaded says how an upload ended.
type Uploaded struct {
	Sentences int
	Restarts  int
	Answered  bool // with the documented reply to this upload
	Confirmed bool // by a reply that names what was sent
	Sent      Held
	Held      Held // of this upload by the other end, as it replies
}

// Held counts what was sent, or is held by the other end.
type Held struct{ Waypoints, Routes int }

// heldBy counts what there is to hold in groups: a waypoint of one name is held once.
func heldBy(groups []talker.Group) (h Held) {
	names := map[string]bool{}
	for _, g := range groups {
		route := false
		for _, s := range g.Sentences {
			body, _, _ := strings.Cut(strings.TrimSpace(s), "*")
			fields := strings.Split(body, ",")
			switch {
			case strings.HasSuffix(fields[0], "WPL"):
				names[fields[len(fields)-1]] = true
			case strings.HasSuffix(fields[0], "RTE"):
				route = true
			}
		}
		if route {
			h.Routes++
		}
	}
	h.Waypoints = len(names)
	return h
}

// Send sends all groups, and waits a while for a reply.
func (u *Upload) Send(ctx context.Context, groups []talker.Group) (*Uploaded, error) {
	out := &Uploaded{Sent: heldBy(groups)}
	total := 0
	for _, g := range groups {
		for _, s := range g.Sentences {
			total += len(s)
			out.Sentences++
		}
	}
	line, err := u.Open(ctx)
	if err != nil {
		return nil, err
	}
	token := fmt.Sprintf("%06X", rand.Uint32()>>8) // by which the reply to this upload is known from any other
	heard := listen(line, token)
	defer func() {
		if line != nil {
			line.Close()
		}
	}()
	sent := 0
	for _, g := range groups {
		for try := 0; ; try++ {
			n, err := u.group(ctx, line, g, sent, total)
			if err == nil {
				sent += n
				break
			}
			if stuck, is := errors.AsType[*Stuck](err); is {
				return nil, stuck
			}
			if ctx.Err() != nil || try == u.Retries {
				return nil, fmt.Errorf("the connection broke in the middle of %s: %w", g.Name, err)
			}
			if u.Broken != nil {
				u.Broken(g.Name, err)
			}
			line.Close()
			out.Restarts++
			if line, err = u.reopen(ctx); err != nil {
				return nil, err
			}
			heard = listen(line, token)
		}
	}
	if err := u.write(ctx, line, talker.Sentence(fmt.Sprintf("PGYRE,%d,%s", out.Sentences, token))); err != nil {
		return out, nil // all is sent, and nobody asked for more
	}
	u.reply(heard, out)
	return out, nil
}

// Stuck is the error of a line from which nobody takes what is sent.
type Stuck struct{ After time.Duration }

func (s *Stuck) Error() string {
	return fmt.Sprintf("nothing was taken from the line for %v: is the unit on, and does it listen?", s.After)
}

// write sends a text; a line that takes nothing is closed.
func (u *Upload) write(ctx context.Context, line io.WriteCloser, text string) error {
	done := make(chan error, 1)
	go func() {
		_, err := io.WriteString(line, text)
		done <- err
	}()
	limit := cmp.Or(u.Timeout, 30*time.Second)
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
		line.Close()
		return ctx.Err()
	case <-time.After(limit):
		line.Close()
		return &Stuck{limit}
	}
}

func (u *Upload) reopen(ctx context.Context) (io.ReadWriteCloser, error) {
	var last error
	for range u.Retries + 1 {
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(u.Wait):
		}
		line, err := u.Open(ctx)
		if err == nil {
			return line, nil
		}
		last = err
	}
	return nil, fmt.Errorf("the connection broke and could not be restored: %w", last)
}

func (u *Upload) group(ctx context.Context, line io.WriteCloser, g talker.Group, sent, total int) (n int, err error) {
	for _, s := range g.Sentences {
		if err := ctx.Err(); err != nil {
			return n, err
		}
		if err := u.write(ctx, line, s); err != nil {
			return n, err
		}
		n += len(s)
		if u.Progress != nil {
			u.Progress(sent+n, total)
		}
		if u.Rate > 0 {
			select {
			case <-ctx.Done():
				return n, ctx.Err()
			case <-time.After(time.Duration(len(s)) * 10 * time.Second / time.Duration(u.Rate)):
			}
		}
	}
	return n, nil
}

// listen reads a line from its beginning, so that nothing waits in it, and gives the reply with a token: PGYRA with the
// waypoints and routes that a unit took of this upload.
func listen(line io.Reader, token string) <-chan Held {
	heard := make(chan Held, 1)
	go func() {
		defer close(heard)
		for in := bufio.NewReaderSize(line, 4<<10); ; {
			text, err := in.ReadSlice('\n')
			body, check, _ := strings.Cut(strings.TrimPrefix(strings.TrimSpace(string(text)), "$"), "*")
			var h Held
			counts, ours := strings.CutSuffix(body, ","+token)
			if n, _ := fmt.Sscanf(counts, "PGYRA,%d,%d", &h.Waypoints, &h.Routes); ours && n == 2 &&
				strings.EqualFold(check, fmt.Sprintf("%02X", talker.Sum(body))) {
				heard <- h
				return
			}
			if err != nil && err != bufio.ErrBufferFull {
				return
			}
		}
	}()
	return heard
}

// reply waits for the sentence with which a unit confirms.
func (u *Upload) reply(heard <-chan Held, out *Uploaded) {
	select {
	case out.Held, out.Answered = <-heard:
		out.Confirmed = out.Answered && out.Held == out.Sent
	case <-time.After(u.Wait):
	}
}
