package gpkg

import (
	_ "embed"
	"strings"

	"gyrolith/core/pattern"

	"database/sql"
	"encoding/binary"
	"errors"
	"math"

	"gyrolith/core/format/layer"
)

// entry is what a node of the index holds: a feature or a node, and its box.
type entry struct {
	id  int64
	box layer.Bounds
}

// The shape of a node (SQLite, The SQLite R*Tree Module, sections 4.1 and 4.2, and its source): a depth and a count of
// two bytes each, then entries of an id of eight bytes and two floats for each of two dimensions, all with the most
// significant byte first. A node has room for no more entries than these.
const (
	nodeHead    = 4
	entrySize   = 8 + 4*4
	mostEntries = 51
	nodeSize    = nodeHead + mostEntries*entrySize
)

// fillIndex fills the empty R-tree of a table with boxes, packed along a space-filling curve (I. Kamel and C.
// Faloutsos, On packing R-trees, CIKM 1993): a node for every fifty, instead of a way down the tree for each.
func fillIndex(tx *sql.Tx, name string, entries []entry) error {
	if len(entries) == 0 {
		return nil
	}
	all := layer.NewBounds()
	for i := range entries {
		all.Join(&entries[i].box)
	}
	along := make([]entry, 0, len(entries))
	for _, k := range layer.Along(nil, len(entries), &all, func(i int) layer.Bounds { return entries[i].box }) {
		along = append(along, entries[uint32(k)])
	}
	t := &rtree{next: 2}
	for _, s := range []struct {
		to      **inserter
		what    string
		columns []string
	}{
		{&t.node, "node", []string{"nodeno", "data"}},
		{&t.parent, "parent", []string{"nodeno", "parentnode"}},
		{&t.rowid, "rowid", []string{"rowid", "nodeno"}},
	} {
		rows, err := newInserter(tx, "INSERT OR REPLACE INTO", name+"_"+s.what, s.columns...)
		if err != nil {
			return err
		}
		defer rows.end()
		*s.to = rows
	}
	var err error
	level, depth := along, 0
	for len(level) > mostEntries {
		if level, err = t.pack(level, depth); err != nil {
			return err
		}
		depth++
	}
	if err := t.write(1, level, depth, depth); err != nil {
		return err
	}
	return errors.Join(t.node.end(), t.parent.end(), t.rowid.end())
}

// rtree writes nodes. The root is the first.
type rtree struct {
	node, parent, rowid *inserter
	next                int64
}

// pack writes the nodes of a level, as full as they can be and as evenly, and gives them as entries of the next.
func (t *rtree) pack(level []entry, depth int) (up []entry, err error) {
	nodes := (len(level) + mostEntries - 1) / mostEntries
	for i := range nodes {
		some := level[i*len(level)/nodes : (i+1)*len(level)/nodes]
		e := entry{t.next, layer.NewBounds()}
		t.next++
		for k := range some {
			e.box.Join(&some[k].box)
		}
		if err := t.write(e.id, some, depth, 0); err != nil {
			return nil, err
		}
		up = append(up, e)
	}
	return up, nil
}

// write writes a node, and whose the entries in it are. Only the root says how deep the tree is.
func (t *rtree) write(id int64, entries []entry, depth, said int) error {
	data := make([]byte, nodeHead, nodeSize)
	binary.BigEndian.PutUint16(data, uint16(said))
	binary.BigEndian.PutUint16(data[2:], uint16(len(entries)))
	owner := t.rowid
	if depth > 0 {
		owner = t.parent
	}
	for i := range entries {
		e := &entries[i]
		data = binary.BigEndian.AppendUint64(data, uint64(e.id))
		for _, side := range [4]float32{layer.Below(e.box.MinX), layer.Above(e.box.MaxX), layer.Below(e.box.MinY),
			layer.Above(e.box.MaxY)} {
			data = binary.BigEndian.AppendUint32(data, math.Float32bits(side))
		}
		if err := owner.add(e.id, id); err != nil {
			return err
		}
	}
	return t.node.add(id, data[:nodeSize])
}

//go:embed index.sql
var indexing string

// indexName stands in the statements for the index and its triggers.
var indexName = pattern.New(`@r(?:_\w+)?`)

// index makes the spatial index of a new table, with the triggers that keep it (annex F.3).
func (p *pack) index(table string, boxes []entry) error {
	r := "rtree_" + table + "_geom"
	text := indexName.ReplaceAllStringFunc(strings.ReplaceAll(indexing, "@t", quote(table)), func(name string) string {
		return quote(r + strings.TrimPrefix(name, "@r"))
	})
	if _, err := p.tx.Exec(text); err != nil {
		return err
	}
	if err := fillIndex(p.tx, r, boxes); err != nil {
		return err
	}
	if _, err := p.tx.Exec(extensions); err != nil {
		return err
	}
	_, err := p.tx.Exec("INSERT INTO gpkg_extensions VALUES (?, 'geom', 'gpkg_rtree_index', "+
		"'http://www.geopackage.org/spec120/#extension_rtree', 'write-only')", table)
	return err
}
