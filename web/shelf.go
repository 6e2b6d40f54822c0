package web

import (
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/skill"
	"valleyside/store"
	"valleyside/studio"
)

// shelfView is the shelf as it is for one student.
type shelfView struct {
	Page
	Student store.Student
	Groups  []shelfGroup
	Left    int // songs that are being worked out
	Wishes  []wishView
	Titles  []store.SongName // that a wish may mean
}

// shelfGroup are the songs that are so far away.
type shelfGroup struct {
	Title string
	Hint  string
	Ready skill.Ready
	N     int
	Songs []shelfSong
	More  int
}

// shelfSong is a song for a student.
type shelfSong struct {
	store.ListedFit
	First  string // what is to be learnt first
	By     string // the step that teaches it
	Others int    // what else is missing
}

// Simple tells that the song is that near on a simpler rung alone.
func (s *shelfSong) Simple() bool { return s.Rung != arrange.AsWritten && s.Rung != "" }

// mostOnShelf is how many songs of a group are shown.
const mostOnShelf = 40

// shelf shows which songs are ready for a student, which after one thing, and which later.
func (s *roster) shelf(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	ctx, at := c.Request().Context(), home(c).ID
	counts, err := s.Store.CountFits(ctx, at, st.ID)
	if err != nil {
		return err
	}
	v := shelfView{Page: s.page(c, "Songs for "+st.Name, "students"), Student: st, Groups: []shelfGroup{
		{Title: "Ready now", Ready: skill.Now, Hint: "All that they ask for is there."},
		{Title: "One thing to learn first", Ready: skill.First, Hint: "What comes first is named, with the step of the song’s lesson that teaches it."},
		{Title: "Later", Ready: skill.Later, Hint: "More than one thing is missing, or the pace."},
	}}
	n := map[string]int{}
	for _, count := range counts {
		n[count.Ready] = count.N
		v.Left += count.Stale
	}
	for i := range v.Groups {
		g := &v.Groups[i]
		songs, err := s.Store.FitsOf(ctx, at, st.ID, string(g.Ready), mostOnShelf, 0)
		if err != nil {
			return err
		}
		for _, one := range songs {
			song := shelfSong{ListedFit: one}
			if len(one.Missing) > 0 && g.Ready != skill.Now {
				song.First, song.Others = one.Missing[0], len(one.Missing)-1
				if g.Ready == skill.First {
					song.By = studio.TaughtBy(skill.Kind(one.FirstKind), song.First)
				}
			}
			g.Songs = append(g.Songs, song)
		}
		g.N = n[string(g.Ready)]
		g.More = g.N - len(songs)
	}
	if v.Wishes, err = s.wishes(c, &st); err != nil {
		return err
	}
	if slices.ContainsFunc(v.Wishes, func(w wishView) bool { return w.AnsweredAt == 0 }) {
		if v.Titles, err = s.Store.SongNames(ctx, at); err != nil {
			return err
		}
	}
	return c.Render(http.StatusOK, "shelf", v)
}
