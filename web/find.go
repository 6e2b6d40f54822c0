package web

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/store"
)

// findView is what was found for some words.
type findView struct {
	Page
	Words  string
	Groups []foundGroup
	None   bool // something was looked for, and nothing found
}

// foundGroup are things of one kind that were found.
type foundGroup struct {
	Title string
	Found []foundLine
}

type foundLine struct {
	To, Title, Beside string
	Excerpt           SafeHTML
}

// How much is found at once, and how much of it is tags and skills.
const (
	mostFound = 24
	mostNamed = 6
)

func (s *office) find(c *echo.Context) error {
	v := findView{Page: s.page(c, "Find", ""), Words: strings.TrimSpace(strings.ToValidUTF8(c.QueryParam("q"), ""))}
	if len(v.Words) > 200 {
		v.Words = ""
	}
	if v.Words != "" {
		if err := s.findIn(c, &v); err != nil {
			return err
		}
		v.None = len(v.Groups) == 0
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "find#found", v)
	}
	return c.Render(http.StatusOK, "find", v)
}

// findIn looks in everything that a studio has.
func (s *office) findIn(c *echo.Context, v *findView) error {
	ctx, at := c.Request().Context(), home(c).ID
	found, err := s.Store.Find(ctx, at, v.Words, mostFound)
	if err != nil {
		return err
	}
	of := map[store.FoundKind][]foundLine{}
	for _, f := range found {
		line := foundLine{Title: f.Title}
		if !inTitle(v.Words, f.Title) {
			line.Excerpt = excerpt(f.Excerpt)
		}
		if f.Archived {
			line.Beside = "put away"
		}
		switch f.Kind {
		case store.FoundSong:
			line.To = fmt.Sprintf("/songs/%d", f.ID)
		case store.FoundStudent:
			line.To = fmt.Sprintf("/students/%d", f.ID)
		case store.FoundLesson:
			line.To = fmt.Sprintf("/lessons/%d", f.ID)
		case store.FoundNote:
			line.To, line.Beside = fmt.Sprintf("/students/%d/year?y=%d", f.OwnerID, dayOf(f.Day).Year()), dayOf(f.Day).Format("Mon 2 Jan 2006")
		case store.FoundWord:
			line.To, line.Beside = fmt.Sprintf("/students/%d/hour", f.OwnerID), f.At.Time().In(zone(c)).Format("Mon 2 Jan 2006")
		}
		of[f.Kind] = append(of[f.Kind], line)
	}
	for _, group := range []struct {
		kind  store.FoundKind
		title string
	}{{store.FoundStudent, "Students"}, {store.FoundSong, "Songs"}, {store.FoundLesson, "Lessons"}, {store.FoundNote, "Notes of lessons"}, {store.FoundWord, "Words of students"}} {
		if lines := of[group.kind]; len(lines) > 0 {
			v.Groups = append(v.Groups, foundGroup{group.title, lines})
		}
	}
	skills, err := s.Store.Skills(ctx, at, v.Words, 1)
	if err != nil {
		return err
	}
	g := foundGroup{Title: "Skills, with the songs that ask for them"}
	for _, sk := range skills[:min(len(skills), mostNamed)] {
		g.Found = append(g.Found, foundLine{To: skillLink(sk.Kind, sk.Key, 0), Title: sk.Name, Beside: plural(sk.N, "song", "songs")})
	}
	if len(g.Found) > 0 {
		v.Groups = append(v.Groups, g)
	}
	g = foundGroup{Title: "Tags and groups"}
	for _, on := range []struct {
		kind store.Tagged
		list string
	}{{store.OnStudent, "/students?group="}, {store.OnSong, "/songs?tag="}, {store.OnLesson, "/lessons?tag="}} {
		tags, err := s.Store.TagsOn(ctx, at, on.kind, v.Words)
		if err != nil {
			return err
		}
		for _, t := range tags[:min(len(tags), mostNamed)] {
			g.Found = append(g.Found, foundLine{To: on.list + url.QueryEscape(t.Tag), Title: t.Tag, Beside: plural(t.N, string(on.kind), string(on.kind)+"s")})
		}
	}
	if len(g.Found) > 0 {
		v.Groups = append(v.Groups, g)
	}
	return nil
}

// inTitle tells whether all words that are looked for begin words of a title: then it says why it
// was found.
func inTitle(words, title string) bool {
	in := strings.Fields(strings.ToLower(title))
	for _, w := range strings.Fields(strings.ToLower(words)) {
		if !slices.ContainsFunc(in, func(t string) bool { return strings.HasPrefix(t, w) }) {
			return false
		}
	}
	return true
}

// excerpt marks the words that were found.
func excerpt(text string) SafeHTML {
	if !strings.Contains(text, "\x02") {
		return ""
	}
	text = template.HTMLEscapeString(strings.Join(strings.Fields(text), " "))
	return SafeHTML(strings.NewReplacer("\x02", "<mark>", "\x03", "</mark>").Replace(text)) //nolint:gosec // it is escaped
}
