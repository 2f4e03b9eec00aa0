package standin

import (
	"context"
	"net"
	"strings"
	"testing"
	"time"

	"gyrolith/core/nav"
)

func sentence(body string) string { return "$" + body + "*" + xor(body) + "\r\n" }

// pipe is a connection in memory whose answers are kept.
type pipe struct {
	*strings.Reader
	said strings.Builder
}

func (p *pipe) Write(b []byte) (int, error) { return p.said.Write(b) }

func TestListener(t *testing.T) {
	l := &Listener{marks: map[string]nav.Point{}}
	first := &pipe{Reader: strings.NewReader(sentence("ECWPL,4736.0000,S,01118.0000,E,A") +
		sentence("ECWPL,4737.0000,S,01118.0000,E,B") + sentence("ECRTE,2,1,c,Run,A"))}
	l.hear(first)
	if s := l.show(); len(s.Data.Routes) != 0 || len(s.Ignored) != 1 {
		t.Errorf("half a route is shown: %+v", s)
	}
	second := &pipe{Reader: strings.NewReader(sentence("ECRTE,2,1,c,Run,A") + sentence("ECRTE,2,2,c,Run,B") +
		"$ECWPL,garbled*00\r\n" + sentence("PGYRE,5"))}
	l.hear(second)
	s := l.show()
	if len(s.Data.Routes) != 1 || len(s.Data.Routes[0].Points) != 2 || len(s.Data.Waypoints) != 0 || len(s.Ignored) != 1 {
		t.Errorf("%+v", s)
	}
	if want := sentence("PGYRA,2,1"); second.said.String() != want {
		t.Errorf("it answers %q, want %q", second.said.String(), want)
	}
}

// A listener that is told to stop gives what it has.
func TestListenerStops(t *testing.T) {
	in, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Skip(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	time.AfterFunc(50*time.Millisecond, stop)
	if s, err := (&Listener{}).Listen(ctx, in); err != nil || s.Data.Points() != 0 {
		t.Errorf("%+v %v", s, err)
	}
}

func FuzzListener(f *testing.F) {
	f.Add(sentence("ECWPL,4736.0000,S,01118.0000,E,A") + sentence("ECRTE,1,1,c,Run,A") + sentence("PGYRE,2"))
	f.Fuzz(func(t *testing.T, text string) {
		l := &Listener{marks: map[string]nav.Point{}}
		l.hear(&pipe{Reader: strings.NewReader(text)})
		for p := range l.show().Data.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
	})
}

// One silent connection blocks nobody, a line too long is told and drops nothing after it, and what was heard is kept.
func TestListenerAmongOthers(t *testing.T) {
	in, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Skip(err)
	}
	shown := make(chan *Shown, 1)
	go func() {
		s, err := (&Listener{}).Listen(t.Context(), in)
		if err != nil {
			t.Error(err)
		}
		shown <- s
	}()
	dial := func(text string) net.Conn {
		c, err := net.Dial("tcp", in.Addr().String())
		if err == nil {
			_, err = c.Write([]byte(text))
		}
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	defer dial("").Close() // silent
	c := dial(strings.Repeat("x", 100_000) + "\r\n" + sentence("ECWPL,4736.0000,S,01118.0000,E,A") + sentence("PGYRE,1"))
	defer c.Close()
	reply := make([]byte, 64)
	if n, err := c.Read(reply); err != nil || string(reply[:n]) != sentence("PGYRA,1,0") {
		t.Errorf("%q %v", reply[:n], err)
	}
	select {
	case s := <-shown:
		if len(s.Data.Waypoints) != 1 || len(s.Ignored) != 1 || !strings.Contains(s.Ignored[0].Why, "more than 4096") {
			t.Errorf("%+v", s)
		}
	case <-time.After(20 * time.Second):
		t.Fatal("it does not end")
	}
}

// A flood of garbage does not fill the memory.
func TestListenerFlooded(t *testing.T) {
	l := &Listener{marks: map[string]nav.Point{}}
	l.hear(&pipe{Reader: strings.NewReader(strings.Repeat("garbage\r\n", 5000))})
	if s := l.show(); len(s.Ignored) != mostIgnored+1 || s.Ignored[mostIgnored].Why != "4800 further sentences" {
		t.Errorf("%d, the last %+v", len(s.Ignored), s.Ignored[len(s.Ignored)-1])
	}
}
