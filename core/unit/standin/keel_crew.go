package standin

import (
	"encoding/binary"
	"fmt"
	"io/fs"
	"math"
	"strings"
)

// keelRecord is a record of the card as the unit edits it.
type keelRecord struct {
	kind    byte
	payload []byte
}

// placeAt is where the place of a mark stands in its payload, and how many of its steps a degree has.
func (r *keelRecord) placeAt() (at int, scale float64) {
	if r.kind == 1 {
		return 0, 60000
	}
	return 2, 1e7
}

// markName gives the name of a mark; "" of another record.
func (r *keelRecord) markName() string {
	t := &tape{b: r.payload}
	switch r.kind {
	case 1:
		t.next(9)
	case 3, 5:
		t.next(2 + 8 + 4 + 4 + 1)
	default:
		return ""
	}
	return t.words(keelName)
}

// keelCrew makes, moves and deletes marks in the card's file.
func keelCrew(card fs.FS, d Deed) (*Change, error) {
	file, err := anyCase(card, "KEEL", "MARKS.KRD")
	if err != nil {
		return nil, err
	}
	version, records := byte(keelVersion), []keelRecord(nil)
	if file == "" {
		file = "KEEL/MARKS.KRD"
	} else {
		k := &keelScreen{version: keelVersion}
		if k.file, err = fs.ReadFile(card, file); err != nil {
			return nil, err
		}
		if err := k.check(); err != nil {
			return nil, fmt.Errorf("CARD ERROR: %s %w", file, err)
		}
		version = k.file[4]
		for at := 8; k.file[at] != 0xFF; {
			size := k.number(at+1, 4)
			records = append(records, keelRecord{k.file[at], append([]byte(nil), k.file[at+5:at+5+size]...)})
			at += 9 + size
		}
	}
	found, marks := -1, 0
	for i := range records {
		if name := records[i].markName(); name != "" {
			marks++
			if strings.EqualFold(name, d.Name) {
				found = i
			}
		}
	}
	switch {
	case d.Do == Make && found >= 0:
		return nil, errHasMark("mark", d.Name)
	case d.Do == Make && marks >= keelMarks:
		return nil, fmt.Errorf("MEMORY FULL: the unit holds %d marks", keelMarks)
	case d.Do == Make:
		records = append(records, keelMark(version, d))
	case found < 0:
		return nil, errNoMark("mark", d.Name)
	case d.Do == Delete:
		records = append(records[:found], records[found+1:]...)
	default:
		at, scale := records[found].placeAt()
		putPlace(records[found].payload[at:], d, scale)
	}
	return &Change{file, keelFile(version, records)}, nil
}

func putPlace(b []byte, d Deed, scale float64) {
	binary.LittleEndian.PutUint32(b, uint32(int32(math.Round(d.At.Lat*scale))))
	binary.LittleEndian.PutUint32(b[4:], uint32(int32(math.Round(d.At.Lon*scale))))
}

// keelMark is a new mark as the unit makes it: a dot without depth, height, group or note.
func keelMark(version byte, d Deed) keelRecord {
	name := []rune(d.Name)
	text := string(name[:min(len(name), keelName)])
	words := func(b []byte, s string) []byte {
		return append(binary.LittleEndian.AppendUint16(b, uint16(len(s))), s...)
	}
	r := keelRecord{kind: []byte{1, 3, 5}[version-1]}
	at, scale := r.placeAt()
	b := make([]byte, at+8)
	putPlace(b[at:], d, scale)
	if r.kind != 1 {
		for range 2 { // no depth, no height
			b = binary.LittleEndian.AppendUint32(b, 1<<31)
		}
	}
	b = words(append(b, 0), text)
	if r.kind != 1 {
		b = words(b, "")
	}
	if r.kind == 5 { // no colour, no time
		b = append(b, 0, 0, 0, 0)
		b = binary.LittleEndian.AppendUint64(b, 1<<63)
	}
	r.payload = b
	return r
}

// keelFile puts the records together again, with their sums and that of the whole.
func keelFile(version byte, records []keelRecord) []byte {
	out := append([]byte("KEEL"), version, 0, 0, 0)
	put := func(kind byte, payload []byte) {
		at := len(out)
		out = append(out, kind)
		out = append(binary.LittleEndian.AppendUint32(out, uint32(len(payload))), payload...)
		out = binary.LittleEndian.AppendUint32(out, uint32(crc(out[at:])))
	}
	for _, r := range records {
		put(r.kind, r.payload)
	}
	end := binary.LittleEndian.AppendUint32(nil, uint32(len(records)))
	put(0xFF, binary.LittleEndian.AppendUint32(end, uint32(crc(out))))
	return out
}
