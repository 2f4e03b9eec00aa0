package cli

import "runtime/debug"

// Version is the program's version.
var Version = "0.1.0"

// versionText is the version with the revision that the program was built from and its date, where they are known.
func versionText() string {
	out := Version
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return out
	}
	of := map[string]string{}
	for _, s := range info.Settings {
		of[s.Key] = s.Value
	}
	if revision := of["vcs.revision"]; len(revision) >= 8 {
		out += " (" + revision[:8]
		if date := of["vcs.time"]; len(date) >= 10 {
			out += ", " + date[:10]
		}
		if of["vcs.modified"] == "true" {
			out += ", modified"
		}
		out += ")"
	}
	return out
}
