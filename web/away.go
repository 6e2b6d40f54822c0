package web

import (
	"cmp"
	"fmt"
	"io"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/play"
	"valleyside/core/song"
	"valleyside/formats"
	"valleyside/store"
	"valleyside/studio"
)

// What can be taken along: songs, versions of their parts and lessons in the open forms.

// takeAway are the addresses of something in all forms, for the fold "Take with you".
type takeAway struct {
	What string // it is
	To   string // the address without the form
}

// Forms lists the links of a fold.
func (t takeAway) Forms() []awayLink {
	sign := "?"
	if strings.Contains(t.To, "?") {
		sign = "&"
	}
	list := make([]awayLink, 0, len(awayForms))
	for _, f := range awayForms {
		to := t.To + sign + "as=" + string(f.form)
		if f.with != "" {
			to += "&with=" + f.with
		}
		list = append(list, awayLink{f.title, f.hint, to})
	}
	return list
}

type awayLink struct{ Title, Hint, To string }

var awayForms = []struct {
	form        formats.Form
	title, hint string
	with        string // what a practice track has beside it
}{
	{formats.MusicXML, "MusicXML", "for notation programs", ""},
	{formats.MIDI, "MIDI", "for sequencers", ""},
	{formats.Tab, "Tab as text", "to paste anywhere", ""},
	{formats.Words, "Words and chords", "to sing from", ""},
	{pictureForm, "Picture", "tab and hillside, SVG", ""},
	{formats.WAV, "Sound", "counted in, with a click, WAV", "click,others"},
	{formats.WAV, "Sound with a bass", "and what else is played", "click,bass,others,written"},
	{formats.WAV, "Sound alone", "counted in, then nothing but this", "none"},
	{formats.JSON, "Valleyside", "for another studio", ""},
}

// sendPiece answers with a piece in the form that is asked for.
func (s *songbook) sendPiece(c *echo.Context, p formats.Piece, name string) error {
	if len(p.Song.Parts) > 0 && c.QueryParam("as") == string(pictureForm) {
		return s.sendPicture(c, p, name)
	}
	form, err := formats.ParseForm(cmp.Or(c.QueryParam("as"), string(formats.MusicXML)), formats.Out())
	if err != nil {
		return store.ErrNotFound
	}
	if len(p.Song.Parts) == 0 {
		return wrong("There is nothing to take along yet: the song has no parts.")
	}
	if form == formats.WAV {
		p.CountIn = 1
		with := cmp.Or(c.QueryParam("with"), "click,others")
		p.Mix = formats.Mix{Click: strings.Contains(with, "click"), Bass: strings.Contains(with, "bass"), Others: strings.Contains(with, "others")}
		if strings.Contains(with, "written") {
			p.Mix.Written = play.Arrange(p.Song, s.options(c, hand.Player{}, 0), asWritten)
		}
	}
	return s.send(c, fileName(name)+form.Extension(), form.Media(), func(w io.Writer) error {
		if err := formats.Write(w, form, p); err != nil {
			return wrong(sentence(err.Error()))
		}
		return nil
	})
}

// sentence makes a sentence of an error.
func sentence(s string) string {
	if s == "" {
		return s
	}
	runes := []rune(s)
	runes[0] = unicode.ToUpper(runes[0])
	return strings.TrimSuffix(string(runes), ".") + "."
}

// fileName makes a name that a file can have everywhere.
func fileName(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune(" -_'", r) {
			return r
		}
		return ' '
	}, s)
	if s = strings.Join(strings.Fields(s), " "); s == "" {
		return "song"
	}
	return s
}

// send answers with a file as it is written. An error after its first byte ends the
// connection, so that half a file is not taken for a whole one.
func (s *base) send(c *echo.Context, name, media string, write func(io.Writer) error) error {
	disposition := `attachment; filename="` + name + `"`
	if strings.ContainsFunc(name, func(r rune) bool { return r >= utf8.RuneSelf }) {
		disposition = mime.FormatMediaType("attachment", map[string]string{"filename": name})
	}
	c.Response().Header().Set("Content-Disposition", disposition)
	c.Response().Header().Set(echo.HeaderContentType, media)
	err := write(c.Response())
	if err != nil {
		if response, _ := echo.UnwrapResponse(c.Response()); response != nil && response.Committed {
			panic(http.ErrAbortHandler)
		}
		c.Response().Header().Del("Content-Disposition")
	}
	return err
}

// takeSong answers with a song as it is written, or with the version of a part that the
// rungs page shows.
func (s *songbook) takeSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	if c.QueryParam("part") == "" {
		in, err := s.read(c, g)
		if err != nil {
			return err
		}
		p := formats.Of(in, s.options(c, hand.Player{}, 0), -1, asWritten)
		p.Sheet = g.Sheet
		return s.sendPiece(c, p, g.Title)
	}
	a, err := s.askedVersion(c, g)
	if err != nil {
		return err
	}
	p := formats.Piece{Song: a.song, Music: make([]play.Music, len(a.song.Parts)), Sheet: g.Sheet}
	others := play.Arrange(a.song, s.options(c, hand.Player{}, 0), asWritten)
	p.Music[a.part] = play.Music{Version: &a.version, Beside: others[a.part].Beside}
	p.Song = withTempo(a.song, a.part, a.version.Tempo)
	return s.sendPiece(c, p.Only(a.part), fmt.Sprintf("%s, %s, %s", g.Title, a.song.Parts[a.part].Name, a.version.Rung.Title()))
}

// withTempo is a song in which a part has a tempo of its own.
func withTempo(s *song.Song, part int, tempo float64) *song.Song {
	other := *s
	other.Parts = slices.Clone(s.Parts)
	other.Parts[part].Tempo, other.Tempo = tempo, tempo
	return &other
}

// askedVersion is the version of a part that a query names, as the rungs page has it.
type askedVersion struct {
	song    *song.Song // in the tuning that is played
	part    int
	version arrange.Version
	player  hand.Player
	tempo   float64
	retuned bool
}

func (s *base) askedVersion(c *echo.Context, g store.Song) (a askedVersion, err error) {
	q := c.QueryParams()
	in, err := s.read(c, g)
	if err != nil {
		return a, err
	}
	part, ok := in.PartNamed(q.Get("part"))
	if !ok && len(in.Parts) == 0 {
		return a, store.ErrNotFound
	}
	rung, err := arrange.ParseRung(q.Get("rung"))
	if err != nil {
		rung = arrange.AsWritten
	}
	if n, err := strconv.ParseInt(q.Get("student"), 10, 64); err == nil && n > 0 {
		st, err := s.Store.Student(c.Request().Context(), home(c).ID, n)
		if err != nil {
			return a, err
		}
		a.player = studio.Player(&st)
	}
	a.player, _ = playerFrom(q, a.player.Usual())
	w, err := s.house.WaysOf(c.Request().Context(), home(c).ID, g.ID)
	if err != nil {
		return a, err
	}
	line := lineIn(q, &in.Parts[part])
	in = in.As(func(int) string { return line })
	o, _ := s.rungOptions(c, in, &in.Parts[part], a.player, q)
	arranger := arrange.New(in, o)
	if arranger.Refused(part, rung) == arrange.NoChordsHere {
		rung = arrange.AsWritten
	}
	a.version = arranger.Version(part, rung, w.Of(in.PartID(part), line)[rung])
	a.part, a.tempo, a.retuned = part, o.Tempo, o.Tuning != nil
	if o.Tuning != nil { // what is played lies in that tuning, and so does the record
		other := *in.Heard()
		other.Tuning, other.Capo = *o.Tuning, 0
		in = &other
	}
	a.song = in
	return a, nil
}

// takeLesson answers with a lesson's song: the version that is chosen of each part, at the
// lesson's tempo.
func (s *songbook) takeLesson(c *echo.Context) error {
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	t := a.Taught
	p := formats.Piece{Song: formats.AtTempo(t.Song, t.Tempo), Music: play.Arrange(t.Song, s.options(c, hand.Player{}, 0), asWritten), Sheet: a.Song.Sheet}
	for i := range t.Chosen {
		if t.Chosen[i].Version != nil {
			p.Music[i].Version = t.Chosen[i].Version
		}
	}
	return s.sendPiece(c, p, a.Lesson.Name)
}
