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

// echo takes all that is sent, and answers at the end.
type echo struct {
	answer string
	asked  chan bool
}

func (e *echo) Close() error { return nil }
func (e *echo) Write(p []byte) (int, error) {
	if strings.HasPrefix(string(p), "$PGYRE") {
		close(e.asked)
	}
	return len(p), nil
}
func (e *echo) Read(p []byte) (int, error) {
	<-e.asked
	n := copy(p, e.answer)
	if e.answer = e.answer[n:]; n == 0 {
		return 0, io.EOF
	}
	return n, nil
}

// Only an answer that names no less than was sent confirms it.
func TestConfirmed(t *testing.T) {
	sent := []talker.Group{
		{Name: "waypoints", Sentences: []string{"$ECWPL,4730.00,S,01112.00,E,A*00\r\n",
			"$ECWPL,4731.00,S,01112.00,E,B*00\r\n"}},
		{Name: "Run", Sentences: []string{"$ECWPL,4730.00,S,01112.00,E,A*00\r\n", "$ECRTE,1,1,c,Run,A*00\r\n"}},
	}
	for body, want := range map[string]bool{"PGYRA,0,0": false, "PGYRA,2,0": false, "PGYRA,1,1": false, "PGYRA,2,1": true,
		"PGYRA,9,3": true} {
		u := &Upload{Wait: time.Second, Open: func(context.Context) (io.ReadWriteCloser, error) {
			return &echo{talker.Sentence(body), make(chan bool)}, nil
		}}
		done, err := u.Send(context.Background(), sent)
		if err != nil || !done.Answered || done.Confirmed != want {
			t.Errorf("%s: %+v %v", body, done, err)
		}
	}
}
