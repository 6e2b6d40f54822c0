package web

import (
	"cmp"
	"context"
	"fmt"
	"html"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// rungsView is the ladder of one part, one of its versions looked at closely.
type rungsView struct {
	Page
	Song     store.Song
	Facts    studio.Facts
	Problems int
	Parts    []string
	Part     int
	PartName string
	Fits     string // what is begun with of the song
	Easings  []easing
	Scale    string // of the riff, and where it lies
	Tempo    float64
	Students []store.Student
	Student  int64
	Player   hand.Player
	Tuning   string // another than the song's
	School   voicing.School
	Own      bool // the hand differs from the student's
	Pickings []hand.Picking
	Show     map[string]bool
	Ladder   []ladderRung
	Refused  []refused
	Why      []string // of the chosen version
	Unmet    []string
	Chosen   ladderRung
	Music    string // where what is shown is heard
	Away     takeAway
	Players  []string // who else plays in the part
	Line     string   // whose line is looked at; empty is the first one's
	Way      arrange.Way
	Chords   []voicing.School
	Thins    bool // the rhythm is too fast for the player somewhere
	With     *ladderRung
	Lines    []stacked
	Reasons  []barReason
	Cursor   *cursor
	Query    string // what is looked at, to come back to it
	Lessons  []store.Lesson
}

type ladderRung struct {
	arrange.Version
	Key     int // the key that chooses it
	Chosen  bool
	Suggest string // why it is the one to begin with; empty for the others
	Beside  bool   // compared with the chosen one
	Pins    int
	Hill    template.HTML
	Link    string
	Compare string
}

// refused are rungs that are not offered for the same reason. Ask are the ways in
// which the first of them makes sense all the same.
type refused struct {
	Rungs, Why string
	Rung       arrange.Rung
	Ask        []arrange.Thicken
}

// Equals says which rungs are as hard.
func (r ladderRung) Equals() string {
	var names []string
	for _, e := range r.Even {
		if e == r.Same {
			continue // it says more than that
		}
		names = append(names, strings.ToLower(e.Title()))
	}
	return strings.Join(names, ", ")
}

// Alike says which rung before it plays the same notes.
func (r ladderRung) Alike() string {
	if r.Same == "" {
		return ""
	}
	return words.SameNotes(r.Same)
}

// stacked is a line of tab, and below it that of the version it is compared
// with.
type stacked struct{ Over, Under template.HTML }

type barReason struct {
	Bar    int
	Chosen bool
	Link   string
	Why    []string
}

// cursor is the event that is looked at.
type cursor struct {
	arrange.Event
	Bar          int
	Pass         int // of the line, that is decided alone; 0 is every pass
	Passes       []passLink
	Place        string // where in the bar
	Words        string // why it is played so
	Asks         string // what asks most of the hands
	Neck         template.HTML
	Names        string // of the notes, thick strings first
	Silent       string // which strings do not sound, and what stops them
	Previous     string
	Next         string
	Last         string // the bar before
	Following    string // the bar after
	Pins         []pinChoice
	Fingers      []fingerChoice
	Held         []pinChoice // pins of the bar, to let go
	Alternatives []alternative
}

// fingerChoice is the finger of one string, and the others that it could have.
type fingerChoice struct {
	Label, Now string
	Fingers    []pinChoice
}

// pinChoice is a pin that can be set or let go.
type pinChoice struct{ Label, Pin, Key string }

type alternative struct {
	Bars   string
	Places string
	Is     string
	Buys   string
	Pins   []string
}

// rungsWidth is the width of a line of tab on the rungs page, px.
const rungsWidth = 1220

// neckWidth is the width of the neck under the note that is looked at, px.
const neckWidth = 640

func (s *songbook) rungs(c *echo.Context) error { return s.showRungs(c, c.QueryParams()) }

// settle takes out of a query what belonged to another part or student than
// the one it asks for now.
func settle(q url.Values) {
	if q.Has("waspart") && q.Get("waspart") != q.Get("part") {
		for _, field := range []string{"tempo", "bar", "pass", "at", "line"} {
			q.Del(field)
		}
	}
	if q.Has("wasline") && q.Get("wasline") != q.Get("line") {
		for _, field := range []string{"bar", "pass", "at"} {
			q.Del(field)
		}
	}
	if q.Has("wasfor") && q.Get("wasfor") != q.Get("student") {
		for _, field := range []string{"hand", "reach", "scale", "nps", "picking", "nobarre", "nolittle", "thumb", "acoustic"} {
			q.Del(field)
		}
	}
	q.Del("waspart")
	q.Del("wasline")
	q.Del("wasfor")
}

// showRungs shows what a query asks for.
func (s *songbook) showRungs(c *echo.Context, q url.Values) error {
	settle(q)
	ctx := c.Request().Context()
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	v := rungsView{Page: s.page(c, "Rungs of "+g.Title, "songs"), Song: g, Facts: studio.FactsOf(in), Pickings: hand.Pickings, Chords: voicing.Schools, Query: q.Encode()}
	if v.Problems, err = s.house.Problems(ctx, home(c).ID, g.Sheet); err != nil {
		return err
	}
	who := store.Student{}
	if v.Students, who, err = s.whom(c, q.Get("student")); err != nil {
		return err
	}
	if who.ID != 0 {
		v.Student, v.Player = who.ID, studio.Player(&who)
	}
	if v.Lessons, err = s.Store.LessonsOfSong(ctx, home(c).ID, g.ID); err != nil {
		return err
	}
	v.Player, v.Own = playerFrom(q, v.Player.Usual())
	v.Show = map[string]bool{"fingers": true, "strokes": true, "count": true}
	if q.Has("show") {
		for what := range v.Show {
			v.Show[what] = strings.Contains(strings.Join(q["show"], " "), what)
		}
	}
	for i := range in.Parts {
		v.Parts = append(v.Parts, in.Parts[i].Name)
		if v.Parts[i] == q.Get("part") {
			v.Part = i
		}
	}
	if len(v.Parts) > 0 {
		w, err := s.house.WaysOf(ctx, home(c).ID, g.ID)
		if err != nil {
			return err
		}
		if err := s.ladder(c, in, w, q, who, &v); err != nil {
			return err
		}
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "rungs#rungs", v)
	}
	return c.Render(http.StatusOK, "rungs", v)
}

// playerFrom is a player as a query changes them.
func playerFrom(q url.Values, p hand.Player) (hand.Player, bool) {
	before := p
	number := func(name string, target *float64, low, high float64) {
		if v, err := strconv.ParseFloat(q.Get(name), 64); err == nil && v >= low && v <= high {
			*target = v
		}
	}
	number("reach", &p.Reach, 30, 250)
	number("scale", &p.Scale, 300, 900)
	number("nps", &p.NotesPerSecond, 0.5, 20)
	if picking, err := hand.ParsePicking(q.Get("picking")); err == nil && q.Get("picking") != "" {
		p.Picking = picking
	}
	if q.Has("hand") { // the boxes were shown, so one that is not there is not ticked
		p.NoBarre, p.NoLittle, p.Thumb, p.Acoustic = q.Has("nobarre"), q.Has("nolittle"), q.Has("thumb"), q.Has("acoustic")
	}
	return p, p != before
}

// rungOptions are how versions of a part are made as a query asks for them, and the tempo
// of the part.
func (s *base) rungOptions(c *echo.Context, g *song.Song, p *song.Part, player hand.Player, q url.Values) (o arrange.Options, tempo float64) {
	tempo = p.Tempo
	if t, err := strconv.ParseFloat(q.Get("tempo"), 64); err == nil && t >= sheet.MinTempo && t <= sheet.MaxTempo {
		tempo = t
	}
	o = s.options(c, player, tempo*g.Tempo/p.Tempo)
	if t, err := neck.Parse(q.Get("tuning")); err == nil && q.Get("tuning") != "" && t != g.Tuning {
		o.Tuning = &t
	}
	return o, tempo
}

// lineIn is whose line of a part a query asks for; empty is the first player's.
func lineIn(q url.Values, p *song.Part) string {
	if line := q.Get("line"); slices.Contains(p.Players(), line) {
		return line
	}
	return ""
}

// ladder makes the versions of the part that is looked at.
func (s *songbook) ladder(c *echo.Context, g *song.Song, w studio.Ways, q url.Values, who store.Student, v *rungsView) error {
	whole := g
	v.Players, v.Line = g.Parts[v.Part].Players(), lineIn(q, &g.Parts[v.Part])
	g = g.As(func(int) string { return v.Line })
	p := &g.Parts[v.Part]
	v.PartName = p.Name
	of := w.Of(g.PartID(v.Part), v.Line)
	var options arrange.Options
	if options, v.Tempo = s.rungOptions(c, g, p, v.Player, q); options.Tuning != nil {
		v.Tuning = options.Tuning.String()
	}
	a := arrange.New(g, options)
	ctx, at := c.Request().Context(), home(c).ID
	base := []any{v.Song.Sheet, idsOf(g), w.Key(), studio.OfOptions(options), v.Part, v.Line}
	versions, err := studio.Worked(ctx, s.house, at, studio.WorkOf("ladder", base...), p.Written(), func() ([]arrange.Version, error) {
		return a.LadderWhile(ctx, v.Part, of)
	})
	if err != nil {
		return err
	}
	line := []store.Part{{PartID: g.PartID(v.Part), Player: v.Line}}
	summaries, err := s.ladders(c, whole, v.Song.Sheet, w, options, line, &who)
	if err != nil {
		return err
	}
	suggest := summaries[v.Part]
	v.Fits = suggest.Fits
	chosen, err := arrange.ParseRung(q.Get("rung"))
	if err != nil {
		chosen = suggest.Suggest
	}
	with, _ := arrange.ParseRung(q.Get("with"))
	_, refusals := a.Offered(v.Part, of)
	sp := speaker(c)
	for _, r := range refusals {
		why := sp.Refusal(r.Why)
		if n := len(v.Refused); n > 0 && v.Refused[n-1].Why == why {
			v.Refused[n-1].Rungs += ", " + r.Rung.Title()
			continue
		}
		row := refused{Rungs: r.Rung.Title(), Why: why, Rung: r.Rung}
		if r.Rung == arrange.TwoNote && r.Why == arrange.LeadLine {
			row.Ask = []arrange.Thicken{arrange.Thirds, arrange.Sixths}
		}
		v.Refused = append(v.Refused, row)
	}
	var written *arrange.Version
	top := 0.0
	for i := range versions {
		if versions[i].Rung == arrange.AsWritten {
			written = &versions[i]
		}
		top = max(top, draw.Highest(versions[i].Feet()))
	}
	var ridge []arrange.Foot
	if written != nil {
		ridge = written.Feet()
	}
	var beside *arrange.Version
	for i := range versions {
		version := &versions[i]
		r := ladderRung{Version: *version, Key: i + 1, Chosen: version.Rung == chosen,
			Beside: version.Rung == with && with != chosen, Pins: len(of[version.Rung].Pins),
			Link: linkTo(q, "rung", string(version.Rung), "with", "")}
		if version.Rung == suggest.Suggest {
			r.Suggest = suggest.Why
		}
		r.Compare = linkTo(q, "rung", string(chosen), "with", string(version.Rung))
		if r.Beside {
			r.Compare = linkTo(q, "rung", string(chosen), "with", "")
			beside = version
		}
		r.Hill = draw.Hill{Bars: len(version.Bars), Ridge: ridge, Path: version.Feet(), Top: top, Width: 600, Height: 40,
			Label: fmt.Sprintf("%s, grade %.1f", version.Rung.Title(), version.Grade)}.SVG()
		for _, b := range version.Bars {
			v.Thins = v.Thins || len(b.Dropped) > 0
		}
		if r.Chosen {
			v.Chosen, v.Way = r, of[chosen]
		}
		v.Ladder = append(v.Ladder, r)
	}
	v.Thins = v.Thins || v.Way.FullRhythm
	v.School = cmp.Or(v.Way.School, options.School)
	v.Scale = scaleWords(g, v.Part, speaker(c))
	var detailed arrange.Version // the one that is shown, of the ladder where it stands there
	if i := slices.IndexFunc(versions, func(x arrange.Version) bool { return x.Rung == chosen }); i >= 0 {
		detailed = versions[i]
	} else {
		detailed = a.Version(v.Part, chosen, of[chosen])
	}
	v.Why = sp.Version(&v.Chosen.Version)
	for _, u := range detailed.Unmet {
		v.Unmet = append(v.Unmet, sp.Unmet(u, p.Meter))
	}
	st := style(c, drawnTo(c, rungsWidth, 44))
	st.Top = top
	st.Fingers, st.Strokes, st.NoCount, st.Places = v.Show["fingers"], v.Show["strokes"], !v.Show["count"], true
	if chosen == arrange.EasyChords {
		chords := func(capo string) string {
			return fmt.Sprintf("/songs/%d/chords%s", v.Song.ID, linkTo(url.Values{}, "capo", capo, "student", q.Get("student")))
		}
		if v.Easings, err = s.easings(c, a, v.Part, p.Written(), chords, base...); err != nil {
			return err
		}
	}
	v.Music = fmt.Sprintf("/songs/%d/music?%s&v=%x", v.Song.ID, heardOf(q, chosen), studio.KeyOf("sound", append(base, string(chosen))...))
	v.Away = takeAway{fmt.Sprintf("%s: %s, at %g a minute", v.PartName, chosen.Title(), v.Tempo), fmt.Sprintf("/songs/%d/take?%s", v.Song.ID, heardOf(q, chosen))}
	bars := draw.Version(p, &detailed, written)
	if beside == nil {
		bars = draw.WithPasses(bars, p, &detailed)
	}
	s.cursor(c, p, q, v, bars)
	if cur := v.Cursor; cur != nil {
		alternatives, err := studio.Worked(ctx, s.house, at, studio.WorkOf("alternatives", append(base, string(chosen), cur.Bar, cur.Pass)...), p.Written(), func() ([]arrange.Alternative, error) {
			return a.Alternatives(v.Part, chosen, of[chosen], cur.Bar, cur.Pass), nil
		})
		if err != nil {
			return err
		}
		for _, alt := range alternatives {
			row := alternative{Bars: barsWords(alt.From, alt.To), Places: places(alt.Shapes)}
			row.Is, row.Buys = sp.Alternative(alt)
			for _, pin := range alt.Pins {
				row.Pins = append(row.Pins, pin.String())
			}
			cur.Alternatives = append(cur.Alternatives, row)
		}
	}
	for i := range detailed.Bars {
		b := &detailed.Bars[i]
		why := sp.Bar(b)
		if len(why) == 0 {
			continue
		}
		v.Reasons = append(v.Reasons, barReason{Bar: b.Number, Why: why, Chosen: v.Cursor != nil && v.Cursor.Bar == b.Number,
			Link: linkTo(q, "bar", strconv.Itoa(b.Number), "at", "")})
	}
	if beside == nil {
		for _, line := range draw.Tab(bars, st, true) {
			v.Lines = append(v.Lines, stacked{Over: line})
		}
		return nil
	}
	for _, pair := range draw.Stack(bars, draw.Version(p, beside, written), st) {
		v.Lines = append(v.Lines, stacked{pair[0], pair[1]})
	}
	for i := range v.Ladder {
		if v.Ladder[i].Beside {
			v.With = &v.Ladder[i]
		}
	}
	return nil
}

// easing is one of the ways to make the chords of a part easier.
type easing struct {
	What   string
	Grade  float64
	School voicing.School // by which it is chosen; empty with a capo
	Capo   int
	Link   template.HTMLAttr // where the capo is tried out: on the page of the chords
}

// easings are the ways to make the chords of a part easier for who a is for, as work that is
// made of base; link is where a capo is tried out.
func (s *songbook) easings(c *echo.Context, a *arrange.Arranger, part, bars int, link func(capo string) string, base ...any) ([]easing, error) {
	sp := speaker(c)
	kept, err := studio.Worked(c.Request().Context(), s.house, home(c).ID, studio.WorkOf("easings", append(base, part, sp)...), bars, func() (rows []easing, err error) {
		for _, e := range a.Easings(part) {
			rows = append(rows, easing{What: sp.Easing(&e), Grade: e.Version.Grade, School: e.School, Capo: e.Capo})
		}
		return rows, nil
	})
	rows := slices.Clone(kept)
	for i := range rows {
		rows[i].Link = template.HTMLAttr(`href="` + html.EscapeString(link(strconv.Itoa(rows[i].Capo))) + `"`)
	}
	return rows, err
}

// scaleWords names the scale of a riff, its position, and what it borrows.
func scaleWords(g *song.Song, part int, sp words.Speaker) string {
	var list []string
	if scale, ok := harmony.ScaleOf(g, part); ok {
		text := scale.Name
		if scale.Top > 0 {
			text += fmt.Sprintf(", frets %d to %d", scale.Low, scale.Top)
		}
		list = append(list, text)
	}
	if outside := harmony.OutsideKey(g, part); len(outside) > 0 {
		list = append(list, "outside the key: "+sp.Outside(outside))
	}
	return strings.Join(list, "; ")
}

// linkTo is the address of what a query shows with some fields changed; an
// empty value takes a field away.
func linkTo(q url.Values, fields ...string) string {
	next := maps.Clone(q)
	for i := 0; i < len(fields); i += 2 {
		if fields[i+1] == "" {
			next.Del(fields[i])
		} else {
			next.Set(fields[i], fields[i+1])
		}
	}
	return "?" + next.Encode()
}

// barsWords names a bar or several.
func barsWords(from, to int) string {
	if from == to {
		return fmt.Sprintf("bar %d", from)
	}
	return fmt.Sprintf("bars %d to %d", from, to)
}

// place is where an event stands among the bars that are drawn.
type place struct{ bar, event int }

// cursor finds the event that is looked at: the one that the query names, or
// else the hardest of its bar, or of all. It makes every event of the tab
// something to choose.
func (s *songbook) cursor(c *echo.Context, p *song.Part, q url.Values, v *rungsView, bars []draw.Bar) {
	var order []place
	for b := range bars {
		for i := range bars[b].Of.Events {
			e := &bars[b].Of.Events[i]
			order = append(order, place{b, i})
			for k := range bars[b].Columns {
				if bars[b].Columns[k].At == e.Start {
					bars[b].Columns[k].Link = eventLink(q, &bars[b], e)
				}
			}
		}
	}
	event := func(i int) *arrange.Event { return &bars[order[i].bar].Of.Events[order[i].event] }
	at, named := -1, -1
	bar, _ := strconv.Atoi(q.Get("bar"))
	pass, _ := strconv.Atoi(q.Get("pass"))
	exact := slices.ContainsFunc(bars, func(b draw.Bar) bool { return b.Number == bar && b.Pass == pass })
	for i := range order {
		here := &bars[order[i].bar]
		if bar > 0 && (here.Number != bar || here.Pass != pass && exact || here.Pass > 0 && !exact) {
			continue
		}
		if at < 0 || event(i).Demand > event(at).Demand {
			at = i
		}
		if event(i).Start.String() == q.Get("at") && bar > 0 {
			named = i
		}
	}
	if named >= 0 {
		at = named
	}
	if at < 0 {
		return
	}
	here := order[at]
	e := event(at)
	for k := range bars[here.bar].Columns {
		if bars[here.bar].Columns[k].At == e.Start {
			bars[here.bar].Columns[k].Chosen = true
		}
	}
	sp := speaker(c)
	cur := &cursor{Event: *e, Bar: bars[here.bar].Number, Place: sp.Place(e.Start, bars[here.bar].Meter), Words: sp.Event(e), Asks: sp.Hard(e, bars[here.bar].Meter)}
	link := func(i int) string {
		if i < 0 || i >= len(order) {
			return ""
		}
		return eventLink(q, &bars[order[i].bar], event(i))
	}
	cur.Previous, cur.Next = link(at-1), link(at+1)
	first, after := at, at
	for first > 0 && order[first].bar >= here.bar {
		first--
	}
	for first > 0 && order[first-1].bar == order[first].bar {
		first--
	}
	for after < len(order) && order[after].bar == here.bar {
		after++
	}
	if order[first].bar < here.bar {
		cur.Last = link(first)
	}
	cur.Following = link(after)
	cur.Neck = draw.Shape{Width: drawnTo(c, neckWidth, 84), Fingering: e.Fingering, Player: v.Player, Speaker: sp, Mutes: e.Mutes, Dead: e.Dead, Waits: e.Base}.SVG()
	var names []string
	for _, n := range e.Notes {
		names = append(names, n.Pitch.String())
	}
	cur.Names, cur.Silent = strings.Join(names, " "), sp.Mutes(e.Mutes)
	cur.passes(p, q, pass)
	cur.pins(v, sp)
	v.Cursor = cur
}

func eventLink(q url.Values, b *draw.Bar, e *arrange.Event) string {
	pass := ""
	if b.Pass > 0 {
		pass = strconv.Itoa(b.Pass)
	}
	return linkTo(q, "bar", strconv.Itoa(b.Number), "pass", pass, "at", e.Start.String())
}

// passes offers the passes of the line that a bar is in, to decide something for
// one of them alone; pass is the one that is asked for.
func (cur *cursor) passes(p *song.Part, q url.Values, pass int) {
	bar := 0
	for _, line := range p.Lines {
		if bar += len(line.Bars); cur.Bar > bar {
			continue
		}
		if line.Times < 2 {
			return
		}
		if pass >= 1 && pass <= line.Times {
			cur.Pass = pass
		}
		at := []string{"bar", strconv.Itoa(cur.Bar), "at", cur.Start.String()}
		cur.Passes = append(cur.Passes, passLink{"every pass", linkTo(q, append(at, "pass", "")...), cur.Pass == 0})
		for i := 1; i <= min(line.Times, mostPasses); i++ {
			cur.Passes = append(cur.Passes, passLink{fmt.Sprintf("pass %d", i), linkTo(q, append(at, "pass", strconv.Itoa(i))...), cur.Pass == i})
		}
		return
	}
}

// mostPasses is how many passes of a line are offered one by one.
const mostPasses = 8

// passLink chooses a pass of a line.
type passLink struct {
	Label, Link string
	Chosen      bool
}

// places writes shapes as a sheet does.
func places(shapes []neck.Frets) string {
	var slots []string
	for _, f := range shapes {
		var notes []string
		for i, fret := range f {
			if fret >= 0 {
				notes = append(notes, fmt.Sprintf("%d%s", fret, neck.StringAt(i)))
			}
		}
		slots = append(slots, cmp.Or(strings.Join(notes, "+"), "x"))
	}
	return strings.Join(slots, " ")
}

// pins offers what can be pinned at the cursor, and what is.
func (cur *cursor) pins(v *rungsView, sp words.Speaker) {
	for _, p := range v.Way.Pins {
		if p.Bar == 0 || p.Bar == cur.Bar {
			cur.Held = append(cur.Held, pinChoice{Label: p.String(), Pin: p.String()})
		}
	}
	if len(cur.Notes) == 0 {
		return
	}
	here := arrange.Pin{Bar: cur.Bar, Pass: cur.Pass, Event: true, Start: cur.Start, What: arrange.PinShape, Shape: cur.Fingering.Frets}
	cur.Pins = append(cur.Pins, pinChoice{"these frets here", here.String(), "p"})
	if e := cur.From; e.Kind == song.Chord {
		wherever := arrange.Pin{Of: e.Chord.Symbol, What: arrange.PinShape, Shape: cur.Fingering.Frets}
		cur.Pins = append(cur.Pins, pinChoice{"these frets for every " + e.Chord.Symbol, wherever.String(), "e"})
	}
	low := cur.Fingering.Lowest()
	onString := arrange.Pin{Bar: cur.Bar, Pass: cur.Pass, What: arrange.PinString, On: low}
	cur.Pins = append(cur.Pins, pinChoice{fmt.Sprintf("bar %d on the %s string", cur.Bar, sp.String(low)), onString.String(), "s"})
	from := max(cur.Base-1, 0)
	if cur.Fingering.Frets.On(low) == 0 {
		from = 0
	}
	region := arrange.Pin{What: arrange.PinRegion, Low: from, To: min(from+5, neck.MaxFret)}
	cur.Pins = append(cur.Pins, pinChoice{fmt.Sprintf("all of it in frets %d to %d", region.Low, region.To), region.String(), "f"})
	for _, n := range cur.Notes {
		if n.Finger == hand.None {
			continue
		}
		choice := fingerChoice{Label: sp.String(n.String)}
		for f := hand.Index; f <= hand.Little; f++ {
			pin := arrange.Pin{Bar: cur.Bar, Pass: cur.Pass, Event: true, Start: cur.Start, What: arrange.PinFinger, On: n.String, Finger: f}
			choice.Fingers = append(choice.Fingers, pinChoice{Label: f.String(), Pin: pin.String()})
			if f == n.Finger {
				choice.Now = f.String()
			}
		}
		cur.Fingers = append(cur.Fingers, choice)
	}
}

// songForm reads a form that changes something of a song: the song, the form,
// and the query of the page that it was sent from.
func (s *songbook) songForm(c *echo.Context) (g store.Song, form, query url.Values, err error) {
	if g, err = s.songFrom(c); err != nil {
		return g, nil, nil, err
	}
	if form, err = c.FormValues(); err != nil {
		return g, nil, nil, err
	}
	if query, err = url.ParseQuery(form.Get("query")); err != nil {
		query, err = url.Values{}, nil
	}
	return g, form, query, err
}

// changeWay changes how the version that is looked at is made, and shows it
// again.
func (s *songbook) changeWay(c *echo.Context) error {
	g, form, q, err := s.songForm(c)
	if err != nil {
		return err
	}
	rung, err := arrange.ParseRung(form.Get("rung"))
	if err != nil {
		return wrong("There is no such rung.")
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	i, ok := in.PartNamed(form.Get("part"))
	if !ok {
		return errNoPart
	}
	says := fmt.Sprintf("Changed how %s of %s is made: %s.", in.Parts[i].Name, g.Title, strings.ToLower(rung.Title()))
	err = s.journaled(c, says, func(ctx context.Context) error {
		return s.Store.ChangeWay(ctx, home(c).ID, g.ID, in.PartID(i), lineIn(q, &in.Parts[i]), rung, func(text string) (string, error) {
			way, _ := arrange.ParseWay(text)
			return changed(way, form)
		})
	})
	if err != nil {
		return err
	}
	q.Set("part", form.Get("part"))
	q.Set("rung", string(rung))
	if c.Request().Header.Get("X-Fragment") != "" {
		return s.showRungs(c, q)
	}
	return see(c, "/songs/%d/rungs?%s", g.ID, q.Encode())
}

// errNoPart is what is answered where a part is not there any more.
var errNoPart = wrong("This part is called something else now, or is not there any more. Load the page again.")

// mostPins bounds the pins of one version.
const mostPins = 2000

// changed is a way as a form changes it.
func changed(way arrange.Way, form url.Values) (string, error) {
	switch form.Get("prefer") {
	case string(arrange.OneString):
		way.Prefer = arrange.OneString
	case string(arrange.Nearest):
		way.Prefer = ""
	}
	if thicken, err := arrange.ParseThicken(form.Get("thicken")); err == nil {
		way.Thicken = thicken
	}
	switch form.Get("places") {
	case "free":
		way.Replace = true
	case "typed":
		way.Replace = false
	}
	if school, err := voicing.ParseSchool(form.Get("school")); err == nil {
		way.School = school
	}
	switch form.Get("rhythm") {
	case "full":
		way.FullRhythm = true
	case "thin":
		way.FullRhythm = false
	}
	for _, text := range form["pin"] {
		pin, err := arrange.ParsePin(text)
		if err != nil {
			return "", wrong(err.Error() + ".")
		}
		way = way.Pin(pin)
	}
	for _, text := range form["unpin"] {
		way = way.Without(text)
	}
	if len(way.Pins) > mostPins {
		return "", wrong(fmt.Sprintf("A version can have %d pins.", mostPins))
	}
	return way.String(), nil
}
