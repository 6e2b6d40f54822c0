package judge

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/voicing"
)

//go:embed testdata/fits.txt
var fits string

// players are the students of the table.
var players = map[string]struct {
	player   hand.Player
	unlearnt string
	known    string
	minutes  int
}{
	"ida": {hand.Player{Reach: 80, Scale: 578, NotesPerSecond: 2.2, Acoustic: true, NoBarre: true, Picking: hand.AllDown},
		"three fingers,octaves,barres,palm muting,hammer-ons,pull-offs,slides,bends,vibrato,harmonics,tapping", "", 10},
	"leo":   {hand.Player{Reach: 100, NotesPerSecond: 4}, "octaves,barres,bends,vibrato,harmonics,tapping,hammer-ons,pull-offs", "power chords,Em,palm muting", 15},
	"maja":  {hand.Player{Reach: 110, NotesPerSecond: 4, Acoustic: true, NoBarre: true}, "octaves,barres,palm muting,hammer-ons,pull-offs,slides,bends,vibrato,harmonics,tapping", "Em,Am,C,G,D,E", 15},
	"ruben": {hand.Player{Reach: 125, NotesPerSecond: 7}, "harmonics,tapping", "open chords,barre chords,power chords,octaves,seventh chords", 30},
	"gerda": {hand.Player{Reach: 95, NotesPerSecond: 3, Acoustic: true, NoBarre: true, NoLittle: true, Picking: hand.AllDown},
		"octaves,barres,palm muting,hammer-ons,pull-offs,slides,bends,vibrato,harmonics,tapping", "Em,G,D,A", 10},
	"yara": {hand.Player{Reach: 115, NotesPerSecond: 5, Acoustic: true, NoBarre: true}, "barres,bends,vibrato,harmonics,tapping,octaves", "open chords,hammer-ons,pull-offs", 25},
	"otto": {hand.Player{Reach: 135, NotesPerSecond: 11}, "", "open chords,barre chords,power chords,octaves,seventh chords,palm muting,hammer-ons,pull-offs,slides,vibrato", 45},
	"kim":  {hand.Player{Reach: 110, NotesPerSecond: 5.5}, "barres,bends,harmonics,tapping,octaves", "power chords,open chords,palm muting", 20},
}

func TestFits(t *testing.T) {
	of := map[string]*verdict{}
	for name := range players {
		of[name] = &verdict{kind: "begun with by " + name, aim: 0.9}
	}
	all := verdict{kind: "begun with, by all", aim: 0.9}
	book := new(voicing.Book)
	for _, block := range strings.Split(fits, "\n== ")[1:] {
		name, body, _ := strings.Cut(block, "\n")
		text, wants, _ := strings.Cut(body, "\n-- ")
		sh := sheet.Parse("title: " + name + "\n" + text + "\n")
		require.True(t, sh.OK(), "%s: %v", name, sh.Problems)
		ladders := map[string][][]arrange.Version{}
		for _, want := range strings.Split(strings.TrimSpace(wants), "\n") {
			who, rungs, _ := strings.Cut(strings.TrimPrefix(want, "-- "), ": ")
			for _, who := range strings.Fields(who) {
				student := studentOf(t, who)
				a := arrange.New(sh.Song, arrange.Options{Player: student.Player, Book: book})
				var list [][]arrange.Version
				for i := range sh.Song.Parts {
					list = append(list, a.Ladder(i, nil))
				}
				ladders[who] = list
				got := fit.Song(sh.Song, list, student)
				var rows []string
				ok := slices.ContainsFunc(strings.Split(rungs, "|"), func(want string) bool {
					for _, part := range got.Parts {
						each := want
						if strings.Contains(want, "=") {
							_, after, _ := strings.Cut(want, sh.Song.Parts[part.Part].Name+"=")
							each = strings.Fields(after)[0]
						}
						if string(part.Version.Rung) != each {
							return false
						}
					}
					return true
				})
				for _, part := range got.Parts {
					rows = append(rows, fmt.Sprintf("%s %s", sh.Song.Parts[part.Part].Name, part.Version.Rung))
				}
				for _, v := range []*verdict{of[who], &all} {
					v.judge(ok, "%s: %s for %s, not %s; new %d, not %v", name, strings.Join(rows, ", "), who, rungs, len(got.New), got.Parts[0].Not)
				}
			}
		}
	}
	for _, v := range of {
		v.close(t, 38)
	}
	all.wrong = nil
	all.close(t, 300)
}
