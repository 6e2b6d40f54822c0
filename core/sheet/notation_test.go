package sheet

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every example of the notation is right where it is said to stand.
func TestNotation(t *testing.T) {
	asks := map[string]bool{}
	for _, topic := range Notation() {
		for _, s := range topic.Signs {
			assert.False(t, asks[s.Asks], "%s is there twice", s.Asks)
			asks[s.Asks] = true
			head, part, bar := "", "", "0E"
			switch s.Place {
			case InBar:
				bar = s.Example
			case InPart:
				part = s.Example + "\n"
				if strings.HasSuffix(s.Example, ":") {
					part += "| 0E |\n"
				}
			case InSong:
				head = s.Example + "\n"
			}
			body := fmt.Sprintf("| 5A |\n| %s |\n", bar)
			if strings.Contains(part, "| Paper") || strings.HasPrefix(part, "lead") {
				body, part = "| 5A |\n"+part, ""
			}
			if strings.HasPrefix(part, "like") {
				body = ""
			}
			text := fmt.Sprintf("title: T\n%s\nVerse:\n| 0A |\n\nChorus:\n| 0A |\n\nBridge:\n%s%s", head, part, body)
			text = strings.Replace(text, "Chorus:\n| 0A |\n\nBridge:\nChorus:", "Bridge:\n| 0A |\n\nChorus:", 1)
			read := Parse(text)
			assert.Empty(t, read.Problems, text)
			assert.NotEmpty(t, s.Means)
			assert.NotContains(t, s.Words, s.Asks)
		}
	}
	require.Greater(t, len(asks), 40)
}

// Whatever sign the page of the notation names can be found.
func TestNotationIsComplete(t *testing.T) {
	doc, err := os.ReadFile("../../docs/sheet.md")
	require.NoError(t, err)
	all := ""
	for _, topic := range Notation() {
		for _, s := range topic.Signs {
			all += s.Example + " " + s.Means + "\n"
		}
	}
	for line := range strings.Lines(string(doc)) {
		cells := strings.Split(line, "|")
		if len(cells) < 4 || !strings.HasPrefix(line, "| `") {
			continue
		}
		for i, code := range strings.Split(cells[1], "`") {
			if i%2 == 1 && len(code) < 4 {
				assert.Contains(t, all, strings.TrimRight(code, "12"), line)
			}
		}
	}
	for name := range map[string]bool{"order": true, "pickup": true, "note": true, "cue": true, "ring": true, "mute": true, "like": true, "tuning": true, "capo": true, "feel": true, "by": true, "key": true, "time": true, "tempo": true} {
		assert.Contains(t, all, name+":", name)
	}
}
