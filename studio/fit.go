package studio

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
)

// Fitting is a song fitted to a student: what there is to choose from, and what fits.
type Fitting struct {
	fit.Choice
	Song    *song.Song
	Learner lesson.Student
	Ladders [][]arrange.Version // by part
	// Capo is the fret of a capo that would spare shapes that are hard, where what fits is not
	// as it is written, and CapoShapes are what is fingered then; 0 where there is none.
	Capo       int
	CapoShapes []string
}

// Fit fits a song to a student, with the ways in which the teacher wants its versions.
func Fit(g *song.Song, w Ways, learner lesson.Student, o arrange.Options) *Fitting {
	a := arrange.New(g, o)
	f := &Fitting{Song: g, Learner: learner, Ladders: make([][]arrange.Version, len(g.Parts))}
	for i := range g.Parts {
		f.Ladders[i] = a.Some(i, fit.Rungs(&g.Parts[i]), w.Of(g.PartID(i), ""))
	}
	f.Choice = fit.Song(g, f.Ladders, learner)
	if slices.ContainsFunc(f.Parts, func(p fit.Part) bool { return p.Version.Rung == arrange.EasyChords }) {
		f.Capo, f.CapoShapes = a.Capo()
	}
	return f
}

// Chosen is the set with the rungs that somebody has chosen, by the index of the part; an
// empty one leaves a part out.
func (f *Fitting) Chosen(rungs map[int]arrange.Rung) fit.Set {
	return f.With(f.Song, f.Ladders, f.Learner, rungs)
}

// Choices are those of what fits.
func (f *Fitting) Choices() []Choice {
	list := make([]Choice, len(f.Song.Parts))
	for i := range list {
		list[i].Part = f.Song.PartID(i)
	}
	for _, p := range f.Parts {
		list[p.Part].Rung = p.Version.Rung
	}
	return list
}

// Handed is what a student is to get of a song.
type Handed struct {
	Student store.Student
	Parts   []store.Part
	Target  float64
}

// HandOut gives a song to students, to each a lesson of their own. Who has one that nobody
// else has gets that one as it is now, with the teacher's changes of its steps and what was
// practised; the others get a new one, named by song and student. It gives the assignments in
// the order of the students.
func (h *House) HandOut(ctx context.Context, studio int64, g store.Song, to []Handed, now store.Instant) (given []int64, err error) {
	for _, one := range to {
		l, err := h.ownLesson(ctx, studio, g.ID, one.Student.ID)
		if err != nil {
			return given, err
		}
		l.TargetTempo, l.Parts = one.Target, WithOwn(one.Parts, l.Parts)
		if l.ID == 0 {
			l.StudioID, l.SongID, l.CreatedAt, l.Name = studio, g.ID, now, lessonName(g.Title, one.Student.Name)
			l.ID, err = h.Store.AddLesson(ctx, l)
		} else {
			err = h.Store.SetLesson(ctx, l)
		}
		if err != nil {
			return given, err
		}
		id, err := h.Give(ctx, studio, l.ID, one.Student.ID, now)
		if err != nil {
			return given, err
		}
		given = append(given, id)
	}
	return given, nil
}

// ownLesson is the lesson of a song that a student has, and nobody else; the zero Lesson
// where there is none.
func (h *House) ownLesson(ctx context.Context, studio, of, student int64) (l store.Lesson, err error) {
	has, err := h.Store.AssignmentsOf(ctx, studio, student)
	if err != nil {
		return l, err
	}
	for _, a := range has {
		if a.SongID != of {
			continue
		}
		all, err := h.Store.AssignmentsOfLesson(ctx, studio, a.LessonID)
		if err != nil {
			return l, err
		}
		if len(all) == 1 {
			if l, err = h.Store.Lesson(ctx, studio, a.LessonID); err == nil {
				return l, nil
			}
		}
	}
	return store.Lesson{}, nil
}

// WithOwn gives parts what was chosen for their student alone, where the version is still that
// one.
func WithOwn(parts, had []store.Part) []store.Part {
	list := slices.Clone(parts)
	for i := range list {
		p := &list[i]
		for _, h := range had {
			if h.PartID == p.PartID && h.Rung == p.Rung && h.Player == p.Player {
				p.Own = h.Own
			}
		}
	}
	return list
}

// NotTheirs tells that a student has no lesson of a song of their own, for which something
// could be chosen.
type NotTheirs struct{ Name, Title string }

func (n *NotTheirs) Error() string {
	return fmt.Sprintf("%s has no lesson of their own of “%s” yet", n.Name, n.Title)
}

// ChooseFor changes how parts of a song are made for one student alone, who has it in a
// lesson of their own, and gives them that lesson as it is then. change gets each part with
// the way that it is made in, and says which it shall be and whether it is another; a part
// that is made of neither the chords as they are written nor easier ones is made of easier ones
// from then on.
func (h *House) ChooseFor(ctx context.Context, studio int64, g store.Song, st *store.Student, now store.Instant, change func(p *store.Part, way arrange.Way) (arrange.Way, bool)) error {
	l, err := h.ownLesson(ctx, studio, g.ID, st.ID)
	if err != nil {
		return err
	}
	if l.ID == 0 {
		return &NotTheirs{st.Name, g.Title}
	}
	for i := range l.Parts {
		p := &l.Parts[i]
		if p.Rung == "" {
			continue
		}
		way, _ := arrange.ParseWay(p.Way)
		if p.Rung != arrange.AsWritten && p.Rung != arrange.EasyChords {
			way = arrange.Way{}
		}
		is, another := change(p, way)
		if !another {
			continue
		}
		if p.Rung != arrange.AsWritten {
			p.Rung = arrange.EasyChords
		}
		p.Own = is.String()
	}
	if err := h.Store.SetLesson(ctx, l); err != nil {
		return err
	}
	_, err = h.Give(ctx, studio, l.ID, st.ID, now)
	return err
}

// OwnParts are the parts of the lesson of a song that a student has alone; nil where there is
// none.
func (h *House) OwnParts(ctx context.Context, studio, of, student int64) ([]store.Part, error) {
	l, err := h.ownLesson(ctx, studio, of, student)
	return l.Parts, err
}

// Refit is a song that a student has, for which something else fits than before.
type Refit struct {
	Song    int64
	Title   string
	Was, Is []Choice
}

// mostRefitted is for how many songs it is looked after a change of a student.
const mostRefitted = 12

// RefitSong looks for which students who have a song something else fits now that it has been
// saved anew, by their ids; of the first that have it, as many as a page can wait for.
func (h *House) RefitSong(ctx context.Context, home *store.Studio, was, is store.Song) (list []int64, err error) {
	given, err := h.GivenOf(ctx, home.ID, is.ID)
	if err != nil || was.Sheet == is.Sheet {
		return nil, err
	}
	for _, a := range given[:min(len(given), mostRefitted)] {
		st, err := h.Store.Student(ctx, home.ID, a.StudentID)
		if err != nil {
			return list, err
		}
		before, err := h.fits(ctx, home, &st, was, a.TargetTempo)
		if err != nil {
			return list, err
		}
		now, err := h.fits(ctx, home, &st, is, a.TargetTempo)
		if err != nil {
			return list, err
		}
		if !alike(before, now) && !slices.Contains(list, st.ID) {
			list = append(list, st.ID)
		}
	}
	return list, nil
}

// fits are the choices that fit a student of a save of a song.
func (h *House) fits(ctx context.Context, home *store.Studio, st *store.Student, of store.Song, tempo float64) ([]Choice, error) {
	ids, err := h.Store.SongParts(ctx, home.ID, of.ID, of.Save)
	if err != nil {
		return nil, err
	}
	w, err := h.WaysOf(ctx, home.ID, of.ID)
	if err != nil {
		return nil, err
	}
	g := h.Read(home.ID, of.Sheet, ids)
	o := h.Options(home, Player(st), tempo)
	work := WorkOf("choices", of.Sheet, identities(ids), w.Key(), OfOptions(o), st.Known, st.Minutes)
	return Worked(ctx, h, home.ID, work, written(g), func() ([]Choice, error) { return Fit(g, w, Learner(st), o).Choices(), nil })
}

func alike(before, now []Choice) bool {
	return slices.EqualFunc(before, now, func(x, y Choice) bool { return x.Part == y.Part && x.Rung == y.Rung })
}

// Refit looks for which of the songs that a student has something else fits after a change
// of their hand, of what they know, or of their time. What they hold stays as it is.
func (h *House) Refit(ctx context.Context, home *store.Studio, was, is *store.Student) (list []Refit, err error) {
	given, err := h.Store.AssignmentsOf(ctx, home.ID, is.ID)
	if err != nil {
		return nil, err
	}
	for _, a := range given[:min(len(given), mostRefitted)] {
		of := store.Song{ID: a.SongID, Sheet: a.Sheet, Save: a.SongSave}
		before, err := h.fits(ctx, home, was, of, a.TargetTempo)
		if err != nil {
			return list, err
		}
		now, err := h.fits(ctx, home, is, of, a.TargetTempo)
		if err != nil {
			return list, err
		}
		if !alike(before, now) {
			title := sheet.Parse(a.Sheet).Song.Title
			list = append(list, Refit{a.SongID, title, before, now})
		}
	}
	return list, nil
}

// GivenOf lists what students have been given of a song, the newest first.
func (h *House) GivenOf(ctx context.Context, studio, of int64) (list []store.Assignment, err error) {
	lessons, err := h.Store.LessonsOfSong(ctx, studio, of)
	if err != nil {
		return nil, err
	}
	for _, l := range lessons {
		given, err := h.Store.AssignmentsOfLesson(ctx, studio, l.ID)
		if err != nil {
			return nil, err
		}
		list = append(list, given...)
	}
	slices.SortStableFunc(list, func(a, b store.Assignment) int {
		return cmp.Or(cmp.Compare(b.AssignedAt, a.AssignedAt), cmp.Compare(b.ID, a.ID))
	})
	return list, nil
}

// BringUpToDate gives a song as it is saved now to all who have an older save of it, in the
// versions of their lessons, and counts them. What was practised stays.
func (h *House) BringUpToDate(ctx context.Context, studio, of int64, now store.Instant) (n int, err error) {
	given, err := h.GivenOf(ctx, studio, of)
	if err != nil {
		return 0, err
	}
	for _, a := range given {
		if a.SongSave == a.Latest {
			continue
		}
		if _, err := h.Give(ctx, studio, a.LessonID, a.StudentID, now); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}

// MostLessonName is how many characters the name of a lesson has at most.
const MostLessonName = 120

// lessonName names a lesson by song and student; of a long title as much as there is room
// for.
func lessonName(title, student string) string {
	who, words := []rune(", "+student), []rune(title)
	who = who[:min(len(who), MostLessonName/2)]
	if room := MostLessonName - len(who); len(words) > room {
		words = append(words[:room-1:room-1], '…')
	}
	return string(words) + string(who)
}
