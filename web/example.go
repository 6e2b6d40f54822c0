package web

import (
	_ "embed"
	"math"

	"github.com/labstack/echo/v5"

	"valleyside/account"
	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/store"
)

// exampleSheet is the song of the example that a new studio can look at.
//
//go:embed example.txt
var exampleSheet string

// addExample puts an example in: a song, its lesson, and a student who has it.
func (s *office) addExample(c *echo.Context) error {
	ctx, home, now := c.Request().Context(), home(c).ID, store.At(s.Now())
	first, err := s.Store.FirstSteps(ctx, home)
	if err != nil {
		return err
	}
	if first.Examples {
		return see(c, "/")
	}
	parsed := sheet.Parse(exampleSheet).Song
	song, err := s.house.AddSong(ctx, home, parsed.Title, exampleSheet, now)
	if err != nil {
		return err
	}
	l := store.Lesson{StudioID: home, SongID: song, Name: parsed.Title + ", an example", TargetTempo: parsed.Tempo, CreatedAt: now}
	for i := range parsed.Parts {
		l.Parts = append(l.Parts, store.Part{PartID: parsed.PartID(i), Part: parsed.Parts[i].Name, Rung: arrange.OneFinger})
	}
	lesson, err := s.Store.AddLesson(ctx, l)
	if err != nil {
		return err
	}
	p := hand.Player{}.Usual()
	student, err := s.Store.AddStudent(ctx, store.Student{StudioID: home, Name: "Wren, an example", About: "10, began this month", Reach: 95, Scale: p.Scale,
		NotesPerSecond: 4, Picking: string(hand.Alternate), LessonDay: int(s.Now().In(zone(c)).Weekday()), LessonTime: "16:00", CreatedAt: now})
	if err != nil {
		return err
	}
	assignment, err := s.house.Give(ctx, home, lesson, student, now)
	if err != nil {
		return err
	}
	if err := s.Store.MarkExample(ctx, home, song, student); err != nil {
		return err
	}
	var entries []store.Entry
	for i, clean := range []int{0, 1, 3, 3} {
		entries = append(entries, store.Entry{StudioID: home, StudentID: student, AssignmentID: assignment, PartID: parsed.PartID(0), Part: parsed.Parts[0].Name, Rung: arrange.OneFinger,
			Tempo: math.Round(parsed.Tempo * (0.6 + 0.05*float64(i))), Clean: clean, Minutes: 10, PractisedAt: now - store.Instant((5-i)*24*60*60), SentID: account.Random(8)})
	}
	if err := s.Store.AddEntries(ctx, entries); err != nil {
		return err
	}
	s.notice(c, "/example/remove", "Put in the song %s and a student who has it. Look around; nothing of it is real.", parsed.Title)
	return see(c, "/")
}

// removeExample takes it out again.
func (s *office) removeExample(c *echo.Context) error {
	if err := s.Store.RemoveExamples(c.Request().Context(), home(c).ID, store.At(s.Now())); err != nil {
		return err
	}
	s.notice(c, "", "Took the example out.")
	return see(c, "/")
}
