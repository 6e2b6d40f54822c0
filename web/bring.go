package web

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"

	"valleyside/core/sheet"
	"valleyside/formats"
	"valleyside/formats/shared"
	"valleyside/formats/take"
	"valleyside/formats/words"
	"valleyside/store"
	"valleyside/studio"
)

// What a teacher pastes or drops is read and shown, and nothing is changed by it: it lies
// in memory until it is taken over, or until newer things have taken its room.

// bringsTo is the address to which files are sent.
const bringsTo = "/songs/bring"

// Limits of what lies in memory: how many files of all studios, and what is sent around a
// file in its form.
const (
	mostBrought = 8
	formAround  = 64 << 10
)

// brought is something that was pasted or dropped.
type brought struct {
	studio int64
	name   string
	data   []byte
}

// doorstep is the memory of what was brought: of each thing until newer ones have taken its
// room.
type doorstep[T any] struct {
	things *lru.Cache[string, T]
}

// newDoorstep makes one of so many things; gone is told of each that has to go.
func newDoorstep[T any](most int, gone func(T)) *doorstep[T] {
	things, err := lru.NewWithEvict(most, func(_ string, thing T) {
		if gone != nil {
			gone(thing)
		}
	})
	if err != nil { // of a size that is no size
		panic(err)
	}
	return &doorstep[T]{things}
}

// put keeps something and gives the name by which it is found again.
func (d *doorstep[T]) put(thing T) string {
	var key [16]byte
	rand.Read(key[:]) //nolint:errcheck // it never fails
	name := base64.RawURLEncoding.EncodeToString(key[:])
	d.things.Add(name, thing)
	return name
}

// get finds something.
func (d *doorstep[T]) get(name string) (T, bool) { return d.things.Get(name) }

type bringView struct {
	Page
	Key     string
	Name    string // of the file
	Text    string // that was pasted and could not be read, so that it is not lost
	Trouble string
	Form    string
	Tracks  []bringTrack
	Asked   bool // the chords are not in bars
	PerBar  int
	Bars    []int // choices for PerBar
	Found   []take.Problem
	Lines   []bringLine // of a text that was shared; those that are listed
	Beyond  int         // lines beside those
	Told    bool        // somebody said what lines are
	Doubts  bool        // nothing was read of some
	Kinds   []shared.Kind
	Sheet   string
	Preview preview
}

// bringLine is a line of a text, and what it was read as.
type bringLine struct {
	Number int // from 1
	shared.Line
}

// mostLines is how many lines of a text are listed.
const mostLines = 400

// tellLines lists what the lines of a text were read as.
func (v *bringView) tellLines(lines []shared.Line) {
	v.Kinds = shared.Choices
	for i, l := range lines {
		if l.As == shared.Blank && !l.Told {
			continue
		}
		if len(v.Lines) == mostLines {
			v.Beyond++
			continue
		}
		v.Told, v.Doubts = v.Told || l.Told, v.Doubts || l.As == shared.LeftOut
		v.Lines = append(v.Lines, bringLine{i + 1, l})
	}
}

// told reads what somebody says that lines are: "12 chords".
func told(values []string) map[int]shared.Kind {
	as := map[int]shared.Kind{}
	for _, text := range values[:min(len(values), mostLines)] {
		number, kind, _ := strings.Cut(text, " ")
		if n, err := strconv.Atoi(number); err == nil && slices.Contains(shared.Choices, shared.Kind(kind)) {
			as[n-1] = shared.Kind(kind)
		}
	}
	return as
}

type bringTrack struct {
	Number int // from 0
	Name   string
	Notes  int
	First  bool
	Beside bool
}

// formWords names the forms for a person.
var formWords = map[formats.Form]string{
	formats.MusicXML: "MusicXML", formats.MXL: "MusicXML, compressed", formats.MIDI: "a MIDI file", formats.Tab: "tab",
	formats.Words: "words with chords", formats.JSON: "a song of this program", formats.Sheet: "a sheet",
}

// bringPage asks for something to be pasted or dropped.
func (s *songbook) bringPage(c *echo.Context) error {
	return c.Render(http.StatusOK, "bring", bringView{Page: s.page(c, "Bring a song in", "songs")})
}

// bring takes what was pasted or dropped, and shows it.
func (s *songbook) bring(c *echo.Context) error {
	b, err := s.broughtFile(c)
	if err != nil {
		return err
	}
	if len(b.data) == 0 {
		b.data = []byte(lineEndings(c.FormValue("text")))
	}
	if len(b.data) == 0 {
		return wrong("Paste a song, or choose a file.")
	}
	return see(c, "/songs/bring/%s", s.brought.put(b))
}

// broughtFile is the file that was chosen in a form; without data where none was.
func (s *songbook) broughtFile(c *echo.Context) (brought, error) {
	b := brought{studio: home(c).ID, name: "what was pasted"}
	f, err := c.FormFile("file")
	switch {
	case errors.Is(err, http.ErrMissingFile), errors.Is(err, http.ErrNotMultipart):
		return b, nil
	case err != nil:
		return b, err
	case f.Size > formats.MaxBytes:
		return b, wrong(fmt.Sprintf("The file has %d MB; %d MB are the limit.", f.Size>>20, formats.MaxBytes>>20))
	case f.Size == 0:
		return b, nil
	}
	in, err := f.Open()
	if err != nil {
		return b, err
	}
	defer in.Close()
	b.data, err = io.ReadAll(io.LimitReader(in, formats.MaxBytes+1))
	b.name = oneLine(f.Filename, 80)
	return b, err
}

// oneLine makes one short line of a name that comes from elsewhere.
func oneLine(s string, most int) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if runes := []rune(s); len(runes) > most {
		s = string(runes[:most])
	}
	return s
}

// broughtPage shows what was brought as a sheet, with what could not be taken over.
func (s *songbook) broughtPage(c *echo.Context) error {
	v := bringView{Page: s.page(c, "Bring a song in", "songs"), Key: c.Param("thing")}
	b, ok := s.brought.get(v.Key)
	if !ok || b.studio != home(c).ID {
		return &problem{status: http.StatusNotFound, message: "What you brought was put away to make room. Paste or choose it once more under Songs; nothing else is lost."}
	}
	v.Name = b.name
	q := c.QueryParams()
	perBar, _ := strconv.Atoi(q.Get("bars"))
	r, err := formats.Read(c.Request().Context(), b.data, formats.Options{PerBar: perBar, As: told(q["line"])})
	if err == nil {
		err = v.read(c.Request().Context(), r, q["first"], q["beside"])
	}
	if err != nil {
		v.Trouble = "It cannot be read: " + err.Error() + "."
		if len(b.data) <= sheet.MaxBytes && b.name == "what was pasted" {
			v.Text = string(b.data)
		}
		return c.Render(http.StatusOK, "bring", v)
	}
	v.tellLines(r.Lines)
	v.PerBar, v.Asked = perBar, (r.Form == formats.Words || r.Form == formats.Tab) && (perBar > 0 || asksForBars(v.Found))
	v.Bars = []int{1, 2, 3, 4}
	if v.Asked && perBar == 0 {
		v.PerBar = words.Guessed(strings.Split(string(b.data), "\n"))
	}
	v.Preview = s.preview(c, v.Sheet, typing{})
	return c.Render(http.StatusOK, "bring", v)
}

// asksForBars tells whether it was guessed how many chords a bar has.
func asksForBars(list []take.Problem) bool {
	return slices.ContainsFunc(list, func(p take.Problem) bool { return strings.HasPrefix(p.Message, "no bar lines") })
}

// read makes a sheet of what was read, of the tracks that were chosen.
func (v *bringView) read(ctx context.Context, r *formats.Reading, first, beside []string) error {
	v.Form = formWords[r.Form]
	choice := r.Usual()
	names, notes := r.Players()
	if len(first) > 0 {
		if n, err := strconv.Atoi(first[0]); err == nil && n >= 0 && n < len(names) {
			choice = take.Choice{First: n}
			for _, text := range beside {
				if k, err := strconv.Atoi(text); err == nil && k >= 0 && k < len(names) && k != n && !slices.Contains(choice.Beside, k) {
					choice.Beside = append(choice.Beside, k)
				}
			}
		}
	}
	if len(names) > 1 {
		for i := range names {
			v.Tracks = append(v.Tracks, bringTrack{i, names[i], notes[i], i == choice.First, slices.Contains(choice.Beside, i)})
		}
	}
	text, problems, err := r.Take(ctx, choice)
	v.Sheet, v.Found = text, problems
	return err
}

// takeBrought makes a song of the sheet that was shown, or of what became of it.
func (s *songbook) takeBrought(c *echo.Context) error {
	text, err := typedSheet(c)
	if err != nil {
		return err
	}
	title := oneLine(cmp.Or(sheet.Parse(text).Song.Title, "Without a title"), studio.MostSongTitle)
	var id int64
	err = s.making(c, "/songs", func(ctx context.Context) (says string, err error) {
		id, err = s.house.AddSong(ctx, home(c).ID, title, text, store.At(s.Now()))
		return fmt.Sprintf("Took over %s.", title), err
	})
	if err != nil {
		return err
	}
	return see(c, "/songs/%d", id)
}
