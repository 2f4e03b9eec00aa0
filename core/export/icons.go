package export

import (
	"encoding/base64"
	"slices"

	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// withIcons gives waypoints that have a symbol and no picture one of ours, for formats whose viewers know pictures
// only. The data stay as they are.
func (t *Target) withIcons(d *nav.Dataset) *nav.Dataset {
	if t.Icons == nil || t.Format.Icons == format.NoIcons {
		return d
	}
	out := *d
	pictures := map[string]string{} // their addresses by symbol, and whether they are tinted
	copied := false
	for i := range d.Waypoints {
		st := &d.Waypoints[i].Style
		if st.Symbol == "" || st.Icon != "" {
			continue
		}
		tinted := st.Colour.Set
		file := symbol.IconFile(st.Symbol, tinted)
		href, known := pictures[file]
		if !known {
			if png := t.Icons(st.Symbol, tinted); png == nil {
				href = ""
			} else if t.Format.Icons == format.IconFiles {
				href = file
				out.Meta.Attachments = append(slices.Clip(out.Meta.Attachments), nav.Attachment{Name: file, Data: png})
			} else {
				href = symbol.IconData(st.Symbol, base64.StdEncoding.EncodeToString(png))
			}
			pictures[file] = href
		}
		if href == "" {
			continue
		}
		if !copied {
			out.Waypoints, copied = slices.Clone(d.Waypoints), true
		}
		out.Waypoints[i].Style.Icon = href
	}
	return &out
}
