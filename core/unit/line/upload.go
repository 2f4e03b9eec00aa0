// Package line uploads waypoints and routes over a talker line.
package line

import (
	"bufio"
	"context"
	"fmt"
	"io"
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
	Progress func(sent, total int)       // in characters; nil for none
	Broken   func(group string, _ error) // is called when a connection broke; nil for none
}

// Uploaded says how an upload ended.
type Uploaded struct {
	Sentences int
	Restarts  int
	Answered  bool // with the documented reply
	Confirmed bool // by a reply that names no less than was sent
	Sent      Held
	Held      Held // by the other end, as it replies
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
		}
	}
	if _, err := io.WriteString(line, talker.Sentence(fmt.Sprintf("PGYRE,%d", out.Sentences))); err != nil {
		return out, nil // all is sent, and nobody asked for more
	}
	u.reply(line, out)
	return out, nil
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

func (u *Upload) group(ctx context.Context, line io.Writer, g talker.Group, sent, total int) (n int, err error) {
	for _, s := range g.Sentences {
		if err := ctx.Err(); err != nil {
			return n, err
		}
		if _, err := io.WriteString(line, s); err != nil {
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

// mostReply is how many bytes are looked at for a reply.
const mostReply = 64 << 10

// reply waits for the sentence with which a stand-in confirms, PGYRA with the waypoints and routes that it holds.
func (u *Upload) reply(line io.ReadWriteCloser, out *Uploaded) {
	got := make(chan string, 1)
	go func() {
		r := bufio.NewReader(io.LimitReader(line, mostReply))
		for {
			text, err := r.ReadString('\n')
			if strings.HasPrefix(text, "$PGYRA,") || err != nil {
				got <- strings.TrimSpace(text)
				return
			}
		}
	}()
	select {
	case text := <-got:
		body, check, ok := strings.Cut(strings.TrimPrefix(text, "$"), "*")
		if !ok || !strings.EqualFold(check, fmt.Sprintf("%02X", talker.Sum(body))) {
			return
		}
		if n, err := fmt.Sscanf(body, "PGYRA,%d,%d", &out.Held.Waypoints, &out.Held.Routes); n == 2 && err == nil {
			out.Answered = true
			out.Confirmed = out.Held.Waypoints >= out.Sent.Waypoints && out.Held.Routes >= out.Sent.Routes
		}
	case <-time.After(u.Wait):
	}
}
