package main

import (
	"encoding/base64"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/formats"
)

const twoPlayers = "title: Two\ntempo: 90\n\nA:\n| Em - G - | 0A h3A 5A - |\nlead | 12e - 15e - | . |\n\nB:\n| C - D - |\n"

// export and import keep their contract, and every form comes back as a song with the same
// title and parts.
func TestForms(t *testing.T) {
	dir := t.TempDir()
	for _, f := range formats.Out() {
		out := filepath.Join(dir, "song"+f.Extension())
		v := answer(t, twoPlayers, "export", "-", "--as", string(f), "-o", out)
		assert.Equal(t, string(f), at(t, v, "as"))
		assert.Equal(t, out, at(t, v, "out"))
		info, err := os.Stat(out)
		require.NoError(t, err)
		assert.EqualValues(t, info.Size(), at(t, v, "bytes"))
		if f == formats.WAV {
			code, _, errs := ask(t, "", "import", out)
			assert.Equal(t, 1, code)
			assert.Contains(t, errs, "it is a recording")
			continue
		}
		v = answer(t, "", "import", out)
		assert.Equal(t, string(f), at(t, v, "form"))
		assert.Contains(t, at(t, v, "sheet"), "title: Two\n")
		assert.Contains(t, at(t, v, "sheet"), "\nB:\n")
		assert.NotNil(t, at(t, v, "problems"))
		code, text, _ := ask(t, "", "import", out)
		assert.Zero(t, code)
		assert.Equal(t, at(t, v, "sheet"), text, "without --json the sheet alone")
	}
	left, err := filepath.Glob(filepath.Join(dir, ".export-*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing half-written is left")
}

// What goes out can be a part, a version, at a tempo.
func TestExportChosen(t *testing.T) {
	_, text, _ := ask(t, twoPlayers, "export", "-", "--as", "tab", "--part", "B", "--tempo", "60", "--rung", "one-finger")
	assert.Contains(t, text, "[B]")
	assert.NotContains(t, text, "[A]")
	assert.Contains(t, text, "Tempo: 60")
	_, text, _ = ask(t, twoPlayers, "export", "-", "--as", "tab", "--rung", "A=one-finger")
	assert.NotContains(t, strings.Split(text, "[B]")[0], "Em", "a version of one part")
	assert.Contains(t, strings.Split(text, "[B]")[1], "C", "the other as it is written")
	var v map[string]any
	_, text, _ = ask(t, twoPlayers, "export", "-", "--as", "midi", "--json")
	require.NoError(t, json.Unmarshal([]byte(text), &v))
	data, err := base64.StdEncoding.DecodeString(v["base64"].(string))
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(data), "MThd"))
	_, text, _ = ask(t, twoPlayers, "export", "-", "--as", "words", "--json")
	require.NoError(t, json.Unmarshal([]byte(text), &v))
	assert.Contains(t, v["text"], "| Em G |")
	sizes := map[string]int{}
	for _, with := range []string{"none", "click", "bass", "written", "click,bass,others,written"} {
		_, sound, errs := ask(t, twoPlayers, "export", "-", "--as", "wav", "--with", with)
		require.Empty(t, errs)
		sizes[with] = len(sound)
		assert.True(t, strings.HasPrefix(sound, "RIFF"))
	}
	assert.Equal(t, sizes["none"], sizes["click,bass,others,written"], "it lasts as long, whatever is in it")
}

// Tracks are listed, and chosen.
func TestImportTracks(t *testing.T) {
	file := filepath.Join(t.TempDir(), "two.mid")
	code, _, _ := ask(t, twoPlayers, "export", "-", "--as", "midi", "-o", file)
	require.Zero(t, code)
	v := answer(t, "", "import", file)
	assert.Equal(t, "first", at(t, v, "tracks", 0, "taken"))
	assert.Equal(t, "", at(t, v, "tracks", 1, "taken"))
	assert.Equal(t, "lead", at(t, v, "tracks", 1, "name"))
	assert.NotContains(t, at(t, v, "sheet"), "lead ")
	v = answer(t, "", "import", file, "--beside", "2")
	assert.Equal(t, "beside", at(t, v, "tracks", 1, "taken"))
	assert.Contains(t, at(t, v, "sheet"), "lead ")
	v = answer(t, "", "import", file, "--track", "2")
	assert.Equal(t, "first", at(t, v, "tracks", 1, "taken"))
	_, _, errs := ask(t, "", "import", file)
	assert.Contains(t, errs, "track 2, lead, 2 notes: it is taken with --track or --beside")
	v = answer(t, "T\n\nC G Am F\n", "import", "-", "--chords-per-bar", "2")
	assert.Contains(t, at(t, v, "sheet"), "| C G | Am F |")
	code, _, errs = ask(t, "C G Am F\n", "import", "-", "--from", "midi")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "it is no MIDI file")
}
