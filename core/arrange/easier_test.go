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
			"F": "xx3211 xx321x xx3210", "B7": "x21202 xx1202 xx4442", "Bb": "xx3331 xxx331", "Gm": "3100xx xx0333", "C#m": "xxx120 xx212x x4212x", "G": "320003 32000x",
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
