package flatgeobuf

import (
	"cmp"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"slices"

	"gyrolith/core/format/layer"
	"gyrolith/core/nav"
)

const (
	nodeSize  = 16 // the children of a node
	nodeBytes = 40 // four coordinates and an offset
	mostNodes = 1 << 40
)

// node is a box with what is in it: the number of its first child, or where its feature begins.
type node struct {
	layer.Bounds
	offset uint64
}

// levels gives the numbers of the first nodes and of the ends of the levels of a tree, the leaves first. The root is
// node 0.
func levels(leaves, size uint64) (out [][2]uint64) {
	counts, total := []uint64{leaves}, leaves
	for n := leaves; ; {
		n = (n + size - 1) / size
		counts, total = append(counts, n), total+n
		if n == 1 {
			break
		}
	}
	end := total
	for _, n := range counts {
		out = append(out, [2]uint64{end - n, end})
		end -= n
	}
	return out
}

// inner makes the nodes above so many leaves, which have their boxes.
func inner(leaves int, box func(i int) layer.Bounds) []node {
	bounds := levels(uint64(leaves), nodeSize)
	first := bounds[0][0]
	nodes := make([]node, first)
	for i, level := range bounds[:len(bounds)-1] {
		to := bounds[i+1][0]
		for from := level[0]; from < level[1]; from += nodeSize {
			n := node{layer.NewBounds(), from}
			for k := from; k < min(from+nodeSize, level[1]); k++ {
				child := layer.Bounds{}
				if i == 0 {
					child = box(int(k - first))
				} else {
					child = nodes[k].Bounds
				}
				n.Join(&child)
			}
			nodes[to] = n
			to++
		}
	}
	return nodes
}

func appendNode(to []byte, n *node) []byte {
	for _, v := range [...]float64{n.MinX, n.MinY, n.MaxX, n.MaxY} {
		to = binary.LittleEndian.AppendUint64(to, math.Float64bits(v))
	}
	return binary.LittleEndian.AppendUint64(to, n.offset)
}

// tree is the index of a file.
type tree struct {
	in     io.ReaderAt
	at     int64
	size   uint64
	levels [][2]uint64
}

func (t *tree) bytes() int64 { return int64(t.levels[0][1]) * nodeBytes }

// leaf is a feature that the index finds.
type leaf struct {
	number int // from 1
	offset uint64
}

var errIndex = errors.New("its index is damaged")

// find gives the features whose boxes meet one, in their order. What is wider than half the earth may go the other way
// around, and is found always.
func (t *tree) find(box *nav.Box) (found []leaf, err error) {
	type todo struct {
		first uint64
		level int
	}
	first := t.levels[0][0]
	buf := make([]byte, t.size*nodeBytes)
	for list := []todo{{0, len(t.levels) - 1}}; len(list) > 0; {
		at := list[len(list)-1]
		list = list[:len(list)-1]
		level := t.levels[at.level]
		if at.first < level[0] || at.first >= level[1] {
			return nil, errIndex
		}
		end := min(at.first+t.size, level[1])
		b := buf[:(end-at.first)*nodeBytes]
		if _, err := t.in.ReadAt(b, t.at+int64(at.first)*nodeBytes); err != nil {
			return nil, errIndex
		}
		for i := at.first; i < end; i, b = i+1, b[nodeBytes:] {
			west, south, east, north := float(b), float(b[8:]), float(b[16:]), float(b[24:])
			if !(east-west > 180) && !meets(box, west, south, east, north) {
				continue
			}
			offset := binary.LittleEndian.Uint64(b[32:])
			if at.level == 0 {
				found = append(found, leaf{int(i-first) + 1, offset})
			} else {
				list = append(list, todo{offset, at.level - 1})
			}
			if uint64(len(found)+len(list)) > t.levels[0][1] {
				return nil, errIndex
			}
		}
	}
	slices.SortFunc(found, func(a, b leaf) int { return cmp.Compare(a.number, b.number) })
	return found, nil
}

// meets says whether a box of coordinates has a part in common with another, whose edges count.
func meets(box *nav.Box, west, south, east, north float64) bool {
	if south > box.North || north < box.South {
		return false
	}
	overlap := func(w, e float64) bool { return west <= e && east >= w }
	if box.West <= box.East {
		return overlap(box.West, box.East) || box.East == 180 && overlap(-180, -180)
	}
	return overlap(box.West, 180) || overlap(-180, box.East)
}

func float(b []byte) float64 { return math.Float64frombits(binary.LittleEndian.Uint64(b)) }
