package arrange

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/hand"
)

// What a hand gets that lacks the usual shape: near the nut, three strings at least, never
// up the neck for the sake of a barre. The answers were decided beforehand.
func TestEasierChordsOfAHandThatLacksSomething(t *testing.T) {
	for _, c := range []struct {
		player hand.Player
		want   map[string]string
	}{
		{hand.Player{Reach: 110, NoBarre: true, Acoustic: true}, map[string]string{
			"F": "xx3211 xx321x xx3210", "Bm": "xx4432", "Bb": "xx3331 xxx331", "B": "xx4442 xxx442", "Gm": "3100xx xx0333 xx5333", "Cm": "x310xx xx5543 x3101x",
			"F#m": "xx422x xx4222 xxx222", "Eb": "xx1343 xxx343 x110xx", "Fm": "xx311x xx3111 xxx111", "C": "x32010", "G": "320003", "Am": "x02210",
		}},
		{hand.Player{Reach: 95, NoBarre: true, NoLittle: true, Acoustic: true}, map[string]string{
			"F": "xx3211 xx321x xx3210", "B7": "x21202 xx1202 xx4442", "Bb": "xx3331 xxx331", "Gm": "3100xx xx0333", "C#m": "xxx120 xx212x x4212x", "G": "320003 32000x", "Dm9": "xx0211 xx0231", "Am9": "x02010 x02210", "C13": "x32310 x32010 x3231x x323xx",
		}},
		{hand.Player{Reach: 80, Scale: 578, NoBarre: true, New: hand.AllSkills &^ hand.TwoFingers}, map[string]string{
			"G": "xx0003", "C": "xx2010 xxx010", "Em": "022000 xx2000 xxx000", "A": "xxx220 xxx222", "E": "xx2100 xxx100", "Am": "xxx210", "D": "xx0230 xx0200 200200 2002xx", "F": "xxx211",
		}},
	} {
		for symbol, want := range c.want {
			v := New(read(t, "A:\n| "+symbol+" - - - |\n"), Options{Book: book, Player: c.player}).Version(0, EasyChords, Way{})
			got := v.Bars[0].Events[0].Fingering.Frets.String()
			assert.True(t, slices.Contains(strings.Fields(want), got), "%s: %s, not %s", symbol, got, want)
		}
	}
}

// The ways to make chords easier differ from what is written and from each other, and are
// easier; where nothing is hard for a hand there is none.
func TestEasings(t *testing.T) {
	noBarre := hand.Player{Reach: 110, NoBarre: true, Acoustic: true}
	easings := func(body string, p hand.Player) []Easing {
		return New(read(t, body), Options{Book: book, Player: p}).Easings(0)
	}
	list := easings("key: Bb\nA:\n| Bb - - - | Gm - - - | Eb - - - | F - - - |\n", noBarre)
	capo := list[len(list)-1]
	assert.Equal(t, 3, capo.Capo)
	assert.Equal(t, []string{"G", "Em", "C", "D"}, capo.Shapes)
	assert.Equal(t, "320003", capo.Version.Bars[0].Events[0].Fingering.Frets.String())
	assert.Greater(t, len(list), 1, "and shapes without one")
	long := "key: Bb\nA:\n| Bb - - - | Gm - - - |\nB:\n| Eb - - - | F - - - |\nC:\n| 0E 3E |\n"
	fret, shapes := New(read(t, long), Options{Book: book, Player: noBarre}).Capo()
	assert.Equal(t, 3, fret, "one capo for the song")
	assert.Equal(t, []string{"G", "Em", "C", "D"}, shapes)
	nines := easings("A:\n| Dm9 - - - | G7 - - - |\n", hand.Player{Reach: 95, NoBarre: true, NoLittle: true})
	assert.Equal(t, []Spared{{"Dm9", "9"}}, nines[0].Without)
	assert.Empty(t, easings("key: G\nA:\n| G - - - | C - - - | Em - - - | D - - - |\n", hand.Player{}), "nothing is hard there")
	assert.Empty(t, easings("A:\n| 0E 3E 5E - |\n", noBarre), "there are no chords")
	for _, body := range []string{"A:\n| F - - - | Bm - - - | Gm7 - C - |\n", "capo: 2\nA:\n| F - - - | C - - - |\n", "A:\n| F=133211 - - - | C - - - |\n", "A:\n| F - - - | 0E 3E 0E - |\n"} {
		for _, p := range []hand.Player{noBarre, {}, {NoLittle: true}} {
			a := New(read(t, body), Options{Book: book, Player: p})
			written := a.Version(0, AsWritten, Way{})
			list := a.Easings(0)
			for i := range list {
				assert.Less(t, list[i].Version.Grade, written.Grade, body)
				assert.False(t, sameNotes(&list[i].Version, &written), body)
				for j := range i {
					assert.False(t, sameNotes(&list[i].Version, &list[j].Version), body)
				}
			}
		}
	}
}
