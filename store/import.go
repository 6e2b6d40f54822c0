package store

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// ErrNotEmpty is answered where a whole studio is to be taken into one that has songs or
// students.
var ErrNotEmpty = errors.New("the studio is not empty")

// TakeIn is how an export is taken in.
type TakeIn struct {
	Archive *Archive // everything in it has been checked
	// Upgrade brings rows that were written by an older program up to date, once they are
	// there.
	Upgrade func(context.Context) error
	// Report is told how many rows are there; nil for nobody.
	Report func(rows int)
}

// Import takes an export in: a whole studio into one
// that has no songs and no students, one student into any, beside those that are there. Songs and
// lessons of a student that the studio has already are not taken twice. Links are not in
// an export; new ones have to be made. It goes in whole or not at all, though others write
// in between: what has come is taken out again where something fails, or at the next start.
func (s *Store) Import(ctx context.Context, studio int64, t TakeIn) error {
	im := importer{s: s, studio: studio, TakeIn: t, songs: map[int64]int64{}, versions: map[[2]int64]int{}, lessons: map[int64]int64{}, students: map[int64]int64{}, given: map[int64]int64{}}
	err := s.in(ctx, func(tx *sqlx.Tx) error {
		im.tx = tx
		if t.Archive.Whole {
			n, err := get[int](ctx, tx, "SELECT (SELECT count(*) FROM songs WHERE studio_id = :studio) + (SELECT count(*) FROM students WHERE studio_id = :studio)", args{"studio": studio})
			if err != nil {
				return err
			}
			if n > 0 {
				return ErrNotEmpty
			}
		}
		for _, step := range []func(context.Context) error{im.takeSongs, im.takeLessons, im.takeStudents, im.takeGiven, im.takeHours, im.takeTimetable, im.begin} {
			if err := step(ctx); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, step := range []func(context.Context) error{im.takeEntries, im.upgrade, im.stand, im.end} {
		if err := step(ctx); err != nil {
			undo, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Minute)
			defer cancel()
			return errors.Join(err, s.undoTaking(undo, im.taking))
		}
	}
	return nil
}

// importer takes an export in; its maps lead from the numbers in the export to those here.
type importer struct {
	TakeIn
	s        *Store
	tx       *sqlx.Tx
	studio   int64
	taking   taking
	rows     int
	songs    map[int64]int64
	versions map[[2]int64]int // of a song that is here already: which of its versions
	lessons  map[int64]int64
	students map[int64]int64
	given    map[int64]int64
}

// taking is what of an export has come so far.
type taking struct {
	ID       int64
	StudioID int64 `db:"studio_id"`
	Songs    Numbers
	Lessons  Numbers
	Students Numbers
}

func (im *importer) came(rows int) {
	if im.rows += rows; im.Report != nil {
		im.Report(im.rows)
	}
}

func (im *importer) run(ctx context.Context, query string, a args) error {
	a["studio"] = im.studio
	return run(ctx, im.tx, query, a)
}

func (im *importer) add(ctx context.Context, query string, a args) (int64, error) {
	a["studio"] = im.studio
	return insert(ctx, im.tx, query, a)
}

func (im *importer) takeSongs(ctx context.Context) error {
	known, err := im.knownSongs(ctx)
	if err != nil {
		return err
	}
	new := map[int64]bool{}
	err = Each(im.Archive, "songs", func(g *Song) error {
		if known[g.ID] {
			return nil
		}
		id, err := im.add(ctx, `INSERT INTO songs (studio_id, title, version, next_part, draft, updated_at, deleted_at, archived_at) VALUES (:studio, :title, :version, :next, :draft, :updated, :deleted, :archived)`,
			args{"title": g.Title, "version": g.Save, "next": g.NextPart, "draft": g.Draft, "updated": g.UpdatedAt, "deleted": g.DeletedAt, "archived": g.ArchivedAt})
		im.songs[g.ID], new[g.ID] = id, true
		im.taking.Songs = append(im.taking.Songs, int(id))
		im.came(1)
		return err
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "versions", func(v *ExportedSave) error {
		if !new[v.SongID] {
			return nil
		}
		im.came(1)
		return im.run(ctx, "INSERT INTO song_versions (studio_id, song_id, version, sheet, saved_at) VALUES (:studio, :song, :version, :sheet, :saved)",
			args{"song": im.songs[v.SongID], "version": v.Save, "sheet": v.Sheet, "saved": v.SavedAt})
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "parts", func(p *SongPart) error {
		if !new[p.SongID] {
			return nil
		}
		return im.run(ctx, "INSERT INTO song_parts (studio_id, song_id, version, position, part_id, name, bars, next_bar) VALUES (:studio, :song, :version, :position, :part, :name, :bars, :next)",
			args{"song": im.songs[p.SongID], "version": p.Save, "position": p.Position, "part": p.PartID, "name": p.Name, "bars": p.Bars, "next": p.NextBar})
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "typed", func(y *ExportedTyped) error {
		im.came(1)
		return im.run(ctx, "INSERT INTO typed (studio_id, song_id, sheet, typed_at) VALUES (:studio, :song, :sheet, :at)", args{"song": im.songs[y.SongID], "sheet": y.Sheet, "at": y.TypedAt})
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "ways", func(w *ExportedWay) error {
		if w.PartID == 0 { // of an older program, by name
			return im.run(ctx, "INSERT INTO old_ways (studio_id, song_id, part, rung, way) VALUES (:studio, :song, :part, :rung, :way) ON CONFLICT DO NOTHING",
				args{"song": im.songs[w.SongID], "part": w.Part, "rung": w.Rung, "way": w.Way.Way})
		}
		return im.run(ctx, "INSERT INTO ways (studio_id, song_id, part_id, player, rung, way) VALUES (:studio, :song, :part, :player, :rung, :way) ON CONFLICT DO NOTHING",
			args{"song": im.songs[w.SongID], "part": w.PartID, "player": w.Player, "rung": w.Rung, "way": w.Way.Way})
	})
	if err != nil {
		return err
	}
	return Each(im.Archive, "templates", func(p *Template) error {
		return im.run(ctx, "INSERT INTO templates (studio_id, name, steps) VALUES (:studio, :name, :steps) ON CONFLICT DO NOTHING", args{"name": p.Name, "steps": p.Steps})
	})
}

// ExportedWay is a way as exports have it; those of older programs name the part.
type ExportedWay struct {
	Way
	Part string `json:"part"`
}

// knownSongs finds the songs of the studio that have every version of a song in the export
// of a student, with parts that are known by the same numbers, and tells which those are.
func (im *importer) knownSongs(ctx context.Context) (map[int64]bool, error) {
	known := map[int64]bool{}
	if im.Archive.Whole {
		return known, nil
	}
	versions, parts := map[int64][]ExportedSave{}, map[[2]int64][]SongPart{}
	err := Each(im.Archive, "versions", func(v *ExportedSave) error {
		versions[v.SongID] = append(versions[v.SongID], *v)
		return nil
	})
	if err == nil {
		err = Each(im.Archive, "parts", func(p *SongPart) error {
			k := [2]int64{p.SongID, int64(p.Save)}
			parts[k] = append(parts[k], *p)
			return nil
		})
	}
	if err != nil {
		return nil, err
	}
	err = Each(im.Archive, "songs", func(g *Song) error {
		here, err := list[Song](ctx, im.tx, songColumns+" WHERE s.studio_id = :studio AND s.title = :title AND s.deleted_at = 0 ORDER BY s.id", args{"studio": im.studio, "title": g.Title})
		if err != nil {
			return err
		}
		for _, h := range here {
			found := map[[2]int64]int{}
			for _, v := range versions[g.ID] {
				n, err := list[int](ctx, im.tx, "SELECT version FROM song_versions WHERE studio_id = :studio AND song_id = :song AND sheet = :sheet ORDER BY version DESC", args{"studio": im.studio, "song": h.ID, "sheet": v.Sheet})
				if err != nil {
					return err
				}
				for _, version := range n {
					rows, err := list[SongPart](ctx, im.tx, songPartColumns, args{"studio": im.studio, "song": h.ID, "version": version})
					if err != nil {
						return err
					}
					key := [2]int64{g.ID, int64(v.Save)}
					if g.NextPart == 0 || alike(rows, parts[key]) { // what an older program wrote goes by names
						found[key] = version
						break
					}
				}
			}
			if len(found) == len(versions[g.ID]) {
				im.songs[g.ID], known[g.ID] = h.ID, true
				for k, v := range found {
					im.versions[k] = v
				}
				return nil
			}
		}
		return nil
	})
	return known, err
}

// alike tells whether parts are known by the same numbers.
func alike(a, b []SongPart) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].PartID != b[i].PartID || fmt.Sprint(a[i].Bars) != fmt.Sprint(b[i].Bars) {
			return false
		}
	}
	return true
}

func (im *importer) takeLessons(ctx context.Context) error {
	return Each(im.Archive, "lessons", func(l *Lesson) error {
		if !im.Archive.Whole {
			there, err := list[int64](ctx, im.tx, "SELECT id FROM lessons WHERE studio_id = :studio AND song_id = :song AND name = :name AND deleted_at = 0", args{"studio": im.studio, "song": im.songs[l.SongID], "name": l.Name})
			if err != nil {
				return err
			}
			if len(there) > 0 {
				im.lessons[l.ID] = there[0]
				return nil
			}
		}
		id, err := im.add(ctx, "INSERT INTO lessons (studio_id, song_id, name, target_tempo, plan, created_at, deleted_at, archived_at) VALUES (:studio, :song, :name, :tempo, :plan, :made, :deleted, :archived)",
			args{"song": im.songs[l.SongID], "name": l.Name, "tempo": l.TargetTempo, "plan": l.Plan, "made": l.CreatedAt, "deleted": l.DeletedAt, "archived": l.ArchivedAt})
		if err != nil {
			return err
		}
		im.lessons[l.ID] = id
		im.taking.Lessons = append(im.taking.Lessons, int(id))
		im.came(1)
		return setParts(ctx, im.tx, "lesson", im.studio, id, l.Parts)
	})
}

func (im *importer) takeStudents(ctx context.Context) error {
	name := "students"
	if !im.Archive.Whole {
		name = "student"
	}
	return Each(im.Archive, name, func(st *Student) error {
		old := st.ID
		st.StudioID = im.studio
		if im.Archive.Has("series") { // which has their places
			st.LessonDay = -1
		}
		id, err := addStudent(ctx, im.tx, *st)
		if err != nil {
			return err
		}
		im.students[old] = id
		im.taking.Students = append(im.taking.Students, int(id))
		im.came(1)
		if st.DeletedAt == 0 && st.ArchivedAt == 0 {
			return nil
		}
		return im.run(ctx, "UPDATE students SET deleted_at = :deleted, archived_at = :archived WHERE studio_id = :studio AND id = :id",
			args{"id": id, "deleted": st.DeletedAt, "archived": st.ArchivedAt})
	})
}

func (im *importer) takeGiven(ctx context.Context) error {
	return Each(im.Archive, "assignments", func(a *Assignment) error {
		version := a.SongSave
		if v, ok := im.versions[[2]int64{a.SongID, int64(a.SongSave)}]; ok {
			version = v
		}
		id, err := im.add(ctx, `INSERT INTO assignments (studio_id, student_id, lesson_id, song_id, song_version, name, target_tempo, plan, assigned_at, ended_at)
			VALUES (:studio, :student, :lesson, :song, :version, :name, :tempo, :plan, :at, :ended)`,
			args{"student": im.students[a.StudentID], "lesson": im.lessons[a.LessonID], "song": im.songs[a.SongID], "version": version, "name": a.Name, "tempo": a.TargetTempo, "plan": a.Plan, "at": a.AssignedAt, "ended": a.EndedAt})
		if err != nil {
			return err
		}
		im.given[a.ID] = id
		im.came(1)
		return setParts(ctx, im.tx, "assignment", im.studio, id, a.Parts)
	})
}

func (im *importer) takeHours(ctx context.Context) error {
	err := Each(im.Archive, "hours", func(h *Hour) error {
		im.came(1)
		id, err := im.add(ctx, "INSERT INTO hours (studio_id, student_id, day, note) VALUES (:studio, :student, :day, :note)",
			args{"student": im.students[h.StudentID], "day": h.Day, "note": h.Note})
		if err != nil {
			return err
		}
		for i := range h.Items {
			h.Items[i].AssignmentID = im.given[h.Items[i].AssignmentID]
		}
		return setItems(ctx, im.tx, id, h.Items)
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "tasks", func(t *Task) error {
		return im.run(ctx, "INSERT INTO tasks (studio_id, student_id, assignment_id, step, position) VALUES (:studio, :student, :assignment, :step, :position) ON CONFLICT DO NOTHING",
			args{"student": im.students[t.StudentID], "assignment": im.given[t.AssignmentID], "step": t.Step, "position": t.Position})
	})
	if err != nil {
		return err
	}
	err = Each(im.Archive, "words", func(w *Word) error {
		im.came(1)
		w.StudioID, w.StudentID, w.SongID, w.SentID = im.studio, im.students[w.StudentID], im.songs[w.SongID], newSentID()
		return addWord(ctx, im.tx, w)
	})
	if err != nil {
		return err
	}
	at := map[Tagged]map[int64]int64{OnSong: im.songs, OnLesson: im.lessons, OnStudent: im.students}
	return Each(im.Archive, "tags", func(t *Tag) error {
		im.came(1)
		return im.run(ctx, "INSERT INTO tags (studio_id, kind, of_id, tag) VALUES (:studio, :kind, :id, :tag) ON CONFLICT DO NOTHING",
			args{"kind": t.Kind, "id": at[t.Kind][t.OfID], "tag": t.Tag})
	})
}

func (im *importer) takeTimetable(ctx context.Context) error {
	series, making := map[int64]int64{}, map[int64]Series{}
	err := Each(im.Archive, "series", func(one *Series) error {
		old := one.ID
		one.StudioID = im.studio
		for i, id := range one.Students {
			one.Students[i] = im.students[id]
		}
		made := *one
		one.MakesUp = 0 // which may come after it
		id, err := addSeries(ctx, im.tx, *one)
		if series[old] = id; made.MakesUp > 0 {
			making[id] = made
		}
		im.came(1)
		return err
	})
	if err != nil {
		return err
	}
	for id, one := range making {
		if err := im.run(ctx, "UPDATE series SET makes_up = :of WHERE studio_id = :studio AND id = :id", args{"id": id, "of": series[one.MakesUp]}); err != nil {
			return err
		}
	}
	return Each(im.Archive, "changes", func(c *Change) error {
		im.came(1)
		return im.run(ctx, "INSERT INTO changes (studio_id, series_id, day, kind, to_day, to_at) VALUES (:studio, :series, :day, :kind, :to, :at)",
			args{"series": series[c.SeriesID], "day": c.Day, "kind": c.Kind, "to": c.ToDay, "at": c.ToAt})
	})
}

// begin notes what has come, so that it can be taken out again.
func (im *importer) begin(ctx context.Context) (err error) {
	im.taking.StudioID = im.studio
	im.taking.ID, err = im.add(ctx, "INSERT INTO takings (studio_id, songs, lessons, students) VALUES (:studio, :songs, :lessons, :students)",
		args{"songs": im.taking.Songs, "lessons": im.taking.Lessons, "students": im.taking.Students})
	return err
}

// entriesAtOnce is how many entries are written before others may write.
const entriesAtOnce = 1000

func (im *importer) takeEntries(ctx context.Context) error {
	var batch []Entry
	flush := func() error {
		err := im.s.in(ctx, func(tx *sqlx.Tx) error {
			add, err := tx.PrepareNamedContext(ctx, newEntry)
			if err != nil {
				return err
			}
			defer add.Close()
			for i := range batch {
				if _, err := add.ExecContext(ctx, &batch[i]); err != nil {
					return err
				}
			}
			return nil
		})
		im.came(len(batch))
		batch = batch[:0]
		return err
	}
	err := Each(im.Archive, "entries", func(e *Entry) error {
		e.StudioID, e.StudentID, e.AssignmentID, e.SentID = im.studio, im.students[e.StudentID], im.given[e.AssignmentID], newSentID()
		if batch = append(batch, *e); len(batch) < entriesAtOnce {
			return nil
		}
		return flush()
	})
	if err != nil {
		return err
	}
	return flush()
}

func (im *importer) upgrade(ctx context.Context) error {
	if im.Upgrade == nil {
		return nil
	}
	return im.Upgrade(ctx)
}

// stand makes the standings of what was given, some at a time.
func (im *importer) stand(ctx context.Context) error {
	const atOnce = 10
	var ids []int64
	for _, id := range im.given {
		ids = append(ids, id)
	}
	for len(ids) > 0 {
		n := min(atOnce, len(ids))
		err := im.s.in(ctx, func(tx *sqlx.Tx) error {
			for _, id := range ids[:n] {
				if err := standAgain(ctx, tx, im.studio, id); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		ids = ids[n:]
	}
	return nil
}

// end takes the settings over, and then it is there.
func (im *importer) end(ctx context.Context) error {
	return im.s.in(ctx, func(tx *sqlx.Tx) error {
		im.tx = tx
		if im.Archive.Whole {
			before, err := zoneOf(ctx, tx, im.studio)
			if err != nil {
				return err
			}
			err = Each(im.Archive, "studio", func(g *Studio) error {
				return im.run(ctx, `UPDATE studios SET name = :name, string_names = :strings, counting = :counting, chord_school = :school, numbering = :numbering,
					time_zone = :zone, shapes = :shapes, paper = :paper, open_hours = :hours, created_at = :made WHERE id = :studio`,
					args{"name": g.Name, "strings": g.StringNames, "counting": g.Counting, "school": g.ChordSchool, "numbering": g.Numbering, "zone": g.TimeZone, "shapes": g.Shapes, "paper": g.Paper, "hours": g.OpenHours, "made": g.CreatedAt})
			})
			if err != nil {
				return err
			}
			err = Each(im.Archive, "holidays", func(h *Holiday) error {
				return im.run(ctx, "INSERT INTO holidays (studio_id, first_day, last_day, name) VALUES (:studio, :first, :last, :name)", args{"first": h.FirstDay, "last": h.LastDay, "name": h.Name})
			})
			if err != nil {
				return err
			}
			if now, err := zoneOf(ctx, tx, im.studio); err != nil || now.String() != before.String() {
				if err = errors.Join(err, restand(ctx, tx, im.studio)); err != nil {
					return err
				}
			}
		}
		return im.run(ctx, "DELETE FROM takings WHERE studio_id = :studio AND id = :id", args{"id": im.taking.ID})
	})
}

// undoTaking takes out what came of an export that did not come as a whole.
func (s *Store) undoTaking(ctx context.Context, t taking) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		for _, of := range []struct {
			table string
			ids   Numbers
		}{{"students", t.Students}, {"lessons", t.Lessons}, {"songs", t.Songs}} {
			for _, id := range of.ids {
				if err := run(ctx, tx, "DELETE FROM "+of.table+" WHERE studio_id = :studio AND id = :id", args{"studio": t.StudioID, "id": id}); err != nil {
					return err
				}
			}
		}
		if err := withoutStudents(ctx, tx); err != nil {
			return err
		}
		return run(ctx, tx, "DELETE FROM takings WHERE studio_id = :studio AND id = :id", args{"studio": t.StudioID, "id": t.ID})
	})
}

// undoTakings takes out what was cut short when the program ended.
func (s *Store) undoTakings(ctx context.Context) error {
	left, err := list[taking](ctx, s.read, "SELECT * FROM takings", args{})
	for _, t := range left {
		if err := s.undoTaking(ctx, t); err != nil {
			return fmt.Errorf("take out what came of half an export: %w", err)
		}
	}
	return err
}

// newSentID is the mark of an entry that nobody has sent.
func newSentID() string {
	var b [12]byte
	rand.Read(b[:]) //nolint:errcheck // it never fails
	return "imported-" + base64.RawURLEncoding.EncodeToString(b[:])
}
