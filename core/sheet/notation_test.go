package sheet

import (
	"fmt"
	"os"
	"regexp"
	"slices"
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

// Whatever the description of the notation lists has an example, and how each looks in one
// was written down apart from them.
func TestNotationIsComplete(t *testing.T) {
	doc, err := os.ReadFile("../../docs/sheet.md")
	require.NoError(t, err)
	looks := map[string]string{
		"7A": `^7A$`, "7A+9D": `\dA\+\dD`, "-": ` - `, ".": ` \. `, "x": `(^| )x[v^]?( |$)`, "xA": `(^| )x[EADGBe]$`, "Em7": `(^| )Em7 `, "D/F#": `D/F#`,
		"C5=x355xx": `=x\d`, "B5=x-14-16-16-x-x": `=x-\d+-`, "NC": `^NC$`,
		"h": `(^| )h\d`, "p": `(^| )p\d`, "s": `(^| )s\d`, "t": `(^| )t\d`, "r": `(^| )r\d`, "b1": `[A-Ge]b\d`, "b2": `[A-Ge]b\d`, "/": `(^| )/\d`, `\`: `\\`,
		"_": `[A-Ge]_`, "~": `[A-Ge]~`, "'": `[A-Ge]'`, "o": `[A-Ge]o$`, "*": `[A-Ge]\*`, "!": `[A-Ge]!`, "v": `\wv( |$)`, "^": `\w\^( |$)`, "?": `[A-Ge]\?$`,
		":3": `\dA:\d$`, ":T": ` T is the thumb`, ":p": `A:p`, ":i": `G:i`, ":m": `B:m`, ":a": `:a after`, ":21xxx3": `=320003:21xxx3$`,
	}
	var examples, all []string
	for _, topic := range Notation() {
		for _, s := range topic.Signs {
			examples = append(examples, s.Example)
			all = append(all, s.Example, s.Means)
		}
	}
	rows := 0
	for line := range strings.Lines(string(doc)) {
		if !strings.HasPrefix(line, "| `") {
			continue
		}
		for i, code := range strings.Split(strings.Split(line, "|")[1], "`") {
			if i%2 == 0 {
				continue
			}
			rows++
			require.Contains(t, looks, code, "it is new: how does it look?")
			in := examples
			if code == `\` || code == ":T" || code == ":a" {
				in = all
			}
			look := regexp.MustCompile(looks[code])
			assert.True(t, slices.ContainsFunc(in, look.MatchString), "no example of %s", code)
		}
	}
	assert.Equal(t, len(looks), rows-2, "/ and \\ stand before a note and after it")
	for _, name := range []string{"order", "pickup", "note", "cue", "sound", "ring", "mute", "strum", "pluck", "like", "tuning", "capo", "chords", "feel", "by", "key", "time", "tempo"} {
		assert.True(t, slices.ContainsFunc(all, func(text string) bool { return strings.Contains(text, name+":") }), name)
	}
}
