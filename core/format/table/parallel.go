package table

import (
	"bytes"
	"cmp"
	"errors"
	"sync/atomic"

	"gyrolith/core/format"
	"gyrolith/core/format/inorder"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// Why a text is no table, or none in its encoding.
var (
	errEncoding = errors.New("is not UTF-8")
	errBinary   = errors.New("is a binary file, not a table of text")
)

// blocks reads the rows of a text block by block, on all cores where there are several.
func (r *reader) blocks(all *blocks, first *block) error {
	if first.last {
		return r.block(first, r.header)
	}
	blank := *r
	blank.spare = make(chan []nav.Point, 8)
	var free []nav.Waypoint // room for the waypoints, of which every block has its own stretch
	if !r.lined {
		free = make([]nav.Waypoint, int(float64(all.size)/float64(first.end)*float64(first.lines)*1.02)+1)
		r.d.Waypoints = free[:0]
	}
	var failed atomic.Bool
	var err error
	top := first
	next := func() (*piece, bool) {
		b := first
		if first = nil; b == nil {
			b = all.next()
		}
		if b == nil || failed.Load() {
			return nil, false
		}
		p := &piece{reader: blank, of: b, skip: -1}
		if p.systems != nil {
			p.systems = map[string]*crs.System{}
		}
		if p.of == top {
			p.skip = r.header
		}
		p.d = &nav.Dataset{}
		p.account = account{}
		p.lines = make([]line, 1)
		if b.lines > len(free) {
			free = nil // what is behind is for those that had no stretch
		} else {
			p.d.Waypoints, free = free[:0:b.lines], free[b.lines:]
		}
		return p, true
	}
	inorder.Through(next, func(p *piece) *piece {
		p.err = p.block(p.of, p.skip)
		return p
	}, func(p *piece) {
		if err == nil {
			err = p.err
		}
		if err != nil {
			failed.Store(true)
			return
		}
		r.join(p, all.size)
	})
	return err
}

// piece is the reader of a block.
type piece struct {
	reader
	of   *block
	skip int // the header's row; -1 is none
	err  error
}

// check says why a block is no text.
func (b *block) check() error {
	if !format.IsUTF8(b.text, b.last) {
		return errEncoding
	}
	if bytes.IndexByte(b.text, 0) >= 0 {
		return errBinary
	}
	return nil
}

// block reads the rows of a block behind the one to skip.
func (r *reader) block(b *block, skip int) error {
	if err := b.check(); err != nil {
		return err
	}
	text := b.text
	if b.last {
		text = r.cutOff(text, b.sep, b.line)
	}
	in := newScanner(text, b.sep)
	in.next = b.line
	for row := 0; in.scan(); row++ {
		if row > skip {
			r.row(in.cells, in.line)
		}
	}
	r.open = in.open
	return nil
}

// join puts what was read of a block behind the rest. Size is that of the whole text.
func (r *reader) join(p *piece, size int64) {
	r.joined += p.of.lines
	spare := int(float64(r.joined)*float64(size)/float64(p.of.end)*1.03) - r.room // points that are still to come, or room
	for i := range p.lines {
		from, at := &p.lines[i], int32(0)
		if i > 0 {
			at = r.lineOf(from.key, from.group)
		}
		to := &r.lines[at]
		begin := to.rows
		for _, s := range from.starts {
			to.stands(begin+s.row, s.text)
		}
		to.rows = begin + from.rows
		if i == 0 {
			continue
		}
		if from.group != to.group && r.regroups == 0 {
			r.regroups = from.textLine(0)
		}
		if to.begun == 0 {
			to.begun = max(1, p.of.end-int64(len(p.of.text)))
		}
		if n := len(from.segment.Points); len(to.segment.Points)+n > cap(to.segment.Points) {
			r.room -= cap(to.segment.Points)
			to.grow(n, p.of.end, size, spare)
			r.room += cap(to.segment.Points)
		}
		to.order = append(to.order, from.order...)
		carry := nav.Carry{From: &from.segment, To: &to.segment}
		for k := range from.segment.Points {
			to.segment.Points = append(to.segment.Points, carry.Point(from.segment.Points[k]))
		}
		select {
		case p.spare <- from.segment.Points[:0]:
		default:
		}
	}
	if more := p.d.Waypoints; len(more) > 0 {
		r.d.Waypoints = joined(format.Room(r.d.Waypoints, p.of.end, size), more)
	}
	r.faulty = append(r.faulty, p.faulty...)
	r.bounds.join(p.bounds)
	r.beyond.join(p.beyond)
	r.more = r.more || p.more
	r.account.join(&p.account)
	r.timed, r.named, r.open = r.timed || p.timed, r.named || p.named, p.open
	r.regroups, r.south = cmp.Or(r.regroups, p.regroups), cmp.Or(r.south, p.south)
	p.d.Waypoints = nil
	r.d.Merge(p.d)
}

// joined appends a part, which may stand behind the whole already.
func joined[T any](whole, part []T) []T {
	if n := len(whole); n < cap(whole) && &whole[:n+1][n] == &part[0] {
		return whole[:n+len(part)]
	}
	return append(whole, part...)
}
