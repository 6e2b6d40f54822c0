package web

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/studio"
	"valleyside/web/draw"
)

// preview is what is drawn while a sheet is typed. Every part and every line of tab in it
// has a print, which changes with what is drawn: what the reader has already is not
// worked out and not sent again.
type preview struct {
	Facts    studio.Facts
	Problems []sheet.Problem
	Parts    []previewPart
	Roadmap  string
	Sign     *previewSign // under the cursor; nil where there is none
	Offers   sheet.Offers // for the word that ends there
	// ProblemsJSON are the problems for the editor's margin.
	ProblemsJSON string
}

type previewPart struct {
	Print string
	own   [sha256.Size]byte // its fingerprint
	Kept  bool              // the reader has all of it
	Name  string
	song.Advice
	Settings string // where they differ from the song's
	Grade    float64
	Lines    []previewLine
	Beside   []besideLines
	From     int    // the line of the sheet where it begins
	Bars     string // JSON: where its bars begin, lines after From and columns
}

// previewSign is the sign under the cursor, in words and on the neck.
type previewSign struct {
	What, Where string
	Part        string
	Bar         int
	Tempo       float64 // there
	Beats       int64   // of a bar
	Neck        SafeHTML
}

// previewLine is a line of tab, without its picture where the reader has it.
type previewLine struct {
	Print string
	Tab   SafeHTML
}

type besideLines struct {
	Player string
	Lines  []previewLine
}

// typing is what the sheet of a reader who types knows of its preview.
type typing struct {
	live         bool            // the bars are places to go to
	has          map[string]bool // prints
	line, column int             // of the cursor, from 1; 0 for none
}

// previewWidth is the width of a line of tab beside the sheet, px.
const previewWidth = 624

func (s *songbook) preview(c *echo.Context, text string, t typing) preview {
	sh := sheet.Parse(text)
	v := preview{Facts: studio.FactsOf(sh.Song), Roadmap: roadmapWords(sh.Song)}
	st := style(c, drawnTo(c, previewWidth, 44))
	st.Places = t.live
	a := arrange.New(sh.Song, s.options(c, hand.Player{}, 0))
	for i, begins := range sh.Begins() {
		v.Parts = append(v.Parts, s.previewPart(c, t, a, sh.Song, i, begins, st))
	}
	if t.line > 0 {
		v.Sign = s.previewSign(c, a, v.Parts, sh, sh.At(t.line, t.column), st)
		if lines := strings.Split(text, "\n"); t.line <= len(lines) {
			v.Offers = sh.Offers(t.line, t.column, lines[t.line-1])
		}
	}
	const shown = 200
	v.Problems = sh.Problems[:min(shown, len(sh.Problems))]
	b, _ := json.Marshal(v.Problems)
	if v.Problems == nil {
		b = []byte("[]")
	}
	v.ProblemsJSON = string(b)
	return v
}

// previewPart draws a part as it is written, unless the reader has it.
func (s *songbook) previewPart(c *echo.Context, t typing, a *arrange.Arranger, of *song.Song, i int, begins sheet.Begins, st draw.Style) previewPart {
	p := &of.Parts[i]
	v := previewPart{Name: p.Name, Advice: p.Advice, Settings: partSettings(of, p), From: begins.Line}
	if t.live {
		bars := make([][2]int, len(begins.Bars))
		for i, b := range begins.Bars {
			bars[i] = [2]int{b.Line - begins.Line, b.Column}
		}
		b, _ := json.Marshal(bars)
		v.Bars = string(b)
	}
	v.own = a.Fingerprint(i)
	v.Print = printOf("part", string(v.own[:]), v.Settings, fmt.Sprint(st), v.Bars)
	if v.Kept = t.has[v.Print]; v.Kept || p.Written() == 0 {
		return v
	}
	st.Fingers = true // those that are typed
	st.Strokes = slices.ContainsFunc(p.Bars(), func(b song.Bar) bool {
		return slices.ContainsFunc(b.Events, func(e song.Event) bool {
			return e.Stroke != song.NoStroke || p.Plucked || slices.ContainsFunc(e.Notes, func(n song.Note) bool { return n.Pluck != song.NoPluck })
		})
	})
	version := s.asWritten(c, a, v.own, i, p)
	v.Grade = version.Grade
	v.Lines = t.lines(p.Name, "", draw.Lines(draw.WithPath(draw.Written(p, of.Lift()), &version), st, true))
	st.Places = false
	for _, player := range p.Players() {
		v.Beside = append(v.Beside, besideLines{player, t.lines(p.Name, player, draw.Lines(draw.Beside(p, player, of.Lift()), st, false))})
	}
	return v
}

// asWritten is the version of a part as it is written, made now or lately.
func (s *songbook) asWritten(c *echo.Context, a *arrange.Arranger, own [sha256.Size]byte, i int, p *song.Part) arrange.Version {
	version, _ := studio.Worked(c.Request().Context(), s.house, home(c).ID, studio.WorkOf("written", own), p.Written(), func() (arrange.Version, error) {
		return a.Version(i, arrange.AsWritten, arrange.Way{}), nil
	})
	return version
}

// previewSign says what stands at a place of a sheet, and draws how it is held: with
// the fingers of the part as it is written, or bare where those are not worked out.
func (s *songbook) previewSign(c *echo.Context, a *arrange.Arranger, parts []previewPart, sh *sheet.Sheet, at sheet.Spot, st draw.Style) *previewSign {
	m, _, tempo := timeAt(sh, at)
	v := &previewSign{Bar: at.Bar, Tempo: tempo, Beats: m.Bar().Div(m.Beat()).Floor()}
	v.What, v.Where = st.Speaker.Spot(sh.Song, at)
	if at.Part < 0 {
		return v
	}
	p := &sh.Song.Parts[at.Part]
	v.Part = p.Name
	if at.Event == nil || !at.Event.Sounds() {
		return v
	}
	shape := draw.Shape{Neck: neck.Neck{Capo: sh.Song.Capo}, Speaker: st.Speaker, Width: signWidth, Fingering: hand.Fingering{Frets: neck.NoFrets}}
	if at.Line.Player == "" && p.Written() <= mostSign {
		version := s.asWritten(c, a, parts[at.Part].own, at.Part, p)
		for _, e := range version.Bars[at.Since-1].Events {
			if e.Start == at.Event.Start {
				shape.Fingering, shape.Mutes, shape.Dead, shape.Waits = e.Fingering, e.Mutes, e.Dead, e.Base
				v.Neck = shape.SVG()
				return v
			}
		}
	}
	if at.Event.Kind == song.Chord {
		shape.Frets = at.Event.Frets
	}
	for _, n := range at.Event.Notes {
		if n.Dead {
			shape.Dead = append(shape.Dead, n.String)
		} else {
			shape.Frets[n.String.Index()] = int8(n.Fret)
		}
	}
	v.Neck = shape.SVG()
	return v
}

// mostSign is how long a part may be whose fingers are shown at the cursor, in bars.
const mostSign = 120

// timeAt is the meter, feel and tempo of the part that something stands in, or of the
// song.
func timeAt(sh *sheet.Sheet, at sheet.Spot) (song.Meter, song.Feel, float64) {
	if at.Part < 0 {
		return sh.Song.Meter, sh.Song.Feel, sh.Song.Tempo
	}
	p := &sh.Song.Parts[at.Part]
	return p.Meter, p.Feel, p.Tempo
}

// signWidth is the width of the neck below the sheet, px.
const signWidth = 300

// lines are the lines of tab of a player, without those that the reader has.
func (t typing) lines(part, player string, tab []draw.Line) (list []previewLine) {
	for i := range tab {
		own := tab[i].Fingerprint()
		l := previewLine{Print: printOf("line", part, player, string(own[:]))}
		if !t.has[l.Print] {
			l.Tab = tab[i].SVG()
		}
		list = append(list, l)
	}
	return list
}

// printOf is a short name for words, of which no two in a song are the same.
func printOf(words ...string) string {
	sum := song.Fingerprint(words)
	return base64.RawURLEncoding.EncodeToString(sum[:9])
}

// previewSheet draws what is being typed.
func (s *songbook) previewSheet(c *echo.Context) error {
	t := typing{live: true, has: map[string]bool{}}
	for _, print := range strings.Fields(c.FormValue("has")) {
		t.has[print] = true
	}
	t.line, _ = strconv.Atoi(c.FormValue("line"))
	t.column, _ = strconv.Atoi(c.FormValue("column"))
	return c.Render(http.StatusOK, "song#preview", s.preview(c, c.FormValue("sheet"), t))
}

type besidePart struct {
	Player string
	Lines  []SafeHTML
}

// beside draws what the other players have in a part.
func beside(p *song.Part, lift song.Lift, st draw.Style) (list []besidePart) {
	for _, player := range p.Players() {
		list = append(list, besidePart{player, draw.Tab(draw.Beside(p, player, lift), st, false)})
	}
	return list
}

// partSettings says in what a part differs from its song.
func partSettings(s *song.Song, p *song.Part) string {
	var list []string
	if p.Key != s.Key {
		list = append(list, p.Key.String())
	}
	if p.Meter != s.Meter {
		list = append(list, p.Meter.String())
	}
	if p.Tempo != s.Tempo {
		list = append(list, fmt.Sprintf("tempo %g", p.Tempo))
	}
	if p.Feel != s.Feel {
		list = append(list, p.Feel.String())
	}
	if p.PalmMute {
		list = append(list, "palm muted")
	}
	return strings.Join(list, ", ")
}

// roadmapWords writes the order of the parts.
func roadmapWords(s *song.Song) string {
	var steps []string
	for _, o := range s.Order {
		step := s.Parts[o.Part].Name
		if o.Times > 1 {
			step += " ×" + strconv.Itoa(o.Times)
		}
		steps = append(steps, step)
	}
	return strings.Join(steps, " → ")
}
