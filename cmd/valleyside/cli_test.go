package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
)

const riff = "title: Riff\nkey: A minor\ntempo: 100\n\nA:\n| 0A - 3A+5D . |\n\nB:\n| F - - - |\n"

// ask runs the command line on an input and returns what it wrote.
func ask(t testing.TB, in string, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(t.Context(), append([]string{"valleyside"}, args...), strings.NewReader(in), &o, &e)
	return code, o.String(), e.String()
}

// answer runs a command that must succeed and reads its JSON.
func answer(t testing.TB, in string, args ...string) map[string]any {
	t.Helper()
	code, out, errs := ask(t, in, append(args, "--json")...)
	require.Equal(t, 0, code, errs)
	var v map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &v), out)
	return v
}

// at follows keys and indexes into what was read from JSON.
func at(t testing.TB, v any, path ...any) any {
	t.Helper()
	for _, step := range path {
		switch s := step.(type) {
		case string:
			m, ok := v.(map[string]any)
			require.True(t, ok, "%v has no %q", v, s)
			require.Contains(t, m, s)
			v = m[s]
		case int:
			list, ok := v.([]any)
			require.True(t, ok && s < len(list), "%v has no item %d", v, s)
			v = list[s]
		}
	}
	return v
}

func TestExitCodes(t *testing.T) {
	file := filepath.Join(t.TempDir(), "riff.txt")
	require.NoError(t, os.WriteFile(file, []byte(riff), 0o600))
	cases := []struct {
		in     string
		args   string
		code   int
		errors string
	}{
		{"", "help", 0, ""},
		{riff, "check -", 0, ""},
		{"", "check " + file, 0, ""},
		{"", "check --json -- " + file, 0, ""},
		{"", "arrange " + file + " --rung octave --part B", 0, ""},
		{"title: X\nA:\n| 0A 99A |\n", "check -", 1, "3:6: error: fret 99 is off the neck"},
		{"title: X\nA:\n| 0A 99A |\n", "format -", 1, "3:6"},
		{"title: X\nA:\n| 0A 99A |\n", "arrange -", 1, "3:6"},
		{"", "check /nowhere/at/all", 1, "cannot read the sheet"},
		{riff, "arrange - --part C", 1, `there is no part "C"; the sheet has A, B`},
		{"", "backup --db /nowhere/at/all x", 1, "there is no database"},
		{"", "nonsense", 2, `there is no command "nonsense"`},
		{"", "check", 2, "takes one FILE"},
		{"", "check a b", 2, "takes one FILE"},
		{riff, "check - --loud", 2, "loud"},
		{riff, "arrange - --rung ladder", 2, "is not a rung"},
		{riff, "arrange - --reach 0", 2, "--reach"},
		{riff, "arrange - --scale 5", 2, "--scale"},
		{riff, "arrange - --tempo 5", 2, "--tempo"},
		{riff, "arrange - --prefer both", 2, "one-string or nearest"},
		{riff, "arrange - --thicken none", 2, "all, accents, thirds or sixths"},
		{riff, "arrange - --tuning nonsense", 2, "tuning"},
		{riff, "play - --rung ladder", 2, "is not a rung"},
		{riff, "play - --tempo 5", 2, "--tempo"},
		{riff, "play - --count-in 100", 2, "--count-in"},
		{riff, "play - --loop 0", 2, "--loop"},
		{riff, "play - --bars 1", 1, "--bars needs --part"},
		{riff, "play - --part A --bars 2", 1, "write bars from 1 to 1"},
		{riff, "play - --part A --bars 1-", 1, "write bars from 1 to 1"},
		{"title: X\norder: A x99\nA:\n| 0A | 3A | x99\n| 0A | x99\n", "play -", 1, "that is 29403 bars played out, the limit is 20000"},
		{riff, "play - --part C", 1, "the sheet has A, B"},
		{riff, "export - --as tab", 0, ""},
		{riff, "export -", 2, `"as" not set`},
		{riff, "export - --as cassette", 2, "is not a form; write musicxml"},
		{riff, "export - --as midi --rung ladder", 2, "is not a rung"},
		{riff, "export - --as midi --part C", 1, "the sheet has A, B"},
		{riff, "export - --as wav --with drums", 2, "nothing that can be heard"},
		{riff, "export - --as midi --count-in 99", 2, "--count-in"},
		{riff, "export - --as midi -o /nowhere/at/all.mid", 1, "cannot write /nowhere/at/all.mid"},
		{"title: X\n", "export - --as midi", 1, "no parts"},
		{"title: X\norder: A x99\nA:\n| 0A | 3A | x99\n| 0A | x99\n", "export - --as musicxml", 1, "choose a part or fewer repeats"},
		{riff, "import -", 0, ""},
		{"Dear all,", "import -", 1, "standard input: it is text, but neither a sheet"},
		{"MThd", "import -", 1, "damaged"},
		{"<html></html>", "import -", 1, "it is XML, but no score: it begins with <html>"},
		{riff, "import - --from cassette", 2, "is not a form"},
		{riff, "import - --from wav", 2, "is not a form"},
		{riff, "import - --track 2", 1, "--track is 2"},
		{riff, "import - --chords-per-bar 99", 2, "write 1 to 8"},
		{"", "serve x", 2, "takes no arguments"},
		{"", "serve --log loud", 2, "--log"},
	}
	for _, c := range cases {
		code, _, errs := ask(t, c.in, strings.Fields(c.args)...)
		assert.Equal(t, c.code, code, "%s: %s", c.args, errs)
		assert.Contains(t, errs, c.errors, c.args)
		if c.code == 0 {
			assert.Empty(t, errs, c.args)
		}
	}
}

func TestCheck(t *testing.T) {
	v := answer(t, riff, "check", "-")
	assert.Equal(t, true, at(t, v, "ok"))
	assert.Equal(t, "Riff", at(t, v, "title"))
	assert.Empty(t, at(t, v, "problems"))
	assert.Equal(t, "B", at(t, v, "parts", 1, "name"))
	assert.EqualValues(t, 1, at(t, v, "parts", 1, "bars"))

	code, out, _ := ask(t, "title: X\nkee: C\nA:\n| 0A 99A |\n", "check", "--json", "-")
	assert.Equal(t, 1, code)
	var bad map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &bad), "the problems come as JSON also where the sheet is wrong")
	assert.Equal(t, false, at(t, bad, "ok"))
	assert.Equal(t, "warning", at(t, bad, "problems", 0, "severity"))
	for field, want := range map[string]any{"line": 4.0, "column": 6.0, "severity": "error"} {
		assert.Equal(t, want, at(t, bad, "problems", 1, field))
	}
	assert.NotEmpty(t, at(t, bad, "problems", 1, "message"))
	assert.NotEmpty(t, at(t, bad, "problems", 1, "mend"))
}

func TestFormat(t *testing.T) {
	_, out, _ := ask(t, "title:Riff\nA:\n|0A   -|", "format", "-")
	assert.Equal(t, sheet.Parse("title:Riff\nA:\n|0A   -|").Format(), out)
	assert.True(t, sheet.Parse(out).OK())
	assert.Equal(t, out, at(t, answer(t, "title:Riff\nA:\n|0A   -|", "format", "-"), "sheet"))
}

func TestOptionalNotesAreMarked(t *testing.T) {
	const doubtful = "title: Riff\nA:\n| 0E 3E? 5E 3E |\n"
	event := func(rung string, i int) any {
		return at(t, answer(t, doubtful, "arrange", "-", "--rung", rung), "parts", 0, "rungs", 0, "bars", 0, "events", i)
	}
	assert.Equal(t, true, event("as-written", 1).(map[string]any)["optional"])
	assert.NotContains(t, event("as-written", 2), "optional")
	assert.Equal(t, "3", event("one-finger", 1).(map[string]any)["beat"], "left out where it is made easier")
}

func TestArrange(t *testing.T) {
	v := answer(t, riff, "arrange", "-", "--rung", "two-note")
	assert.Equal(t, "Riff", at(t, v, "title"))
	assert.Equal(t, []any{"E2", "A2", "D3", "G3", "B3", "E4"}, at(t, v, "tuning"))
	rung := at(t, v, "parts", 0, "rungs", 0)
	assert.Equal(t, "two-note", at(t, rung, "rung"))
	assert.GreaterOrEqual(t, at(t, rung, "grade"), 1.0)
	assert.GreaterOrEqual(t, at(t, rung, "travel"), 0.0)
	bar := at(t, rung, "bars", 0)
	assert.EqualValues(t, 1, at(t, bar, "bar"))
	assert.GreaterOrEqual(t, at(t, bar, "demand"), 0.0)
	assert.NotEmpty(t, at(t, bar, "why"))
	event := at(t, bar, "events", 0)
	assert.Equal(t, "0", at(t, event, "start"))
	assert.Equal(t, "1/2", at(t, event, "length"))
	assert.Equal(t, "1", at(t, event, "beat"))
	assert.Equal(t, "down", at(t, event, "stroke"))
	assert.NotEmpty(t, at(t, event, "why"))
	assert.Equal(t, "A2", at(t, event, "notes", 0, "pitch"))
	assert.EqualValues(t, 5, at(t, event, "notes", 0, "string"))
	assert.EqualValues(t, 0, at(t, event, "notes", 0, "fret"))
	assert.EqualValues(t, 0, at(t, event, "notes", 0, "finger"))
	assert.Len(t, at(t, event, "notes"), 1, "a single note beside a chord stays one")
	event = at(t, bar, "events", 1)
	assert.Equal(t, "G3", at(t, event, "notes", 1, "pitch"))
	assert.EqualValues(t, 6, at(t, event, "mutes", 0, "string"))
	assert.NotEmpty(t, at(t, event, "mutes", 0, "by"))
	assert.Equal(t, "F2", at(t, v, "parts", 1, "rungs", 0, "bars", 0, "events", 0, "notes", 0, "pitch"), "the root of F")

	all := answer(t, riff, "arrange", "-")
	rungs := at(t, all, "parts", 0, "rungs").([]any)
	assert.GreaterOrEqual(t, len(rungs), 5)
	low := answer(t, riff, "arrange", "-", "--tuning", "drop D", "--rung", "two-note")
	assert.Equal(t, "D2", at(t, low, "tuning", 0))
	_, text, _ := ask(t, riff, "arrange", "-", "--rung", "one-finger", "--prefer", "one-string")
	assert.Contains(t, text, "1:0A")
	assert.Contains(t, text, "grade")
}

func TestPlay(t *testing.T) {
	v := answer(t, riff, "play", "-", "--count-in", "0", "--tempo", "120")
	assert.EqualValues(t, 4, at(t, v, "seconds"))
	assert.Len(t, at(t, v, "beats"), 8)
	assert.Equal(t, map[string]any{"at": 2.0, "part": "B", "bar": 1.0, "pass": 1.0}, at(t, v, "bars", 1))
	first := at(t, v, "strikes", 0)
	for name, want := range map[string]any{"at": 0.0, "length": 1.0, "string": 5.0, "fret": 0.0, "pitch": "A2", "hz": 110.0, "stroke": "down", "how": "picked", "player": "", "bar": 1.0, "start": "0"} {
		assert.Equal(t, want, at(t, first, name), name)
	}
	counted := answer(t, riff, "play", "-", "--part", "A", "--bars", "1-1", "--count-in", "2", "--loop", "3", "--rung", "two-note")
	assert.EqualValues(t, 12, at(t, counted, "seconds"), "two bars counted in and three played, at 100")
	assert.EqualValues(t, 0, at(t, counted, "beats", 0, "bar"))
	assert.Equal(t, true, at(t, counted, "beats", 0, "accent"))
	assert.EqualValues(t, 4.8, at(t, counted, "strikes", 0, "at"))
	dead := answer(t, "title: T\nA:\n| xA - - - |\n", "play", "-")
	assert.Nil(t, at(t, dead, "strikes", 0, "fret"))
	assert.Equal(t, "dead", at(t, dead, "strikes", 0, "how"))
	_, text, _ := ask(t, riff, "play", "-", "--count-in", "0")
	assert.Equal(t, "   0.000  A 1  0.000 0A  1.200 3A  1.200 5D\n   2.400  B 1  2.400 1E  2.400 3A  2.400 3D  2.400 2G  2.400 1B  2.400 1e\n   4.800  end\n", text)
}
