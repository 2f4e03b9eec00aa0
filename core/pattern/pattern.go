// Package pattern holds regular expressions that are compiled when they are first used: there are many, and a command
// needs few of them.
package pattern

import (
	"regexp"
	"sync"
)

// Pattern is a regular expression (RE2 syntax).
type Pattern struct{ compiled func() *regexp.Regexp }

var all []*Pattern

// New declares a pattern, as a variable of a package. One that is wrong panics when it is used, and in the test that
// compiles all.
func New(expr string) *Pattern {
	p := &Pattern{sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(expr) })}
	all = append(all, p)
	return p
}

// Compile compiles every pattern that is declared.
func Compile() int {
	for _, p := range all {
		p.compiled()
	}
	return len(all)
}

// FindString is that of regexp.Regexp.
func (p *Pattern) FindString(s string) string { return p.compiled().FindString(s) }

// FindStringSubmatch is that of regexp.Regexp.
func (p *Pattern) FindStringSubmatch(s string) []string { return p.compiled().FindStringSubmatch(s) }

// FindAllStringSubmatch is that of a regular expression.
func (p *Pattern) FindAllStringSubmatch(s string, n int) [][]string {
	return p.compiled().FindAllStringSubmatch(s, n)
}

// FindStringSubmatchIndex is that of regexp.Regexp.
func (p *Pattern) FindStringSubmatchIndex(s string) []int {
	return p.compiled().FindStringSubmatchIndex(s)
}

// Match is that of regexp.Regexp.
func (p *Pattern) Match(b []byte) bool { return p.compiled().Match(b) }

// MatchString is that of regexp.Regexp.
func (p *Pattern) MatchString(s string) bool { return p.compiled().MatchString(s) }

// ReplaceAllFunc is that of regexp.Regexp.
func (p *Pattern) ReplaceAllFunc(b []byte, by func([]byte) []byte) []byte {
	return p.compiled().ReplaceAllFunc(b, by)
}

// ReplaceAllLiteralString is that of regexp.Regexp.
func (p *Pattern) ReplaceAllLiteralString(s, by string) string {
	return p.compiled().ReplaceAllLiteralString(s, by)
}

// ReplaceAllString is that of regexp.Regexp.
func (p *Pattern) ReplaceAllString(s, by string) string { return p.compiled().ReplaceAllString(s, by) }

// ReplaceAllStringFunc is that of regexp.Regexp.
func (p *Pattern) ReplaceAllStringFunc(s string, by func(string) string) string {
	return p.compiled().ReplaceAllStringFunc(s, by)
}
