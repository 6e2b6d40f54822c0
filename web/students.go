package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/progress"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

type studentsView struct {
	Page
	Paged    paged
	Students []appointment
	Filter   store.StudentFilter
	Groups   []store.CountedTag
	Archived int
	Songs    []store.SongName // that may be given to a group
}

// Filtered tells whether not all students are asked for.
func (v studentsView) Filtered() bool { return len(v.Paged.Only) > 0 || v.Paged.Find != "" }

// weekdays as a form offers them, Monday first.
var weekdays = []struct {
	Value int
	Name  string
}{{1, "Monday"}, {2, "Tuesday"}, {3, "Wednesday"}, {4, "Thursday"}, {5, "Friday"}, {6, "Saturday"}, {0, "Sunday"}}

// When says when a student comes.
func (a appointment) When() string { return when(a.Student) }

func when(st store.Student) string {
	if st.LessonDay < 0 {
		return "no fixed lesson"
	}
	s := time.Weekday(st.LessonDay).String()
	if st.LessonTime != "" {
		s += ", " + st.LessonTime
	}
	return s
}

func (s *roster) students(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	v := studentsView{Page: s.page(c, "Students", "students"), Paged: pageOf(c, "/students", onPage)}
	v.Paged.only(c, "group", "archived", "order")
	v.Filter = store.StudentFilter{Find: v.Paged.Find, Group: v.Paged.Only.Get("group"), Archived: v.Paged.Only.Get("archived") != ""}
	switch order := store.StudentOrder(v.Paged.Only.Get("order")); order {
	case store.ByPlace, store.ByRest, store.ByComing:
		v.Filter.Order = order
	default:
		v.Filter.Order = store.ByStudentName
	}
	most, offset := v.Paged.span()
	students, err := s.Store.ListedStudents(ctx, at, v.Filter, most, offset)
	if err != nil {
		return err
	}
	if v.Students, err = s.appointments(c, cut(&v.Paged, students)); err != nil {
		return err
	}
	if v.Groups, err = s.Store.TagsOn(ctx, at, store.OnStudent, ""); err != nil {
		return err
	}
	if v.Archived, err = s.Store.CountArchived(ctx, at); err != nil {
		return err
	}
	if v.Filter.Group != "" {
		if v.Songs, err = s.Store.SongNames(ctx, at); err != nil {
			return err
		}
	}
	return c.Render(http.StatusOK, "students", v)
}

// giveToGroup leads to a song that is fitted to all students of a group.
func (s *roster) giveToGroup(c *echo.Context) error {
	song, err := strconv.ParseInt(c.QueryParam("song"), 10, 64)
	group := url.Values{"group": {c.QueryParam("group")}}.Encode()
	if err != nil { // none is chosen
		return see(c, "/students?%s", group)
	}
	return see(c, "/songs/%d/fit?%s", song, group)
}

func (s *roster) addStudent(c *echo.Context) error {
	name := field(c, "name", studio.MostName)
	if name == "" {
		return wrong("Write the student's name.")
	}
	p := hand.Player{}.Usual()
	id, err := s.Store.AddStudent(c.Request().Context(), store.Student{StudioID: home(c).ID, Name: name, Reach: p.Reach,
		Scale: p.Scale, NotesPerSecond: p.NotesPerSecond, LessonDay: -1, CreatedAt: store.At(s.Now())})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", id)
}

type studentView struct {
	Page
	Student  store.Student
	When     string
	Links    []store.Link
	Fresh    string // a link that has just been made
	QR       SafeHTML
	Lessons  []lessonProgress
	Entries  []studentEntry
	Paged    paged
	Weekdays any
	Minutes  int // in the last four weeks
	Offer    []store.Lesson
	Hours    []pastHour // lessons that were given, with notes
	Places   []placeLine
	Simple   bool // their place is a weekday and a time, or none
	Calendar calendarBox
	Scales   []scaleChoice
	Pickings []hand.Picking
	Skills   []skillChoice
	Families []string // shapes that are known together
	Groups   string   // their tags, with commas
	Others   []store.CountedTag
	Finished []store.Had
	Logs     []logChoice     // what an entry can be added to
	People   []store.Student // to whom a lesson may be copied
	Wishes   int             // that are open
}

// logChoice is a part of what a student has, to log practice of.
type logChoice struct {
	Value, Name string
	Target      float64
}

// How much of the practice is shown: entries on one page, and in the chart of a
// part.
const (
	entriesOnPage  = 20
	entriesInChart = 40
)

// skillChoice is something to learn, and whether the student has to yet.
type skillChoice struct {
	Name string
	New  bool
}

func skillsOf(st store.Student) []skillChoice {
	unlearnt := studio.Player(&st).New.Names()
	var list []skillChoice
	for _, name := range hand.SkillNames() {
		list = append(list, skillChoice{name, slices.Contains(unlearnt, name)})
	}
	return list
}

type studentEntry struct {
	store.Entry
	Lesson string
	Words  string
	Of     string // the step; empty for the part as a whole
}

type scaleChoice struct {
	MM   float64
	Name string
}

var scaleChoices = []scaleChoice{{neck.UsualScale, "usual, 648 mm"}, {neck.ShortScale, "short, 620 mm"}, {neck.ChildScale, "child's, 578 mm"}}

func entryWords(e store.Entry) string {
	passes := fmt.Sprintf("%d clean passes", e.Clean)
	switch e.Clean {
	case 0:
		passes = "not clean yet"
	case 1:
		passes = "1 clean pass"
	}
	return fmt.Sprintf("%s at %g, %d min", passes, e.Tempo, e.Minutes)
}

func (s *roster) studentFrom(c *echo.Context) (store.Student, error) {
	n, err := id(c, "student")
	if err != nil {
		return store.Student{}, err
	}
	return s.Store.Student(c.Request().Context(), home(c).ID, n)
}

func (s *roster) studentPage(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	ctx, at := c.Request().Context(), home(c).ID
	assignments, err := s.Store.ListedAssignments(ctx, at, st.ID)
	if err != nil {
		return err
	}
	paged := pageOf(c, "", entriesOnPage)
	most, offset := paged.span()
	entries, err := s.Store.EntriesOf(ctx, at, st.ID, most, offset)
	if err != nil {
		return err
	}
	standings, err := s.Store.StandingsOf(ctx, at, st.ID)
	if err != nil {
		return err
	}
	sums, err := s.Store.Sums(ctx, at, st.ID)
	if err != nil {
		return err
	}
	practised, err := s.Store.EntriesOfParts(ctx, at, st.ID, entriesInChart)
	if err != nil {
		return err
	}
	steps, err := s.Store.StepsOf(ctx, at, st.ID)
	if err != nil {
		return err
	}
	v := studentView{Page: s.page(c, st.Name, "students"), Student: st, When: when(st), Weekdays: weekdays, Scales: scaleChoices,
		Pickings: hand.Pickings, Skills: skillsOf(st), Families: lesson.Families()}
	if v.Links, err = s.Store.LinksOf(ctx, at, st.ID); err != nil {
		return err
	}
	if fresh := s.takeLink(c, st.ID); fresh != "" {
		v.Fresh = fresh
		if v.QR, err = draw.QR(fresh); err != nil {
			return err
		}
	}
	entries = cut(&paged, entries)
	v.Paged = paged
	had, err := s.Store.History(ctx, at, 0, st.ID, mostHistory)
	if err != nil {
		return err
	}
	names := map[int64]string{}
	for _, h := range had {
		if names[h.ID] = h.Name; h.EndedAt > 0 {
			v.Finished = append(v.Finished, h)
		}
	}
	stands := studio.StandingsOf(standings)
	for _, a := range assignments {
		for _, p := range a.Parts {
			v.Logs = append(v.Logs, logChoice{fmt.Sprintf("%d %d", a.ID, p.PartID), a.Name + ", " + p.Part, p.Target})
		}
		l := s.lessonProgress(c, a, sums[a.ID], stands)
		for i := range l.Parts {
			l.Parts[i].Entries = practised[a.ID][l.Parts[i].ID]
		}
		l.Steps = len(steps[a.ID])
		if i := stands.Next(&a, steps[a.ID]); i >= 0 {
			l.Step, l.StepTitle = i+1, steps[a.ID][i].Title
		}
		if l.Outdated {
			if l.Changes, err = s.changesSince(c, a); err != nil {
				return err
			}
		}
		v.Lessons = append(v.Lessons, l)
	}
	if v.Minutes, err = s.Store.MinutesSince(ctx, at, st.ID, store.At(s.Now().AddDate(0, 0, -28))); err != nil {
		return err
	}
	if len(assignments) == 0 {
		if v.Offer, err = s.Store.LessonNames(ctx, at); err != nil {
			return err
		}
	}
	if err := s.places(c, &v); err != nil {
		return err
	}
	const hours = 6
	given, err := s.Store.HoursOf(ctx, at, st.ID, hours)
	if err != nil {
		return err
	}
	for i := range given {
		if h := &given[i]; h.Note != "" {
			v.Hours = append(v.Hours, pastHour{Day: studio.Day(h, zone(c)), Note: h.Note})
		}
	}
	for _, e := range entries {
		v.Entries = append(v.Entries, studentEntry{e, cmp.Or(names[e.AssignmentID], "an earlier lesson"), entryWords(e), speaker(c).StepNamed(e.Step)})
	}
	tags, err := s.Store.TagsOf(ctx, at, store.OnStudent, st.ID)
	if err != nil {
		return err
	}
	v.Groups = strings.Join(tags[st.ID], ", ")
	if v.Others, err = s.Store.TagsOn(ctx, at, store.OnStudent, ""); err != nil {
		return err
	}
	if v.People, err = s.Store.StudentNames(ctx, at); err != nil {
		return err
	}
	if v.Wishes, err = s.Store.OpenWishes(ctx, at, st.ID); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "student", v)
}

// placeLine is a place of a student in the timetable.
type placeLine struct {
	When, Often, With, Link string
}

// places are those that a student has from today on.
func (s *roster) places(c *echo.Context, v *studentView) error {
	ctx, at := c.Request().Context(), home(c)
	today := progress.DayOf(s.Now().In(at.Zone()))
	const ahead = 60
	t, err := s.Store.Timetable(ctx, at.ID, v.Student.ID, today, today+ahead)
	if err != nil {
		return err
	}
	v.Simple = true
	for i := range t.Series {
		one := &t.Series[i]
		if one.LastDay != 0 && one.LastDay < today || one.Every == 0 && one.FirstDay < today {
			continue
		}
		p := placeLine{When: strings.TrimSpace(dayOf(one.FirstDay).Format("Monday") + " " + studio.Clock(one.At)), Often: often(one), Link: "/timetable?week=" + dayOf(max(today, one.FirstDay)).Format(time.DateOnly)}
		if one.LastDay != 0 {
			p.Often += " until " + dayOf(one.LastDay).Format("2 Jan 2006")
		}
		others, err := s.Store.StudentsWith(ctx, at.ID, one.Students...)
		if err != nil {
			return err
		}
		others = slices.DeleteFunc(others, func(st store.Student) bool { return st.ID == v.Student.ID })
		with := studio.Coming{Students: others}
		p.With = with.Names()
		v.Simple = v.Simple && (one.Every == 0 || one.Every == 1 && len(others) == 0)
		v.Places = append(v.Places, p)
	}
	v.Calendar, err = s.calendarBox(c, v.Student.ID)
	return err
}

// changesSince says what was changed in a song since it was assigned.
func (s *roster) changesSince(c *echo.Context, a store.Assignment) (list []string, err error) {
	g, err := s.Store.Song(c.Request().Context(), home(c).ID, a.SongID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil // deleted since: there is nothing to take over
	}
	if err != nil {
		return nil, err
	}
	before, err := s.Store.SongParts(c.Request().Context(), home(c).ID, a.SongID, a.SongSave)
	if err != nil {
		return nil, err
	}
	is, err := s.read(c, g)
	if err != nil {
		return nil, err
	}
	old, err := s.Store.SavedSheet(c.Request().Context(), home(c).ID, a.SongID, a.SongSave)
	if err != nil {
		return nil, err
	}
	return changesBetween(c, s.house.Read(home(c).ID, old.Sheet, before), is), nil
}

// changesBetween says what is other in a song than it was.
func changesBetween(c *echo.Context, was, is *song.Song) (list []string) {
	if was.Tempo != is.Tempo {
		list = append(list, fmt.Sprintf("tempo %g instead of %g", is.Tempo, was.Tempo))
	}
	if was.Tuning.String() != is.Tuning.String() || was.Capo != is.Capo {
		list = append(list, fmt.Sprintf("tuning %s, capo %d", is.Tuning, is.Capo))
	}
	for _, change := range song.Changes(was, is) {
		if text := speaker(c).PartChange(change); text != "" {
			list = append(list, text)
		}
	}
	return list
}

func (s *roster) saveStudent(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	was := st
	if name := field(c, "name", studio.MostName); name != "" {
		st.Name = name
	}
	st.About = field(c, "about", studio.MostAbout)
	if st.Reach, err = number(c, "reach", "The reach in mm", studio.MinReach, studio.MaxReach); err != nil {
		return err
	}
	if st.Scale, err = number(c, "scale", "The scale length in mm", studio.MinScale, studio.MaxScale); err != nil {
		return err
	}
	if st.NotesPerSecond, err = number(c, "nps", "Notes per second", studio.MinStrokes, studio.MaxStrokes); err != nil {
		return err
	}
	st.LeftHanded, st.Acoustic = c.FormValue("left") != "", c.FormValue("acoustic") != ""
	st.NoBarre, st.NoLittle, st.Thumb = c.FormValue("nobarre") != "", c.FormValue("nolittle") != "", c.FormValue("thumb") != ""
	picking, err := hand.ParsePicking(c.FormValue("picking"))
	if err != nil {
		return wrong("Choose one of the ways of picking.")
	}
	st.Picking = string(picking)
	form, err := c.FormValues()
	if err != nil {
		return err
	}
	unlearnt, err := hand.ParseSkills(strings.Join(form["new"], ","))
	if err != nil {
		return wrong("Tick what is new from the list.")
	}
	st.Unlearnt = unlearnt.String()
	st.Known = field(c, "known", studio.MostKnown)
	if _, err := lesson.ParseKnown(st.Known); err != nil {
		return wrong("Shapes that are known: " + err.Error() + ".")
	}
	if c.FormValue("minutes") != "" {
		minutes, err := number(c, "minutes", "Minutes of practice a day", 1, lesson.MostMinutes)
		if err != nil {
			return err
		}
		st.Minutes = int(minutes)
	}
	if _, asked := form["day"]; asked { // where it is no more than a weekday and a time
		st.LessonDay, st.LessonTime = -1, ""
		if d, err := strconv.Atoi(c.FormValue("day")); err == nil && d >= 0 && d <= 6 {
			st.LessonDay = d
		}
		at, err := studio.ParseClock(field(c, "time", 5))
		if err != nil {
			return wrong("Write the time of the lesson like 15:30.")
		}
		if st.LessonDay >= 0 {
			st.LessonTime = studio.Clock(at)
		}
	}
	if faults := studio.FaultsOfStudent(&st); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	n := Notice{Text: fmt.Sprintf("Saved %s.", st.Name)}
	id, err := s.Store.Undoable(c.Request().Context(), home(c).ID, store.At(s.Now()), func(ctx context.Context) (string, error) {
		err := s.Store.SetStudent(ctx, st)
		if err == nil && (st.LessonDay != was.LessonDay || st.LessonTime != was.LessonTime) {
			at, _ := studio.ParseClock(st.LessonTime)
			err = s.Store.SetPlace(ctx, home(c).ID, st.ID, st.LessonDay, at, 0, progress.DayOf(s.Now().In(zone(c))))
		}
		return n.Text, err
	})
	if err != nil {
		return err
	}
	s.house.Wake()
	n.Undo = undoOf(id)
	at := home(c)
	refits, err := s.house.Refit(c.Request().Context(), &at, &was, &st)
	if err != nil { // it is saved all the same
		s.Log.Warn("what fits after a change of a student", "student", st.ID, "error", err)
	}
	for _, r := range refits {
		if len(n.Looks) == 0 {
			n.Text += " Other versions fit now than before; what is handed out stays as it is until you change it:"
		}
		n.Looks = append(n.Looks, look{fmt.Sprintf("/songs/%d/fit?student=%d", r.Song, st.ID), r.Title})
	}
	s.tell(c, n)
	return see(c, "/students/%d", st.ID)
}

func (s *roster) deleteStudent(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Deleted %s and ended their links. All about them is erased in thirty days, or at once if you wish, in the bin.", st.Name),
			s.Store.DeleteStudent(ctx, home(c).ID, st.ID, store.At(s.Now()))
	})
	if err != nil {
		return err
	}
	return see(c, "/students")
}

// exportStudent is everything about one student.
func (s *roster) exportStudent(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	return s.send(c, fmt.Sprintf("valleyside-student-%d-%s.zip", st.ID, s.Now().Format("2006-01-02")), "application/zip", func(w io.Writer) error {
		return s.Store.ExportStudent(c.Request().Context(), home(c).ID, st.ID, w)
	})
}

// deleteEntries removes what was logged from one day to another.
func (s *roster) deleteEntries(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	at := home(c)
	from, err1 := time.ParseInLocation(time.DateOnly, c.FormValue("from"), at.Zone())
	to, err2 := time.ParseInLocation(time.DateOnly, c.FormValue("to"), at.Zone())
	if err1 != nil || err2 != nil || to.Before(from) {
		return wrong("Choose the first and the last day of what is to be removed.")
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Removed what %s logged from %s to %s.", st.Name, from.Format("2 Jan 2006"), to.Format("2 Jan 2006")),
			s.Store.DeleteEntries(ctx, at.ID, st.ID, store.At(from), store.At(to.AddDate(0, 0, 1)))
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", st.ID)
}

// freshLink is where a link that has just been made waits for the page that shows
// it, with whose it is.
const freshLink = "fresh link"

// addLink makes one more link, which the next page shows this once.
func (s *roster) addLink(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	const most = 12
	links, err := s.Store.LinksOf(c.Request().Context(), home(c).ID, st.ID)
	if err != nil {
		return err
	}
	if len(links) >= most {
		return wrong(fmt.Sprintf("%s has %d links. End one that is not used any more, then make a new one.", st.Name, len(links)))
	}
	token, err := s.Store.AddLink(c.Request().Context(), home(c).ID, st.ID, field(c, "name", 40), store.At(s.Now()))
	if err != nil {
		return err
	}
	s.sessions.Put(c.Request().Context(), freshLink, fmt.Sprintf("%d %s", st.ID, token))
	return see(c, "/students/%d", st.ID)
}

// takeLink is the link of a student that has just been made, once.
func (s *roster) takeLink(c *echo.Context, student int64) string {
	owner, token, _ := strings.Cut(s.sessions.GetString(c.Request().Context(), freshLink), " ")
	if owner != strconv.FormatInt(student, 10) {
		return ""
	}
	s.sessions.Remove(c.Request().Context(), freshLink)
	return s.address(c) + "/s/" + token
}

func (s *roster) endLink(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	n, err := id(c, "link")
	if err != nil {
		return err
	}
	if err := s.Store.EndLink(c.Request().Context(), home(c).ID, st.ID, n); err != nil {
		return err
	}
	s.notice(c, "", "Ended one link of %s. Whoever has it sees nothing any more.", st.Name)
	return see(c, "/students/%d", st.ID)
}

// assignmentFrom reads the assignment that an address names.
func (s *roster) assignmentFrom(c *echo.Context) (store.Assignment, error) {
	student, err := id(c, "student")
	if err != nil {
		return store.Assignment{}, err
	}
	n, err := id(c, "assignment")
	if err != nil {
		return store.Assignment{}, err
	}
	return s.Store.Assignment(c.Request().Context(), home(c).ID, student, n)
}

func (s *roster) updateAssignment(c *echo.Context) error {
	a, err := s.assignmentFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		_, err := s.house.Give(ctx, home(c).ID, a.LessonID, a.StudentID, store.At(s.Now()))
		return fmt.Sprintf("%s is up to date now.", a.Name), err
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", a.StudentID)
}

func (s *roster) endAssignment(c *echo.Context) error {
	a, err := s.assignmentFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("%s is finished. What was practised is kept.", a.Name), s.Store.EndAssignment(ctx, home(c).ID, a.StudentID, a.ID, store.At(s.Now()))
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", a.StudentID)
}

func (s *roster) resumeAssignment(c *echo.Context) error {
	a, err := s.assignmentFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("%s is taken up again.", a.Name), s.Store.EndAssignment(ctx, home(c).ID, a.StudentID, a.ID, 0)
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", a.StudentID)
}

// mendEntry changes what was logged of practice.
func (s *roster) mendEntry(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	n, err := id(c, "entry")
	if err != nil {
		return err
	}
	e, err := s.Store.EntryOf(c.Request().Context(), home(c).ID, st.ID, n)
	if err != nil {
		return err
	}
	if err := practisedSo(c, &e); err != nil {
		return err
	}
	e.Word = field(c, "word", studio.MostWord)
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Mended an entry of %s: %s.", st.Name, entryWords(e)), s.Store.SetEntry(ctx, e)
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d#practised", st.ID)
}

// addEntry logs practice for a student, on a day that is over or today.
func (s *roster) addEntry(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	at := home(c)
	ctx := c.Request().Context()
	given, part, _ := strings.Cut(c.FormValue("of"), " ")
	assignment, err1 := strconv.ParseInt(given, 10, 64)
	number, err2 := strconv.Atoi(part)
	if errors.Join(err1, err2) != nil {
		return wrong("Choose what was practised.")
	}
	a, err := s.Store.Assignment(ctx, at.ID, st.ID, assignment)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(a.Parts, func(p store.Part) bool { return int(p.PartID) == number })
	if i < 0 {
		return wrong("Choose what was practised.")
	}
	now := s.Now().In(at.Zone())
	day, err := time.ParseInLocation(time.DateOnly, c.FormValue("on"), at.Zone())
	const noon = 12 * time.Hour
	if err != nil || day.After(now) || day.Before(now.AddDate(-10, 0, 0)) {
		return wrong("Choose the day on which it was practised: today or before.")
	}
	when := day.Add(noon)
	if progress.DayOf(day) == progress.DayOf(now) || when.After(now) {
		when = now
	}
	e := store.Entry{StudioID: at.ID, StudentID: st.ID, AssignmentID: a.ID, PartID: a.Parts[i].PartID, Part: a.Parts[i].Part, Rung: a.Parts[i].Rung, Word: field(c, "word", studio.MostWord), PractisedAt: store.At(when), SentID: requestID(c)}
	if err := practisedSo(c, &e); err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Logged for %s, %s: %s, %s.", st.Name, when.Format("Mon 2 Jan 2006"), e.Part, entryWords(e)), s.Store.AddEntry(ctx, e)
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d#practised", st.ID)
}

// copyAssignment gives what a student has to another one, in a lesson of their own.
func (s *roster) copyAssignment(c *echo.Context) error {
	a, err := s.assignmentFrom(c)
	if err != nil {
		return err
	}
	to, err := strconv.ParseInt(c.FormValue("to"), 10, 64)
	if err != nil {
		return wrong("Choose to whom it is given.")
	}
	at := home(c).ID
	other, err := s.Store.Student(c.Request().Context(), at, to)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		l, err := s.house.CopyFor(ctx, &a, &other, store.At(s.Now()))
		return fmt.Sprintf("%s has %s now, as it is here.", other.Name, l.Name), err
	})
	if has := new(studio.HasIt); errors.As(err, &has) {
		return wrong(has.Error())
	}
	if err != nil {
		return err
	}
	return see(c, "/students/%d", other.ID)
}

func (s *roster) deleteEntry(c *echo.Context) error {
	student, err := id(c, "student")
	if err != nil {
		return err
	}
	n, err := id(c, "entry")
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return "Deleted one practice entry.", s.Store.DeleteEntry(ctx, home(c).ID, student, n)
	})
	if err != nil {
		return err
	}
	return see(c, "/students/%d", student)
}
