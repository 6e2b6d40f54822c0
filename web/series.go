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
	"valleyside/core/progress"
	"valleyside/core/skill"
	"valleyside/store"
	"valleyside/studio"
)

// skillLink is where the series of a skill is, for a student or with 0 for nobody.
func skillLink(kind, key string, student int64) string {
	q := url.Values{"skill": {kind + " " + key}}
	if student != 0 {
		q.Set("student", strconv.FormatInt(student, 10))
	}
	return "/skills?" + q.Encode()
}

// kindNames are what the kinds of skills are called over a list of them.
var kindNames = []struct {
	kind skill.Kind
	name string
}{{"riff", "Riffs that come again"}, {skill.Change, "Changes"}, {skill.Shape, "Shapes"}, {skill.Family, "Shapes that go together"}, {skill.Scale, "Scales"},
	{skill.Rhythm, "Rhythms"}, {skill.Technique, "Techniques"}, {skill.Tuning, "Tunings"}}

// seriesView is the series of a skill, or the skills that there are series of.
type seriesView struct {
	Page
	People  []store.Student
	Who     store.Student
	Skill   string // what it is asked for by; empty for a choice of all
	Name    string
	Songs   []ledSong
	Kinds   []skillKind
	Learn   string // the first of the series that is not there yet: where to begin
	Compare bool   // a student is asked for
}

type skillKind struct {
	Name   string
	Skills []skillLine
}

type skillLine struct {
	Name, Link string
	N          int
}

// ledSong is a song of a series, of a way or of a list of like ones, in words.
type ledSong struct {
	studio.Led
	On     string   // the rung, in words
	First  string   // what is to be learnt first
	By     string   // the step that teaches it
	Why    []string // what it shares, or what it teaches
	Simple string   // of one that comes later, how far away it is on a simpler rung
	Link   string
}

// ledSongs says songs in words, for a student or with 0 for nobody.
func ledSongs(list []studio.Led, student int64) (songs []ledSong) {
	for _, l := range list {
		one := ledSong{Led: l, Link: fmt.Sprintf("/songs/%d", l.SongID)}
		if student != 0 {
			one.Link = fmt.Sprintf("/songs/%d/fit?student=%d", l.SongID, student)
			if one.On = "as written"; l.Rung != arrange.AsWritten {
				one.On = strings.ToLower(l.Rung.Title())
			}
		}
		const most = 3
		if len(l.Missing) > 0 && l.Ready == skill.First {
			one.First, one.By = lacks(l.Missing, most), studio.TaughtBy(l.Missing[0].Kind, l.Missing[0].Name)
		}
		if l.Ready == skill.Later {
			one.First = lacks(l.Missing, most)
			if on := arrange.Rung(l.FitOn); on != "" && !on.Literal() && (l.Fit == string(skill.Now) || l.Fit == string(skill.First)) {
				one.Simple = strings.ToLower(on.Title()) + ": " + l.Fit
			}
		}
		for _, sh := range l.Shares[:min(len(l.Shares), most)] {
			text := sh.Name
			if sh.There != "" {
				text = "the riff of " + sh.Name + ", there " + sh.There
			}
			one.Why = append(one.Why, text)
		}
		songs = append(songs, one)
	}
	return songs
}

// series shows the songs that ask for a skill, for a student in the order in which they learn them;
// or what there are series of.
func (s *roster) series(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	v := seriesView{Page: s.page(c, "Series", "songs"), Skill: c.QueryParam("skill")}
	var err error
	if v.People, err = s.Store.StudentNames(ctx, at); err != nil {
		return err
	}
	var who *store.Student
	if n, err := strconv.ParseInt(c.QueryParam("student"), 10, 64); err == nil && n > 0 {
		if v.Who, err = s.Store.Student(ctx, at, n); err != nil {
			return err
		}
		who, v.Compare = &v.Who, true
	}
	kind, key, ok := strings.Cut(v.Skill, " ")
	if !ok {
		v.Kinds, err = s.skillKinds(c, v.Who.ID)
	} else if v.Name, err = s.Store.SkillCalled(ctx, at, kind, key); err == nil {
		if v.Name == "" {
			return store.ErrNotFound
		}
		var list []studio.Led
		list, err = s.house.Series(ctx, at, who, skill.ID{Kind: skill.Kind(kind), Key: key})
		v.Songs = ledSongs(list, v.Who.ID)
		v.Title = "Songs with " + v.Name
		if kind == "riff" {
			v.Title = "Songs with one riff"
			for i := range v.Songs {
				v.Songs[i].Why = []string{list[i].Name}
			}
		}
	}
	if err != nil {
		return err
	}
	if i := slices.IndexFunc(v.Songs, func(l ledSong) bool { return !l.Given && l.Ready != skill.Later }); v.Compare && i >= 0 {
		v.Learn = v.Songs[i].Title
	}
	return c.Render(http.StatusOK, "series", v)
}

// skillKinds lists what several songs ask for.
func (s *roster) skillKinds(c *echo.Context, student int64) (kinds []skillKind, err error) {
	const least = 2 // one song is no series
	all, err := s.Store.Skills(c.Request().Context(), home(c).ID, "", least)
	for _, k := range kindNames {
		of := skillKind{Name: k.name}
		for _, sk := range all {
			if sk.Kind == string(k.kind) {
				of.Skills = append(of.Skills, skillLine{sk.Name, skillLink(sk.Kind, sk.Key, student), sk.N})
			}
		}
		if len(of.Skills) > 0 {
			kinds = append(kinds, of)
		}
	}
	return kinds, err
}

// aboutView is what there is to know of a song beside its sheet.
type aboutView struct {
	Page
	Song     store.Song
	Facts    studio.Facts
	Tags     string
	Lessons  []store.ListedLesson
	Like     []ledSong
	Skills   []skillKind
	History  []hadRow
	People   []store.Student
	Who      store.Student // for whom songs like it are compared; nobody in particular where there is none
	Minutes  int           // practised by all
	Learnt   int           // who have learnt all of it
	Had      int           // students who had it
	Stale    bool
	OtherTag []store.CountedTag
}

// hadRow is who had a song, and where they are or were with it.
type hadRow struct {
	store.Had
	State progress.State
}

// Mood is the state as it is shown.
func (h hadRow) Mood() string { return string(h.State) }

// Limits of what is shown of a song.
const (
	mostLike    = 6
	mostHistory = 300
)

// aboutSong shows what belongs to a song: its tags and lessons, what it asks for, others like it,
// and who had it.
func (s *songbook) aboutSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	ctx, at := c.Request().Context(), home(c).ID
	v := aboutView{Page: s.page(c, "About "+g.Title, "songs"), Song: g}
	sum, err := s.Store.SongSum(ctx, at, g.ID)
	if err != nil {
		return err
	}
	v.Facts, v.Stale = factsOf(sum.Facts), sum.Stale
	tags, err := s.Store.TagsOf(ctx, at, store.OnSong, g.ID)
	if err != nil {
		return err
	}
	v.Tags = strings.Join(tags[g.ID], ", ")
	if v.OtherTag, err = s.Store.TagsOn(ctx, at, store.OnSong, ""); err != nil {
		return err
	}
	if v.Lessons, err = s.Store.ListedLessons(ctx, at, store.LessonFilter{Song: g.ID, Order: store.ByName}, 0, 0); err != nil {
		return err
	}
	if v.People, err = s.Store.StudentNames(ctx, at); err != nil {
		return err
	}
	var who *store.Student
	if n, err := strconv.ParseInt(c.QueryParam("student"), 10, 64); err == nil && n > 0 {
		if v.Who, err = s.Store.Student(ctx, at, n); err != nil {
			return err
		}
		who = &v.Who
	}
	like, err := s.house.Like(ctx, at, who, g.ID, mostLike)
	if err != nil {
		return err
	}
	v.Like = ledSongs(like, v.Who.ID)
	own, err := s.Store.SkillsOf(ctx, at, g.ID)
	if err != nil {
		return err
	}
	for _, k := range kindNames {
		of := skillKind{Name: k.name}
		for _, sk := range own {
			if sk.Kind == string(k.kind) && k.kind != "riff" {
				of.Skills = append(of.Skills, skillLine{Name: sk.Name, Link: skillLink(sk.Kind, sk.Key, 0)})
			}
		}
		if len(of.Skills) > 0 {
			v.Skills = append(v.Skills, of)
		}
	}
	history, err := s.Store.History(ctx, at, g.ID, 0, mostHistory)
	if err != nil {
		return err
	}
	standings, parts, err := s.Store.StandingsOfSong(ctx, at, g.ID)
	if err != nil {
		return err
	}
	stands, now := studio.StandingsOf(standings), s.Now().In(zone(c))
	had := map[int64]bool{}
	for _, h := range history {
		state := stands.Lesson([]store.Assignment{{ID: h.ID, Parts: parts[h.ID]}}, now)
		v.History = append(v.History, hadRow{h, state})
		v.Minutes += h.Minutes
		if h.Parts > 0 && h.Learnt == h.Parts && !had[h.StudentID] {
			v.Learnt++
		}
		had[h.StudentID] = true
	}
	v.Had = len(had)
	return c.Render(http.StatusOK, "about", v)
}

// wishView is a wish of a student, and the way to it.
type wishView struct {
	store.Word
	Title  string // of the song on the shelf
	Way    []ledSong
	Near   []ledSong // of one that no way leads to: what is like it and nearer
	Stops  store.Names
	Things int // that are new in the song itself, once the others are learnt
	// Simple is the rung on which the song is near already, in words, and how near; empty for none.
	Simple, SimpleReady string
}

// newThings says what is new in a song of a way.
func newThings(l *studio.Led) string {
	if len(l.Missing) == 0 {
		return "nothing is new"
	}
	text := lacks(l.Missing, 4)
	switch {
	case l.Things >= skill.TooMany:
		return "out of reach yet: " + text
	case l.Things == 0:
		return "learnt with it: " + text
	case l.Things == 1:
		return "one new thing: " + text
	}
	return fmt.Sprintf("new, in %d steps: %s", l.Things, text)
}

// lacks names what is missing, at most so much of it; changes are learnt with their shapes.
func lacks(missing []skill.Need, most int) string {
	rest := studio.WithoutChanges(missing)
	var names []string
	for _, n := range rest[:min(len(rest), most)] {
		names = append(names, n.Name)
	}
	text := strings.Join(names, ", ")
	if more := len(rest) - most; more > 0 {
		text += fmt.Sprintf(" and %d more", more)
	}
	if len(rest) < len(missing) {
		text += ", with the changes"
	}
	return text
}

// wishes are the songs that a student wishes for, with the ways to those that are open.
func (s *roster) wishes(c *echo.Context, st *store.Student) (list []wishView, err error) {
	const most = 8
	ctx, at := c.Request().Context(), home(c).ID
	wishes, err := s.Store.WishesOf(ctx, at, st.ID, most)
	if err != nil {
		return nil, err
	}
	var open []int64
	for _, w := range wishes {
		if w.SongID != 0 && w.AnsweredAt == 0 {
			open = append(open, w.SongID)
		}
	}
	var ways map[int64][]studio.Led
	if len(open) > 0 {
		if ways, err = s.house.WaysTo(ctx, st, open...); err != nil {
			if _, trouble := studio.IsTrouble(err); !trouble {
				return nil, err
			}
		}
	}
	for _, w := range wishes {
		v := wishView{Word: w}
		if w.SongID != 0 {
			if v.Title, err = s.called(ctx, at, store.OnSong, w.SongID); err != nil {
				v.Word.SongID, v.Title = 0, "" // it is deleted
			}
		}
		if v.SongID != 0 && w.AnsweredAt == 0 {
			way := ways[v.SongID]
			v.Way, v.Stops = ledSongs(way, st.ID), studio.Stops(way)
			for i := range way {
				v.Way[i].Why = []string{newThings(&way[i])}
			}
			if len(way) > 0 {
				v.Things = way[len(way)-1].Things
			}
			if fit, err := s.Store.FitOf(ctx, at, st.ID, v.SongID); err == nil && !fit.Rung.Literal() && fit.Ready != string(skill.Later) {
				v.Simple, v.SimpleReady = strings.ToLower(fit.Rung.Title()), fit.Ready
			}
			if len(way) == 1 && v.Things > 1 {
				like, err := s.house.Like(ctx, at, st, v.SongID, mostLike)
				if err != nil {
					return nil, err
				}
				v.Near = ledSongs(slices.DeleteFunc(like, func(l studio.Led) bool { return l.Ready == skill.Later }), st.ID)
			}
		}
		list = append(list, v)
	}
	return list, nil
}

// answerWish says which song a wish is, or answers it with the way.
func (s *roster) answerWish(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	n, err := id(c, "wish")
	if err != nil {
		return err
	}
	ctx, at := c.Request().Context(), home(c).ID
	w, err := s.Store.WishOf(ctx, at, st.ID, n)
	if err != nil {
		return err
	}
	back := fmt.Sprintf("/students/%d/songs#wishes", st.ID)
	if c.FormValue("action") == "song" {
		song, _ := strconv.ParseInt(c.FormValue("song"), 10, 64) // none is 0
		if err := s.Store.SetWish(ctx, at, st.ID, n, song); err != nil {
			return err
		}
		return see(c, "%s", back)
	}
	answer := field(c, "answer", studio.MostWord)
	var way store.Names
	if c.FormValue("way") != "" && w.SongID != 0 {
		led, err := s.house.WaysTo(ctx, &st, w.SongID)
		if err != nil {
			return err
		}
		way = studio.Stops(led[w.SongID])
	}
	if answer == "" && len(way) == 0 {
		answer = "Seen."
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Answered the wish of %s for %s.", st.Name, w.Word), s.Store.AnswerWish(ctx, at, st.ID, n, answer, way, store.At(s.Now()))
	})
	if err != nil {
		return err
	}
	return see(c, "%s", back)
}
