package web

import (
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/formats/table"
	"valleyside/store"
	"valleyside/studio"
)

// What a studio holds goes out as tables and a calendar, and tables come in again (returns.go).

// practice is an entry with the names of its student and lesson.
type practice struct {
	store.Entry
	Student, Lesson string
}

func text[T any](name string, field func(*T) *string) table.Column[T] {
	return table.Column[T]{Name: name, Get: func(r *T) string { return *field(r) }, Set: func(r *T, s string) error { *field(r) = s; return nil }}
}

func figure[T any](name string, field func(*T) *float64) table.Column[T] {
	return table.Column[T]{Name: name, Get: func(r *T) string { return strconv.FormatFloat(*field(r), 'f', -1, 64) }, Set: func(r *T, s string) (err error) {
		if *field(r), err = strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64); err != nil {
			return fmt.Errorf("%q is no number", s)
		}
		return nil
	}}
}

func whole[T any](name string, field func(*T) *int) table.Column[T] {
	return table.Column[T]{Name: name, Get: func(r *T) string { return strconv.Itoa(*field(r)) }, Set: func(r *T, s string) (err error) {
		if *field(r), err = strconv.Atoi(s); err != nil {
			return fmt.Errorf("%q is no whole number", s)
		}
		return nil
	}}
}

func yes[T any](name string, field func(*T) *bool) table.Column[T] {
	return table.Column[T]{Name: name, Get: func(r *T) string { return map[bool]string{true: "yes", false: "no"}[*field(r)] }, Set: func(r *T, s string) error {
		switch strings.ToLower(s) {
		case "yes", "y", "true", "1", "x":
			*field(r) = true
		case "no", "n", "false", "0":
			*field(r) = false
		default:
			return fmt.Errorf("%q is neither yes nor no", s)
		}
		return nil
	}}
}

func must[T any](c table.Column[T]) table.Column[T] { c.Must = true; return c }

// studentColumns are those of the table of students. The day of the lesson is written as
// one more than it is kept, so that an empty cell is none.
var studentColumns = []table.Column[store.Student]{
	must(text("name", func(st *store.Student) *string { return &st.Name })),
	{Name: "lesson day", Get: func(st *store.Student) string {
		if st.LessonDay < 0 {
			return ""
		}
		return time.Weekday(st.LessonDay).String()
	}, Set: func(st *store.Student, s string) error {
		for d := time.Sunday; d <= time.Saturday; d++ {
			if len(s) >= 2 && strings.HasPrefix(strings.ToLower(d.String()), strings.ToLower(s)) {
				st.LessonDay = int(d) + 1
				return nil
			}
		}
		return fmt.Errorf("%q is no day; write Monday", s)
	}},
	text("lesson time", func(st *store.Student) *string { return &st.LessonTime }),
	text("about", func(st *store.Student) *string { return &st.About }),
	figure("reach mm", func(st *store.Student) *float64 { return &st.Reach }),
	figure("scale mm", func(st *store.Student) *float64 { return &st.Scale }),
	figure("strokes a second", func(st *store.Student) *float64 { return &st.NotesPerSecond }),
	yes("left-handed", func(st *store.Student) *bool { return &st.LeftHanded }),
	yes("acoustic", func(st *store.Student) *bool { return &st.Acoustic }),
	yes("no barre", func(st *store.Student) *bool { return &st.NoBarre }),
	yes("no little finger", func(st *store.Student) *bool { return &st.NoLittle }),
	yes("thumb", func(st *store.Student) *bool { return &st.Thumb }),
	{Name: "picking", Get: func(st *store.Student) string { return st.Picking }, Set: func(st *store.Student, s string) error {
		p, err := hand.ParsePicking(s)
		st.Picking = string(p)
		return err
	}},
	{Name: "unlearnt", Get: func(st *store.Student) string { return st.Unlearnt }, Set: func(st *store.Student, s string) error {
		_, err := hand.ParseSkills(s)
		st.Unlearnt = s
		return err
	}},
	{Name: "known", Get: func(st *store.Student) string { return st.Known }, Set: func(st *store.Student, s string) error {
		_, err := lesson.ParseKnown(s)
		st.Known = s
		return err
	}},
	whole("minutes a day", func(st *store.Student) *int { return &st.Minutes }),
}

// practiceTime is how the time of an entry is written.
const practiceTime = "2006-01-02 15:04"

// practiceColumns are those of the table of what was practised, its times in a zone.
func practiceColumns(zone *time.Location) []table.Column[practice] {
	return []table.Column[practice]{
		must(text("student", func(p *practice) *string { return &p.Student })),
		must(text("lesson", func(p *practice) *string { return &p.Lesson })),
		must(text("part", func(p *practice) *string { return &p.Part })),
		{Name: "rung", Get: func(p *practice) string { return string(p.Rung) }, Set: func(p *practice, s string) (err error) {
			p.Rung, err = arrange.ParseRung(s)
			return err
		}},
		figure("tempo", func(p *practice) *float64 { return &p.Tempo }),
		whole("clean passes", func(p *practice) *int { return &p.Clean }),
		whole("minutes", func(p *practice) *int { return &p.Minutes }),
		text("word", func(p *practice) *string { return &p.Word }),
		text("step", func(p *practice) *string { return &p.Step }),
		{Name: "practised", Must: true, Get: func(p *practice) string { return p.PractisedAt.Time().In(zone).Format(practiceTime) }, Set: func(p *practice, s string) error {
			for _, form := range []string{practiceTime, "2006-01-02", time.RFC3339} {
				if at, err := time.ParseInLocation(form, s, zone); err == nil {
					p.PractisedAt = store.At(at)
					return nil
				}
			}
			return fmt.Errorf("%q is no day; write it like 2026-03-20 16:30", s)
		}},
	}
}

// lessonColumns are those of the table of lessons, which only goes out.
var lessonColumns = []table.Column[store.Lesson]{
	text("lesson", func(l *store.Lesson) *string { return &l.Name }),
	figure("tempo", func(l *store.Lesson) *float64 { return &l.TargetTempo }),
	{Name: "parts", Get: func(l *store.Lesson) string {
		var parts []string
		for _, p := range l.Parts {
			if p.Rung != "" {
				parts = append(parts, p.Part+": "+string(p.Rung))
			}
		}
		return strings.Join(parts, "; ")
	}},
	whole("students", func(l *store.Lesson) *int { return &l.Students }),
}

func sendTable[T any](s *office, c *echo.Context, name string, columns []table.Column[T], rows []T) error {
	return s.send(c, fmt.Sprintf("%s-%s.csv", name, s.Now().Format("2006-01-02")), "text/csv; charset=utf-8", func(w io.Writer) error { return table.Write(w, columns, rows) })
}

func (s *office) studentsTable(c *echo.Context) error {
	list, err := s.Store.Students(c.Request().Context(), home(c).ID)
	if err != nil {
		return err
	}
	return sendTable(s, c, "students", studentColumns, list)
}

func (s *office) lessonsTable(c *echo.Context) error {
	list, err := s.Store.Lessons(c.Request().Context(), home(c).ID)
	if err != nil {
		return err
	}
	return sendTable(s, c, "lessons", lessonColumns, list)
}

// practiceTable is what was practised, by everybody or by one student.
func (s *office) practiceTable(c *echo.Context) error {
	student, _ := strconv.ParseInt(c.QueryParam("student"), 10, 64)
	list, err := s.Store.NamedEntries(c.Request().Context(), home(c).ID, student)
	if err != nil {
		return err
	}
	rows := make([]practice, len(list))
	for i, e := range list {
		rows[i] = practice{e.Entry, e.Student, e.Lesson}
	}
	return sendTable(s, c, "practice", practiceColumns(zone(c)), rows)
}

// timetable is the lessons of the studio as a calendar.
func (s *office) timetable(c *echo.Context) error {
	home := home(c)
	c.Response().Header().Set("Content-Disposition", `attachment; filename="timetable.ics"`)
	return s.sendCalendar(c, &home, 0, true)
}

// readStudents reads a table of students. Those whose names are there already would be
// there twice, which is a fault.
func (s *office) readStudents(c *echo.Context, data []byte) (r findings, err error) {
	r.What = "a table of students"
	there, err := s.Store.Students(c.Request().Context(), home(c).ID)
	if err != nil {
		return r, err
	}
	names := map[string]bool{}
	for _, st := range there {
		names[strings.ToLower(st.Name)] = true
	}
	rows, unknown, faults := table.Read(data, studentColumns)
	r.Unknown = unknown
	for _, f := range faults {
		r.Faults = append(r.Faults, f.String())
	}
	usual := hand.Player{}.Usual()
	for i := range rows {
		st := &rows[i]
		st.StudioID, st.LessonDay, st.CreatedAt = home(c).ID, st.LessonDay-1, store.At(s.Now())
		if st.Reach == 0 {
			st.Reach = usual.Reach
		}
		if st.Scale == 0 {
			st.Scale = neck.UsualScale
		}
		if st.NotesPerSecond == 0 {
			st.NotesPerSecond = hand.UsualNotesPerSecond
		}
		if st.Picking == "" {
			st.Picking = string(hand.Alternate)
		}
		if names[strings.ToLower(st.Name)] {
			r.Faults = append(r.Faults, fmt.Sprintf("%s is there already; take the line out or write another name", st.Name))
		}
		names[strings.ToLower(st.Name)] = true
		for _, fault := range studio.FaultsOfStudent(st) {
			r.Faults = append(r.Faults, fmt.Sprintf("%s: %s", st.Name, fault))
		}
		r.Lines = append(r.Lines, st.Name)
	}
	if len(rows) == 0 && len(r.Faults) == 0 {
		r.Faults = []string{"there is nobody in it"}
	}
	r.students = rows
	return r, nil
}

// readPractice reads a table of what was practised, by the names of students and lessons.
func (s *office) readPractice(c *echo.Context, data []byte) (r findings, err error) {
	r.What = "a table of practice"
	ctx, home := c.Request().Context(), home(c).ID
	rows, unknown, faults := table.Read(data, practiceColumns(zone(c)))
	r.Unknown = unknown
	for _, f := range faults {
		r.Faults = append(r.Faults, f.String())
	}
	students, err := s.Store.Students(ctx, home)
	if err != nil {
		return r, err
	}
	given := map[int64][]store.Assignment{}
	count := map[string]int{}
	var order []string
	for i := range rows {
		p := &rows[i]
		var who *store.Student
		for k := range students {
			if strings.EqualFold(students[k].Name, p.Student) {
				who = &students[k]
			}
		}
		if who == nil {
			r.Faults = append(r.Faults, fmt.Sprintf("row %d: there is no student %q", i+1, p.Student))
			continue
		}
		if given[who.ID] == nil {
			if given[who.ID], err = s.Store.EverAssigned(ctx, home, who.ID); err != nil {
				return r, err
			}
		}
		e := p.Entry
		e.StudioID, e.StudentID, e.SentID = home, who.ID, sentOf(p)
		for _, a := range given[who.ID] {
			if strings.EqualFold(a.Name, p.Lesson) {
				e.AssignmentID = a.ID
				break
			}
		}
		if e.AssignmentID == 0 {
			r.Faults = append(r.Faults, fmt.Sprintf("row %d: %s has no lesson %q", i+1, who.Name, p.Lesson))
			continue
		}
		if err := s.tableEntry(c, given[who.ID], &e); err != nil {
			r.Faults = append(r.Faults, fmt.Sprintf("row %d: %v", i+1, err))
			continue
		}
		for _, fault := range studio.FaultsOfEntry(&e) {
			r.Faults = append(r.Faults, fmt.Sprintf("row %d: %s", i+1, fault))
		}
		if count[who.Name] == 0 {
			order = append(order, who.Name)
		}
		count[who.Name]++
		r.entries = append(r.entries, e)
	}
	for _, name := range order {
		r.Lines = append(r.Lines, fmt.Sprintf("%s: %d", name, count[name]))
	}
	if len(rows) == 0 && len(r.Faults) == 0 {
		r.Faults = []string{"there is nothing in it"}
	}
	return r, nil
}

// tableEntry says what an entry of a table is of, by the names in it.
func (s *office) tableEntry(c *echo.Context, given []store.Assignment, e *store.Entry) error {
	for i := range given {
		a := &given[i]
		if a.ID != e.AssignmentID {
			continue
		}
		var err error
		if e.PartID, err = s.Store.PartCalled(c.Request().Context(), a.StudioID, a.SongID, e.Part); err != nil {
			return err
		}
		for _, p := range a.Parts { // what it is called in what was given comes first
			if strings.EqualFold(p.Part, e.Part) {
				e.PartID = p.PartID
			}
		}
		if e.PartID == 0 {
			return fmt.Errorf("%s has no part %q", a.Name, e.Part)
		}
		id, err := lesson.ParseStepID(e.Step)
		if err != nil {
			ids, err := s.Store.SongParts(c.Request().Context(), a.StudioID, a.SongID, a.SongSave)
			if err != nil {
				return err
			}
			id, e.Some = lesson.OldStepID(e.Step, s.house.Read(a.StudioID, a.Sheet, ids))
			e.Some = !e.Some // nobody knows of what, but not of the whole
		}
		e.Step = id.String()
		e.Some = e.Some || !id.OfWhole()
	}
	return nil
}

// sentOf is the mark of an entry in a table: the same row taken in twice is logged once.
func sentOf(p *practice) string {
	return fmt.Sprintf("table %s %s %s %g %d %d %d", p.Lesson, p.Part, p.Rung, p.Tempo, p.Clean, p.Minutes, p.PractisedAt)
}
