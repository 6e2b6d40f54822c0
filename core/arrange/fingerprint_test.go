package arrange

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/voicing"
)

// fingered writes down what is played in a version, and what it asks.
func fingered(v *Version) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%v %v %v\n", v.Grade, v.Work, v.Tempo)
	for i := range v.Bars {
		fmt.Fprintf(&b, "%d %v\n", v.Bars[i].Number, v.Bars[i].Demand)
		for _, e := range v.Bars[i].Events {
			fmt.Fprintf(&b, "%v %v %v %v %v %v %v\n", e.Start, e.Fingering, e.Notes, e.Dead, e.Stroke, e.Demand, e.Shift)
		}
	}
	return b.String()
}

// Whatever is changed in a song, a part that keeps its fingerprint keeps its version.
func TestTheSameFingerprintIsTheSameVersion(t *testing.T) {
	kept := 0
	rapid.Check(t, func(t *rapid.T) {
		was := sheettest.Song(t)
		text := sheet.Write(was)
		at := rapid.IntRange(0, len(text)-1).Draw(t, "at")
		edited := text[:at] + rapid.SampledFrom([]string{"", "3A", " ", "5e ", "\n", "#", "7", "| ", "x2", "D", "-"}).Draw(t, "put in") + text[at+rapid.IntRange(0, 1).Draw(t, "taken out"):]
		is := sheet.Parse(edited).Song
		book := new(voicing.Book)
		a, b := New(sheet.Parse(text).Song, Options{Book: book}), New(is, Options{Book: book})
		versions := map[any]string{}
		for i := range a.set.song.Parts {
			v := a.Version(i, AsWritten, Way{})
			versions[a.Fingerprint(i)] = fingered(&v)
		}
		for i := range is.Parts {
			if before, ok := versions[b.Fingerprint(i)]; ok {
				v := b.Version(i, AsWritten, Way{})
				assert.Equal(t, before, fingered(&v), edited)
				kept++
			}
		}
	})
	assert.Positive(t, kept)
}

// What is typed in one part is no matter of those that it does not touch.
func TestFingerprintsOfPartsThatAreLeftAlone(t *testing.T) {
	const text = "title: T\nkey: E minor\nA:\n| 0E 3E 5E 3E |\nB:\n| 0A 3A 5A 3A | 0A 5A 7A 5A |\nC:\n| 0D 2D 4D 2D |\nD:\n| 7e 5e 3e 0e |\n"
	prints := func(text string) (list [][32]byte) {
		a := New(sheet.Parse(text).Song, Options{})
		for i := range a.set.song.Parts {
			list = append(list, a.Fingerprint(i))
		}
		return list
	}
	was := prints(text)
	for _, c := range []struct {
		what, old, new string
		same           string // a letter for each part that keeps its own
	}{
		{"a remark above it all", "title: T", "# mine\n\ntitle: T", "ABCD"},
		{"the inside of a bar", "0A 3A 5A 3A", "0A 3A 7A 3A", "ACD"},
		{"the layout", "0A 3A 5A 3A", "0A   3A 5A  3A", "ABCD"},
		{"the end of a part is where the next begins", "5A 7A 5A |", "5A 7A 8A |", "AD"},
		{"the beginning is where the one before goes", "| 0A 3A", "| 2A 3A", "CD"},
		{"a tempo is everyone's", "key: E minor", "key: E minor\ntempo: 120", ""},
		{"a capo is everyone's", "key: E minor", "key: E minor\ncapo: 2", ""},
		{"a tuning is everyone's", "key: E minor", "key: E minor\ntuning: drop D", ""},
		{"a key is everyone's", "key: E minor", "key: G major", ""},
		{"the order", "key: E minor", "key: E minor\norder: A, B, D, C", "A"},
		{"a palm on one", "C:\n", "C:\nmute: palm\n", "ABD"},
		{"a slower one comes later to the next", "C:\n", "C:\ntempo: 60\n", "AB"},
		{"a note to the student", "C:\n", "C:\nnote: softly\n", "ABD"},
	} {
		is := prints(strings.Replace(text, c.old, c.new, 1))
		same := ""
		for i := range is {
			if is[i] == was[i] {
				same += string(rune('A' + i))
			}
		}
		assert.Equal(t, c.same, same, c.what)
	}
	s := sheet.Parse(text).Song
	drop := neck.Standard.Up(-2)
	for what, o := range map[string]Options{
		"a player": {Player: hand.Player{NoBarre: true}}, "a tempo": {Tempo: 60}, "another tuning": {Tuning: &drop}, "a school": {School: voicing.Open}, "pitches alone": {Unplaced: true},
	} {
		assert.NotEqual(t, New(s, Options{}).Fingerprint(0), New(s, o).Fingerprint(0), what)
	}
}
