package frame

// Candidate is a word that can stand at the cursor.
type Candidate struct{ Word, About string }

// Choices is what can stand at the cursor: some words, files or folders.
type Choices struct {
	Words  []Candidate
	Files  bool
	Folder bool
	Open   bool // the word goes on
}

// VerbWords are the verbs as words on a line.
func VerbWords(a *App) (out []Candidate) {
	for _, v := range a.All {
		out = append(out, Candidate{v.Name, v.Usage})
	}
	return
}

// NoWords and folderNames are what can stand behind verbs that take nothing, and a folder.
func NoWords(*App, bool) Choices     { return Choices{} }
func FolderNames(*App, bool) Choices { return Choices{Folder: true} }

// OneOf are words behind a verb.
func OneOf(words func(*App) []Candidate) func(*App, bool) Choices {
	return func(a *App, _ bool) Choices { return Choices{Words: words(a)} }
}
