package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"math"
	"net/http"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"valleyside/core/neck"
	"valleyside/core/song"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/web/draw"
)

// Page is what every page shows.
type Page struct {
	Title   string
	Nav     string // the place in the navigation
	Studio  string
	Teacher string
	CSRF    string
	Notice  *Notice
	Now     time.Time
	Here    string // the address of the page
}

// Notice tells what has just happened, and offers to undo it.
type Notice struct {
	Text string
	Undo string // an address to post to; empty where nothing can be undone
	Back string `json:",omitempty"` // where that leads; empty is the page that tells it
	// Looks are places to look at because of it.
	Looks []look `json:",omitempty"`
}

// look is a place to look at, and what is there.
type look struct{ To, What string }

func (s *base) page(c *echo.Context, title, nav string) Page {
	home := home(c)
	p := Page{Title: title, Nav: nav, Studio: home.Name, Now: s.Now().In(home.Zone()), Here: c.Request().URL.RequestURI()}
	p.CSRF, _ = c.Get("csrf").(string)
	if t, ok := c.Get(teacherKey).(store.Teacher); ok {
		p.Teacher = t.Name
		if text := s.sessions.PopString(c.Request().Context(), "notice"); text != "" {
			p.Notice = &Notice{}
			if err := json.Unmarshal([]byte(text), p.Notice); err != nil {
				p.Notice = nil
			}
		}
	}
	return p
}

// notice is shown on the next page.
func (s *base) notice(c *echo.Context, undo, format string, a ...any) {
	s.tell(c, Notice{Text: fmt.Sprintf(format, a...), Undo: undo})
}

func (s *base) tell(c *echo.Context, n Notice) {
	b, _ := json.Marshal(n)
	s.sessions.Put(c.Request().Context(), "notice", string(b))
}

// doneCookie tells the browser which form has been taken, so that it need not keep
// what was typed any more.
const doneCookie = "valleyside_done"

// see sends the browser on to a page after a change.
func see(c *echo.Context, format string, a ...any) error {
	if mark := c.FormValue("_form"); mark != "" && len(mark) <= 64 && strings.Trim(mark, "0123456789abcdefghijklmnopqrstuvwxyz-.") == "" {
		c.SetCookie(&http.Cookie{Name: doneCookie, Value: mark, Path: "/", MaxAge: 600, SameSite: http.SameSiteLaxMode})
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf(format, a...))
}

// id reads a number from the address.
func id(c *echo.Context, name string) (int64, error) {
	n, err := strconv.ParseInt(c.Param(name), 10, 64)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return n, nil
}

// field reads a line of text from a form, cut to a length.
func field(c *echo.Context, name string, most int) string {
	s := strings.TrimSpace(strings.ToValidUTF8(c.FormValue(name), ""))
	for utf8.RuneCountInString(s) > most {
		_, size := utf8.DecodeLastRuneInString(s)
		s = s[:len(s)-size]
	}
	return s
}

// number reads a number from a form and says what it must be where it is not.
func number(c *echo.Context, name, what string, low, high float64) (float64, error) {
	v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(c.FormValue(name)), ",", ".", 1), 64)
	if err != nil || math.IsNaN(v) || v < low || v > high {
		return 0, wrong(fmt.Sprintf("%s must be a number from %g to %g.", what, low, high))
	}
	return v, nil
}

// style is how a studio wants its tab.
func style(c *echo.Context, width float64) draw.Style {
	st := home(c)
	s := draw.Style{Width: width, Speaker: words.Speaker{Counting: song.Counting(st.Counting)}}
	for i, name := range strings.Fields(st.StringNames) {
		if i < neck.Strings {
			s.Speaker.Strings[i] = name
		}
	}
	return s
}

// window is how wide the reader's window is, in px, as the browser has told; 0 where
// it has not.
func window(c *echo.Context) float64 {
	cookie, err := c.Cookie("valleyside_width")
	if err != nil {
		return 0
	}
	w, err := strconv.Atoi(cookie.Value)
	if err != nil || w < 200 || w > 10_000 {
		return 0
	}
	return float64(w)
}

// drawnTo is the width of a line of tab: what it has at most, or what the window
// has beside its edges.
func drawnTo(c *echo.Context, most, edges float64) float64 {
	if w := window(c); w > 0 {
		return min(most, max(w-edges, 260))
	}
	return most
}

// zone is the zone of a studio's days.
func zone(c *echo.Context) *time.Location {
	st := home(c)
	return st.Zone()
}

// speaker is how a studio speaks: its names for the strings and its count.
func speaker(c *echo.Context) words.Speaker { return style(c, 0).Speaker }

// pages renders templates, each in the layout, with the days of the studio's zone.
type pages struct {
	mu    sync.Mutex
	zones map[string]map[string]*template.Template // by zone and name
}

// in is the templates for a zone.
func (p *pages) in(zone *time.Location) (map[string]*template.Template, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if set, ok := p.zones[zone.String()]; ok {
		return set, nil
	}
	set, err := parsePages(zone)
	if err == nil {
		if p.zones == nil {
			p.zones = map[string]map[string]*template.Template{}
		}
		p.zones[zone.String()] = set
	}
	return set, err
}

func parsePages(zone *time.Location) (map[string]*template.Template, error) {
	layout := template.New("").Funcs(functions).Funcs(template.FuncMap{
		"date":   func(m store.Instant) string { return m.Time().In(zone).Format("2 Jan 2006") },
		"moment": func(m store.Instant) string { return moment(m, zone) },
	})
	shared, err := fs.Glob(templateFiles, "templates/part_*.html")
	if err != nil {
		return nil, err
	}
	shared = append(shared, "templates/layout.html")
	for _, f := range shared {
		if err := parseInto(layout, f); err != nil {
			return nil, err
		}
	}
	files, err := fs.Glob(templateFiles, "templates/*.html")
	if err != nil {
		return nil, err
	}
	set := map[string]*template.Template{}
	for _, f := range files {
		if slices.Contains(shared, f) {
			continue
		}
		t, err := layout.Clone()
		if err != nil {
			return nil, err
		}
		if err := parseInto(t, f); err != nil {
			return nil, err
		}
		set[strings.TrimSuffix(path.Base(f), ".html")] = t
	}
	return set, nil
}

// lineEnd is what makes a template readable: a space is sent instead.
var lineEnd = regexp.MustCompile(`\s*\n\s*`)

// parseInto adds what a file defines to a template.
func parseInto(t *template.Template, file string) error {
	text, err := templateFiles.ReadFile(file)
	if err != nil {
		return err
	}
	_, err = t.New(path.Base(file)).Parse(fixed.ReplaceAllStringFunc(lineEnd.ReplaceAllString(string(text), " "), func(call string) string {
		of := fixed.FindStringSubmatch(call)
		switch of[1] {
		case "asset":
			return asset(of[2])
		case "tunings":
			return tunings()
		}
		return string(icon(of[2]))
	}))
	return err
}

// fixed is what is the same on every page: it is put in when a template is read.
var fixed = regexp.MustCompile(`\{\{(icon|asset|tunings)(?: "([^"]+)")?\}\}`)

// people are students to choose from, of whom there may be hundreds.
func people(students []store.Student, chosen int64) SafeHTML {
	var b strings.Builder
	for i := range students {
		mark := ""
		if students[i].ID == chosen {
			mark = " selected"
		}
		fmt.Fprintf(&b, `<option value="%d"%s>%s</option>`, students[i].ID, mark, template.HTMLEscapeString(students[i].Name))
	}
	return SafeHTML(b.String())
}

// tunings are those that have a name, for a field.
func tunings() string {
	var b strings.Builder
	b.WriteString(`<datalist id="tunings">`)
	for _, name := range neck.Known() {
		fmt.Fprintf(&b, `<option value="%s"></option>`, template.HTMLEscapeString(name))
	}
	b.WriteString(`</datalist>`)
	return b.String()
}

var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// Render writes a page, or with "page#fragment" one named piece of it.
// Nothing is written where the template fails.
func (p *pages) Render(c *echo.Context, w io.Writer, name string, data any) error {
	page, fragment, _ := strings.Cut(name, "#")
	if fragment == "" {
		fragment = "layout"
	}
	home := home(c)
	set, err := p.in(home.Zone())
	if err != nil {
		return err
	}
	t, ok := set[page]
	if !ok {
		return fmt.Errorf("there is no template %q", page)
	}
	b := buffers.Get().(*bytes.Buffer)
	defer buffers.Put(b)
	b.Reset()
	if err := t.ExecuteTemplate(b, fragment, data); err != nil {
		return err
	}
	_, err = b.WriteTo(w)
	return err
}

// drawn is a piece of a page, to be remembered: it says nothing of who asks, nor of the day.
func (s *base) drawn(c *echo.Context, name string, data any) (SafeHTML, error) {
	var b strings.Builder
	err := s.pages.Render(c, &b, name, data)
	return SafeHTML(b.String()), err
}

// moment writes when something was, in a zone.
func moment(m store.Instant, zone *time.Location) string {
	return m.Time().In(zone).Format("Mon 2 Jan 2006, 15:04")
}

// args are several values for one template, by their names.
func args(pairs ...any) (map[string]any, error) {
	if len(pairs)%2 > 0 {
		return nil, errors.New("args: a name without a value")
	}
	named := make(map[string]any, len(pairs)/2)
	for i := 0; i < len(pairs); i += 2 {
		name, ok := pairs[i].(string)
		if !ok {
			return nil, fmt.Errorf("args: %v is no name", pairs[i])
		}
		named[name] = pairs[i+1]
	}
	return named, nil
}

// plural is a number with what it is of.
func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

var functions = template.FuncMap{
	"lookwords": words.Speaker{}.Look,
	"num":       func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) },
	"grade":     func(v float64) string { return strconv.FormatFloat(v, 'f', 1, 64) },
	"clock": func(seconds float64) string {
		s := int(math.Round(seconds))
		return fmt.Sprintf("%d:%02d", s/60, s%60)
	},
	"round":    func(v float64) string { return strconv.FormatFloat(math.Round(v), 'f', -1, 64) },
	"day":      func(t time.Time) string { return t.Format("Monday 2 January 2006") },
	"weekday":  func(t time.Time) string { return t.Format("Mon") },
	"dated":    func(t time.Time) string { return t.Format("Mon 2 January 2006") },
	"plural":   plural,
	"word":     wordNamed,
	"people":   people,
	"join":     strings.Join,
	"sentence": sentence,
	"add":      func(a, b int) int { return a + b },
	"list":     func(items ...string) []string { return items },
	"args":     args,
	"away":     func(what, to string) takeAway { return takeAway{what, to} },
}
