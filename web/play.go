package web

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/play"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

// What is played along to is sent once for each step, as it is at the tempo to reach: the
// browser plays it slower or faster in proportion. All of it comes from core/play.

// sound is the music of a step for the browser. Seconds count from its first beat.
type sound struct {
	Tempo   float64     `json:"tempo"` // at which the seconds are, beats per minute
	Start   float64     `json:"start"`
	Passes  int         `json:"passes"`
	Seconds float64     `json:"seconds"`
	Beats   [][3]any    `json:"beats"` // at, index of the bar, whether it is the first of its bar
	Bars    []soundBar  `json:"bars"`
	Voices  []soundLine `json:"voices"`
}

type soundBar struct {
	At     float64 `json:"at"`
	Part   int     `json:"part"` // as the parts are drawn, from 0
	Name   string  `json:"name"`
	Number int     `json:"number"`
	Pass   int     `json:"pass"`
	Beats  int     `json:"beats"` // of the whole bar
	Beat   float64 `json:"beat"`  // seconds
	Lead   float64 `json:"lead"`  // seconds of the bar that have passed before it begins, in a pickup
	Hard   bool    `json:"hard,omitempty"`
}

// soundLine is what one player plays. Of a strike: at, length, hz, loudness, how it
// begins, by how many cents it is bent up, from which frequency it is slid, whether the
// palm mutes it.
type soundLine struct {
	Role    string       `json:"role"` // version, written, other or bass
	Name    string       `json:"name"`
	Strikes [][8]float64 `json:"strikes"`
}

// glows is the demand from which a bar is marked before it comes.
const glows = 0.8

// soundOf works out the music of a step, with the record's side of it where that is asked
// for.
func (s *lessonbook) soundOf(c *echo.Context, t *studio.Taught, step *lesson.Step, p hand.Player, record bool) sound {
	music := t.Music(step)
	out := sound{Tempo: step.Goal, Start: step.Start, Passes: step.Passes}
	if music == nil {
		return out
	}
	o := play.Options{Tempo: music.Tempo, Cents: t.Song.Tuning.Cents}
	played := play.Arrange(music, s.options(c, p, 0), asWritten)
	tl := play.Of(music, played, o)
	out.fill(music, played, tl)
	var typed [][2]int // which bar of its part each is, where passes stand apart
	if v, p := versionOf(t, step); v != nil {
		typed = v.TypedBars(p)
	}
	for i := range out.Bars {
		b := &out.Bars[i]
		if b.Number <= len(typed) {
			of := typed[b.Number-1]
			b.Number, b.Pass = of[0], max(b.Pass, of[1])
			continue
		}
		b.Number = barNumber(step, b.Part, b.Number)
	}
	out.Voices = append(out.Voices, lineOf("version", "your part", tl.Strikes, ""))

	if !record {
		return out
	}
	written, beside := s.record(c, t, step, o)
	if written != nil && written.Tempo == music.Tempo {
		wtl := play.Of(written, play.Arrange(written, s.options(c, hand.Player{}, 0), asWritten), o)
		if line := lineOf("written", "as written", wtl.Strikes, ""); math.Abs(wtl.Seconds-tl.Seconds) < 1e-6 && !same(line.Strikes, out.Voices[0].Strikes) {
			out.Voices = append(out.Voices, line)
		}
		out.Voices = append(out.Voices, lineOf("bass", "bass", play.Bass(written, wtl, o), play.BassPlayer))
	}
	if beside != nil && math.Abs(beside.Seconds-tl.Seconds) < 1e-6 {
		for _, player := range play.Players(t.Song) {
			if line := lineOf("other", player, beside.Strikes, player); len(line.Strikes) > 0 {
				out.Voices = append(out.Voices, line)
			}
		}
	}
	return out
}

// versionOf is the version of a step that plays a part as a whole; nil for other steps.
func versionOf(t *studio.Taught, step *lesson.Step) (*arrange.Version, *song.Part) {
	if step.Kind != lesson.Whole && step.Kind != lesson.Finish {
		return nil, nil
	}
	return t.Version(step, step.Part)
}

func asWritten(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} }

// record is the same stretch of music as a step, as the sheet has it; and what the other
// players play beside it. Either is nil where there is none: a shape is on no record.
func (s *lessonbook) record(c *echo.Context, t *studio.Taught, step *lesson.Step, o play.Options) (*song.Song, *play.Timeline) {
	if step.Kind == lesson.Shape || step.Kind == lesson.Change || step.Own != nil {
		return nil, nil
	}
	all := play.Arrange(t.Song, s.options(c, hand.Player{}, 0), asWritten)
	chosen := make([]lesson.Chosen, len(all))
	for i := range all {
		chosen[i].Version = all[i].Version
		all[i].Version = nil
	}
	sheet := lesson.On(t.Song, t.Tempo, chosen)
	as := *step
	as.Without, as.Rung = 0, arrange.AsWritten
	if as.Kind == lesson.Rhythm {
		as.Kind = lesson.Piece
	}
	music := sheet.Music(&as)
	only := play.Options{Tempo: o.Tempo * t.Song.Tempo / tempoOf(t.Song, step), Cents: o.Cents, Only: true, Part: step.Part}
	switch {
	case step.Kind == lesson.Form && step.Part < 0:
		only = play.Options{Tempo: o.Tempo, Cents: o.Cents}
	case step.Kind == lesson.Form || step.Kind == lesson.Seam:
		return music, nil
	case step.Kind != lesson.Whole && step.Kind != lesson.Finish:
		only.From, only.To = step.From, step.To
	}
	return music, play.Of(t.Song, all, only)
}

// tempoOf is the tempo that the sheet has for the part of a step.
func tempoOf(s *song.Song, step *lesson.Step) float64 {
	if step.Part < 0 {
		return s.Tempo
	}
	return s.Parts[step.Part].Tempo
}

// fill takes over the beats and the bars of a timeline.
func (out *sound) fill(music *song.Song, played []play.Music, tl *play.Timeline) {
	out.Seconds = micro(tl.Seconds)
	for _, b := range tl.Beats {
		out.Beats = append(out.Beats, [3]any{micro(b.At), b.Bar, b.Accent})
	}
	bars := make([][]song.Bar, len(music.Parts))
	for _, b := range tl.Bars {
		p := &music.Parts[b.Part]
		if bars[b.Part] == nil {
			bars[b.Part] = p.Bars()
		}
		m := p.Measure(&bars[b.Part][b.Number-1])
		clock := p.Clock(play.Tempo(music, p, music.Tempo))
		out.Bars = append(out.Bars, soundBar{At: micro(b.At), Part: b.Part, Name: p.Name, Number: b.Number, Pass: b.Pass,
			Beats: max(int(m.Meter.Bar().Div(m.Meter.Beat()).Floor()), 1), Beat: micro(clock.Seconds(m.Meter.Beat().Float())), Lead: micro(clock.Seconds(m.Lead.Float())),
			Hard: played[b.Part].Version.Bars[b.Number-1].Demand >= glows})
	}
}

// lineOf is what a player strikes.
func lineOf(role, name string, strikes []play.Strike, player string) soundLine {
	line := soundLine{Role: role, Name: name, Strikes: [][8]float64{}}
	for i := range strikes {
		k := &strikes[i]
		if k.Player != player {
			continue
		}
		from, muted := 0.0, 0.0
		if k.From >= 0 && k.How == play.Slid {
			from = k.Hz * math.Exp2(float64(k.From-k.Fret)/12)
		}
		switch k.In {
		case song.Rising:
			from = k.Hz * math.Exp2(-2.0/12)
		case song.Falling:
			from = k.Hz * math.Exp2(2.0/12)
		}
		if k.Muted {
			muted = 1
		}
		line.Strikes = append(line.Strikes, [8]float64{micro(k.At), micro(k.Length), math.Round(k.Hz*1000) / 1000, k.Loud, float64(k.How), float64(k.Bend), math.Round(from*1000) / 1000, muted})
	}
	return line
}

func same(a, b [][8]float64) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

func micro(v float64) float64 { return math.Round(v*1e6) / 1e6 }

// heard is what is to be heard of a lesson: a step, an exercise of a drill of it, or a part
// as a whole; the zero one is the first step.
type heard struct {
	Step            lesson.StepID
	Drill, Exercise int // from 1; 0 is none
	Part            song.PartID
}

// String writes it for an address.
func (h heard) String() string {
	switch {
	case h.Part != 0:
		return fmt.Sprintf("part:%d", h.Part)
	case h.Drill > 0:
		return fmt.Sprintf("drill:%d:%d:%s", h.Drill, h.Exercise, h.Step)
	case h.Step.IsZero():
		return ""
	}
	return "step:" + h.Step.String()
}

// parseHeard reads what String writes.
func parseHeard(text string) (h heard, ok bool) {
	kind, rest, _ := strings.Cut(text, ":")
	var err error
	switch kind {
	case "":
		return h, text == ""
	case "part":
		h.Part = partOf(rest)
		return h, h.Part > 0
	case "drill":
		if _, err := fmt.Sscanf(rest, "%d:%d:%s", &h.Drill, &h.Exercise, &rest); err != nil || h.Drill < 1 || h.Exercise < 1 {
			return h, false
		}
		h.Step, err = lesson.ParseStepID(rest)
	case "step":
		h.Step, err = lesson.ParseStepID(rest)
	default:
		return h, false
	}
	return h, err == nil && !h.Step.IsZero()
}

// heardIn finds what is to be heard: a step, and where it is an exercise of it that. ok is
// false where there is none.
func heardIn(t *studio.Taught, h heard) (step lesson.Step, exercise *song.Song, ok bool) {
	if h.Part != 0 {
		i, ok := t.Song.PartWith(h.Part)
		if !ok {
			return step, nil, false
		}
		step, ok = wholePart(t, i)
		return step, nil, ok
	}
	if h.Step.IsZero() {
		if len(t.Steps) == 0 {
			return step, nil, false
		}
		return t.Steps[0], nil, true
	}
	found := t.Step(h.Step)
	if found == nil {
		return step, nil, false
	}
	if h.Drill == 0 {
		return *found, nil, true
	}
	drills := found.Drills
	if h.Drill > len(drills) || h.Exercise > len(drills[h.Drill-1].Exercises) {
		return step, nil, false
	}
	d := &drills[h.Drill-1]
	return *found, d.Song(&d.Exercises[h.Exercise-1], "", found.Start), true
}

// wholePart is a part as a step of its own, from where it begins to its tempo.
func wholePart(t *studio.Taught, i int) (step lesson.Step, ok bool) {
	v := t.Chosen[i].Version
	if v == nil {
		return step, false
	}
	step = lesson.Step{Kind: lesson.Whole, Part: i, Into: -1, From: 1, To: len(v.Bars), Rung: v.Rung, Start: v.Tempo, Goal: v.Tempo, Passes: 3}
	for _, s := range t.Steps {
		if s.Kind == lesson.Whole && s.Part == i {
			step.Start = s.Start
			break
		}
	}
	return step, true
}

// sendSound answers with the music of what is asked for. Its address has the mark of what
// it was worked out of, so that it may be kept for good.
func (s *lessonbook) sendSound(c *echo.Context, t *studio.Taught, p hand.Player) error {
	what, ok := parseHeard(c.FormValue("what"))
	if !ok {
		return store.ErrNotFound
	}
	step, exercise, ok := heardIn(t, what)
	if !ok {
		return store.ErrNotFound
	}
	var out sound
	if exercise != nil {
		played := play.Arrange(exercise, s.options(c, p, 0), asWritten)
		tl := play.Of(exercise, played, play.Options{Cents: t.Song.Tuning.Cents})
		out = sound{Tempo: step.Start, Start: step.Start, Passes: step.Passes}
		out.fill(exercise, played, tl)
		out.Voices = []soundLine{lineOf("version", "your part", tl.Strikes, "")}
	} else {
		out = s.soundOf(c, t, &step, p, true)
	}
	return s.answerSound(c, out)
}

func (s *lessonbook) answerSound(c *echo.Context, out sound) error {
	body, err := json.Marshal(out)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	return c.JSONBlob(http.StatusOK, body)
}

// soundMark is the mark of what the music of a lesson is worked out of.
func soundMark(l studio.Lookup) string {
	key := studio.KeyOf("sound 4", l.Sheet, idsIn(l.IDs), l.Parts, l.Plan, l.Who.ID == 0, studio.Player(&l.Who), l.Target, l.Who.Known, l.Who.Minutes, l.Home.ChordSchool)
	return base64.RawURLEncoding.EncodeToString(key[:9])
}

// idsIn is what parts are known by, for a key.
func idsIn(parts []store.SongPart) (list []song.Identity) {
	for i := range parts {
		list = append(list, parts[i].Identity())
	}
	return list
}

// lessonSound is the music of a step for the teacher.
func (s *lessonbook) lessonSound(c *echo.Context) error {
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	return s.sendSound(c, a.Taught, studio.Player(&a.Who))
}

// practiceSound is the music of a step for the student.
func (s *lessonbook) practiceSound(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	n, err := id(c, "assignment")
	if err != nil {
		return err
	}
	a, err := s.Store.Assignment(c.Request().Context(), st.StudioID, st.ID, n)
	if err != nil {
		return err
	}
	look, err := s.lookUpGiven(c, a, st)
	if err != nil {
		return err
	}
	t, err := s.house.Teach(c.Request().Context(), look)
	if err != nil {
		return badPlan(err)
	}
	return s.sendSound(c, t, studio.Player(&st))
}

// heardOf is what of a query says which version is heard.
func heardOf(q url.Values, rung arrange.Rung) string {
	heard := url.Values{"rung": {string(rung)}}
	for name, values := range q {
		if !slices.Contains([]string{"rung", "bar", "at", "pass", "with", "show", "v"}, name) {
			heard[name] = values
		}
	}
	return heard.Encode()
}

// songSound is the music of a version of a part, as the rungs page shows it.
func (s *lessonbook) songSound(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	a, err := s.askedVersion(c, g)
	if err != nil {
		return err
	}
	chosen := make([]lesson.Chosen, len(a.song.Parts))
	chosen[a.part].Version = &a.version
	t := &studio.Taught{Lesson: lesson.On(a.song, a.tempo, chosen)}
	step, _ := wholePart(t, a.part)
	return s.answerSound(c, s.soundOf(c, t, &step, a.player, !a.retuned))
}
