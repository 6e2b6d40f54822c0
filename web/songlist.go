package web

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/skill"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

type songRow struct {
	store.ListedSong
	Facts studio.Facts
	Hill  draw.Hill
	Tags  []string
}

type songsView struct {
	Page
	Paged  paged
	Songs  []songRow
	Filter store.SongFilter
	Facets store.Facets
	Tags   []store.CountedTag
	Skill  string               // what the skill is called that is asked for
	Skills []store.CountedSkill // to choose from
	Grades []gradeBand
	Band   string
}

// gradeBand is a span of grades that is asked for as a whole.
type gradeBand struct {
	Value, Name string
	low, top    float64
}

var gradeBands = []gradeBand{{"1", "grades 1 and 2", 0.01, 3}, {"3", "grades 3 and 4", 3, 5}, {"5", "grades 5 and 6", 5, 7}, {"7", "grade 7 and up", 7, 0}}

// songsOnPage is how many songs are on a page of their list.
const songsOnPage = 40

// songFilter reads which songs are asked for.
func songFilter(p *paged) (f store.SongFilter) {
	q := p.Only
	f = store.SongFilter{Find: p.Find, Key: q.Get("key"), Tuning: q.Get("tuning"), Tag: q.Get("tag"), Skill: q.Get("skill"), Archived: q.Get("archived") != "", Order: store.SongOrder(q.Get("order"))}
	for _, b := range gradeBands {
		if b.Value == q.Get("grade") {
			f.Low, f.Top = b.low, b.top
		}
	}
	switch f.Order {
	case store.ByGrade, store.ByChange, store.ByStudents:
	default:
		f.Order = store.ByTitle
	}
	return f
}

func (s *songbook) songs(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	v := songsView{Page: s.page(c, "Songs", "songs"), Paged: pageOf(c, "/songs", songsOnPage), Grades: gradeBands, Band: c.QueryParam("grade")}
	v.Paged.only(c, "key", "tuning", "tag", "skill", "grade", "archived", "order")
	v.Filter = songFilter(&v.Paged)
	most, offset := v.Paged.span()
	list, err := s.Store.ListedSongs(ctx, at, v.Filter, most, offset)
	if err != nil {
		return err
	}
	list = cut(&v.Paged, list)
	ids := make([]int64, len(list))
	for i := range list {
		ids[i] = list[i].ID
	}
	tags, err := s.Store.TagsOf(ctx, at, store.OnSong, ids...)
	if err != nil {
		return err
	}
	for _, g := range list {
		v.Songs = append(v.Songs, songRow{g, factsOf(g.Facts), hillOf(g.Hill, 200, 26, "Hillside of "+g.Title), tags[g.ID]})
	}
	if v.Facets, err = s.Store.SongFacets(ctx, at); err != nil {
		return err
	}
	if v.Tags, err = s.Store.TagsOn(ctx, at, store.OnSong, ""); err != nil {
		return err
	}
	// The broad ones, as many as can be chosen from; the others have their series.
	if v.Skills, err = s.Store.Skills(ctx, at, "", 2, string(skill.Family), string(skill.Technique), string(skill.Rhythm)); err != nil {
		return err
	}
	slices.SortFunc(v.Skills, func(a, b store.CountedSkill) int { return strings.Compare(a.Name, b.Name) })
	if kind, key, ok := strings.Cut(v.Filter.Skill, " "); ok {
		if v.Skill, err = s.Store.SkillCalled(ctx, at, kind, key); err != nil {
			return err
		}
	}
	return c.Render(http.StatusOK, "songs", v)
}

// Filtered tells whether not all songs are asked for.
func (v songsView) Filtered() bool { return len(v.Paged.Only) > 0 || v.Paged.Find != "" }

// lessonsView are the lessons of a studio.
type lessonsView struct {
	Page
	Paged    paged
	Lessons  []lessonRow
	Filter   store.LessonFilter
	Tags     []store.CountedTag
	Archived int
}

type lessonRow struct {
	store.ListedLesson
	Tags []string
}

// Filtered tells whether not all lessons are asked for.
func (v lessonsView) Filtered() bool { return len(v.Paged.Only) > 0 || v.Paged.Find != "" }

func (s *lessonbook) lessons(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	v := lessonsView{Page: s.page(c, "Lessons", "lessons"), Paged: pageOf(c, "/lessons", songsOnPage)}
	v.Paged.only(c, "tag", "song", "archived", "order")
	q := v.Paged.Only
	v.Filter = store.LessonFilter{Find: v.Paged.Find, Tag: q.Get("tag"), Archived: q.Get("archived") != "", Order: store.LessonOrder(q.Get("order"))}
	v.Filter.Song, _ = strconv.ParseInt(q.Get("song"), 10, 64)
	switch v.Filter.Order {
	case store.ByAge, store.ByWhoHasIt:
	default:
		v.Filter.Order = store.ByName
	}
	most, offset := v.Paged.span()
	list, err := s.Store.ListedLessons(ctx, at, v.Filter, most, offset)
	if err != nil {
		return err
	}
	list = cut(&v.Paged, list)
	ids := make([]int64, len(list))
	for i := range list {
		ids[i] = list[i].ID
	}
	tags, err := s.Store.TagsOf(ctx, at, store.OnLesson, ids...)
	if err != nil {
		return err
	}
	for _, l := range list {
		v.Lessons = append(v.Lessons, lessonRow{l, tags[l.ID]})
	}
	if v.Tags, err = s.Store.TagsOn(ctx, at, store.OnLesson, ""); err != nil {
		return err
	}
	if v.Archived, err = s.Store.CountArchivedLessons(ctx, at); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "lessons", v)
}
