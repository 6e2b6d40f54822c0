package studio

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"math"
	"strconv"
	"strings"
	"time"

	"valleyside/core/arrange"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
	"valleyside/store"
)

// What lists show of songs and of what is assigned is worked out when it changes, and kept
// as rows. The rules by which that is done have a number: rows of other rules are made anew.

// Rules is the number of the rules by which sums are made. Whoever changes what a sum says,
// grades above all, makes it one more.
const Rules = 5

// Facts are the settings of a song, in words.
type Facts struct {
	Title  string  `json:"title"`
	By     string  `json:"by,omitempty"`
	Key    string  `json:"key"`
	Meter  string  `json:"meter"`
	Tempo  float64 `json:"tempo"`
	Feel   string  `json:"feel,omitempty"`
	Tuning string  `json:"tuning"`
	Capo   int     `json:"capo,omitempty"`
	Parts  int     `json:"parts"`
}

// FactsOf are those of a song.
func FactsOf(g *song.Song) Facts {
	f := Facts{Title: g.Title, By: g.By, Key: g.Key.String(), Meter: g.Meter.String(), Tempo: g.Tempo, Tuning: g.Tuning.String(), Capo: g.Capo, Parts: len(g.Parts)}
	if g.Feel != (song.Feel{}) {
		f.Feel = g.Feel.String()
	}
	return f
}

// Hillside is what a version, or several in a row, ask of the hands, as a small picture
// shows it: the strokes as written, and those of the version.
type Hillside struct {
	Bars        int
	Ridge, Path []arrange.Foot // At in bars from the start
}

// Append puts the strokes of a part of so many bars after those that are there.
func (h *Hillside) Append(bars int, ridge, path []arrange.Foot) {
	for _, f := range ridge {
		h.Ridge = append(h.Ridge, arrange.Foot{At: f.At + float64(h.Bars), Demand: f.Demand})
	}
	for _, f := range path {
		h.Path = append(h.Path, arrange.Foot{At: f.At + float64(h.Bars), Demand: f.Demand})
	}
	h.Bars += bars
}

// mostFeet is how many strokes of a hillside are kept: as many as can be told apart in a
// small picture.
const mostFeet = 75

// String writes a hillside as it is kept: bars, ridge and path, divided by semicolons, and
// of each stroke its place in thousandths of the way and its demand in hundredths. Of
// strokes that cannot be told apart the hardest is kept; a ridge alone has no path.
func (h Hillside) String() string {
	b := strconv.AppendInt(nil, int64(h.Bars), 10)
	b = h.append(append(b, ';'), h.Ridge)
	if h.Path != nil {
		b = h.append(append(b, ';'), h.Path)
	}
	return string(b)
}

func (h Hillside) append(b []byte, feet []arrange.Foot) []byte {
	var kept [][2]int
	for _, f := range feet {
		at, demand := int(math.Round(1000*f.At/float64(max(h.Bars, 1)))), int(math.Round(100*f.Demand))
		if n := len(kept); n > 0 && (at-kept[n-1][0])*mostFeet < 1000 && len(feet) > mostFeet {
			if demand > kept[n-1][1] {
				kept[n-1] = [2]int{at, demand}
			}
			continue
		}
		kept = append(kept, [2]int{at, demand})
	}
	for _, k := range kept {
		b = append(strconv.AppendInt(append(strconv.AppendInt(b, int64(k[0]), 10), ' '), int64(k[1]), 10), ' ')
	}
	return b
}

// ParseHillside reads what String writes; what is none is an empty one.
func ParseHillside(text string) Hillside {
	bars, rest, ok := strings.Cut(text, ";")
	n, err := strconv.Atoi(bars)
	if !ok || err != nil {
		return Hillside{}
	}
	h := Hillside{Bars: n}
	ridge, path, has := strings.Cut(rest, ";")
	h.Ridge = h.feet(ridge)
	if has {
		h.Path = h.feet(path)
	}
	return h
}

func (h Hillside) feet(text string) []arrange.Foot {
	feet := make([]arrange.Foot, 0, mostFeet)
	next := func() int {
		word, rest, _ := strings.Cut(text, " ")
		text = rest
		n, _ := strconv.Atoi(word) // as it was written
		return n
	}
	for text != "" {
		at := next()
		feet = append(feet, arrange.Foot{At: float64(at) / 1000 * float64(h.Bars), Demand: float64(next()) / 100})
	}
	return feet
}

// SumOfSong works out what lists show of a song.
func SumOfSong(sh *sheet.Sheet, o arrange.Options) store.SongSum {
	sum := store.SongSum{Rules: Rules}
	for _, p := range sh.Problems {
		if p.Severity == sheet.Error {
			sum.Problems++
		}
	}
	a := arrange.New(sh.Song, o)
	var hill Hillside
	for i := range sh.Song.Parts {
		v := a.Version(i, arrange.AsWritten, arrange.Way{})
		sum.Grade = max(sum.Grade, v.Grade)
		hill.Append(sh.Song.Parts[i].Written(), v.Feet(), nil)
	}
	needs := neededOf(sh.Song, a, o.Player)
	sum.Hill, sum.Facts, sum.Needs, sum.Skills = hill.String(), jsonOf(FactsOf(sh.Song)), jsonOf(needs), sharedOf(sh.Song, a, needs)
	return sum
}

func jsonOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil { // words and finite numbers
		return "{}"
	}
	return string(b)
}

// SumOfGiven works out what lists show of something that is assigned: the grades of its
// parts, its hillside, its steps.
func SumOfGiven(g *song.Song, a *store.Assignment, t *Taught, o arrange.Options) store.AssignmentSum {
	sum := store.AssignmentSum{StudioID: a.StudioID, AssignmentID: a.ID, Rules: Rules, Facts: jsonOf(FactsOf(g))}
	g = t.Song
	written := arrange.New(g, o)
	var hill Hillside
	for _, p := range a.Parts {
		i, ok := g.PartWith(p.PartID)
		if !ok || t.Chosen[i].Version == nil {
			sum.Grades = append(sum.Grades, 0)
			continue
		}
		v := t.Chosen[i].Version
		sum.Grades = append(sum.Grades, v.Grade)
		ridge := written.Version(i, arrange.AsWritten, arrange.Way{})
		hill.Append(g.Parts[i].Written(), ridge.Feet(), v.Feet())
	}
	sum.Hill = hill.String()
	for i := range t.Steps {
		s := &t.Steps[i]
		row := store.AssignmentStep{Step: s.ID.String(), Title: words.Speaker{}.StepTitle(g, s), Start: s.Start, Goal: s.Goal, Passes: s.Passes, Minutes: s.Minutes, Day: s.Day}
		if s.Part >= 0 {
			row.PartID = g.PartID(s.Part)
		}
		sum.Steps = append(sum.Steps, row)
	}
	return sum
}

// Next is the index of the first of the steps of an assignment that its student does not
// have, as they were kept, and how many there are; −1 where all are done.
func (s Standings) Next(a *store.Assignment, rows []store.AssignmentStep) int {
	steps := make([]lesson.Step, len(rows))
	for i, r := range rows {
		id, _ := lesson.ParseStepID(r.Step)
		kind := id.Kind
		if kind == lesson.Whole && !id.OfWhole() {
			kind = lesson.Piece
		}
		steps[i] = lesson.Step{ID: id, Kind: kind, Part: int(r.PartID), Goal: r.Goal, Passes: r.Passes}
		if kind == lesson.Form && id.Into == 0 {
			steps[i].Part = -1
		}
	}
	for i, done := range s.Done(steps, a) {
		if !done {
			return i
		}
	}
	return -1
}

// sumSong makes the sum of a song and keeps it.
func (h *House) sumSong(ctx context.Context, studio, id int64) error {
	home, err := h.Store.Studio(ctx, studio)
	if err != nil {
		return err
	}
	g, err := h.Store.Song(ctx, studio, id)
	if err != nil {
		return err
	}
	ids, err := h.Store.SongParts(ctx, studio, id, g.Save)
	if err != nil {
		return err
	}
	var sum store.SongSum
	err = h.guard(ctx, fmt.Sprintf("The hillside of %s", g.Title), []slog.Attr{slog.Int64("song", id), slog.Int("version", g.Save), slog.String("sheet", g.Sheet)}, func() error {
		sh := *sheet.Parse(g.Sheet)
		sh.Song = sh.Song.WithIDs(identities(ids)) // what is needed speaks of parts
		sum = SumOfSong(&sh, h.Options(&home, Player(&Nobody), 0))
		return nil
	})
	if text, ok := IsTrouble(err); ok {
		sum = store.SongSum{Rules: Rules, Needs: "[]", Trouble: text, Facts: jsonOf(Facts{Title: g.Title})}
	}
	sum.StudioID, sum.SongID = studio, id
	return h.Store.SetSongSum(ctx, sum, g.Save)
}

// SumAssignment makes the sum of something that is assigned to a student and keeps it.
func (h *House) SumAssignment(ctx context.Context, studio, student, id int64) error {
	home, err := h.Store.Studio(ctx, studio)
	if err != nil {
		return err
	}
	st, err := h.Store.Student(ctx, studio, student)
	if err != nil {
		return err
	}
	a, err := h.Store.Assignment(ctx, studio, student, id)
	if err != nil {
		return err
	}
	ids, err := h.Store.SongParts(ctx, studio, a.SongID, a.SongSave)
	if err != nil {
		return err
	}
	sum := store.AssignmentSum{Rules: Rules}
	input := []slog.Attr{slog.Int64("assignment", id), slog.Int64("song", a.SongID), slog.Int("version", a.SongSave), slog.String("hand", fmt.Sprintf("%+v", Player(&st))), slog.String("parts", fmt.Sprintf("%+v", a.Parts))}
	err = h.guard(ctx, "What "+st.Name+" has of "+a.Name, input, func() error {
		g := h.Read(studio, a.Sheet, ids)
		o := h.Options(&home, Player(&st), a.TargetTempo)
		plan, err := lesson.ParsePlan(a.Plan)
		if err != nil {
			return &BadPlan{err}
		}
		sum = SumOfGiven(g, &a, Teach(g, Choices(a.Parts), plan, Learner(&st), o), o)
		return nil
	})
	if err != nil {
		sum = store.AssignmentSum{Rules: Rules, Trouble: err.Error(), Facts: jsonOf(Facts{Title: a.Name})}
	}
	sum.StudioID, sum.AssignmentID = studio, id
	return h.Store.SetAssignmentSum(ctx, sum, store.MadeOf{Assignment: a, Student: st, School: home.ChordSchool})
}

// Wake tells the work in the background that something may have become stale.
func (h *House) Wake() {
	select {
	case h.work <- struct{}{}:
	default:
	}
}

// Catch brings up to date what is stale in a studio, or with 0 in all, and tells how much
// there is left to do as it goes on; nil tells nobody. What fails is logged and left.
func (h *House) Catch(ctx context.Context, studio int64, report func(left int)) error {
	const all = 0
	songs, err := h.Store.StaleSongs(ctx, studio, Rules, all)
	if err != nil {
		return err
	}
	given, err := h.Store.StaleAssignments(ctx, studio, Rules, all)
	if err != nil {
		return err
	}
	standings, err := h.Store.Restandings(ctx, studio)
	if err != nil {
		return err
	}
	fits, err := h.Store.StaleFits(ctx, studio)
	if err != nil {
		return err
	}
	left := len(songs) + len(given) + len(standings) + len(fits)
	done := func(err error, what string, of store.Owner) error {
		left--
		if report != nil {
			report(left)
		}
		if err != nil && ctx.Err() == nil {
			h.Log.ErrorContext(ctx, "bring up to date", "what", what, "id", of.ID, "error", err)
		}
		return ctx.Err()
	}
	for _, a := range standings {
		if err := done(h.Store.Restand(ctx, a.StudioID, a.ID), "standings", a); err != nil {
			return err
		}
	}
	for _, g := range songs {
		if err := done(h.sumSong(ctx, g.StudioID, g.ID), "song", g); err != nil {
			return err
		}
	}
	for _, a := range given {
		if err := done(h.SumAssignment(ctx, a.StudioID, a.StudentID, a.ID), "assignment", a); err != nil {
			return err
		}
	}
	if len(songs) > 0 { // they fit others now
		if fits, err = h.Store.StaleFits(ctx, studio); err != nil {
			return err
		}
		left = len(fits)
	}
	read := shelfRead{}
	for _, st := range fits {
		if err := done(h.fitShelf(ctx, st.StudioID, st.StudentID, read), "songs that fit", st); err != nil {
			return err
		}
	}
	return nil
}

// Work brings up to date what has become stale, whenever something may have, until the
// context ends.
func (h *House) Work(ctx context.Context) {
	const rest = time.Minute // whatever else: what nobody told of
	for tick := time.NewTicker(rest); ; {
		if err := h.Catch(ctx, 0, nil); err != nil && ctx.Err() == nil {
			h.Log.ErrorContext(ctx, "bring up to date", "error", err)
		}
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-h.work:
		case <-tick.C:
		}
	}
}
