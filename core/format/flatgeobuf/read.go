package flatgeobuf

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"

	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

type reader struct {
	src      *format.Source
	opt      *format.ReadOptions
	d        *nav.Dataset
	system   *crs.System
	builders []*layer.Builder
	wholes   format.Wholes

	hasZ     bool
	geometry byte
	count    uint64
	box      []byte // that the header gives for all features; nil where it gives none
	size     uint64 // the children of a node of the index; 0 is no index
	columns  *columns
	orders   layer.Orders
	buf      bytes.Buffer
}

// cut is the error of a file that ends too early.
func (r *reader) cut(where string) error {
	return &format.Error{Path: r.src.Path, Msg: "the file is cut off, inside " + where, Cut: true}
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{src: src, opt: opt, d: &nav.Dataset{}}
	err := r.file()
	for _, b := range r.builders {
		b.Finish()
	}
	r.arrange()
	if err != nil {
		if _, ok := errors.AsType[*format.Error](err); !ok {
			err = src.FaultOf(err)
		}
	}
	return r.d, err
}

func (r *reader) file() error {
	in := bufio.NewReaderSize(r.src.Reader(), 256<<10)
	head := make([]byte, len(magic))
	if _, err := io.ReadFull(in, head); err != nil {
		return r.cut("its header")
	}
	if !bytes.HasPrefix(head, []byte(magic[:3])) {
		return errors.New("is not a FlatGeobuf file")
	}
	if head[3] > magic[3] {
		return fmt.Errorf("is FlatGeobuf version %d; versions up to 3 can be read", head[3])
	}
	header, err := r.sized(in, "its header", 0)
	if err == io.EOF {
		err = r.cut("its header")
	}
	if err != nil {
		return err
	}
	var own *crs.System
	err = guard(func() (err error) { own, err = r.header(root(header)); return })
	if err != nil {
		return err
	}
	if r.system, err = layer.SystemOf(r.d, r.opt, own, "its header"); err != nil {
		return err
	}
	if r.size > 0 && r.count > 0 {
		t := &tree{at: int64(len(magic) + 4 + len(header)), size: r.size, levels: levels(r.count, r.size)}
		if r.src.Size >= 0 && t.bytes() > r.src.Size {
			return r.cut("its index")
		}
		if r.opt.Inside != nil && r.src.File() != "" && r.system.WGS84() {
			return r.found(t)
		}
		if _, err := io.CopyN(io.Discard, in, t.bytes()); err != nil {
			return r.cut("its index")
		}
	}
	for record := 1; ; record++ {
		b, err := r.sized(in, "feature", record)
		if err == io.EOF {
			if r.count > 0 && uint64(record) <= r.count {
				return r.cut(fmt.Sprintf("the features: %d of %d are present", record-1, r.count))
			}
			r.checkBox()
			if n := uint64(record - 1); r.count > 0 && n > r.count {
				r.d.Contradict("its header says that it has %d features, and it has %d", r.count, n)
			}
			return nil
		}
		if err == nil {
			err = r.feature(b, record)
		}
		if err != nil {
			return err
		}
	}
}

// checkBox compares the box of the header with the features.
func (r *reader) checkBox() {
	if len(r.box) < 32 {
		return
	}
	side := func(i int) float64 { return math.Float64frombits(binary.LittleEndian.Uint64(r.box[8*i:])) }
	for _, b := range r.builders {
		if b.Box.Beyond(side(0), side(1), side(2), side(3)) {
			r.d.Contradict("has coordinates outside of the box that its header gives")
			return
		}
	}
}

// sized reads a buffer that its size goes before; io.EOF says that there is none. It is read as far as it is there, so
// that a size of nonsense takes no memory, and holds until the next is read.
func (r *reader) sized(in io.Reader, what string, record int) ([]byte, error) {
	cut := func() error {
		if record > 0 {
			what = fmt.Sprintf("%s %d", what, record)
		}
		return r.cut(what)
	}
	var size [4]byte
	if _, err := io.ReadFull(in, size[:]); err == io.EOF {
		return nil, err
	} else if err != nil {
		return nil, cut()
	}
	n := int64(binary.LittleEndian.Uint32(size[:]))
	r.buf.Reset()
	if _, err := io.CopyN(&r.buf, in, n); err != nil {
		return nil, cut()
	}
	return r.buf.Bytes(), nil
}

// found reads the features that the index finds in the box.
func (r *reader) found(t *tree) error {
	var err error
	var size int64
	if t.in, size, err = r.src.ReaderAt(r.src.Size); err != nil {
		return err
	}
	leaves, err := t.find(r.opt.Inside)
	if err != nil {
		return err
	}
	begin := t.at + t.bytes()
	for _, l := range leaves {
		if l.offset >= uint64(size) {
			return errIndex
		}
		at := begin + int64(l.offset)
		b, err := r.sized(io.NewSectionReader(t.in, at, size-at), "feature", l.number)
		if err == io.EOF {
			err = r.cut("its index")
		}
		if err == nil {
			err = r.feature(b, l.number)
		}
		if err != nil {
			return err
		}
	}
	if n := int(r.count) - len(leaves); n > 0 {
		r.d.Tell(nav.ProblemPlaces, fmt.Sprintf("%d of %d features lie outside the box by the index and were not read", n,
			r.count))
	}
	return nil
}

func (r *reader) header(h table) (*crs.System, error) {
	r.hasZ, r.geometry = h.byte(headerHasZ) != 0, h.byte(headerGeometry)
	r.count, r.size = h.uint64(headerCount), uint64(h.uint16(headerNodeSize, nodeSize))
	if r.size == 1 || r.count > mostNodes {
		return nil, errDamaged
	}
	r.d.Meta.Name, r.d.Meta.Desc = h.string(headerTitle), h.string(headerDescription)
	r.columns, r.box = columnsOf(&h, headerColumns), bytes.Clone(h.vector(headerEnvelope, 8))
	var metadata struct{ Gyrolith map[string]string }
	if json.Unmarshal([]byte(h.string(headerMetadata)), &metadata) == nil {
		if name := metadata.Gyrolith[orderKey]; name != "" {
			r.columns.takeOrder(name)
		}
	}
	if r.opt.System != nil {
		return nil, nil
	}
	c, ok := h.table(headerCRS)
	if !ok {
		return nil, nil
	}
	code := int32(0)
	if at := c.slot(crsCode); at != 0 {
		code = c.GetInt32(at)
	}
	return layer.Described(c.string(crsOrg), int(code), c.string(crsWKT))
}

// feature reads one.
func (r *reader) feature(b []byte, record int) error {
	before := r.d.Counts()
	err := guard(func() error {
		f := root(b)
		c := r.columns
		if f.slot(featureColumns) != 0 {
			c = columnsOf(&f, featureColumns)
		}
		if c.builder == nil {
			c.builder = layer.NewBuilder(r.d, r.opt, r.system, c.titles, c.numbers)
			c.builder.Winding = layer.AnyWay
			c.builder.Wholes = &r.wholes
			r.builders = append(r.builders, c.builder)
			if r.columns.ordered >= 0 {
				c.builder.Exact()
			}
		}
		values, err := c.parse(f.vector(featureProperties, 1), r.d, record)
		if err != nil {
			return err
		}
		g := shape{Shape: layer.Shape{HasZ: r.hasZ}, budget: len(b)}
		if t, ok := f.table(featureGeometry); ok {
			typ := t.byte(geometryType)
			if r.geometry != typeUnknown {
				typ = r.geometry
			}
			if err := g.add(&t, typ, 0); err != nil {
				return err
			}
		}
		c.builder.Feature(&g.Shape, values, record)
		return nil
	})
	if err != nil {
		return fmt.Errorf("feature %d: %w", record, err)
	}
	if r.columns.ordered >= 0 {
		r.orders.Add(r.d, before, r.columns.order)
	}
	return nil
}

// arrange brings the items of a file of our own back into their order.
func (r *reader) arrange() {
	if r.columns == nil || r.columns.ordered < 0 {
		return
	}
	r.orders.Arrange(r.d)
}
