package standin

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"gyrolith/core/nav"
)

// Listener is the Keel's talker input: it takes waypoints and routes over TCP, from several connections, and keeps what
// it has when one breaks.
type Listener struct {
	mu     sync.Mutex
	marks  map[string]nav.Point
	order  []string
	routes []heard
	errs   []Ignored
	more   int // that are not listed
	ended  bool
	open   int // connections
}

// heard is a route while its sentences come in.
type heard struct {
	name        string
	total, have int
	points      []string
}

// The limits of the line: nobody who is silent, or says too much, keeps others from it.
const (
	quietTime   = 10 * time.Second // for which it waits for a broken connection to come back
	idleTime    = time.Minute      // for which a connection may be silent
	mostClients = 8                // at a time
	longestLine = 4096             // bytes
	mostIgnored = 200              // that are listed
)

// Listen takes connections until an upload has ended, by its end sentence or by silence after a connection closed, or
// the context is done. Then it gives what has been heard.
func (l *Listener) Listen(ctx context.Context, in net.Listener) (*Shown, error) {
	l.marks = map[string]nav.Point{}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	context.AfterFunc(ctx, func() { in.Close() })
	quiet := time.AfterFunc(quietTime, func() {
		if l.connections(0) == 0 {
			stop()
		}
	})
	quiet.Stop()
	var group sync.WaitGroup
	var failed error
	for {
		conn, err := in.Accept()
		if err != nil {
			if ctx.Err() == nil {
				failed = err
			}
			break
		}
		if l.connections(1) > mostClients {
			l.ignore(fmt.Sprintf("a connection beside %d others", mostClients))
			conn.Close()
			l.connections(-1)
			continue
		}
		group.Go(func() {
			defer context.AfterFunc(ctx, func() { conn.Close() })()
			l.hear(conn)
			conn.Close()
			if l.connections(-1) == 0 {
				quiet.Reset(quietTime)
			}
			if l.hasEnded() {
				stop()
			}
		})
	}
	stop()
	group.Wait()
	return l.show(), failed
}

// connections counts so many more that are open.
func (l *Listener) connections(more int) int {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.open += more
	return l.open
}

func (l *Listener) hasEnded() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.ended
}

func (l *Listener) ignore(why string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.pass("%s", why)
}

// pass notes what is passed over.
func (l *Listener) pass(why string, args ...any) {
	if len(l.errs) == mostIgnored {
		l.more++
		return
	}
	l.errs = append(l.errs, Ignored{"talker line", fmt.Sprintf(why, args...)})
}

// hear takes the sentences of one connection.
func (l *Listener) hear(conn io.ReadWriter) {
	in := bufio.NewReaderSize(conn, longestLine)
	for {
		if c, ok := conn.(net.Conn); ok {
			c.SetReadDeadline(time.Now().Add(idleTime))
		}
		line, err := in.ReadSlice('\n')
		if errors.Is(err, bufio.ErrBufferFull) {
			l.ignore(fmt.Sprintf("a line of more than %d characters", longestLine))
			for errors.Is(err, bufio.ErrBufferFull) {
				_, err = in.ReadSlice('\n')
			}
			line = nil
		}
		if reply := l.sentence(strings.TrimSpace(string(line))); reply != "" {
			io.WriteString(conn, reply)
			return
		}
		if err != nil {
			return
		}
	}
}

func xor(body string) string {
	c := byte(0)
	for _, b := range []byte(body) {
		c ^= b
	}
	return fmt.Sprintf("%02X", c)
}

// sentence takes one sentence in; after the end sentence it gives the reply.
func (l *Listener) sentence(text string) string {
	l.mu.Lock()
	defer l.mu.Unlock()
	body, check, ok := strings.Cut(strings.TrimPrefix(text, "$"), "*")
	if !ok || !strings.HasPrefix(text, "$") || !strings.EqualFold(check, xor(body)) {
		if text != "" {
			l.pass("a sentence with a wrong sum: %.60s", text)
		}
		return ""
	}
	if len(text) > 80 { // and CR LF
		l.pass("a sentence of more than 82 characters: %.60s", text)
		return ""
	}
	f := strings.Split(body, ",")
	switch {
	case len(f) == 6 && len(f[0]) == 5 && f[0][2:] == "WPL":
		l.mark(f)
	case len(f) >= 5 && len(f[0]) == 5 && f[0][2:] == "RTE":
		l.route(f)
	case f[0] == "PGYRE":
		l.ended = true
		reply := fmt.Sprintf("PGYRA,%d,%d", len(l.marks), len(l.routes))
		if len(f) > 2 {
			reply += "," + f[2]
		}
		return "$" + reply + "*" + xor(reply) + "\r\n"
	}
	return ""
}

func (l *Listener) mark(f []string) {
	angle := func(text, letter string, split int, minus string) float64 {
		if len(text) < split+2 {
			return math.NaN()
		}
		d, err1 := strconv.ParseFloat(text[:split], 64)
		m, err2 := strconv.ParseFloat(text[split:], 64)
		if err1 != nil || err2 != nil || m >= 60 || m < 0 {
			return math.NaN()
		}
		if letter == minus {
			return -d - m/60
		}
		return d + m/60
	}
	lat, lon := angle(f[1], f[2], 2, "S"), angle(f[3], f[4], 3, "W")
	if !(math.Abs(lat) <= 90 && math.Abs(lon) <= 180) {
		l.pass("mark %q has no position", f[5])
		return
	}
	if _, had := l.marks[f[5]]; !had {
		if len(l.order) == keelMarks {
			l.pass("mark %q: its memory of %d is full", f[5], keelMarks)
			return
		}
		l.order = append(l.order, f[5])
	}
	l.marks[f[5]] = nav.At(lat, lon)
}

func (l *Listener) route(f []string) {
	total, _ := strconv.Atoi(f[1])
	number, _ := strconv.Atoi(f[2])
	if number == 1 { // it begins, perhaps again
		l.routes = slices.DeleteFunc(l.routes, func(r heard) bool { return r.name == f[4] })
		if len(l.routes) == keelRoutes {
			l.pass("route %q: its memory of %d is full", f[4], keelRoutes)
			return
		}
		l.routes = append(l.routes, heard{name: f[4], total: total})
	}
	i := slices.IndexFunc(l.routes, func(r heard) bool { return r.name == f[4] })
	if i < 0 || l.routes[i].have != number-1 {
		l.pass("sentence %d of route %q came out of turn", number, f[4])
		return
	}
	r := &l.routes[i]
	if len(r.points)+len(f)-5 > keelMarks {
		l.pass("route %q: more points than it has marks", f[4])
		return
	}
	r.have = number
	r.points = append(r.points, f[5:]...)
}

// show gives what the unit has heard.
func (l *Listener) show() *Shown {
	l.mu.Lock()
	defer l.mu.Unlock()
	s := &Shown{Unit: "keel", Data: &nav.Dataset{}, Ignored: l.errs, Words: map[nav.Kind]string{nav.Waypoints: "marks"},
		Limits: map[nav.Kind]int{nav.Waypoints: keelMarks, nav.Routes: keelRoutes}}
	cut := func(text string) string {
		if r := []rune(text); len(r) > keelName {
			return string(r[:keelName])
		}
		return text
	}
	if l.more > 0 {
		s.Ignored = append(s.Ignored, Ignored{"talker line", fmt.Sprintf("%d further sentences", l.more)})
	}
	used := map[string]bool{}
	for _, h := range l.routes {
		r := nav.Route{Item: nav.Item{Name: cut(h.name)}}
		if h.have < h.total {
			s.Ignored = append(s.Ignored, Ignored{"talker line", fmt.Sprintf("route %q: %d of %d sentences came", h.name,
				h.have, h.total)})
			continue
		}
		for _, name := range h.points {
			if p, ok := l.marks[name]; ok {
				used[name] = true
				r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: cut(name)}, Point: p})
			}
		}
		s.Data.Routes = append(s.Data.Routes, r)
	}
	for _, name := range l.order {
		if !used[name] {
			s.Data.Waypoints = append(s.Data.Waypoints, nav.Waypoint{Item: nav.Item{Name: cut(name)}, Point: l.marks[name]})
		}
	}
	return s
}
