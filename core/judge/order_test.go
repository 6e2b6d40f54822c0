package judge

import (
	_ "embed"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/core/words"
)

//go:embed testdata/orders.txt
var orders string

// TestOrders holds the order of steps, and that none is there that would be thrown out.
func TestOrders(t *testing.T) {
	texts := map[string]string{}
	for _, block := range strings.Split(fits, "\n== ")[1:] {
		name, body, _ := strings.Cut(block, "\n")
		texts[name], _, _ = strings.Cut(body, "\n-- ")
	}
	order := verdict{kind: "steps in their order", aim: 0.9}
	thrown := verdict{kind: "lessons without a step to throw out", aim: 0.95}
	book := new(voicing.Book)
	for _, block := range strings.Split(orders, "\n== ")[1:] {
		name, body, _ := strings.Cut(block, "\n")
		text, rows, _ := strings.Cut(body, "-- ")
		if strings.TrimSpace(text) == "" {
			text = texts[name]
			require.NotEmpty(t, text, name)
		}
		sh := sheet.Parse("title: " + name + "\n" + text + "\n")
		require.True(t, sh.OK(), "%s: %v", name, sh.Problems)
		for _, row := range strings.Split(strings.TrimSpace(rows), "\n") {
			who, wants, _ := strings.Cut(strings.TrimPrefix(row, "-- "), ": ")
			wants, not, _ := strings.Cut(wants, "; not ")
			for _, who := range strings.Fields(who) {
				l := lessonOf(t, sh.Song, who, book)
				at, missed := 0, []string{}
				list := strings.Split(wants, " > ")
				for _, want := range list {
					k := slices.IndexFunc(l.Steps[at:], func(s lesson.Step) bool {
						return slices.ContainsFunc(strings.Split(want, " or "), func(one string) bool { return isStep(l, &s, one) })
					})
					if k >= 0 {
						at += k + 1
					} else {
						missed = append(missed, want)
					}
				}
				for _, want := range list {
					order.judge(!slices.Contains(missed, want), "%s for %s: %s is not where it should be: %s", name, who, want, told(l))
				}
				var odd []string
				for _, one := range strings.Split(not, ", ") {
					for i := range l.Steps {
						if isStep(l, &l.Steps[i], one) {
							odd = append(odd, one)
						}
					}
				}
				thrown.judge(len(odd) == 0, "%s for %s: %s: %s", name, who, strings.Join(odd, ", "), told(l))
			}
		}
	}
	order.close(t, 1000)
	thrown.close(t, 400)
}

// lessonOf is the lesson of a song for one of the players, in the versions that fit.
func lessonOf(t *testing.T, s *song.Song, who string, book *voicing.Book) *lesson.Lesson {
	student := studentOf(t, who)
	a := arrange.New(s, arrange.Options{Player: student.Player, Book: book})
	var list [][]arrange.Version
	for i := range s.Parts {
		list = append(list, a.Ladder(i, nil))
	}
	chosen := make([]lesson.Chosen, len(s.Parts))
	for _, part := range fit.Song(s, list, student).Parts {
		chosen[part.Part].Version = part.Version
	}
	return lesson.Build(s, chosen, student, s.Tempo)
}

func studentOf(t *testing.T, who string) lesson.Student {
	p, ok := players[who]
	require.True(t, ok, who)
	unlearnt, err := hand.ParseSkills(p.unlearnt)
	require.NoError(t, err)
	p.player.New = unlearnt
	known, err := lesson.ParseKnown(p.known)
	require.NoError(t, err)
	return lesson.Student{Player: p.player, Known: known, Minutes: p.minutes}
}

// isStep tells whether a step is meant by what the table says.
func isStep(l *lesson.Lesson, s *lesson.Step, want string) bool {
	words := strings.Fields(want)
	if len(words) == 0 || string(s.Kind) != words[0] {
		return false
	}
	if words = words[1:]; len(words) == 0 {
		return true
	}
	var names []string
	switch s.Kind {
	case lesson.Shape, lesson.Change:
		for _, h := range s.Shapes {
			names = append(names, h.Name)
		}
		if len(words) == 1 {
			return words[0] == names[0]
		}
		other := func(a, b string) bool {
			return (words[0] == "*" || words[0] == a) && (words[1] == "*" || words[1] == b)
		}
		return other(names[0], names[1]) || other(names[1], names[0])
	case lesson.Finish:
		return s.Touch != lesson.NoTouch && (words[0] == l.Song.Parts[s.Part].Name || touches[strings.Join(words, " ")] == s.Touch)
	case lesson.Seam:
		return words[0] == l.Song.Parts[s.Part].Name && words[1] == l.Song.Parts[s.Into].Name
	}
	if words[0] != l.Song.Parts[s.Part].Name {
		return false
	}
	bars := fmt.Sprintf("%d-%d", s.From, s.To)
	if s.From == s.To {
		bars = fmt.Sprint(s.From)
	}
	return len(words) == 1 || words[1] == "*" || words[1] == bars
}

var touches = map[string]lesson.Touch{"palm muting": lesson.PalmMuting, "hammer-ons": lesson.HammerOns}

// told is a lesson in a line.
func told(l *lesson.Lesson) string {
	var list []string
	for i := range l.Steps {
		s := &l.Steps[i]
		text := string(s.Kind)
		switch {
		case len(s.Shapes) > 0:
			for _, h := range s.Shapes {
				text += " " + h.Name
			}
		case s.Part >= 0:
			text += fmt.Sprintf(" %s %d-%d", l.Song.Parts[s.Part].Name, s.From, s.To)
		}
		list = append(list, text)
	}
	return strings.Join(list, " > ")
}

// TestEveryLesson holds what is true of any lesson, for forty songs and eight students.
func TestEveryLesson(t *testing.T) {
	book := new(voicing.Book)
	speak := words.Speaker{}
	for _, block := range strings.Split(fits, "\n== ")[1:] {
		name, body, _ := strings.Cut(block, "\n")
		text, _, _ := strings.Cut(body, "\n-- ")
		sh := sheet.Parse("title: " + name + "\n" + text + "\n")
		for who := range players {
			student := studentOf(t, who)
			l := lessonOf(t, sh.Song, who, book)
			drills, steps, seams := map[string]bool{}, map[string]bool{}, map[[2]int]bool{}
			taught := map[int]bool{}
			for i := range l.Steps {
				s := &l.Steps[i]
				at := fmt.Sprintf("%s for %s, step %d", name, who, i+1)
				assert.LessOrEqual(t, s.Minutes, student.Minutes, at)
				if !sh.Song.Meter.Compound() {
					assert.GreaterOrEqual(t, s.Start, min(50, math.Floor(0.6*l.Tempo)), at)
				}
				for _, text := range speak.Step(s) {
					assert.Greater(t, len(text), 10, at)
				}
				for _, why := range s.Why {
					if s.Kind != lesson.Change && why.Bar > 0 && why.Kind != lesson.JoinedTo {
						assert.GreaterOrEqual(t, why.Bar, s.From, at)
						assert.LessOrEqual(t, why.Bar, s.To, at)
					}
				}
				assert.False(t, steps[s.ID.String()], at)
				steps[s.ID.String()] = true
				for _, d := range s.Drills {
					for _, e := range d.Exercises {
						text := sheet.Write(d.Song(&e, "", 60))
						assert.False(t, drills[text], "%s: %s", at, text)
						drills[text] = true
					}
				}
				switch s.Kind {
				case lesson.Whole:
					taught[s.Part] = true
				case lesson.Seam:
					assert.True(t, s.Part == s.Into || taught[s.Part] && taught[s.Into], at)
					seams[[2]int{s.Part, s.Into}] = true
				}
				if music := l.Music(s); music != nil {
					again := sheet.Parse(sheet.Write(music))
					assert.True(t, again.OK(), "%s: %v", at, again.Problems)
				}
			}
			for k := range sh.Song.Order[1:] {
				assert.True(t, seams[[2]int{sh.Song.Order[k].Part, sh.Song.Order[k+1].Part}], "%s for %s: %d", name, who, k)
			}
		}
	}
}
