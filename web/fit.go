package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/sheet"
	"valleyside/core/skill"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

// fitView is a song beside the students who are to have it.
type fitView struct {
	Page
	Song     store.Song
	Facts    studio.Facts
	Problems int
	People   []fitPerson
	Rows     []fitRow
	Names    []string // of the parts
	Given    []givenRow
	Outdated int         // of them have an older save of the song
	Papers   string      // where the papers of those who just got it are printed
	Printed  int         // how many they are
	To       string      // their names
	Kept     [][2]string // fields of the form as they stand
}

// fitPerson is somebody to whom the song may be fitted.
type fitPerson struct {
	ID     int64
	Name   string
	Ticked bool
	Today  bool   // comes today
	Far    string // how far away the song is as it is meant; empty where that is not known
}

// fitRow is what a student begins with.
type fitRow struct {
	Student store.Student
	Target  float64
	Field   string    // of the target
	Says    string    // what fits, in a sentence
	Has     string    // the lesson that they have of the song already; empty for none
	Differs bool      // what is chosen is not what fits
	Cells   []fitCell // one for each part
	fitSum
	Beside  []string // other sets, and what they cost
	Trouble string   // why it could not be worked out; empty where it could
}

// fitCell is the version of one part.
type fitCell struct {
	Field   string // of the form
	Part    string
	Options []fitOption
	Chosen  arrange.Rung // empty where it is left out
	Grade   float64
}

type fitOption struct {
	Rung arrange.Rung
	Fits bool
}

// fitSum is what a set asks of a student.
type fitSum struct {
	New   []string
	Weeks int
	Grade float64
}

// givenRow is who has been given the song, and what is theirs.
type givenRow struct {
	Student  store.Student
	Lesson   int64
	Name     string
	Target   float64
	Outdated bool // the song was saved since
}

// mostFitted is to how many students a song is fitted at once.
const mostFitted = 40

// fitPage shows a song beside the students who are ticked, each with the versions that fit.
func (s *lessonbook) fitPage(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	q := c.QueryParams()
	v := fitView{Page: s.page(c, "Whom "+g.Title+" fits", "songs"), Song: g}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	v.Facts = studio.FactsOf(in)
	for i := range in.Parts {
		v.Names = append(v.Names, in.Parts[i].Name)
	}
	ctx, at := c.Request().Context(), home(c)
	if v.Problems, err = s.house.Problems(ctx, at.ID, g.Sheet); err != nil {
		return err
	}
	if group := q.Get("group"); group != "" { // all of it are ticked
		of, err := s.Store.ListedStudents(ctx, at.ID, store.StudentFilter{Group: group}, mostFitted, 0)
		if err != nil {
			return err
		}
		for _, st := range of {
			q.Add("student", fmt.Sprint(st.ID))
		}
	}
	if err := s.people(c, &v, g.ID, numbersIn(q["student"])); err != nil {
		return err
	}
	if v.Rows, err = s.fitRows(c, g, in, q); err != nil {
		return err
	}
	place := func(r fitRow) int {
		return slices.IndexFunc(v.People, func(p fitPerson) bool { return p.ID == r.Student.ID })
	}
	slices.SortStableFunc(v.Rows, func(a, b fitRow) int { return place(a) - place(b) })
	for _, row := range v.Rows {
		v.Kept = append(v.Kept, [2]string{"student", fmt.Sprint(row.Student.ID)}, [2]string{row.Field, fmt.Sprint(row.Target)})
		for _, cell := range row.Cells {
			v.Kept = append(v.Kept, [2]string{cell.Field, string(cell.Chosen)})
		}
	}
	if err := s.givenOf(c, &v, numbersIn(q["given"])); err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "fit#fit", v)
	}
	return c.Render(http.StatusOK, "fit", v)
}

// numbersIn reads numbers of rows, each once; what is none is left out.
func numbersIn(texts []string) (ids []int64) {
	for _, text := range texts {
		for _, one := range strings.Split(text, ",") {
			if n, err := strconv.ParseInt(one, 10, 64); err == nil && n > 0 && !slices.Contains(ids, n) {
				ids = append(ids, n)
			}
		}
	}
	return ids
}

// people lists who may be ticked: those who come today first.
func (s *lessonbook) people(c *echo.Context, v *fitView, song int64, ticked []int64) error {
	ctx, at := c.Request().Context(), home(c)
	names, err := s.Store.StudentNames(ctx, at.ID)
	if err != nil {
		return err
	}
	today, err := s.studentsToday(c)
	if err != nil {
		return err
	}
	fits, err := s.Store.FitsOfSong(ctx, at.ID, song)
	if err != nil {
		return err
	}
	far := map[int64]string{}
	for _, f := range fits {
		far[f.StudentID] = farAway(f)
	}
	for _, st := range names {
		v.People = append(v.People, fitPerson{ID: st.ID, Name: st.Name, Ticked: slices.Contains(ticked, st.ID), Far: far[st.ID],
			Today: slices.ContainsFunc(today, func(t store.Student) bool { return t.ID == st.ID })})
	}
	slices.SortStableFunc(v.People, func(a, b fitPerson) int { return boolOrder(b.Today) - boolOrder(a.Today) })
	return nil
}

// farAway says how far away a song is, in short.
func farAway(f store.SongFit) string {
	on := "as written"
	if f.Rung != arrange.AsWritten {
		on = strings.ToLower(f.Rung.Title())
	}
	switch skill.Ready(f.Ready) {
	case skill.Now:
		return "ready, " + on
	case skill.First:
		if len(f.Missing) > 0 {
			return "first " + f.Missing[0]
		}
	}
	return "later"
}

func boolOrder(b bool) int {
	if b {
		return 1
	}
	return 0
}

// fitRows fits a song to the students that a form ticks.
func (s *lessonbook) fitRows(c *echo.Context, g store.Song, in *song.Song, q url.Values) ([]fitRow, error) {
	ctx, at := c.Request().Context(), home(c)
	ids := numbersIn(q["student"])
	if len(ids) > mostFitted {
		return nil, wrong(fmt.Sprintf("%d students are ticked; %d are the most at once.", len(ids), mostFitted))
	}
	has, err := s.Store.AssignmentsOf(ctx, at.ID, ids...)
	if err != nil {
		return nil, err
	}
	w, err := s.house.WaysOf(ctx, at.ID, g.ID)
	if err != nil {
		return nil, err
	}
	var rows []fitRow
	for _, id := range ids {
		st, err := s.Store.Student(ctx, at.ID, id)
		if err != nil {
			return nil, err
		}
		row := fitRow{Student: st, Target: in.Tempo, Field: fmt.Sprintf("target %d", id)}
		chosen := map[int]arrange.Rung{}
		for i := range has {
			if a := &has[i]; a.StudentID == id && a.SongID == g.ID && row.Has == "" {
				row.Has, row.Target = a.Name, a.TargetTempo
				for k := range in.Parts { // what the teacher has decided holds
					chosen[k] = ""
				}
				for _, p := range a.Parts {
					if k, ok := in.PartWith(p.PartID); ok {
						chosen[k] = p.Rung
					}
				}
			}
		}
		if t, err := strconv.ParseFloat(q.Get(row.Field), 64); err == nil && t >= sheet.MinTempo && t <= sheet.MaxTempo {
			row.Target = t
		}
		for i := range in.Parts {
			if field := cellField(id, in.PartID(i)); q.Has(field) {
				if text := q.Get(field); text == fitting {
					delete(chosen, i)
				} else if rung, err := arrange.ParseRung(text); err == nil {
					chosen[i] = rung
				} else {
					chosen[i] = ""
				}
			}
		}
		fitted, err := s.fitRow(c, g, in, w, row, chosen)
		if text, trouble := studio.IsTrouble(err); trouble { // the others are fitted all the same
			row.Trouble = text
		} else if err != nil {
			return nil, err
		} else {
			row = fitted
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// fitting is what a cell says where what fits is taken.
const fitting = "fits"

// cellField is what the form calls the version of a part for a student.
func cellField(student int64, part song.PartID) string {
	return fmt.Sprintf("rung %d %d", student, part)
}

// fitRow fits a song to one student, with what somebody has chosen for some parts.
func (s *lessonbook) fitRow(c *echo.Context, g store.Song, in *song.Song, w studio.Ways, row fitRow, chosen map[int]arrange.Rung) (fitRow, error) {
	st := row.Student
	o := s.options(c, studio.Player(&st), row.Target)
	sp := speaker(c)
	work := studio.WorkOf("fit", g.Sheet, idsOf(in), w.Key(), studio.OfOptions(o), st.ID, st.Name, st.Known, st.Minutes, row.Has, fmt.Sprint(chosen), sp)
	return studio.Worked(c.Request().Context(), s.house, home(c).ID, work, written(in), func() (fitRow, error) {
		f := studio.Fit(in, w, studio.Learner(&st), o)
		row.Says = sp.Fit(in, &f.Choice)
		for _, other := range []*fit.Set{f.Bolder, f.Safer} {
			if other != nil {
				row.Beside = append(row.Beside, sp.Beside(in, &f.Choice, other))
			}
		}
		if f.Capo > 0 {
			row.Beside = append(row.Beside, sp.WithCapo(f.Capo, f.CapoShapes))
		}
		set := f.Chosen(chosen)
		row.fitSum = fitSum{New: sp.News(set.New), Weeks: set.Weeks, Grade: set.Grade}
		fits := map[int]arrange.Rung{}
		for _, p := range f.Parts {
			fits[p.Part] = p.Version.Rung
		}
		for i := range in.Parts {
			cell := fitCell{Field: cellField(st.ID, in.PartID(i)), Part: in.Parts[i].Name}
			if at := slices.IndexFunc(set.Parts, func(p fit.Part) bool { return p.Part == i }); at >= 0 {
				cell.Chosen, cell.Grade = set.Parts[at].Version.Rung, set.Parts[at].Version.Grade
			}
			for _, v := range f.Ladders[i] {
				cell.Options = append(cell.Options, fitOption{v.Rung, v.Rung == fits[i]})
			}
			row.Differs = row.Differs || cell.Chosen != fits[i]
			row.Cells = append(row.Cells, cell)
		}
		return row, nil
	})
}

// givenOf lists who has been given the song; the papers are those of some assignments.
func (s *lessonbook) givenOf(c *echo.Context, v *fitView, just []int64) error {
	given, err := s.house.GivenOf(c.Request().Context(), home(c).ID, v.Song.ID)
	if err != nil {
		return err
	}
	var papers, names []string
	for _, a := range given {
		at := slices.IndexFunc(v.People, func(p fitPerson) bool { return p.ID == a.StudentID })
		if at < 0 {
			continue
		}
		row := givenRow{Student: store.Student{ID: a.StudentID, Name: v.People[at].Name}, Lesson: a.LessonID, Name: a.Name, Target: a.TargetTempo, Outdated: a.SongSave < a.Latest}
		if row.Outdated {
			v.Outdated++
		}
		v.Given = append(v.Given, row)
		if slices.Contains(just, a.ID) {
			papers, names = append(papers, fmt.Sprint(a.ID)), append(names, row.Student.Name)
		}
	}
	if v.Printed = len(papers); v.Printed > 0 {
		slices.Sort(names)
		v.To = strings.Join(names, ", ")
		v.Papers = "/handouts?" + url.Values{"given": papers}.Encode()
	}
	return nil
}

// handOut gives a song to all who are ticked, to each the versions that stand in their row.
func (s *lessonbook) handOut(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	form, err := c.FormValues()
	if err != nil {
		return err
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	rows, err := s.fitRows(c, g, in, form)
	if err != nil {
		return err
	}
	if len(rows) == 0 {
		return wrong("Tick at least one student.")
	}
	var to []studio.Handed
	for _, row := range rows {
		if row.Trouble != "" {
			return wrong(fmt.Sprintf("For %s nothing could be worked out: %s Take the tick away to give it to the others.", row.Student.Name, row.Trouble))
		}
		one := studio.Handed{Student: row.Student, Target: row.Target}
		for i, cell := range row.Cells {
			one.Parts = append(one.Parts, store.Part{PartID: in.PartID(i), Part: cell.Part, Rung: cell.Chosen})
		}
		to = append(to, one)
	}
	var given []int64
	err = s.undoable(c, func(ctx context.Context) (says string, err error) {
		given, err = s.house.HandOut(ctx, home(c).ID, g, to, store.At(s.Now()))
		return fmt.Sprintf("Handed out: %s, to %s.", g.Title, plural(len(to), "student", "students")), err
	})
	if err != nil {
		return err
	}
	q := url.Values{}
	for _, id := range given {
		q.Add("given", fmt.Sprint(id))
	}
	return see(c, "/songs/%d/fit?%s", g.ID, q.Encode())
}

// bringUpToDate gives the song as it is saved now to all who have an older save of it, with
// the versions that they have.
func (s *lessonbook) bringUpToDate(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		n, err := s.house.BringUpToDate(ctx, home(c).ID, g.ID, store.At(s.Now()))
		return fmt.Sprintf("Brought up to date: %s, for %d of those who have it.", g.Title, n), err
	})
	if err != nil {
		return err
	}
	return see(c, "/songs/%d/fit", g.ID)
}
