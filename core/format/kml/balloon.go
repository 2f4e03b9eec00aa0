package kml

import (
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// The description of a placemark is often HTML, which a balloon shows (9.1.2). It is read for what it says: tables of
// attributes become fields, the rest plain text. The original is kept for the next KML.

// markup is what a description of HTML has and plain text has not.
var markup = pattern.New(`</?[a-zA-Z][^<>]*>|&(?:[a-zA-Z]+|#\d+|#x[0-9a-fA-F]+);`)

func isMarkup(text string) bool { return strings.ContainsAny(text, "<&") && markup.MatchString(text) }

// original is where the HTML of a description is kept.
const original = "description/html"

// balloon is what a description of HTML says.
type balloon struct {
	text   string
	fields []nav.Field
	links  []nav.Link
}

// mostLabel is the most letters of a cell that names the attribute in the cell beside it.
const mostLabel = 80

// readBalloon reads HTML; ok is false where it is plain text.
func readBalloon(text string) (b balloon, ok bool) {
	if !isMarkup(text) {
		return b, false
	}
	root, err := html.Parse(strings.NewReader(text))
	if err != nil {
		return b, false
	}
	var out strings.Builder
	b.walk(root, &out)
	b.text = tidy(out.String())
	return b, true
}

// tidy takes away blanks at the ends of lines and more than one empty line.
func tidy(text string) string {
	var lines []string
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.Join(strings.Fields(line), " ")
		if line == "" && (len(lines) == 0 || lines[len(lines)-1] == "") {
			continue
		}
		lines = append(lines, line)
	}
	return strings.TrimSpace(strings.Join(lines, "\n"))
}

// blocks begin and end a line.
var blocks = []atom.Atom{atom.P, atom.Div, atom.Table, atom.Tr, atom.Ul, atom.Ol, atom.Dl, atom.Dt, atom.Dd, atom.H1,
	atom.H2, atom.H3, atom.H4, atom.H5, atom.H6, atom.Hr, atom.Pre, atom.Blockquote, atom.Section, atom.Article,
	atom.Header, atom.Footer, atom.Center}

func (b *balloon) walk(n *html.Node, out *strings.Builder) {
	switch n.Type {
	case html.TextNode:
		out.WriteString(
			strings.Join(strings.FieldsFunc(" "+n.Data+" ", func(r rune) bool { return r == '\n' || r == '\t' }), " "))
		return
	case html.ElementNode:
		switch n.DataAtom {
		case atom.Script, atom.Style, atom.Head, atom.Title:
			return
		case atom.Br:
			out.WriteByte('\n')
			return
		case atom.Li:
			out.WriteString("\n- ")
			b.children(n, out)
			return
		case atom.Table:
			if b.attributes(n) {
				return
			}
		case atom.Td, atom.Th:
			b.children(n, out)
			out.WriteString("  ")
			return
		case atom.A, atom.Img:
			b.link(n)
		}
	}
	block := slices.Contains(blocks, n.DataAtom)
	if block {
		out.WriteByte('\n')
	}
	b.children(n, out)
	if block {
		out.WriteByte('\n')
	}
	if n.DataAtom == atom.P {
		out.WriteByte('\n')
	}
}

func (b *balloon) children(n *html.Node, out *strings.Builder) {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		b.walk(c, out)
	}
}

// link takes the address of an anchor, or of a picture.
func (b *balloon) link(n *html.Node) {
	for _, a := range n.Attr {
		if n.DataAtom == atom.Img {
			if a.Key == "src" && a.Val != "" && !strings.HasPrefix(a.Val, "data:") {
				b.links = append(b.links, nav.Link{Href: a.Val})
			}
			continue
		}
		if a.Key == "href" && (strings.HasPrefix(a.Val, "http://") || strings.HasPrefix(a.Val, "https://")) {
			b.links = append(b.links, nav.Link{Href: a.Val, Text: plainOf(n)})
		}
	}
}

// plainOf is the text of a node on one line.
func plainOf(n *html.Node) string {
	var inner balloon
	var out strings.Builder
	inner.children(n, &out)
	return strings.Join(strings.Fields(out.String()), " ")
}

// attributes takes a table whose rows are a name and a value each, or that has a row of names over one of values. It
// says whether the table is such a one.
func (b *balloon) attributes(table *html.Node) bool {
	rows := cellsOf(table)
	var pairs [][2]string
	switch {
	case len(rows) == 2 && len(rows[0]) > 2 && len(rows[0]) == len(rows[1]):
		for i := range rows[0] {
			pairs = append(pairs, [2]string{plainOf(rows[0][i]), plainOf(rows[1][i])})
		}
	default:
		for _, row := range rows {
			if len(row) == 1 && len(rows) > 1 { // a heading across the table
				continue
			}
			if len(row) != 2 {
				return false
			}
			pairs = append(pairs, [2]string{plainOf(row[0]), plainOf(row[1])})
		}
	}
	if len(pairs) == 0 {
		return false
	}
	for _, p := range pairs {
		if key := strings.TrimSuffix(p[0], ":"); key == "" || len([]rune(key)) > mostLabel {
			return false
		}
	}
	for _, row := range rows {
		for _, cell := range row {
			b.linksIn(cell)
		}
	}
	for _, p := range pairs {
		if p[1] != "" {
			b.fields = append(b.fields, nav.Field{Key: strings.TrimSuffix(p[0], ":"), Value: p[1]})
		}
	}
	return true
}

func (b *balloon) linksIn(n *html.Node) {
	if n.DataAtom == atom.A || n.DataAtom == atom.Img {
		b.link(n)
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		b.linksIn(c)
	}
}

// cellsOf lists the cells of a table by rows; nil where a table stands within it.
func cellsOf(table *html.Node) (rows [][]*html.Node) {
	nested := false
	var walk func(*html.Node)
	walk = func(n *html.Node) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			switch c.DataAtom {
			case atom.Table:
				nested = true
			case atom.Tr:
				rows = append(rows, nil)
			case atom.Td, atom.Th:
				if len(rows) == 0 {
					rows = append(rows, nil)
				}
				rows[len(rows)-1] = append(rows[len(rows)-1], c)
			}
			walk(c)
		}
	}
	walk(table)
	if nested {
		return nil
	}
	return slices.DeleteFunc(rows, func(r []*html.Node) bool { return len(r) == 0 })
}

// takeBalloon gives a placemark what its description says, where it is HTML.
func takeBalloon(it *nav.Item) {
	b, ok := readBalloon(it.Desc)
	if !ok {
		return
	}
	it.Kept = append(it.Kept, nav.Kept{Format: "kml", Where: original, Text: it.Desc, Free: true})
	it.Desc = b.text
	for _, f := range b.fields {
		if _, has := nav.Get(it.Fields, f.Key); !has {
			it.Fields = append(it.Fields, f)
		}
	}
	for _, l := range b.links {
		if !slices.ContainsFunc(it.Links, func(o nav.Link) bool { return o.Href == l.Href }) {
			it.Links = append(it.Links, l)
		}
	}
}

// isElements says whether a description has elements of HTML, and is not one that was taken apart.
func isElements(it *nav.Item) bool {
	return element.MatchString(it.Desc) && !slices.ContainsFunc(it.Kept, func(k nav.Kept) bool {
		return k.Format == "kml" && k.Where == original
	})
}

var element = pattern.New(`(?i)</?(?:a|b|br|center|div|em|font|h[1-6]|hr|i|img|li|ol|p|pre|small|span|strong|` +
	`table|td|th|tr|u|ul)(?:\s[^<>]*)?/?>`)

// description is what is written of an item's: the HTML that it was, as long as that says the same.
func description(it *nav.Item) string {
	for i := range it.Kept {
		if it.Kept[i].Format != "kml" || it.Kept[i].Where != original {
			continue
		}
		b, ok := readBalloon(it.Kept[i].Text)
		same := ok && b.text == it.Desc
		for _, f := range b.fields {
			v, _ := nav.Get(it.Fields, f.Key)
			same = same && v == f.Value
		}
		if same {
			return it.Kept[i].Text
		}
	}
	if isElements(it) { // which readers show as what it is, and our own gives back as it is
		return it.Desc
	}
	if isMarkup(it.Desc) { // plain text that a balloon would take for HTML
		return html.EscapeString(it.Desc)
	}
	return it.Desc
}
