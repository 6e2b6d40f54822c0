package store

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"fmt"
	"math"
	"slices"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
)

// Taken is an export that has been read again: of a studio, or of one student with the
// songs and lessons that belong to them.
type Taken struct {
	Everything
	Student *Student `json:"student"`
}

// Whole tells whether it is of a whole studio.
func (t *Taken) Whole() bool { return t.Student == nil }

// mostFaults is how many faults of an export are listed.
const mostFaults = 50

// checker lists what is wrong with an export.
type checker struct {
	faults []string
}

func (c *checker) say(format string, a ...any) {
	if len(c.faults) < mostFaults {
		c.faults = append(c.faults, fmt.Sprintf(format, a...))
	}
}

// text holds a text against its length.
func (c *checker) text(what, s string, most int) {
	if !utf8.ValidString(s) || utf8.RuneCountInString(s) > most {
		c.say("%s is longer than %d characters, or no text", what, most)
	}
}

func (c *checker) number(what string, v, low, high float64) {
	if math.IsNaN(v) || v < low || v > high {
		c.say("%s is %g; it goes from %g to %g", what, v, low, high)
	}
}

// Check lists what keeps an export from being taken in; it is taken whole or not at all.
func (t *Taken) Check() []string {
	c := &checker{}
	if t.Student != nil {
		t.Students = []Student{*t.Student}
	}
	songs, versions, lessons := map[int64]bool{}, map[[2]int64]bool{}, map[int64]bool{}
	for i, g := range t.Songs {
		if songs[g.ID] {
			c.say("song %d (%s) is there twice", i+1, g.Title)
		}
		songs[g.ID] = true
		c.text(fmt.Sprintf("the title of song %d", i+1), g.Title, 200)
	}
	for i, v := range t.Versions {
		if !songs[v.SongID] {
			c.say("version %d in the list is of a song that is not there", i+1)
		}
		if v.Version < 1 || versions[[2]int64{v.SongID, int64(v.Version)}] {
			c.say("version %d of a song is there twice, or has no number", v.Version)
		}
		versions[[2]int64{v.SongID, int64(v.Version)}] = true
		c.sheet(fmt.Sprintf("version %d in the list", i+1), v.Sheet)
	}
	for _, g := range t.Songs {
		if !versions[[2]int64{g.ID, int64(g.Version)}] {
			c.say("the saved version of %s is not there", g.Title)
		}
		if g.Draft != nil {
			c.sheet("what was typed of "+g.Title, *g.Draft)
		}
	}
	for _, y := range t.Typed {
		if !songs[y.SongID] {
			c.say("something that was typed is of a song that is not there")
		}
		c.sheet("something that was typed", y.Sheet)
	}
	for _, w := range t.Ways {
		if _, err := arrange.ParseRung(w.Rung); err != nil || !songs[w.SongID] {
			c.say("a wish for %s, %s is of a song or a rung that is not there", w.Part, w.Rung)
		}
		c.text("a wish for "+w.Part, w.Way, 100_000)
	}
	for _, l := range t.Lessons {
		if lessons[l.ID] || !songs[l.SongID] {
			c.say("the lesson %s is there twice, or its song is not there", l.Name)
		}
		lessons[l.ID] = true
		c.text("a lesson's name", l.Name, 200)
		c.number("the tempo of "+l.Name, l.TargetTempo, 1, 1000)
		c.parts(l.Name, l.Parts)
	}
	for _, p := range t.Templates {
		c.text("a template's name", p.Name, 200)
		c.text("the template "+p.Name, p.Steps, 100_000)
	}
	t.checkStudents(c, lessons, versions)
	return c.faults
}

func (c *checker) sheet(what, s string) {
	if len(s) > sheet.MaxBytes || !utf8.ValidString(s) {
		c.say("%s has more than %d KB, or is no text", what, sheet.MaxBytes>>10)
	}
}

func (c *checker) parts(of string, parts []Part) {
	for _, p := range parts {
		if _, err := arrange.ParseRung(p.Rung); err != nil && p.Rung != "" {
			c.say("%s: %q is no rung", of, p.Rung)
		}
		c.text("a part of "+of, p.Part, 200)
		c.text("how a part of "+of+" is made", p.Way, 100_000)
		c.number("a tempo of "+of, p.Target, 0, 1000)
	}
}

func (t *Taken) checkStudents(c *checker, lessons map[int64]bool, versions map[[2]int64]bool) {
	students, given := map[int64]bool{}, map[int64]int64{}
	for i := range t.Students {
		st := &t.Students[i]
		if students[st.ID] {
			c.say("the student %s is there twice", st.Name)
		}
		students[st.ID] = true
		for _, fault := range st.Faults() {
			c.say("student %d: %s", i+1, fault)
		}
	}
	for _, a := range t.Assignments {
		if _, twice := given[a.ID]; twice || !students[a.StudentID] || !lessons[a.LessonID] || !versions[[2]int64{a.SongID, int64(a.SongVersion)}] {
			c.say("%s was given twice, or its student, lesson or song is not there", a.Name)
		}
		given[a.ID] = a.StudentID
		c.text("the name of what was given", a.Name, 200)
		c.number("the tempo of "+a.Name, a.TargetTempo, 1, 1000)
		c.parts(a.Name, a.Parts)
	}
	for i, e := range t.Entries {
		if who, ok := given[e.AssignmentID]; !ok || who != e.StudentID {
			c.say("entry %d is of a student or a lesson that is not there", i+1)
		}
		for _, fault := range e.Faults() {
			c.say("entry %d: %s", i+1, fault)
		}
	}
}

// Faults lists what a student cannot be.
func (st *Student) Faults() []string {
	c := &checker{}
	if st.Name == "" {
		c.say("there is no name")
	}
	c.text("the name", st.Name, 80)
	c.text("what is noted about "+st.Name, st.About, 4000)
	c.text("what is known", st.Known, 4000)
	c.number("the reach", st.Reach, 30, 400)
	c.number("the scale length", st.Scale, 200, 1000)
	c.number("the strokes a second", st.NotesPerSecond, 0.1, 40)
	c.number("the minutes a day", float64(st.Minutes), 0, 600)
	c.number("the day of the lesson", float64(st.LessonDay), -1, 6)
	if _, err := time.Parse("15:04", st.LessonTime); err != nil && st.LessonTime != "" {
		c.say("the time of the lesson is %q; write it like 16:30", st.LessonTime)
	}
	return c.faults
}

// Faults lists what an entry cannot be.
func (e *Entry) Faults() []string {
	c := &checker{}
	c.text("the part", e.Part, 200)
	c.text("the words", e.Word, 2000)
	c.number("the tempo", e.Tempo, 0, 1000)
	c.number("the clean passes", float64(e.Clean), 0, 1000)
	c.number("the minutes", float64(e.Minutes), 0, 24*60)
	if e.PractisedAt <= 0 {
		c.say("there is no day")
	}
	return c.faults
}

// Import takes an export in that Check finds nothing wrong with: a whole studio into one
// that has no songs and no students, one student into any, beside those that are there. Songs and
// lessons of a student that the studio has already are not taken twice. Links are not in
// an export; new ones have to be made.
func (s *Store) Import(ctx context.Context, studio int64, t *Taken) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		im := importer{tx: tx, studio: studio, t: t, songs: map[int64]int64{}, versions: map[[2]int64]int{}, lessons: map[int64]int64{}, students: map[int64]int64{}, given: map[int64]int64{}}
		if t.Whole() {
			n, err := get[int](ctx, tx, "SELECT (SELECT count(*) FROM songs WHERE studio_id = :studio) + (SELECT count(*) FROM students WHERE studio_id = :studio)", args{"studio": studio})
			if err != nil {
				return err
			}
			if n > 0 {
				return ErrNotEmpty
			}
		}
		for _, step := range []func(context.Context) error{im.settings, im.takeSongs, im.takeLessons, im.takeStudents, im.takeGiven, im.takeEntries} {
			if err := step(ctx); err != nil {
				return err
			}
		}
		return nil
	})
}

// ErrNotEmpty is answered where a whole studio is to be taken into one that has songs or
// students.
var ErrNotEmpty = fmt.Errorf("the studio is not empty")

// importer takes an export in; its maps lead from the numbers in the export to those here.
type importer struct {
	tx       *sqlx.Tx
	studio   int64
	t        *Taken
	songs    map[int64]int64
	versions map[[2]int64]int // of a song that is here already: which of its versions
	lessons  map[int64]int64
	students map[int64]int64
	given    map[int64]int64
}

func (im *importer) run(ctx context.Context, query string, a args) error {
	a["studio"] = im.studio
	_, err := sqlx.NamedExecContext(ctx, im.tx, query, a)
	return err
}

func (im *importer) add(ctx context.Context, query string, a args) (int64, error) {
	a["studio"] = im.studio
	return insert(ctx, im.tx, query, a)
}

func (im *importer) settings(ctx context.Context) error {
	if !im.t.Whole() || im.t.Studio.Name == "" {
		return nil
	}
	g := im.t.Studio
	return im.run(ctx, `UPDATE studios SET name = :name, string_names = :strings, counting = :counting, chord_school = :school, numbering = :numbering,
		time_zone = :zone, shapes = :shapes, paper = :paper, created_at = :made WHERE id = :studio`,
		args{"name": g.Name, "strings": g.StringNames, "counting": g.Counting, "school": g.ChordSchool, "numbering": g.Numbering, "zone": g.TimeZone, "shapes": g.Shapes, "paper": g.Paper, "made": g.CreatedAt})
}

func (im *importer) takeSongs(ctx context.Context) error {
	for _, g := range im.t.Songs {
		if !im.t.Whole() {
			if known, err := im.known(ctx, g); err != nil || known {
				if err != nil {
					return err
				}
				continue
			}
		}
		id, err := im.add(ctx, `INSERT INTO songs (studio_id, title, version, draft, updated_at, deleted_at) VALUES (:studio, :title, :version, :draft, :updated, :deleted)`,
			args{"title": g.Title, "version": g.Version, "draft": g.Draft, "updated": g.UpdatedAt, "deleted": g.DeletedAt})
		if err != nil {
			return err
		}
		im.songs[g.ID] = id
		for _, v := range im.t.Versions {
			if v.SongID != g.ID {
				continue
			}
			if err := im.run(ctx, "INSERT INTO song_versions (studio_id, song_id, version, sheet, saved_at) VALUES (:studio, :song, :version, :sheet, :saved)",
				args{"song": id, "version": v.Version, "sheet": v.Sheet, "saved": v.SavedAt}); err != nil {
				return err
			}
		}
	}
	for _, y := range im.t.Typed {
		if err := im.run(ctx, "INSERT INTO typed (studio_id, song_id, sheet, typed_at) VALUES (:studio, :song, :sheet, :at)", args{"song": im.songs[y.SongID], "sheet": y.Sheet, "at": y.TypedAt}); err != nil {
			return err
		}
	}
	for _, w := range im.t.Ways {
		if err := im.run(ctx, "INSERT INTO ways (studio_id, song_id, part, rung, way) VALUES (:studio, :song, :part, :rung, :way) ON CONFLICT DO NOTHING",
			args{"song": im.songs[w.SongID], "part": w.Part, "rung": w.Rung, "way": w.Way}); err != nil {
			return err
		}
	}
	for _, p := range im.t.Templates {
		if err := im.run(ctx, "INSERT INTO templates (studio_id, name, steps) VALUES (:studio, :name, :steps) ON CONFLICT DO NOTHING", args{"name": p.Name, "steps": p.Steps}); err != nil {
			return err
		}
	}
	return nil
}

// known finds a song of the studio that has every version of a song in the file that
// something was given of.
func (im *importer) known(ctx context.Context, g Song) (bool, error) {
	candidates, err := list[int64](ctx, im.tx, "SELECT id FROM songs WHERE studio_id = :studio AND title = :title AND deleted_at = 0 ORDER BY id", args{"studio": im.studio, "title": g.Title})
	if err != nil {
		return false, err
	}
	for _, id := range candidates {
		found := map[[2]int64]int{}
		all := true
		for _, v := range im.t.Versions {
			if v.SongID != g.ID {
				continue
			}
			n, err := list[int](ctx, im.tx, "SELECT version FROM song_versions WHERE studio_id = :studio AND song_id = :song AND sheet = :sheet ORDER BY version DESC", args{"studio": im.studio, "song": id, "sheet": v.Sheet})
			if err != nil {
				return false, err
			}
			if len(n) == 0 {
				all = false
				break
			}
			found[[2]int64{g.ID, int64(v.Version)}] = n[0]
		}
		if all {
			im.songs[g.ID] = id
			for k, v := range found {
				im.versions[k] = v
			}
			return true, nil
		}
	}
	return false, nil
}

func (im *importer) takeLessons(ctx context.Context) error {
	for _, l := range im.t.Lessons {
		if !im.t.Whole() {
			there, err := list[int64](ctx, im.tx, "SELECT id FROM lessons WHERE studio_id = :studio AND song_id = :song AND name = :name AND deleted_at = 0", args{"studio": im.studio, "song": im.songs[l.SongID], "name": l.Name})
			if err != nil {
				return err
			}
			if len(there) > 0 {
				im.lessons[l.ID] = there[0]
				continue
			}
		}
		id, err := im.add(ctx, "INSERT INTO lessons (studio_id, song_id, name, target_tempo, plan, created_at, deleted_at) VALUES (:studio, :song, :name, :tempo, :plan, :made, :deleted)",
			args{"song": im.songs[l.SongID], "name": l.Name, "tempo": l.TargetTempo, "plan": l.Plan, "made": l.CreatedAt, "deleted": l.DeletedAt})
		if err != nil {
			return err
		}
		im.lessons[l.ID] = id
		for i, p := range l.Parts {
			if err := im.run(ctx, "INSERT INTO lesson_parts (studio_id, lesson_id, position, part, rung) VALUES (:studio, :lesson, :position, :part, :rung)",
				args{"lesson": id, "position": i, "part": p.Part, "rung": p.Rung}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (im *importer) takeStudents(ctx context.Context) error {
	for _, st := range im.t.Students {
		old := st.ID
		st.StudioID = im.studio
		id, err := addStudent(ctx, im.tx, st)
		if err != nil {
			return err
		}
		if st.DeletedAt != 0 {
			if err := im.run(ctx, "UPDATE students SET deleted_at = :at WHERE studio_id = :studio AND id = :id", args{"id": id, "at": st.DeletedAt}); err != nil {
				return err
			}
		}
		im.students[old] = id
	}
	return nil
}

func (im *importer) takeGiven(ctx context.Context) error {
	for _, a := range im.t.Assignments {
		version := a.SongVersion
		if v, ok := im.versions[[2]int64{a.SongID, int64(a.SongVersion)}]; ok {
			version = v
		}
		id, err := im.add(ctx, `INSERT INTO assignments (studio_id, student_id, lesson_id, song_id, song_version, name, target_tempo, plan, assigned_at, ended_at)
			VALUES (:studio, :student, :lesson, :song, :version, :name, :tempo, :plan, :at, :ended)`,
			args{"student": im.students[a.StudentID], "lesson": im.lessons[a.LessonID], "song": im.songs[a.SongID], "version": version, "name": a.Name, "tempo": a.TargetTempo, "plan": a.Plan, "at": a.AssignedAt, "ended": a.EndedAt})
		if err != nil {
			return err
		}
		im.given[a.ID] = id
		for i, p := range a.Parts {
			if err := im.run(ctx, "INSERT INTO assignment_parts (studio_id, assignment_id, position, part, rung, way, target) VALUES (:studio, :given, :position, :part, :rung, :way, :target)",
				args{"given": id, "position": i, "part": p.Part, "rung": p.Rung, "way": p.Way, "target": p.Target}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (im *importer) takeEntries(ctx context.Context) error {
	entries := slices.Clone(im.t.Entries)
	slices.SortStableFunc(entries, func(a, b Entry) int { return int(min(max(a.ID-b.ID, -1), 1)) })
	for _, e := range entries {
		e.StudioID, e.StudentID, e.AssignmentID, e.SentID = im.studio, im.students[e.StudentID], im.given[e.AssignmentID], newSentID()
		if err := addEntry(ctx, im.tx, e); err != nil {
			return err
		}
	}
	return nil
}

// newSentID is the mark of an entry that nobody has sent.
func newSentID() string {
	var b [12]byte
	rand.Read(b[:]) //nolint:errcheck // it never fails
	return "imported-" + base64.RawURLEncoding.EncodeToString(b[:])
}
