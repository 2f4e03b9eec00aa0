package xmlscan

import "bytes"

func (s *Scanner) pop() error {
	last := len(s.open) - 1
	s.name = s.open[last].name
	if n := s.open[last].bindings; n < len(s.bindings) {
		s.bindings = s.bindings[:n]
		s.names.stale()
	}
	s.open = s.open[:last]
	return nil
}

func (s *Scanner) endTag() (Kind, error) {
	if len(s.open) == 0 {
		return EOF, s.Errorf("an end tag without a start tag")
	}
	raw := s.open[len(s.open)-1].name.raw
	n := len(raw)
	if !s.need(n + 3) {
		// Nearly every file that gets here was cut off.
		if i := bytes.IndexByte(s.buf[s.pos:], '>'); i < 0 {
			return EOF, s.cutOff("an end tag")
		}
	}
	b := s.buf[s.pos:]
	if len(b) >= n+3 && string(b[2:n+2]) == raw {
		if b[n+2] == '>' {
			s.pos += n + 3
			return End, s.pop()
		}
		off := n + 2
		for {
			if s.token+off >= len(s.buf) && !s.fill() {
				return EOF, s.cutOff("an end tag")
			}
			c := s.buf[s.token+off]
			if c == '>' && off > n+2 {
				s.pos = s.token + off + 1
				return End, s.pop()
			}
			if !blank(c) {
				break
			}
			off++
		}
	}
	found, ok := s.find(s.pos+2, ">")
	if !ok {
		return EOF, s.cutOff("an end tag")
	}
	return EOF, s.Errorf("<%s> is closed by </%.60s>", raw, s.buf[s.token+2:s.token+found])
}

func blank(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' }

// startTag reads a start tag. It works on offsets, and starts over when the tag is not whole in the buffer.
func (s *Scanner) startTag() (Kind, error) {
	for {
		done, err := s.tryStartTag()
		if err != nil {
			return EOF, err
		}
		if done {
			return Start, nil
		}
		if !s.fill() {
			return EOF, s.cutOff("a tag")
		}
	}
}

func (s *Scanner) tryStartTag() (bool, error) {
	b := s.buf[s.token:]
	i := 1
	for i < len(b) && nameByte[b[i]] {
		i++
	}
	if i == len(b) {
		return false, nil
	}
	name := b[1:i]
	s.attrs = s.attrs[:0]
	declares := false
	for {
		space := i
		for i < len(b) && blank(b[i]) {
			i++
		}
		if i == len(b) {
			return false, nil
		}
		c := b[i]
		if c == '>' {
			i++
			break
		}
		if c == '/' {
			if i+1 == len(b) {
				return false, nil
			}
			if b[i+1] != '>' {
				return false, s.errorAt(s.token+i, "a slash in the middle of a tag")
			}
			s.selfClose = true
			i += 2
			break
		}
		start := i
		for i < len(b) && nameByte[b[i]] {
			i++
		}
		end := i
		for i < len(b) && blank(b[i]) {
			i++
		}
		if i == len(b) {
			return false, nil
		}
		if badName(b[start:end]) || b[i] != '=' || start == space && len(s.attrs) == 0 {
			if badName(name) {
				return false, s.Errorf("\"%.20s\" is not a tag; a \"<\" in a text is written &lt;", b)
			}
			return false, s.errorAt(s.token+start, "an attribute of <%.40s> is not written as name=\"value\"", name)
		}
		i++
		for i < len(b) && blank(b[i]) {
			i++
		}
		if i == len(b) {
			return false, nil
		}
		q := b[i]
		if q != '"' && q != '\'' {
			return false, s.errorAt(s.token+i, "the value of the attribute \"%.40s\" is not in quotes", b[start:end])
		}
		i++
		n := bytes.IndexByte(b[i:], q)
		if n < 0 {
			if lt := bytes.IndexByte(b[i:], '<'); lt >= 0 && len(b)-i > 1<<20 {
				return false, s.errorAt(s.token+i, "the value of the attribute \"%.40s\" has no closing quote", b[start:end])
			}
			return false, nil
		}
		if bytes.IndexByte(b[i:i+n], '<') >= 0 {
			return false, s.errorAt(s.token+i, "a \"<\" in the value of the attribute \"%.40s\": its closing quote is missing, "+
				"or it must be written &lt;", b[start:end])
		}
		s.attrs = append(s.attrs, Attr{Name: b[start:end], Raw: b[i : i+n]})
		if b[start] == 'x' && bytes.HasPrefix(b[start:end], []byte("xmlns")) {
			declares = true
		}
		i += n + 1
	}
	if badName(name) {
		s.selfClose = false
		return false, s.Errorf("\"%.20s\" is not a tag; a \"<\" in a text is written &lt;", b)
	}
	if twice := s.attributeTwice(); twice != nil {
		return false, s.Errorf("the attribute \"%.40s\" stands twice in one tag", twice)
	}
	if len(s.open) >= s.limits.Depth {
		return false, s.tooDeep()
	}
	s.pos = s.token + i
	outside := len(s.bindings)
	if declares {
		if err := s.bind(); err != nil {
			return false, err
		}
	}
	s.name = s.names.get(name, s)
	s.open = append(s.open, element{s.name, outside})
	s.untaken = len(s.attrs) > 0 && s.Unread != nil
	return true, nil
}

// attributeTwice finds an attribute that a tag has twice (XML 1.0, 3.1) with different values, of which nobody can say
// which one is meant.
func (s *Scanner) attributeTwice() []byte {
	if len(s.attrs) > 32 { // no tag that counts; the time would grow with the square
		return nil
	}
	for i := 1; i < len(s.attrs); i++ {
		for k := range i {
			if bytes.Equal(s.attrs[i].Name, s.attrs[k].Name) && !bytes.Equal(s.attrs[i].Raw, s.attrs[k].Raw) {
				return s.attrs[i].Name
			}
		}
	}
	return nil
}

// bind takes the namespace declarations among the attributes.
func (s *Scanner) bind() error {
	for _, a := range s.attrs {
		prefix, ok := "", string(a.Name) == "xmlns"
		if !ok && len(a.Name) > len("xmlns:") && bytes.HasPrefix(a.Name, []byte("xmlns:")) {
			prefix, ok = string(a.Name[6:]), true
		}
		if ok {
			uri, err := s.AttrValue(a)
			if err != nil {
				return err
			}
			s.bindings = append(s.bindings, binding{prefix, string(uri)})
			s.names.stale()
		}
	}
	return nil
}

// lookup finds the address that a prefix stands for.
func (s *Scanner) lookup(prefix string) (uri string, bound bool) {
	for i := len(s.bindings) - 1; i >= 0; i-- {
		if s.bindings[i].prefix == prefix {
			return s.bindings[i].uri, true
		}
	}
	return prefix, false
}

// nameEntry is a name as written, with what it stands for under the bindings of its epoch.
type nameEntry struct {
	raw   string
	name  Name
	epoch uint32
}

// nameCache finds the same few names again without allocating.
type nameCache struct {
	slots [128]*nameEntry
	epoch uint32
}

func (c *nameCache) stale() { c.epoch++ }

func (c *nameCache) get(raw []byte, s *Scanner) *nameEntry {
	n := len(raw)
	slot := &c.slots[(uint(raw[0])*7+uint(raw[n-1])*31+uint(n)*13)%128]
	if e := *slot; e != nil && e.epoch == c.epoch && e.raw == string(raw) {
		return e
	}
	e := &nameEntry{raw: string(raw), epoch: c.epoch}
	prefix, local := splitName(e.raw)
	e.name.Local = local
	e.name.Space, _ = s.lookup(prefix)
	*slot = e
	return e
}

// splitName parts a prefix from a local name. A colon at either end is part of the name.
func splitName(raw string) (prefix, local string) {
	for i := 0; i < len(raw); i++ {
		if raw[i] == ':' && i > 0 && i < len(raw)-1 {
			return raw[:i], raw[i+1:]
		}
	}
	return "", raw
}
