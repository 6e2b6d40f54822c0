package studio

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
)

// mostFaults is how many faults of an export are listed.
const mostFaults = 50

// Found is what is in an export, and what keeps it from being taken in.
type Found struct {
	Name                              string // of the studio or the student
	Songs, Students, Lessons, Entries int
	Rows                              int
	Faults                            []string
}

var errEnough = errors.New("enough faults")

// Check goes through an export, row by row, by the limits that forms have. It is taken whole
// or not at all.
func Check(a *store.Archive) Found {
	c := &checker{archive: a, songs: map[int64]int{}, next: map[int64]song.PartID{}, versions: map[[2]int64]bool{}, lessons: map[int64]bool{}, students: map[int64]bool{}, given: map[int64]int64{}}
	for _, step := range []func() error{c.home, c.checkSongs, c.checkLessons, c.checkStudents, c.checkTimetable, c.checkHours, c.checkTags, c.checkEntries} {
		if err := step(); err != nil {
			if !errors.Is(err, errEnough) {
				c.Faults = append(c.Faults, err.Error())
			}
			break
		}
	}
	return c.Found
}

type checker struct {
	Found
	archive  *store.Archive
	songs    map[int64]int         // their latest versions
	next     map[int64]song.PartID // numbers that no part of them has had
	versions map[[2]int64]bool
	lessons  map[int64]bool
	students map[int64]bool
	given    map[int64]int64 // whose it is
}

func (c *checker) row(f *faults, where string) error {
	c.Rows++
	for _, fault := range *f {
		if c.Faults = append(c.Faults, where+": "+fault); len(c.Faults) >= mostFaults {
			return errEnough
		}
	}
	return nil
}

func (c *checker) home() error {
	return store.Each(c.archive, "studio", func(st *store.Studio) error {
		var f faults
		c.Name = st.Name
		f.text("its name", st.Name, MostName)
		if n := len(strings.Fields(st.StringNames)); n != 6 && st.StringNames != "" || len(st.StringNames) > 40 {
			f.say("it has %d names for the strings; there are six", n)
		}
		f.text("when lessons are given", st.OpenHours, MostAbout)
		return c.row(&f, "the studio")
	})
}

func (f *faults) sheet(s string) {
	if len(s) > sheet.MaxBytes || !utf8.ValidString(s) {
		f.say("its sheet has more than %d KB, or is no text", sheet.MaxBytes>>10)
	}
}

func (c *checker) checkSongs() error {
	err := store.Each(c.archive, "songs", func(g *store.Song) error {
		var f faults
		if _, twice := c.songs[g.ID]; twice {
			f.say("it is there twice")
		}
		c.songs[g.ID], c.next[g.ID] = g.Save, g.NextPart
		c.Songs++
		f.text("its title", g.Title, mostPart)
		if g.NextPart < 0 || g.NextPart > 1<<30 {
			f.say("its next part has the number %d", g.NextPart)
		}
		if g.Draft != nil {
			f.sheet(*g.Draft)
		}
		return c.row(&f, "song "+cmp.Or(g.Title, "without a title"))
	})
	if err != nil {
		return err
	}
	err = store.Each(c.archive, "versions", func(v *store.ExportedSave) error {
		var f faults
		key := [2]int64{v.SongID, int64(v.Save)}
		if _, ok := c.songs[v.SongID]; !ok {
			f.say("its song is not there")
		}
		if v.Save < 1 || c.versions[key] {
			f.say("it is there twice, or has no number")
		}
		c.versions[key] = true
		f.sheet(v.Sheet)
		return c.row(&f, "a version of a song")
	})
	if err != nil {
		return err
	}
	for id, version := range c.songs {
		var f faults
		if !c.versions[[2]int64{id, int64(version)}] {
			f.say("its save is not there")
		}
		if err := c.row(&f, "a song"); err != nil {
			return err
		}
	}
	at := map[[3]int64]bool{}
	err = store.Each(c.archive, "parts", func(p *store.SongPart) error {
		var f faults
		key := [3]int64{p.SongID, int64(p.Save), int64(p.Position)}
		if !c.versions[[2]int64{p.SongID, int64(p.Save)}] || at[key] {
			f.say("its version of a song is not there, or it is there twice")
		}
		at[key] = true
		if p.PartID < 1 || p.PartID > 1<<30 || len(p.Bars) > sheet.MaxBars || p.NextBar < 0 || p.NextBar > 1<<30 {
			f.say("what it is known by is no number")
		}
		if p.PartID >= c.next[p.SongID] {
			f.say("it is known by %d, which its song has not given yet", p.PartID)
		}
		for _, bar := range p.Bars {
			if bar < 1 || bar > 1<<30 {
				f.say("a bar is known by %d", bar)
				break
			}
		}
		f.text("its name", p.Name, mostPart)
		return c.row(&f, "the part "+p.Name)
	})
	if err != nil {
		return err
	}
	err = store.Each(c.archive, "typed", func(y *store.ExportedTyped) error {
		var f faults
		if _, ok := c.songs[y.SongID]; !ok {
			f.say("its song is not there")
		}
		f.sheet(y.Sheet)
		return c.row(&f, "something that was typed")
	})
	if err != nil {
		return err
	}
	err = store.Each(c.archive, "ways", func(w *store.ExportedWay) error {
		var f faults
		_, ok := c.songs[w.SongID]
		if !w.Rung.Valid() || !ok {
			f.say("its song or its rung is not there")
		}
		f.text("the part", w.Part, mostPart)
		f.text("the player", w.Player, mostPart)
		f.way(w.Way.Way)
		return c.row(&f, "a wish for a version")
	})
	if err != nil {
		return err
	}
	return store.Each(c.archive, "templates", func(p *store.Template) error {
		var f faults
		f.text("its name", p.Name, 60)
		if _, err := lesson.ParsePlan(`{"template":` + cmp.Or(p.Steps, "{}") + `}`); err != nil {
			f.say("%v", err)
		}
		return c.row(&f, "the order of steps "+p.Name)
	})
}

// mostWay is how long the text of a way may be.
const mostWay = 100_000

func (f *faults) way(text string) { f.text("how it is made", text, mostWay) }

func (f *faults) parts(parts []store.Part) {
	if len(parts) > sheet.MaxParts {
		f.say("it has %d parts; %d are the most", len(parts), sheet.MaxParts)
	}
	for _, p := range parts {
		if !p.Rung.Valid() && p.Rung != "" {
			f.say("%q is no rung", p.Rung)
		}
		f.text("the name of a part", p.Part, mostPart)
		f.way(p.Way)
		f.way(p.Own)
		f.text("the name of a player", p.Player, mostPart)
		f.number("the tempo of a part", p.Target, 0, mostTarget)
	}
}

// plan holds the changes of a lesson against their limits; those that an older program
// wrote are read as it wrote them.
func (f *faults) plan(text string) {
	_, err := lesson.ParsePlan(text)
	if err == nil {
		return
	}
	if lesson.IsOldPlan(text) {
		if faults := lesson.OldPlanFaults(text); len(faults) > 0 {
			f.say("the changes of its steps: %s", faults[0])
		}
		return
	}
	f.say("%v", err)
}

func (c *checker) checkLessons() error {
	return store.Each(c.archive, "lessons", func(l *store.Lesson) error {
		var f faults
		if _, ok := c.songs[l.SongID]; !ok || c.lessons[l.ID] {
			f.say("it is there twice, or its song is not there")
		}
		c.lessons[l.ID] = true
		c.Lessons++
		f.text("its name", l.Name, mostPart)
		f.number("its tempo", l.TargetTempo, sheet.MinTempo, sheet.MaxTempo)
		f.parts(l.Parts)
		f.plan(l.Plan)
		return c.row(&f, "the lesson "+l.Name)
	})
}

func (c *checker) checkStudents() error {
	name := "students"
	if !c.archive.Whole {
		name = "student"
	}
	err := store.Each(c.archive, name, func(st *store.Student) error {
		f := faults(FaultsOfStudent(st))
		if c.students[st.ID] {
			f.say("is there twice")
		}
		c.students[st.ID] = true
		c.Students++
		if !c.archive.Whole {
			c.Name = st.Name
		}
		return c.row(&f, "the student "+st.Name)
	})
	if err != nil {
		return err
	}
	return store.Each(c.archive, "assignments", func(a *store.Assignment) error {
		var f faults
		if _, twice := c.given[a.ID]; twice || !c.students[a.StudentID] || !c.lessons[a.LessonID] || !c.versions[[2]int64{a.SongID, int64(a.SongSave)}] {
			f.say("it is there twice, or its student, lesson or song is not there")
		}
		c.given[a.ID] = a.StudentID
		f.text("its name", a.Name, mostPart)
		f.number("its tempo", a.TargetTempo, sheet.MinTempo, sheet.MaxTempo)
		f.parts(a.Parts)
		f.plan(a.Plan)
		return c.row(&f, "what was given of "+a.Name)
	})
}

// checkTimetable goes through series, what was done to their lessons, and holidays.
func (c *checker) checkTimetable() error {
	series := map[int64]bool{}
	err := store.Each(c.archive, "series", func(s *store.Series) error {
		f := faults(FaultsOfSeries(s))
		if series[s.ID] {
			f.say("it is there twice")
		}
		series[s.ID] = true
		for i, id := range s.Students {
			if !c.students[id] || slices.Contains(s.Students[:i], id) {
				f.say("a student of it is not there, or twice")
			}
		}
		return c.row(&f, "a lesson that comes again")
	})
	if err != nil {
		return err
	}
	type key struct {
		series int64
		day    int
	}
	changes := map[key]bool{}
	err = store.Each(c.archive, "changes", func(ch *store.Change) error {
		f := faults(FaultsOfChange(ch))
		k := key{ch.SeriesID, ch.Day}
		if !series[ch.SeriesID] || changes[k] {
			f.say("its lesson is not there, or it is there twice")
		}
		changes[k] = true
		return c.row(&f, "a lesson that was moved or cancelled")
	})
	if err != nil {
		return err
	}
	return store.Each(c.archive, "holidays", func(h *store.Holiday) error {
		f := faults(FaultsOfHoliday(h))
		return c.row(&f, "a holiday")
	})
}

// checkHours goes through what was done in lesson hours, what is to be practised first, and what
// students and teacher said to each other.
func (c *checker) checkHours() error {
	type key struct {
		student int64
		day     int
	}
	hours := map[key]bool{}
	theirs := func(f *faults, student, assignment int64) {
		if who, ok := c.given[assignment]; assignment != 0 && (!ok || who != student) || !c.students[student] {
			f.say("its student or its lesson is not there")
		}
	}
	err := store.Each(c.archive, "hours", func(h *store.Hour) error {
		var f faults
		theirs(&f, h.StudentID, 0)
		if hours[key{h.StudentID, h.Day}] {
			f.say("it is there twice")
		}
		hours[key{h.StudentID, h.Day}] = true
		f.number("its day", float64(h.Day), 1, 1e6)
		f.text("its notes", h.Note, MostNote)
		if len(h.Items) > MostItems {
			f.say("it has more than %d parts", MostItems)
			h.Items = nil
		}
		for _, it := range h.Items {
			theirs(&f, h.StudentID, it.AssignmentID)
			f.number("its minutes", float64(it.Minutes), 0, MostHour)
			for _, text := range []string{string(it.Kind), it.Step, it.Title, it.Why} {
				f.text("what was done in it", text, mostStep)
			}
		}
		return c.row(&f, "a lesson hour")
	})
	if err != nil {
		return err
	}
	err = store.Each(c.archive, "tasks", func(t *store.Task) error {
		var f faults
		if theirs(&f, t.StudentID, t.AssignmentID); t.AssignmentID == 0 {
			f.say("it is of no lesson")
		}
		f.text("its step", t.Step, mostStep)
		return c.row(&f, "what is to be practised first")
	})
	if err != nil {
		return err
	}
	return store.Each(c.archive, "words", func(w *store.Word) error {
		var f faults
		theirs(&f, w.StudentID, 0)
		f.text("what was said", w.Word, MostWord)
		f.text("the answer", w.Answer, MostWord)
		if _, ok := c.songs[w.SongID]; w.SongID != 0 && !ok {
			f.say("the song that is wished for is not there")
		}
		if len(w.Way) > mostStops {
			f.say("its way has more than %d songs", mostStops)
			w.Way = nil
		}
		for _, stop := range w.Way {
			f.text("its way", stop, mostStep)
		}
		return c.row(&f, "a word of a student")
	})
}

// mostStops is how many songs the way to a wish has at most.
const mostStops = 100

func (c *checker) checkTags() error {
	type on struct {
		kind store.Tagged
		id   int64
	}
	has := map[on]int{}
	return store.Each(c.archive, "tags", func(t *store.Tag) error {
		var f faults
		there := false
		switch t.Kind {
		case store.OnSong:
			_, there = c.songs[t.OfID]
		case store.OnLesson:
			there = c.lessons[t.OfID]
		case store.OnStudent:
			there = c.students[t.OfID]
		}
		if !there {
			f.say("what it is on is not there")
		}
		if has[on{t.Kind, t.OfID}]++; has[on{t.Kind, t.OfID}] > MostTags {
			f.say("there are more than %d on one thing", MostTags)
		}
		if strings.TrimSpace(t.Tag) == "" || strings.Contains(t.Tag, ",") {
			f.say("it is no word")
		}
		f.text("it", t.Tag, MostTag)
		return c.row(&f, "a tag")
	})
}

func (c *checker) checkEntries() error {
	return store.Each(c.archive, "entries", func(e *store.Entry) error {
		c.Entries++
		f := faults(FaultsOfEntry(e))
		if who, ok := c.given[e.AssignmentID]; !ok || who != e.StudentID {
			f.say("its student or its lesson is not there")
		}
		if len(e.Step) > mostStep {
			f.say("its step is longer than %d characters", mostStep)
		}
		if e.PartID < -1 || e.PartID > 1<<30 {
			f.say("its part is known by %d", e.PartID)
		}
		if len(e.Also) > sheet.MaxParts {
			f.say("more was played in it than a song has parts")
		}
		for _, p := range e.Also {
			if p.PartID < 1 || p.PartID > 1<<30 || !p.Rung.Valid() {
				f.say("what was played in it is no part")
				break
			}
		}
		if len(f) == 0 {
			c.Rows++
			return nil
		}
		return c.row(&f, fmt.Sprintf("entry %d", c.Entries))
	})
}

// mostStep is how long what a step is known by may be; once it held names of parts.
const mostStep = 500
