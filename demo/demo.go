// Package demo fills a database with one made-up studio: a teacher, her
// students, her songs, and some weeks of practice.
package demo

import (
	"context"
	"embed"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"valleyside/account"
	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

// How to sign in to the demo studio.
const (
	Email    = "marit@millrace.example"
	Password = "quiet-hillside"
)

//go:embed songs/*.txt
var songs embed.FS

// Sheet reads one of the demo's songs by the name of its file.
func Sheet(name string) string {
	b, err := songs.ReadFile("songs/" + name + ".txt")
	if err != nil {
		panic(err)
	}
	return string(b)
}

// Sheets lists the names of the demo's songs.
func Sheets() []string {
	entries, err := songs.ReadDir("songs")
	if err != nil {
		panic(err)
	}
	var names []string
	for _, e := range entries {
		names = append(names, e.Name()[:len(e.Name())-len(".txt")])
	}
	return names
}

// student is a student of the demo. Lessons are given days ahead of the day
// on which the demo is made, so that somebody always comes today.
type student struct {
	name, about       string
	reach, scale, nps float64
	left, acoustic    bool
	noLittle          bool
	unlearnt          hand.Skills
	known             string // shapes
	minutes           int    // of practice a day
	ahead             int
	time              string
	lessons           []given
}

// given is a lesson in a student's hands.
type given struct {
	song   string
	name   string
	tempo  float64                 // target
	rungs  map[string]arrange.Rung // by part; parts that are not named are left out
	weeks  int                     // since it was assigned
	course map[string]course
	plan   lesson.Plan // what the teacher has changed in its steps
	steps  int         // so many of them are done
	ended  int         // weeks ago; 0 is not
}

// course is how the practice of a part went.
type course struct {
	from, to float64 // tempo at first and at last
	days     int     // on how many days
	ended    int     // days ago
	end      string  // how it stands: growing, stuck or learnt
}

var students = []student{
	{"Odalys", "9, plays a three-quarter guitar, likes trains", 68, 578, 3, false, true, false, hand.ThreeFingers | hand.Barres | hand.Bends | hand.PalmMuting, "", 10, 0, "15:30", []given{
		{"copper-kettle", "Copper Kettle, slowly", 72, map[string]arrange.Rung{"Tune": "one-finger", "Lid": "one-finger"}, 4,
			map[string]course{"Tune": {40, 68, 14, 1, "growing"}, "Lid": {44, 50, 6, 2, "growing"}}, lesson.Plan{}, 0, 0},
	}},
	{"Bram", "11, two years in, wants it loud", 88, 620, 4, false, false, false, hand.ThreeFingers | hand.Barres, "power chords", 15, 0, "16:15", []given{
		{"slate-roof", "Slate Roof, two fingers of rain", 108, map[string]arrange.Rung{"Riff": "as-written", "Rain": "two-note", "Hail": "one-finger"}, 5,
			map[string]course{"Riff": {60, 92, 13, 1, "stuck"}, "Rain": {70, 108, 10, 2, "learnt"}}, lesson.Plan{
				Out: map[lesson.StepID]lesson.Out{{Kind: lesson.Seam, Part: 3, Into: 1}: {Title: "Hail into Riff"}},
				Set: map[lesson.StepID]lesson.Wish{{Kind: lesson.Whole, Part: 1}: {Title: "Riff", Goal: 80, Words: "with the drum track, not faster"}},
				Own: []lesson.Own{{ID: 1, After: lesson.StepID{Kind: lesson.Whole, Part: 1}, Title: "Rain on the palm", Words: "the edge of the palm at the bridge; move it until it thuds",
					Sheet: "title: Rain on the palm\n\nStep:\nmute: palm\n| 0E 0E 0E 0E 0E 0E 0E 0E |\n", Start: 70, Goal: 90, Passes: 3, Minutes: 4}},
			}, 0, 0},
	}},
	{"Yuna", "13, came from the violin, reads quickly", 96, 628, 6, true, true, false, 0, "open chords, octaves", 15, 1, "16:15", []given{
		{"ferry-bell", "Ferry Bell", 66, map[string]arrange.Rung{"Crossing": "as-written", "Far Bank": "as-written"}, 3,
			map[string]course{"Crossing": {38, 58, 11, 0, "growing"}, "Far Bank": {40, 66, 9, 1, "learnt"}}, lesson.Plan{}, 0, 0},
		{"paper-lanterns", "Paper Lanterns", 92, map[string]arrange.Rung{"Verse": "as-written", "Chorus": "two-note"}, 1, nil, lesson.Plan{}, 0, 0},
	}},
	{"Teodor", "15, writes his own riffs in odd times", 118, 648, 8, false, false, false, hand.Harmonics, "open chords, power chords, barre chords, octaves", 30, 2, "17:00", []given{
		{"seven-stairs", "Seven Stairs", 252, map[string]arrange.Rung{"Climb": "as-written", "Landing": "three-note"}, 6,
			map[string]course{"Climb": {140, 236, 18, 2, "growing"}, "Landing": {180, 252, 8, 3, "learnt"}}, lesson.Plan{}, 0, 0},
	}},
	{"Saskia", "17, sings, wants to accompany herself", 104, 648, 6, false, true, false, hand.Barres, "C, G, Am, D, Em", 20, 0, "17:45", []given{
		{"sundial", "Sundial, to sing to", 96, map[string]arrange.Rung{"Morning": "as-written", "Noon": "one-finger"}, 5,
			map[string]course{"Morning": {50, 84, 15, 0, "growing"}, "Noon": {60, 70, 5, 12, "growing"}}, lesson.Plan{}, 0, 0},
		{"two-lamps", "Two Lamps", 88, map[string]arrange.Rung{"First Lamp": "as-written", "Both": "as-written"}, 2,
			map[string]course{"Both": {56, 80, 7, 1, "growing"}}, lesson.Plan{}, 4, 0},
		{"weir-gate", "Weir Gate, first chords", 80, map[string]arrange.Rung{"Opening": "as-written", "Verse": "as-written"}, 8,
			map[string]course{"Opening": {50, 80, 9, 26, "learnt"}, "Verse": {44, 80, 10, 24, "learnt"}}, lesson.Plan{}, 0, 3},
	}},
	{"Kofi", "22, plays bass in a band, new to chords", 126, 648, 9, false, false, false, hand.ThreeFingers | hand.Barres, "power chords", 20, 3, "18:30", []given{
		{"night-bus-nine", "Night Bus Nine", 120, map[string]arrange.Rung{"Stop": "as-written", "Ride": "two-note"}, 4,
			map[string]course{"Stop": {80, 124, 12, 2, "learnt"}, "Ride": {70, 104, 9, 2, "growing"}}, lesson.Plan{}, 0, 0},
	}},
	{"Alder", "34, evenings only, a stiff ring finger", 108, 648, 5, false, true, false, 0, "open chords, seventh chords", 15, 1, "19:15", []given{
		{"long-meadow", "Long Meadow", 70, map[string]arrange.Rung{"Grass": "as-written", "Hedge": "one-finger"}, 5,
			map[string]course{"Grass": {44, 60, 9, 10, "growing"}}, lesson.Plan{}, 0, 0},
	}},
	{"Rosalind", "61, began last winter, patient", 92, 648, 4, false, false, true, hand.Bends | hand.Vibrato, "Em, Am", 10, 4, "11:00", []given{
		{"corner-lamp-shuffle", "Corner Lamp Shuffle", 96, map[string]arrange.Rung{"Walk": "as-written", "Turn": "one-finger"}, 6,
			map[string]course{"Walk": {48, 88, 20, 0, "growing"}, "Turn": {50, 60, 6, 3, "stuck"}}, lesson.Plan{}, 0, 0},
	}},
	{"Ilse", "starts next week", 110, 648, 5, false, false, false, 0, "", 10, 5, "10:15", nil},
}

// Fill makes the demo studio in an empty database. In one that holds a studio
// it does nothing.
func Fill(ctx context.Context, st *store.Store, now time.Time) error {
	if set, err := st.HasStudio(ctx); err != nil || set {
		return err
	}
	long := now.AddDate(0, -3, 0)
	home, err := st.AddStudio(ctx, "Millrace Guitar Room", store.Teacher{Name: "Marit Sollander", Email: Email, Password: account.Hash(Password)}, store.At(long))
	if err != nil {
		return fmt.Errorf("demo studio: %w", err)
	}
	house := studio.New(st, nil)
	ids := map[string]int64{}
	for i, name := range Sheets() {
		text := sheet.Parse(Sheet(name))
		if ids[name], err = house.AddSong(ctx, home, text.Song.Title, text.Format(), store.At(long.AddDate(0, 0, 3*i))); err != nil {
			return fmt.Errorf("demo song %s: %w", name, err)
		}
	}
	who := map[string]int64{}
	for i, s := range students {
		if who[s.name], err = addStudent(ctx, house, home, ids, s, now, rand.New(rand.NewPCG(7, uint64(i)))); err != nil {
			return fmt.Errorf("demo student %s: %w", s.name, err)
		}
	}
	if err := keep(ctx, st, home, ids, who, now); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	return house.Catch(ctx, home, nil)
}

func addStudent(ctx context.Context, house *studio.House, home int64, songs map[string]int64, s student, now time.Time, r *rand.Rand) (int64, error) {
	st := house.Store
	id, err := st.AddStudent(ctx, store.Student{StudioID: home, Name: s.name, About: s.about, Reach: s.reach, Scale: s.scale,
		NotesPerSecond: s.nps, LeftHanded: s.left, Acoustic: s.acoustic, NoLittle: s.noLittle,
		Picking: string(hand.Alternate), Unlearnt: s.unlearnt.String(), Known: s.known, Minutes: s.minutes, LessonDay: (int(now.Weekday()) + s.ahead) % 7, LessonTime: s.time,
		CreatedAt: store.At(now.AddDate(0, -2, 0))})
	if err != nil {
		return 0, err
	}
	if s.lessons != nil {
		if _, err := st.AddLink(ctx, home, id, "", store.At(now.AddDate(0, -1, 0))); err != nil {
			return 0, err
		}
	}
	for _, g := range s.lessons {
		song := sheet.Parse(Sheet(g.song)).Song
		l := store.Lesson{Plan: g.plan.String(), StudioID: home, SongID: songs[g.song], Name: g.name, TargetTempo: g.tempo, CreatedAt: store.At(now.AddDate(0, 0, -7*g.weeks-1))}
		for i := range song.Parts {
			l.Parts = append(l.Parts, store.Part{PartID: song.PartID(i), Part: song.Parts[i].Name, Rung: g.rungs[song.Parts[i].Name]})
		}
		lesson, err := st.AddLesson(ctx, l)
		if err != nil {
			return 0, err
		}
		assigned := now.AddDate(0, 0, -7*g.weeks)
		assignment, err := house.Give(ctx, home, lesson, id, store.At(assigned))
		if err != nil {
			return 0, err
		}
		var entries []store.Entry
		for i := range song.Parts {
			p := &song.Parts[i]
			e := store.Entry{StudioID: home, StudentID: id, AssignmentID: assignment, PartID: song.PartID(i), Part: p.Name, Rung: g.rungs[p.Name]}
			entries = append(entries, practise(e, g.course[p.Name], target(song.Tempo, p.Tempo, g.tempo), assigned, now, r)...)
		}
		if err := st.AddEntries(ctx, append(entries, steps(house, home, id, assignment, song, l, s, g.steps, now)...)); err != nil {
			return 0, err
		}
		if g.ended > 0 {
			if err := st.EndAssignment(ctx, home, id, assignment, store.At(now.AddDate(0, 0, -7*g.ended))); err != nil {
				return 0, err
			}
		}
	}
	return id, talk(ctx, st, home, id, s, now)
}

// steps makes up the entries of the first steps of a lesson, one a day, each as clean as
// it asks.
func steps(house *studio.House, home, id, assignment int64, in *song.Song, l store.Lesson, s student, n int, now time.Time) (entries []store.Entry) {
	if n == 0 {
		return nil
	}
	st := store.Student{ID: id, Reach: s.reach, Scale: s.scale, NotesPerSecond: s.nps, Acoustic: s.acoustic, NoLittle: s.noLittle, Unlearnt: s.unlearnt.String(), Known: s.known, Minutes: s.minutes}
	learner := studio.Learner(&st)
	taught := studio.Teach(in, studio.Choices(l.Parts), lesson.Plan{}, learner, house.Options(&store.Studio{ChordSchool: "few"}, learner.Player, l.TargetTempo))
	for i := range taught.Steps[:min(n, len(taught.Steps))] {
		step := &taught.Steps[i]
		at := now.AddDate(0, 0, i-n)
		part := l.Parts[max(step.Part, 0)]
		entries = append(entries, store.Entry{StudioID: home, StudentID: id, AssignmentID: assignment, PartID: part.PartID, Part: part.Part, Rung: part.Rung,
			Tempo: step.Goal, Clean: step.Passes, Minutes: step.Minutes, Step: step.ID.String(), Some: !step.ID.OfWhole(), SentID: fmt.Sprintf("demo %d step %d", assignment, i),
			PractisedAt: store.At(time.Date(at.Year(), at.Month(), at.Day(), 18, 10, 0, 0, now.Location()))})
	}
	return entries
}

func target(song, part, lesson float64) float64 { return part * lesson / song }

var goodWords = []string{"", "", "", "went well", "played along with the record", "easier than yesterday", "liked it", "with the amp", "before school"}
var hardWords = []string{"", "", "tired", "fingers in the way", "too fast for me", "the change is late", "lost the beat"}

// practise makes up the entries of a part: not every day, now and then a bad
// one, tempo growing by small steps.
func practise(e store.Entry, c course, target float64, assigned, now time.Time, r *rand.Rand) []store.Entry {
	if c.days == 0 {
		return nil
	}
	span := int(now.Sub(assigned).Hours()/24) - 1 - c.ended
	if span < c.days {
		span = c.days
	}
	days := r.Perm(span)[:c.days]
	slices.Sort(days)
	days[len(days)-1] = span - 1
	var entries []store.Entry
	for i, d := range days {
		share := float64(i) / float64(max(len(days)-1, 1))
		e.Tempo = float64(int(c.from + (c.to-c.from)*share))
		e.Clean, e.Word = 3+r.IntN(3), goodWords[r.IntN(len(goodWords))]
		last := len(days) - 1 - i
		switch {
		case c.end == "stuck" && last < 3, c.end != "learnt" && last > 0 && r.IntN(5) == 0, i == 0:
			e.Clean, e.Word = r.IntN(3), hardWords[r.IntN(len(hardWords))]
		case c.end == "learnt" && last < 2:
			e.Tempo = max(e.Tempo, target)
		}
		e.Minutes = 5 + 5*r.IntN(4)
		at := now.AddDate(0, 0, -c.ended-(span-1-d))
		e.PractisedAt = store.At(time.Date(at.Year(), at.Month(), at.Day(), 7+r.IntN(2), 5+r.IntN(50), 0, 0, now.Location()))
		if e.PractisedAt > store.At(now) {
			e.PractisedAt = store.At(now.Add(-time.Hour))
		}
		e.SentID = fmt.Sprintf("demo %d %s %d", e.AssignmentID, e.Part, i)
		entries = append(entries, e)
	}
	return entries
}
