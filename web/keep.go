package web

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"valleyside/core/progress"
	"valleyside/store"
	"valleyside/studio"
)

// Tags and the archive, which songs, lessons and students have alike.

// parseTags reads tags with commas between them, each once.
func parseTags(text string) (tags []string, err error) {
	for _, tag := range strings.Split(text, ",") {
		tag = oneLine(strings.TrimSpace(tag), 1000)
		if tag == "" || slices.ContainsFunc(tags, func(is string) bool { return strings.EqualFold(is, tag) }) {
			continue
		}
		if utf8.RuneCountInString(tag) > studio.MostTag {
			return nil, wrong(fmt.Sprintf("“%s…” is too long: a tag has at most %d letters. Put commas between tags.", string([]rune(tag)[:studio.MostTag/2]), studio.MostTag))
		}
		tags = append(tags, tag)
	}
	if len(tags) > studio.MostTags {
		return nil, wrong(fmt.Sprintf("%d tags are the most on one thing.", studio.MostTags))
	}
	return tags, nil
}

// called is what a song, a lesson or a student is called.
func (s *base) called(ctx context.Context, at int64, kind store.Tagged, id int64) (string, error) {
	switch kind {
	case store.OnSong:
		g, err := s.Store.Song(ctx, at, id)
		return g.Title, err
	case store.OnLesson:
		l, err := s.Store.Lesson(ctx, at, id)
		return l.Name, err
	}
	st, err := s.Store.Student(ctx, at, id)
	return st.Name, err
}

// setTags puts tags on something.
func (s *office) setTags(c *echo.Context) error {
	kind, n, err := tagged(c)
	if err != nil {
		return err
	}
	tags, err := parseTags(c.FormValue("tags"))
	if err != nil {
		return err
	}
	at := home(c).ID
	name, err := s.called(c.Request().Context(), at, kind, n)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		says := fmt.Sprintf("Tags of %s: %s.", name, strings.Join(tags, ", "))
		if len(tags) == 0 {
			says = fmt.Sprintf("%s has no tags.", name)
		}
		return says, s.Store.SetTags(ctx, at, kind, n, tags)
	})
	if err != nil {
		return err
	}
	return see(c, "%s", backTo(c, pageFor(kind, n)))
}

// archive puts something away, or takes it out again.
func (s *office) archive(c *echo.Context) error {
	kind, n, err := tagged(c)
	if err != nil {
		return err
	}
	at := home(c)
	name, err := s.called(c.Request().Context(), at.ID, kind, n)
	if err != nil {
		return err
	}
	away := c.FormValue("out") == ""
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		if !away {
			return fmt.Sprintf("%s stands in the lists again.", name), s.Store.Archive(ctx, at.ID, kind, n, 0)
		}
		says := map[store.Tagged]string{store.OnSong: "Put %s away. Lessons of it stay as they are.", store.OnLesson: "Put %s away. Students who have it keep it.",
			store.OnStudent: "Put %s away. Their own places in the timetable end today; links to their page stay until you end them."}[kind]
		err := s.Store.Archive(ctx, at.ID, kind, n, store.At(s.Now()))
		if err == nil && kind == store.OnStudent {
			err = s.Store.SetPlace(ctx, at.ID, n, -1, 0, 0, progress.DayOf(s.Now().In(at.Zone()))+1)
		}
		return fmt.Sprintf(says, name), err
	})
	if err != nil {
		return err
	}
	return see(c, "%s", backTo(c, pageFor(kind, n)))
}
