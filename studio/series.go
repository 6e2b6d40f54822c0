package studio

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/skill"
	"valleyside/store"
)

// Songs that lead to each other: a series that shares a skill, another one like this, the way to a
// wish.

// Led is a song of a series or of a way, and how far away it is for a student.
type Led struct {
	store.ShelvedSong
	Ready   skill.Ready // empty where no student is asked for
	Rung    arrange.Rung
	Missing []skill.Need // what is to be learnt first at the beginning
	Things  int          // how many new things a stop of a way has
	Shares  []Shared     // with a song that it is like
}

// Shared is what two songs share: a skill, or a riff, which may lie elsewhere in the other.
type Shared struct {
	Kind  skill.Kind
	Key   string
	Name  string
	There string // what a riff is called in the other song; empty for what is the same
}

// mostLed is how many songs a series or a list of like ones has.
const mostLed = 40

// toCompare are songs as core/skill compares them, with the rungs of each; of those that ask for a
// skill the rungs alone on which they do, and none without any.
func toCompare(list []store.ShelvedSong, read shelfRead, only *skill.ID) (songs []skill.Song, rows []store.ShelvedSong, rungs [][]arrange.Rung) {
	for _, row := range list {
		if s, of := songOf(&row, read.of(row.Needs), only); len(s.On) > 0 {
			songs, rows, rungs = append(songs, s), append(rows, row), append(rungs, of)
		}
	}
	return songs, rows, rungs
}

// songOf is a song as core/skill compares it, on the rungs on which it is what it is, with a skill
// on those alone that ask for it.
func songOf(row *store.ShelvedSong, all []Needed, only *skill.ID) (s skill.Song, rungs []arrange.Rung) {
	s = skill.Song{ID: row.SongID, Grade: row.Grade}
	for _, n := range all {
		asks := only == nil || only.Kind == riffs || slices.ContainsFunc(n.Needs, func(need skill.Need) bool { return need.ID == *only })
		if n.Rung.Literal() && asks {
			s.On, rungs = append(s.On, n.Needs), append(rungs, n.Rung)
		}
	}
	return s, rungs
}

// has is what a student has, as the shelf compares it.
func (h *House) has(ctx context.Context, st *store.Student, read shelfRead) (skill.Has, error) {
	learnt, err := h.Store.LearntParts(ctx, st.StudioID, st.ID)
	return hasOf(st, learnt, read), err
}

// Series lists the songs of a studio that ask for a skill, or have a riff: for a student in the
// order in which they learn them, with nil from easy to hard as written.
func (h *House) Series(ctx context.Context, studio int64, st *store.Student, id skill.ID) (list []Led, err error) {
	rows, err := h.Store.SongsWithSkill(ctx, studio, idOf(st), string(id.Kind), id.Key, mostLed)
	if err != nil {
		return nil, err
	}
	return h.led(ctx, st, rows, &id, true)
}

func idOf(st *store.Student) int64 {
	if st == nil {
		return 0
	}
	return st.ID
}

// led compares songs with what a student has; sorted puts them in the order of a series.
func (h *House) led(ctx context.Context, st *store.Student, rows []store.ShelvedSong, only *skill.ID, sorted bool) (list []Led, err error) {
	if st == nil {
		for _, row := range rows {
			list = append(list, Led{ShelvedSong: row})
		}
		return list, nil
	}
	read := shelfRead{}
	has, err := h.has(ctx, st, read)
	if err != nil {
		return nil, err
	}
	err = h.guard(ctx, "The songs for "+st.Name, []slog.Attr{slog.Int64("student", st.ID)}, func() error {
		songs, rows, rungs := toCompare(rows, read, only)
		placed := has.Series(songs)
		if !sorted {
			slices.SortFunc(placed, func(a, b skill.Placed) int { return a.Song - b.Song })
		}
		for _, p := range placed {
			list = append(list, Led{ShelvedSong: rows[p.Song], Ready: p.Ready, Rung: rungs[p.Song][p.On], Missing: p.Missing})
		}
		return nil
	})
	return list, err
}

// Like lists songs that are like one, what shares most with it and what is rare first, with what they
// share; for a student with how far away each is.
func (h *House) Like(ctx context.Context, studio int64, st *store.Student, song int64, most int) ([]Led, error) {
	rows, err := h.Store.SongsLike(ctx, studio, idOf(st), song, most)
	if err != nil {
		return nil, err
	}
	list, err := h.led(ctx, st, rows, nil, false)
	if err != nil {
		return nil, err
	}
	own, err := h.Store.SkillsOf(ctx, studio, song)
	if err != nil {
		return nil, err
	}
	for i := range list {
		theirs, err := h.Store.SkillsOf(ctx, studio, list[i].SongID)
		if err != nil {
			return nil, err
		}
		list[i].Shares = sharedBy(own, theirs)
	}
	return list, nil
}

// telling is in which order what songs share is told: what makes two songs alike first.
var telling = []skill.Kind{riffs, skill.Change, skill.Scale, skill.Shape, skill.Rhythm, skill.Technique, skill.Tuning, skill.Family}

func sharedBy(own, theirs []store.SongSkill) (list []Shared) {
	for _, a := range own {
		i := slices.IndexFunc(theirs, func(b store.SongSkill) bool { return a.Kind == b.Kind && a.Key == b.Key })
		if i < 0 {
			continue
		}
		s := Shared{Kind: skill.Kind(a.Kind), Key: a.Key, Name: a.Name}
		if s.Kind == riffs {
			s.There = theirs[i].Name
		}
		list = append(list, s)
	}
	slices.SortStableFunc(list, func(a, b Shared) int { return slices.Index(telling, a.Kind) - slices.Index(telling, b.Kind) })
	return list
}

// WaysTo are the ways of songs that lead a student to some songs, by these: each ends with its song,
// and has nothing else where no other brings it nearer. A song that is not on the shelf has none.
func (h *House) WaysTo(ctx context.Context, st *store.Student, to ...int64) (ways map[int64][]Led, err error) {
	rows, err := h.Store.Shelf(ctx, st.StudioID, st.ID)
	if err != nil {
		return nil, err
	}
	has, err := h.has(ctx, st, shelfRead{})
	if err != nil {
		return nil, err
	}
	songs, rungs, err := h.shelfSongs(ctx, st.StudioID, rows)
	if err != nil {
		return nil, err
	}
	ways = map[int64][]Led{}
	err = h.guard(ctx, "The ways of "+st.Name, []slog.Attr{slog.Int64("student", st.ID), slog.Any("songs", to)}, func() error {
		for _, id := range to {
			wish := slices.IndexFunc(rows, func(s store.Marked) bool { return s.SongID == id })
			if wish < 0 || ways[id] != nil {
				continue
			}
			for _, s := range has.Way(songs, wish) {
				ways[id] = append(ways[id], Led{ShelvedSong: rows[s.Song].ShelvedSong, Rung: rungs[s.Song][s.On], Missing: s.New, Things: s.Things})
			}
		}
		return nil
	})
	return ways, err
}

// shelfSongs are the songs of a shelf as core/skill compares them, with the rungs of each. What
// they ask for is read once for as long as no song of the studio changes.
func (h *House) shelfSongs(ctx context.Context, studio int64, rows []store.Marked) (songs []skill.Song, rungs [][]arrange.Rung, err error) {
	home, err := h.Store.Studio(ctx, studio)
	if err != nil {
		return nil, nil, err
	}
	marks := make([]string, len(rows))
	for i := range rows {
		marks[i] = fmt.Sprint(rows[i].SongID, " ", rows[i].Mark)
	}
	type read struct {
		songs []skill.Song
		rungs [][]arrange.Rung
	}
	is, err := Worked(ctx, h, studio, WorkOf("shelf", home.ChordSchool, marks), 0, func() (r read, err error) {
		needs, err := h.Store.ShelfNeeds(ctx, studio)
		text := map[int64]string{}
		for _, n := range needs {
			text[n.SongID] = n.Needs
		}
		for i := range rows {
			s, of := songOf(&rows[i].ShelvedSong, shelfRead{}.of(text[rows[i].SongID]), nil)
			if len(s.On) == 0 { // of one that could not be measured nothing is known
				s.On, of = [][]skill.Need{{{ID: skill.ID{Kind: skill.Reach}, Level: 1e6}}}, []arrange.Rung{arrange.AsWritten}
			}
			r.songs, r.rungs = append(r.songs, s), append(r.rungs, of)
		}
		return r, err
	})
	return is.songs, is.rungs, err
}

// TaughtBy says which step of the lesson of a song teaches something that it asks for, by its kind
// and name; empty where none does by itself.
func TaughtBy(kind skill.Kind, name string) string {
	switch kind {
	case skill.Shape, skill.Family:
		return "the step of the shape"
	case skill.Change:
		return "the step of the change"
	case skill.Rhythm:
		return "the step of the rhythm, on muted strings"
	case skill.Pace:
		return "its pieces, faster from step to step"
	case skill.Technique:
		if strings.Contains(name, "barre") || strings.Contains(name, "finger") || strings.Contains(name, "octave") {
			return "the steps of its shapes"
		}
		return "the drill of its hardest piece"
	case skill.Scale:
		return "its pieces, slowly"
	}
	return ""
}

// Stops says in words what a way goes through before its end, of each song what comes first in it;
// nothing where the end is the only one.
func Stops(way []Led) (stops store.Names) {
	for i, l := range way {
		if i == len(way)-1 {
			break
		}
		text := l.Title
		if len(l.Missing) > 0 {
			text += fmt.Sprintf(" (%s)", l.Missing[0].Name)
		}
		stops = append(stops, text)
	}
	return stops
}
