package line

import (
	"context"
	"errors"
	"io"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format/talker"
)

// broken is a line that takes some bytes and then fails.
type broken struct{ left int }

func (b *broken) Read([]byte) (int, error) { return 0, io.EOF }
func (b *broken) Close() error             { return nil }
func (b *broken) Write(p []byte) (int, error) {
	if b.left -= len(p); b.left < 0 {
		return 0, errors.New("nobody is there any more")
	}
	return len(p), nil
}

var groups = []talker.Group{{Name: "Run", Sentences: []string{"$ECWPL,1*00\r\n", "$ECWPL,2*00\r\n", "$ECRTE*00\r\n"}}}

// A line that breaks and does not come back ends the upload with an error that says so.
func TestLineThatDoesNotComeBack(t *testing.T) {
	tries := 0
	u := &Upload{Retries: 2, Wait: time.Millisecond, Open: func(context.Context) (io.ReadWriteCloser, error) {
		if tries++; tries > 1 {
			return nil, errors.New("connection refused")
		}
		return &broken{20}, nil
	}}
	_, err := u.Send(context.Background(), groups)
	if err == nil || !strings.Contains(err.Error(), "could not be restored: connection refused") || tries != 4 {
		t.Errorf("%v after %d tries", err, tries)
	}
}

// A line that is slow to come back does not outlast the context.
func TestUploadEndsWithContext(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	u := &Upload{Retries: 5, Wait: time.Hour, Open: func(context.Context) (io.ReadWriteCloser,
		error) {
		return &broken{20}, nil
	},
		Broken: func(string, error) { cancel() }}
	done := make(chan error, 1)
	go func() { _, err := u.Send(ctx, groups); done <- err }()
	select {
	case err := <-done:
		if !errors.Is(err, context.Canceled) {
			t.Errorf("%v", err)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("it goes on")
	}
}

// echo takes all that is sent, and answers at the end, behind what waits in the line.
type echo struct {
	waits, answer string // an answer with T has the token of the end
	asked         chan bool
}

func (e *echo) Close() error { return nil }
func (e *echo) Write(p []byte) (int, error) {
	if strings.HasPrefix(string(p), "$PGYRE") {
		body, _, _ := strings.Cut(string(p), "*")
		e.answer = talker.Sentence(strings.Replace(e.answer, "T", body[strings.LastIndex(body, ",")+1:], 1))
		close(e.asked)
	}
	return len(p), nil
}
func (e *echo) Read(p []byte) (int, error) {
	if n := copy(p, e.waits); n > 0 {
		e.waits = e.waits[n:]
		return n, nil
	}
	<-e.asked
	n := copy(p, e.answer)
	if e.answer = e.answer[n:]; n == 0 {
		return 0, io.EOF
	}
	return n, nil
}

// Only an answer to this upload that names what was sent confirms it: none that waited in the line, came early, is for
// another, or names more.
func TestConfirmed(t *testing.T) {
	sent := []talker.Group{
		{Name: "waypoints", Sentences: []string{"$ECWPL,4730.00,S,01112.00,E,A*00\r\n",
			"$ECWPL,4731.00,S,01112.00,E,B*00\r\n"}},
		{Name: "Run", Sentences: []string{"$ECWPL,4730.00,S,01112.00,E,A*00\r\n", "$ECRTE,1,1,c,Run,A*00\r\n"}},
	}
	stale := strings.Repeat(talker.Sentence("PGYRA,2,1")+talker.Sentence("PGYRA,2,1,0A0B0C"), 500)
	for body, want := range map[string][2]bool{"PGYRA,0,0,T": {true, false}, "PGYRA,2,0,T": {true, false},
		"PGYRA,1,1,T": {true, false}, "PGYRA,2,1,T": {true, true}, "PGYRA,99999,1,T": {true, false}, "PGYRA,2,1": {},
		"PGYRA,2,1,0A0B0C": {}, "PGYRA,2,1,": {}} {
		u := &Upload{Wait: time.Second, Open: func(context.Context) (io.ReadWriteCloser, error) {
			return &echo{stale, body, make(chan bool)}, nil
		}}
		done, err := u.Send(context.Background(), sent)
		if err != nil || done.Answered != want[0] || done.Confirmed != want[1] {
			t.Errorf("%s: %+v %v", body, done, err)
		}
	}
}

// dam takes nothing, as a unit that is off.
type dam struct{ closed chan bool }

func (d *dam) Read([]byte) (int, error) { <-d.closed; return 0, io.EOF }
func (d *dam) Write([]byte) (int, error) {
	<-d.closed
	return 0, errors.New("closed")
}
func (d *dam) Close() error {
	select {
	case <-d.closed:
	default:
		close(d.closed)
	}
	return nil
}

// A line that nobody drains ends with one error, and is not tried again.
func TestLineThatTakesNothing(t *testing.T) {
	opened := 0
	u := &Upload{Retries: 3, Wait: time.Hour, Timeout: 20 * time.Millisecond,
		Open: func(context.Context) (io.ReadWriteCloser, error) { opened++; return &dam{make(chan bool)}, nil }}
	_, err := u.Send(context.Background(), groups)
	if err == nil || !strings.Contains(err.Error(), "nothing was taken from the line for 20ms") || opened != 1 {
		t.Errorf("%v after %d openings", err, opened)
	}
}
