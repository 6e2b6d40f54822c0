package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

func TestHarmonyExitCodes(t *testing.T) {
	for _, c := range []struct {
		args   string
		code   int
		errors string
	}{
		{"chord Cq7", 1, `"q7" at character 2 is not understood; expected a quality`},
		{"chord", 2, "takes one SYMBOL"},
		{"name x3201", 1, "has 5 strings; write all six"},
		{"name x32010 --bass H", 2, "--bass"},
		{"name x32010 --tuning nonsense", 2, "--tuning"},
		{"voicings Cx", 1, "expected a quality"},
		{"voicings C --school loud", 2, "use letter, third, drone, few, open, all, shell, rootless or drop2"},
		{"voicings C --max -1", 2, "--max"},
		{"voicings C --capo 40", 2, "--capo"},
		{"voicings C --reach 0", 2, "--reach"},
		{"voicings C --stay 9-2", 2, "--stay"},
		{"voicings C --sung H", 2, "--sung"},
		{"progression", 2, "takes chords"},
		{"progression Em|Zm", 1, "chord 2"},
		{"progression Em --seconds 0", 2, "--seconds"},
		{"numbers Em --school greek", 2, "use relative, tonic or roman"},
		{"numbers Em --key H", 2, "--key"},
		{"key", 2, "takes chords"},
		{"key /nowhere/at/all", 1, "cannot read the sheet"},
		{"transpose - --to H", 2, "--to"},
		{"transpose -", 2, "to"},
		{"capo", 2, "takes chords"},
		{"retune", 2, "to"},
		{"retune --to nonsense", 2, "--to"},
		{"retune --to standard --a4 9", 2, "--a4"},
		{"offset", 2, "takes --heard HZ and --as NOTE, or --cents C"},
		{"offset --heard 440 --cents 3", 2, "takes --cents, or"},
		{"offset --heard 440 --as A", 2, "--as"},
		{"offset --heard 0 --as A4", 2, "--heard"},
		{"offset --cents 9999", 2, "octaves"},
	} {
		code, _, errs := ask(t, "title: X\nkey: A minor\nA:\n| 0A |\n", strings.Fields(c.args)...)
		assert.Equal(t, c.code, code, "%s: %s", c.args, errs)
		assert.Contains(t, errs, c.errors, c.args)
	}
}

func TestChordCommand(t *testing.T) {
	v := answer(t, "", "chord", "Eb7#9/G")
	assert.Equal(t, "Eb7#9/G", at(t, v, "symbol"))
	assert.Equal(t, "Eb", at(t, v, "root"))
	assert.Equal(t, "G", at(t, v, "bass"))
	assert.Equal(t, map[string]any{"degree": "#9", "note": "F#"}, at(t, v, "tones", 4))
	assert.Equal(t, "Eb", at(t, answer(t, "", "chord", "Eb"), "bass"), "without a slash the root is lowest")
}

func TestNameCommand(t *testing.T) {
	v := answer(t, "", "name", "x02010")
	assert.Equal(t, "Am7", at(t, v, "names", 0, "name"))
	assert.Equal(t, []any{"A2", "E3", "G3", "C4", "E4"}, at(t, v, "pitches"))
	assert.Equal(t, []any{nil, 0.0, 2.0, 0.0, 1.0, 0.0}, at(t, v, "frets"))
	assert.Empty(t, at(t, v, "names", 0, "missing"))
	assert.Empty(t, at(t, v, "names", 0, "extra"))
	assert.Equal(t, []any{"A", "C", "E", "G"}, at(t, v, "names", 0, "tones"))
	assert.Equal(t, "D5", at(t, answer(t, "", "name", "--tuning", "drop D", "000xxx"), "names", 0, "name"))
	assert.Equal(t, "Fmaj9", at(t, answer(t, "", "name", "x02010", "--bass", "F"), "names", 0, "name"), "what the bass plays decides")
	assert.Equal(t, "G#", at(t, answer(t, "", "name", "4xxxxx", "--key", "E major"), "names", 0, "root"))
}

func TestVoicingsCommand(t *testing.T) {
	v := answer(t, "", "voicings", "Am7", "--school", "open", "--max", "0")
	assert.Equal(t, "Am7", at(t, v, "symbol"))
	list := at(t, v, "voicings").([]any)
	found := false
	for _, one := range list {
		for _, field := range []string{"fingers", "kept", "lost", "added", "is", "bass", "reach", "mutes", "ease", "fidelity", "school"} {
			require.NotNil(t, at(t, one, field), field)
		}
		at(t, one, "barre")
		if assert.ObjectsAreEqual([]any{nil, 0.0, 2.0, 0.0, 1.0, 0.0}, at(t, one, "frets")) {
			found = true
			assert.Equal(t, "Am7", at(t, one, "is"))
			assert.Equal(t, 1.0, at(t, one, "fidelity"))
		}
	}
	assert.True(t, found, "x02010")
	some := at(t, answer(t, "", "voicings", "C", "--max", "3"), "voicings").([]any)
	assert.Len(t, some, 3)
	every := at(t, answer(t, "", "voicings", "C", "--max", "0"), "voicings").([]any)
	assert.Greater(t, len(every), 300)
	tight := answer(t, "", "voicings", "F#maj7", "--reach", "2", "--school", "open")
	assert.NotNil(t, at(t, tight, "voicings"))
	sung := answer(t, "", "voicings", "C", "--school", "letter", "--sung", "E", "--max", "1")
	assert.Empty(t, at(t, sung, "voicings", 0, "lost"))
	capo := answer(t, "", "voicings", "D", "--capo", "2", "--school", "open", "--max", "0")
	shapes := []any{}
	for _, one := range at(t, capo, "voicings").([]any) {
		shapes = append(shapes, at(t, one, "frets"))
	}
	assert.Contains(t, shapes, []any{nil, 3.0, 2.0, 0.0, 1.0, 0.0}, "a C shape sounds D above a capo at 2")
}

func TestProgressionCommand(t *testing.T) {
	v := answer(t, "", "progression", "Em C G D", "--school", "open")
	require.Len(t, at(t, v, "chords"), 4)
	for i, symbol := range []string{"Em", "C", "G", "D"} {
		assert.Equal(t, symbol, at(t, v, "chords", i, "symbol"))
		assert.Equal(t, 1.0, at(t, v, "chords", i, "voicing", "fidelity"))
		for _, field := range []string{"ease", "anchors", "guides", "shift"} {
			require.NotNil(t, at(t, v, "chords", i, "change", field))
		}
	}
	stay := answer(t, "", "progression", "G", "C", "--stay", "5-9")
	for i := range 2 {
		for _, fret := range at(t, stay, "chords", i, "voicing", "frets").([]any) {
			if f, ok := fret.(float64); ok && f > 0 {
				assert.True(t, f >= 5 && f <= 9)
			}
		}
	}
}

func TestKeyAndNumbers(t *testing.T) {
	v := answer(t, "", "numbers", "Em C G D", "--key", "G")
	assert.Equal(t, "G major", at(t, v, "key"))
	for i, want := range []string{"6m", "4", "1", "5"} {
		assert.Equal(t, want, at(t, v, "chords", i, "number"))
		assert.Equal(t, false, at(t, v, "chords", i, "borrowed"))
	}
	tonic := answer(t, "", "numbers", "Am C E7", "--key", "Am", "--school", "tonic")
	assert.Equal(t, "b3", at(t, tonic, "chords", 1, "number"))
	assert.Equal(t, true, at(t, tonic, "chords", 2, "borrowed"))
	assert.Contains(t, at(t, tonic, "chords", 2, "why"), "G#")
	assert.Equal(t, "G major", at(t, answer(t, "", "key", "G D Em C G"), "keys", 0, "key"))
	assert.EqualValues(t, 1, at(t, answer(t, "", "key", "G D Em C G"), "keys", 0, "score"))
	fromSheet := answer(t, "title: X\nA:\n| 0A 3A 5A 2D 5D 2D 0D 0A |\n", "key", "-")
	assert.Equal(t, "A minor", at(t, fromSheet, "keys", 0, "key"))
}

func TestTransposeCommand(t *testing.T) {
	const text = "title: X\nkey: A minor\n\nA:\n| Am - 5A 7A |\n"
	_, out, errs := ask(t, text, "transpose", "-", "--to", "C minor")
	assert.Empty(t, errs)
	assert.Contains(t, out, "key: C minor")
	assert.Contains(t, out, "Cm - 8A 10A")
	assert.True(t, sheet.Parse(out).OK())
	assert.Equal(t, out, at(t, answer(t, text, "transpose", "-", "--to", "C minor"), "sheet"))
	_, out, _ = ask(t, text, "transpose", "-", "--to", "Cm", "--by-capo")
	assert.Contains(t, out, "capo: 3")
	code, _, errs := ask(t, text, "transpose", "-", "--to", "C major")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "a minor key is needed")
}

func TestCapoRetuneOffset(t *testing.T) {
	v := answer(t, "", "capo", "Bb Gm Eb F")
	assert.EqualValues(t, 0, at(t, v, "capos", 0, "barres"))
	for _, one := range at(t, v, "capos").([]any) {
		if at(t, one, "capo") == 3.0 {
			assert.Equal(t, []any{"G", "Em", "C", "D"}, at(t, one, "shapes"))
		}
	}
	r := answer(t, "", "retune", "--from", "standard", "--to", "drop D")
	low := at(t, r, "strings", 0)
	for field, want := range map[string]any{"string": 6.0, "from": "E2", "to": "D2", "semitones": -2.0, "tension_percent": -20.6, "hz": 73.42} {
		assert.Equal(t, want, at(t, low, field), field)
	}
	assert.NotNil(t, at(t, r, "warnings"))
	again := answer(t, "title: R\ntuning: drop D\nA:\n| 0E+0A+0D 3E 5E 0D |\n", "retune", "--to", "drop D", "-")
	moved := sheet.Parse(at(t, again, "rewritten").(string))
	require.True(t, moved.OK(), moved.Problems)
	assert.Equal(t, neck.Standard, moved.Song.Tuning)
	open := moved.Song.Open()
	var sounds []pitch.Class
	for _, e := range moved.Song.Parts[0].Lines[0].Bars[0].Events {
		sounds = append(sounds, e.Notes[0].Pitch(open).Class())
	}
	assert.Equal(t, []pitch.Class{2, 5, 7, 2}, sounds, "D F G D, wherever they lie now")
	o := answer(t, "", "offset", "--heard", "432", "--as", "A4")
	assert.InDelta(t, -31.77, at(t, o, "cents"), 0.01)
	assert.InDelta(t, 1.018519, at(t, o, "rate"), 1e-6)
	assert.EqualValues(t, 108, at(t, o, "strings", 1, "hz"))
	assert.InDelta(t, 1.0204, at(t, answer(t, "", "offset", "--cents", "-35"), "rate"), 1e-4)
}

func TestEasyChords(t *testing.T) {
	v := answer(t, riff, "arrange", "-", "--rung", "easy-chords", "--part", "B", "--school", "third")
	event := at(t, v, "parts", 0, "rungs", 0, "bars", 0, "events", 0)
	assert.Len(t, at(t, event, "notes"), 2, "root and third")
	assert.Contains(t, at(t, event, "why"), "without its 5")
	assert.Len(t, at(t, answer(t, riff, "arrange", "-"), "parts", 1, "rungs"), 6)
	assert.Len(t, at(t, answer(t, riff, "arrange", "-"), "parts", 0, "rungs"), 5, "nothing to make easier in a riff")
}
