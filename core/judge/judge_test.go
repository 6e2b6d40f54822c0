// Package judge holds the answers of the core against tables of what a guitar
// teacher writes. The tables were decided from the rules of the job before the
// answers were looked at; `make judge` prints the share of each that holds, and
// docs/judgement.md says what does not, and why.
package judge

import (
	_ "embed"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/voicing"
)

var (
	//go:embed testdata/chords.txt
	chords string
	//go:embed testdata/names.txt
	names string
	//go:embed testdata/keys.txt
	keys string
	//go:embed testdata/progressions.txt
	progressions string
	//go:embed testdata/capos.txt
	capos string
	//go:embed testdata/pairs.txt
	pairs string
	//go:embed testdata/riffs.txt
	riffs string
	//go:embed testdata/written.txt
	written string
	//go:embed testdata/fingers.txt
	fingers string
	//go:embed testdata/songs.txt
	songs string
)

// verdict counts what holds of one kind.
type verdict struct {
	kind          string
	aim           float64
	holds, judged int
	wrong         []string
}

func (v *verdict) judge(ok bool, format string, args ...any) {
	v.judged++
	if ok {
		v.holds++
		return
	}
	v.wrong = append(v.wrong, fmt.Sprintf(format, args...))
}

// close prints the share and holds it to the aim.
func (v *verdict) close(t *testing.T, least int) {
	share := float64(v.holds) / float64(v.judged)
	fmt.Printf("%-24s %3d of %3d  %5.1f %%  (aim %.0f %%)\n", v.kind, v.holds, v.judged, 100*share, 100*v.aim)
	if testing.Verbose() {
		for _, w := range v.wrong {
			fmt.Println("    " + w)
		}
	}
	assert.GreaterOrEqual(t, v.judged, least, "%s: the table is too short to say anything", v.kind)
	assert.GreaterOrEqual(t, share, v.aim, "%s: %s", v.kind, strings.Join(v.wrong, "\n"))
}

// rows are the lines of a table without its comments.
func rows(table string) []string {
	var list []string
	for line := range strings.Lines(table) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
			list = append(list, line)
		}
	}
	return list
}

func among(got, options string) bool { return slices.Contains(strings.Split(options, "|"), got) }

// fingersOf writes the fingers of a shape from thick to thin.
func fingersOf(f hand.Fingering) string {
	var b strings.Builder
	for _, finger := range f.Fingers {
		switch finger {
		case 0:
			b.WriteByte('-')
		case hand.Thumb:
			b.WriteByte('T')
		default:
			b.WriteByte('0' + byte(finger))
		}
	}
	return b.String()
}

func chordsOf(t *testing.T, symbols string) []chord.Chord {
	var list []chord.Chord
	for _, s := range strings.Fields(symbols) {
		c, err := chord.Parse(s)
		require.NoError(t, err)
		list = append(list, c)
	}
	return list
}

func TestChords(t *testing.T) {
	shapes, held := verdict{kind: "usual shapes", aim: 0.95}, verdict{kind: "fingers", aim: 0.9}
	b := new(voicing.Book)
	in := neck.Instrument{Tuning: neck.Standard}
	for _, row := range rows(chords) {
		f := strings.Fields(row)
		list := b.Usual(chordsOf(t, f[0])[0], in, hand.Player{}, 1)
		if len(list) == 0 {
			shapes.judge(false, "%s: none instead of %s", f[0], f[1])
			continue
		}
		got := list[0]
		shapes.judge(among(got.Frets.String(), f[1]), "%s: %s instead of %s", f[0], got.Frets, f[1])
		if among(got.Frets.String(), f[1]) {
			held.judge(among(fingersOf(got.Fingering), f[2]), "%s %s: %s instead of %s", f[0], got.Frets, fingersOf(got.Fingering), f[2])
		}
	}
	shapes.close(t, 150)
	held.close(t, 140)
}

func TestNames(t *testing.T) {
	v := verdict{kind: "names", aim: 0.95}
	for _, row := range rows(names) {
		f := strings.Fields(row)
		frets, err := neck.ParseFrets(f[0])
		require.NoError(t, err)
		in, key := neck.Instrument{Tuning: neck.Standard}, pitch.Key{}
		var bass pitch.Note
		for _, option := range f[2:] {
			name, value, _ := strings.Cut(option, "=")
			switch name {
			case "tuning":
				in.Tuning, err = neck.Parse(strings.ReplaceAll(value, "-", " "))
			case "key":
				key, err = pitch.ParseKey(value)
			case "bass":
				bass, err = pitch.ParseNote(value)
			}
			require.NoError(t, err, row)
		}
		classes, low := in.Classes(frets)
		if bass.Valid() {
			low = bass.Class()
		}
		got := "nothing"
		if list := chord.Names(classes, low, key); len(list) > 0 {
			got = list[0].Name
		}
		v.judge(among(got, f[1]), "%s: %s", row, got)
	}
	v.close(t, 60)
}

func TestKeys(t *testing.T) {
	v := verdict{kind: "keys", aim: 0.95}
	for _, row := range rows(keys) {
		symbols, want, _ := strings.Cut(row, " = ")
		guesses := harmony.Keys(chordsOf(t, symbols))
		require.NotEmpty(t, guesses)
		v.judge(among(guesses[0].Key.String(), want), "%s: %s instead of %s", symbols, guesses[0].Key, want)
	}
	v.close(t, 40)
}

// The map of keys of whole songs. Chords beside a change may be heard in either key.
func TestSongs(t *testing.T) {
	v := verdict{kind: "keys by section", aim: 0.95}
	for _, row := range rows(songs) {
		symbols, answers, _ := strings.Cut(row, " = ")
		var chords []chord.Chord
		var want []string
		keys := strings.Split(answers, " / ")
		for i, section := range strings.Split(symbols, " / ") {
			for _, c := range chordsOf(t, section) {
				chords, want = append(chords, c), append(want, keys[i])
			}
		}
		wrong := ""
		for _, s := range harmony.Sections(chords, pitch.Key{}) {
			for i := s.From; i < s.To; i++ {
				beside := i > 0 && want[i-1] != want[i] || i+1 < len(want) && want[i+1] != want[i]
				if !beside && !among(s.Key.String(), want[i]) {
					wrong = s.Key.String()
				}
			}
		}
		v.judge(wrong == "", "%s: %s", row, wrong)
	}
	v.close(t, 40)
}

func TestProgressions(t *testing.T) {
	v := verdict{kind: "progressions", aim: 0.95}
	b := new(voicing.Book)
	for _, row := range rows(progressions) {
		symbols, shapes, _ := strings.Cut(row, " = ")
		var slots []voicing.Slot
		for _, c := range chordsOf(t, symbols) {
			slots = append(slots, voicing.Slot{Chord: c, Seconds: 2, Pin: neck.NoFrets})
		}
		want := strings.Fields(shapes)
		require.Len(t, want, len(slots), row)
		ok := true
		var got []string
		for i, c := range b.Progression(slots, voicing.Config{}) {
			ok = ok && among(c.Frets.String(), want[i])
			got = append(got, c.Frets.String())
		}
		v.judge(ok, "%s: %s", row, strings.Join(got, " "))
	}
	v.close(t, 30)
}

// The fingers of a progression are chosen together: what can stay, stays.
func TestFingers(t *testing.T) {
	v := verdict{kind: "fingers of progressions", aim: 0.95}
	for _, row := range rows(fingers) {
		symbols, shapes, _ := strings.Cut(row, " = ")
		s := sheet.Parse("title: Judged\ntempo: 80\nA:\n| " + strings.Join(strings.Fields(symbols), " | ") + " |\n")
		require.True(t, s.OK(), row)
		version := arrange.New(s.Song, arrange.Options{}).Version(0, arrange.AsWritten, arrange.Way{})
		want := strings.Fields(shapes)
		var got []string
		ok := true
		for i := range version.Bars {
			f := version.Bars[i].Events[0].Fingering
			by := strings.ReplaceAll(fingersOf(f), "-", "")
			got = append(got, f.Frets.String()+":"+by)
			ok = ok && i < len(want) && among(got[i], want[i])
		}
		v.judge(ok && len(got) == len(want), "%s: %s", row, strings.Join(got, " "))
	}
	v.close(t, 40)
}

func TestCapos(t *testing.T) {
	v := verdict{kind: "capos", aim: 0.95}
	b := new(voicing.Book)
	for _, row := range rows(capos) {
		symbols, want, _ := strings.Cut(row, " = ")
		list := b.Capos(chordsOf(t, symbols), voicing.Config{})
		v.judge(among(strconv.Itoa(list[0].Fret), want), "%s: %d instead of %s", symbols, list[0].Fret, want)
	}
	v.close(t, 20)
}

// songOf reads bars with their settings, for one of its players.
func songOf(t *testing.T, settings []string, bars, player string) *arrange.Arranger {
	var own, below strings.Builder
	for _, line := range settings {
		to := &own
		if name, _, _ := strings.Cut(line, ":"); slices.Contains([]string{"mute", "ring", "pickup"}, name) {
			to = &below
		}
		to.WriteString(line + "\n")
	}
	s := sheet.Parse("title: Judged\n" + own.String() + "\nA:\n" + below.String() + bars + "\n")
	require.True(t, s.OK(), "%s: %v", bars, s.Problems)
	return arrange.New(s.Song.As(func(int) string { return player }), arrange.Options{})
}

func TestPairs(t *testing.T) {
	v := verdict{kind: "easier and harder", aim: 0.95}
	for _, row := range rows(pairs) {
		var grades []float64
		halves := strings.Split(row, ";")
		require.Len(t, halves, 3, row)
		for _, half := range halves[:2] {
			tempo, bars, _ := strings.Cut(half, "|")
			if tempo = strings.TrimSpace(tempo); tempo == "" {
				tempo = "100"
			}
			grades = append(grades, songOf(t, []string{"tempo: " + tempo}, "|"+bars, "").Version(0, arrange.AsWritten, arrange.Way{}).Grade)
		}
		v.judge(grades[0] < grades[1], "%s: %.1f and %.1f", row, grades[0], grades[1])
	}
	v.close(t, 60)
}

// played writes what a version plays: shapes where wanted has one, fingers
// where it has them.
func played(v *arrange.Version, wanted string) string {
	want := strings.Fields(wanted)
	var list []string
	for b := range v.Bars {
		for i := range v.Bars[b].Events {
			e := &v.Bars[b].Events[i]
			like := ""
			if len(list) < len(want) {
				like = want[len(list)]
			}
			if strings.HasPrefix(like, "@") {
				list = append(list, "@"+e.Fingering.Frets.String())
				continue
			}
			var notes []string
			for _, n := range e.Notes {
				note := fmt.Sprintf("%d%s", n.Fret, n.String)
				if strings.Contains(like, "[") && n.Finger > 0 {
					note += fmt.Sprintf("[%d]", n.Finger)
				}
				notes = append(notes, note)
			}
			list = append(list, strings.Join(notes, "+"))
		}
	}
	return strings.Join(list, " ")
}

// riff is a block of a table: a sheet and what a teacher makes of it.
type riff struct {
	title, why string
	settings   []string
	bars       []string
	player     string // whose line is arranged
	way        arrange.Way
	wishes     []wish
}

type wish struct{ rung, value string }

// riffsOf reads a table of riffs.
func riffsOf(table string) (list []riff) {
	for _, block := range strings.Split(table, "\n## ")[1:] {
		lines := rows(block)
		r := riff{title: lines[0], why: lines[1]}
		for _, line := range lines[2:] {
			name, value, _ := strings.Cut(line, ": ")
			switch {
			case strings.Contains(line, "|"):
				r.bars = append(r.bars, line)
			case len(r.bars) > 0:
				r.wishes = append(r.wishes, wish{name, value})
			case name == "player":
				r.player = value
			case name == "thicken":
				r.way.Thicken = arrange.Thicken(value)
			default:
				r.settings = append(r.settings, line)
			}
		}
		list = append(list, r)
	}
	return list
}

func TestRiffs(t *testing.T) {
	judgeRiffs(t, riffsOf("\n"+riffs), verdict{kind: "versions of riffs", aim: 0.95}, 60, 120)
}

// What the teacher typed is kept: voicings, chugs beside chords, names over a capo, the tune
// over a drone, the lines of other players.
func TestWritten(t *testing.T) {
	judgeRiffs(t, riffsOf(written), verdict{kind: "what is typed is kept", aim: 0.95}, 60, 95)
}

func judgeRiffs(t *testing.T, list []riff, all verdict, most, least int) {
	byRung := map[arrange.Rung]*verdict{}
	refused := &verdict{kind: "  not offered", aim: 0.9}
	same := &verdict{kind: "  the same as another", aim: 0.9}
	for _, r := range list {
		a := songOf(t, r.settings, strings.Join(r.bars, "\n"), r.player)
		for _, w := range r.wishes {
			switch w.rung {
			case "not":
				rung, err := arrange.ParseRung(w.value)
				require.NoError(t, err)
				ok := a.Refused(0, rung) != nil
				for _, v := range []*verdict{refused, &all} {
					v.judge(ok, "%s: %s is offered (%s)", r.title, w.value, r.why)
				}
				continue
			case "same":
				first, second, _ := strings.Cut(w.value, " = ")
				versions := a.Ladder(0, nil)
				ok := slices.ContainsFunc(versions, func(v arrange.Version) bool {
					return string(v.Rung) == first && string(v.Same) == second || string(v.Rung) == second && string(v.Same) == first
				})
				for _, v := range []*verdict{same, &all} {
					v.judge(ok, "%s: %s is another than %s (%s)", r.title, first, second, r.why)
				}
				continue
			}
			rung, err := arrange.ParseRung(w.rung)
			require.NoError(t, err, "%s: %s", r.title, w.rung)
			v := a.Version(0, rung, r.way)
			var got string
			ok := false
			for _, want := range strings.Split(w.value, " or ") {
				got = played(&v, want)
				ok = ok || got == want
			}
			if byRung[rung] == nil {
				byRung[rung] = &verdict{kind: "  " + string(rung), aim: 0.9}
			}
			for _, verdict := range []*verdict{byRung[rung], &all} {
				verdict.judge(ok, "%s, %s: %s instead of %s (%s)", r.title, rung, got, w.value, r.why)
			}
		}
	}
	assert.GreaterOrEqual(t, len(list), most)
	all.close(t, least)
	for _, rung := range arrange.Rungs {
		if v := byRung[rung]; v != nil {
			v.wrong = nil
			v.close(t, 1)
		}
	}
	for _, v := range []*verdict{refused, same} {
		if v.judged > 0 {
			v.wrong = nil
			v.close(t, 1)
		}
	}
}
