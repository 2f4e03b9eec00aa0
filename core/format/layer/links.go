package layer

import (
	"strings"

	"gyrolith/core/nav"
)

// joinLinks writes addresses with blanks between them. One that would not be told from its neighbours so, for a blank
// in it or since it has no scheme, stands in angle brackets (RFC 3986, appendix C).
func joinLinks(links []nav.Link) string {
	var out []string
	for i := range links {
		href := links[i].Href
		if href == "" {
			continue
		}
		if strings.HasPrefix(href, "<") || len(out) > 0 && !strings.Contains(href, "://") ||
			len(links) > 1 && strings.ContainsAny(href, " \t\r\n") {
			href = "<" + href + ">"
		}
		out = append(out, href)
	}
	return strings.Join(out, " ")
}

// splitLinks reads addresses: those in angle brackets, and others up to one that begins with a scheme.
func splitLinks(text string) (out []nav.Link) {
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		href, rest := text, ""
		if end := strings.Index(text, ">"); text[0] == '<' && end > 0 {
			href, rest = text[1:end], text[end+1:]
		} else {
			for at := 0; ; {
				blank := strings.IndexAny(text[at:], " \t\r\n")
				if blank < 0 {
					break
				}
				at += blank + 1
				next := strings.TrimSpace(text[at:])
				if first, _, _ := strings.Cut(next, " "); strings.HasPrefix(next, "<") || strings.Contains(first, "://") {
					href, rest = strings.TrimSpace(text[:at]), next
					break
				}
			}
		}
		out = append(out, nav.Link{Href: href})
		text = rest
	}
	return
}
