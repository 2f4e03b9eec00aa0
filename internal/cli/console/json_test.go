package console

import (
	"encoding/json"
	"testing"
)

// JSON on a terminal turns no text around, and says the same.
func TestShowJSON(t *testing.T) {
	const name = "A\u202eB\u0085C\u2066D\U000e0041é"
	raw, err := json.MarshalIndent(map[string]string{"name": name}, "", " ")
	if err != nil {
		t.Fatal(err)
	}
	got := ShowJSON(string(raw))
	if want := "{\n \"name\": \"A\\u202eB\\u0085C\\u2066D\\udb40\\udc41é\"\n}"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	var back map[string]string
	if err := json.Unmarshal([]byte(got), &back); err != nil || back["name"] != name {
		t.Errorf("%q %v", back, err)
	}
}
