package web

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// chordsView is the chords of a song, one of them looked at closely.
type chordsView struct {
	Page
	Song      store.Song
	Facts     studio.Facts
	Key       pitch.Key
	Guessed   bool // the sheet gives no key
	Students  []store.Student
	Student   int64
	School    voicing.School
	Schools   []voicing.School
	Parts     []chordPart
	At        *chordSlot
	PartName  string
	Choices   []choiceCard
	Before    string // the progression as it is usually played, to be heard
	After     string // and as it is chosen
	Capo      int    // tried out
	Capos     []capoRow
	Tuning    string // tried out
	Retune    []retunedRow
	Warnings  []string
	Query     string
	Sung      string // a note that the voice has
	ShapeKey  string
	Changes   []string // where the song goes on in another key
	Names     string   // what the names of chords are, where it makes a difference
	Theirs    string   // who has the song in a lesson of their own; empty where nobody is asked for
	For       string   // for whose lesson alone what is chosen holds; empty is everybody
	Numbering harmony.Numbering
	Players   []string // who else plays chords in the song
	Line      string   // whose are looked at; empty is the first one's
}

// chordPart is a part with its chords in order.
type chordPart struct {
	Name    string
	Slots   []chordSlot
	Unmet   []string
	Grade   float64
	School  voicing.School // of its easier chords; empty where it is played as it is written
	Written bool           // whoever it is for plays it as it is written
	Easings []easing
}

// chordSlot is a chord where it stands in the form.
type chordSlot struct {
	Part, Bar int
	Start     pitch.Frac
	Beat      string
	Chord     chord.Chord // as the sheet names it
	Also      string      // what it sounds, or what is fingered, where the two have other names
	Again     []string    // where in its bar it is struck again at once, by Start
	sounds    chord.Chord
	Number    string
	Borrowed  string
	Event     *arrange.Event
	Why       string
	Shape     string
	Chosen    bool
	Link      template.HTMLAttr // escaped once; the template would do it in three rounds
}

// choiceCard is a voicing that may be chosen.
type choiceCard struct {
	voicing.Voicing
	Key      int // that chooses it
	Shape    string
	Is       string
	Role     string
	Taken    bool
	Neck     template.HTML
	Words    string
	Mark     string
	Hz       string
	EasePart int // of a hundred
	KeepPart int
	Drawn    SafeHTML // all of that
}

// cardWidth is the width of a strip of neck on a card, px.
const cardWidth = 200

// mostCards is how many voicings are offered.
const mostCards = 9

func (s *songbook) chords(c *echo.Context) error { return s.showChords(c, c.QueryParams()) }

// showChords shows what a query asks for.
func (s *songbook) showChords(c *echo.Context, q url.Values) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	ctx, home := c.Request().Context(), home(c)
	whole, err := s.read(c, g)
	if err != nil {
		return err
	}
	in, line, players := chordsOf(whole, q.Get("line"))
	v := chordsView{Players: players, Line: line, Page: s.page(c, "Chords of "+g.Title, "songs"), Song: g, Facts: studio.FactsOf(in), Schools: voicing.Schools, Query: q.Encode()}
	who := store.Student{}
	if v.Students, who, err = s.whom(c, q.Get("student")); err != nil {
		return err
	}
	var player hand.Player
	if who.ID != 0 {
		v.Student, player = who.ID, studio.Player(&who)
	}
	v.Numbering, _ = harmony.ParseNumbering(home.Numbering)
	if v.School, err = voicing.ParseSchool(q.Get("school")); err != nil {
		v.School = voicing.School(home.ChordSchool)
	}
	v.Key = in.Key
	if !v.Key.Valid() {
		if guesses := harmony.KeysOfSong(in); len(guesses) > 0 {
			v.Key, v.Guessed = guesses[0].Key, true
		}
	}
	tried := s.tryOut(in, q, &v, speaker(c))
	w, err := s.house.WaysOf(ctx, home.ID, g.ID)
	if err != nil {
		return err
	}
	var theirs []store.Part
	if who.ID != 0 {
		if theirs, err = s.house.OwnParts(ctx, home.ID, g.ID, who.ID); err != nil {
			return err
		}
		if len(theirs) > 0 {
			if v.Theirs = who.Name; q.Get("hold") != "all" {
				v.For = strconv.FormatInt(who.ID, 10)
			}
		}
	}
	options := s.options(c, player, 0)
	options.School = v.School
	a := arrange.New(tried, options)
	sp, lift := speaker(c), tried.Lift()
	keys := harmony.Map(whole)
	for _, k := range keys[min(len(keys), 1):] {
		v.Changes = append(v.Changes, fmt.Sprintf("%s from bar %d of %s", k.Key, k.Bar, in.Parts[k.Part].Name))
	}
	var all []chord.Chord
	for i := range tried.Parts {
		p := &tried.Parts[i]
		if line != "" && !slices.Contains(whole.Parts[i].Players(), line) {
			continue // nothing is played beside it
		}
		rung, own := arrange.EasyChords, w.Of(tried.PartID(i), line)[arrange.EasyChords]
		for _, t := range theirs {
			if v.For == "" {
				break // it is looked at as for everybody
			}
			if t.PartID == tried.PartID(i) && t.Player == line && (t.Own != "" || t.Rung == arrange.AsWritten) {
				own, _ = arrange.ParseWay(t.Way)
				rung = t.Rung
			}
		}
		base := []any{g.Sheet, idsOf(in), w.Key(), studio.OfOptions(options), line, tried.Capo, tried.Tuning.String(), lift}
		work := studio.WorkOf("chords", append(base, i, rung, own.String())...)
		version, err := studio.Worked(ctx, s.house, home.ID, work, p.Written(), func() (arrange.Version, error) {
			if !a.HasChords(i) {
				return arrange.Version{}, nil
			}
			return a.Version(i, rung, own), nil
		})
		if err != nil {
			return err
		}
		if len(version.Bars) == 0 {
			continue // it has no chords
		}
		part := chordPart{Name: p.Name, Grade: version.Grade, Written: rung == arrange.AsWritten}
		if !part.Written {
			part.School = cmp.Or(own.School, v.School)
		}
		if part.Easings, err = s.easings(c, a, i, p.Written(), func(capo string) string { return linkTo(q, "capo", capo) }, base...); err != nil {
			return err
		}
		for _, u := range version.Unmet {
			part.Unmet = append(part.Unmet, sp.Unmet(u, tried.Parts[i].Meter))
		}
		for b := range version.Bars {
			for j := range version.Bars[b].Events {
				e := &version.Bars[b].Events[j]
				if e.From.Kind != song.Chord {
					continue
				}
				if j > 0 && struckAgain(&version.Bars[b].Events[j-1], e) {
					last := &part.Slots[len(part.Slots)-1]
					last.Again = append(last.Again, e.Start.String())
					continue
				}
				sounds := lift.Sounds(e.From.Chord, v.Key)
				part.Slots = append(part.Slots, chordSlot{Part: i, Bar: b + 1, Start: e.Start, Beat: e.Beat, Chord: e.From.Chord, Also: alsoNamed(lift, e.From.Chord, v.Key), sounds: sounds, Event: e,
					Shape: e.Fingering.Frets.String(),
					Link:  template.HTMLAttr(`href="` + html.EscapeString(linkTo(q, "part", p.Name, "bar", strconv.Itoa(b+1), "at", e.Start.String())) + `"`)})
				all = append(all, sounds)
			}
		}
		for _, line := range own.Unread {
			part.Unmet = append(part.Unmet, fmt.Sprintf("“%s” is not understood; it is kept as it is, and can be let go under Rungs", line))
		}
		part.number(keys, i, v.Numbering, sp)
		v.Parts = append(v.Parts, part)
	}
	if err := s.lookAt(c, q, &v, tried, player); err != nil {
		return err
	}
	if len(all) > 0 {
		cfg := voicing.Config{In: player.On(in.Tuning, 0), Player: player, Key: v.Key}
		all = all[:min(len(all), 64)]
		work := studio.WorkOf("capos", symbolsOf(all), studio.OfOptions(options), in.Tuning.String(), v.Key.String())
		if v.Capos, err = studio.Worked(ctx, s.house, home.ID, work, len(all), func() ([]capoRow, error) {
			rows := capoRows(s.house.Book().Capos(all, cfg)[:4])
			for i := range rows {
				if rows[i].Drawn, err = s.drawn(c, "chords#capo-shapes", rows[i].Chords); err != nil {
					return nil, err
				}
			}
			return rows, nil
		}); err != nil {
			return err
		}
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "chords#chords", v)
	}
	return c.Render(http.StatusOK, "chords", v)
}

// chordsOf is a song for whoever's line is asked for, empty the first one's, and who else
// plays chords in it.
func chordsOf(g *song.Song, line string) (in *song.Song, whose string, players []string) {
	chords := func(b song.Bar) bool {
		return slices.ContainsFunc(b.Events, func(e song.Event) bool { return e.Kind == song.Chord })
	}
	for i := range g.Parts {
		p := &g.Parts[i]
		for _, player := range p.Players() {
			theirs := p.Of(player)
			if !slices.Contains(players, player) && slices.ContainsFunc(theirs.Bars(), chords) {
				players = append(players, player)
			}
		}
	}
	if !slices.Contains(players, line) {
		return g, "", players
	}
	return g.As(func(int) string { return line }), line, players
}

// struckAgain tells whether an event is the chord before it once more, in the same shape.
func struckAgain(before, e *arrange.Event) bool {
	return before.From.Kind == song.Chord && before.From.Chord.Symbol == e.From.Chord.Symbol && before.Fingering.Frets == e.Fingering.Frets
}

// tryOut is the song with another capo or tuning, as a query asks for: its
// chords sound the same, only their shapes change.
func (s *songbook) tryOut(g *song.Song, q url.Values, v *chordsView, sp words.Speaker) *song.Song {
	tried := *g
	capo, err := strconv.Atoi(q.Get("capo"))
	if v.Capo = g.Capo; err == nil && capo >= 0 && capo <= sheet.MaxCapo {
		v.Capo = capo
	}
	tuning, err := neck.Parse(q.Get("tuning"))
	if err != nil || q.Get("tuning") == "" {
		tuning = g.Tuning
	}
	if v.Capo != g.Capo || tuning != g.Tuning {
		tried = *g.Heard() // what sounds stays
		tried.Capo, tried.Tuning, tried.Names = v.Capo, tuning, song.Sounding
	}
	if tuning != g.Tuning {
		v.Tuning = tuning.String()
		retune, cautions := neck.Retune(g.Tuning, tuning, neck.A4)
		v.Retune, v.Warnings = retunedRows(retune, sp), sp.Retuning(cautions)
	}
	if by := tried.Lifted(); by != 0 && v.Key.Valid() {
		v.ShapeKey = v.Key.Transposed(-by).String()
		v.Names = map[bool]string{true: "those of the shapes", false: "what sounds"}[tried.Lift().Shapes()]
	}
	return &tried
}

// lookAt finds the chord that is looked at and what may stand for it.
func (s *songbook) lookAt(c *echo.Context, q url.Values, v *chordsView, g *song.Song, player hand.Player) error {
	var chosen *chordPart
	for i := range v.Parts {
		p := &v.Parts[i]
		for j := range p.Slots {
			slot := &p.Slots[j]
			named := p.Name == q.Get("part") && strconv.Itoa(slot.Bar) == q.Get("bar") && (slot.Start.String() == q.Get("at") || slices.Contains(slot.Again, q.Get("at")))
			if v.At == nil || named {
				v.At, v.PartName, chosen = slot, p.Name, p
			}
		}
	}
	if v.At == nil {
		return nil
	}
	v.At.Chosen, v.At.Why = true, speaker(c).Event(v.At.Event)
	in, above := instrument(g), g.Above()
	cfg := voicing.Config{In: instrument(g.Named()), Player: player, School: v.School, Key: v.Key.Transposed(-above), Max: mostCards}
	if n, err := pitch.ParseNote(q.Get("sung")); err == nil {
		cfg.Sung, v.Sung = n, n.String()
		if above != 0 {
			cfg.Sung = cfg.Key.SpellClass(n.Class().Up(-above))
		}
	}
	sp := style(c, 0).Speaker
	work := studio.WorkOf("cards", v.At.Chord.Symbol, in, cfg.In, player, cfg.School, cfg.Key.String(), cfg.Sung.String(), sp)
	cards, err := studio.Worked(c.Request().Context(), s.house, home(c).ID, work, 1, func() ([]choiceCard, error) {
		cards := s.cards(v.At.Chord, cfg, in, sp)
		for i := range cards {
			drawn, err := s.drawn(c, "chords#card", &cards[i])
			if err != nil {
				return nil, err
			}
			cards[i].Drawn = drawn
		}
		return cards, nil
	})
	if err != nil {
		return err
	}
	v.Choices = slices.Clone(cards)
	for i := range v.Choices {
		v.Choices[i].Taken = v.Choices[i].Frets == v.At.Event.Fingering.Frets
	}
	var before, after []strike
	seconds := 60 / g.Parts[v.At.Part].Tempo * 2
	for i, slot := range chosen.Slots {
		at := float64(i) * seconds
		after = append(after, strike{at, frequencies(slot.Event.Fingering.Frets, in)})
		if usual := s.house.Book().Usual(slot.Chord, cfg.In, hand.Player{}, 1); len(usual) > 0 {
			before = append(before, strike{at, frequencies(usual[0].Frets, in)})
		}
	}
	v.Before, v.After = strikes(before), strikes(after)
	return nil
}

// alsoNamed is the other name of a chord where what is fingered and what sounds have
// different ones.
func alsoNamed(lift song.Lift, c chord.Chord, key pitch.Key) string {
	switch {
	case lift.Shapes():
		return "sounds " + lift.Sounds(c, key).Symbol
	case lift.Any():
		return "shape of " + lift.Shape(c, key).Symbol
	}
	return ""
}

// cards are what may stand for a chord, found on an instrument of its names and played
// on in.
func (s *songbook) cards(of chord.Chord, cfg voicing.Config, in neck.Instrument, sp words.Speaker) (cards []choiceCard) {
	found := s.house.Book().Find(of, cfg)
	if len(found) < 3 { // the front alone is short: show what comes close to it
		cfg.Dominated = true
		found = s.house.Book().Find(of, cfg)
	}
	for i := range found {
		card := newCard(&found[i], in, cfg.Player, sp, of.Root)
		card.Key = i + 1
		cards = append(cards, card)
	}
	return cards
}

// newCard describes a voicing in plain words.
func newCard(v *voicing.Voicing, in neck.Instrument, p hand.Player, sp words.Speaker, letter pitch.Note) choiceCard {
	card := choiceCard{Voicing: *v, Shape: v.Frets.String(), Is: sp.Called(v.Is), Role: sp.Role(v.Role), Words: sp.Voicing(v), Hz: hertz(v.Frets, in),
		EasePart: int(100 * v.Ease), KeepPart: int(100 * v.Fidelity)}
	card.Neck = draw.Shape{Fingering: v.Fingering, Player: p, Neck: in.Neck, Mutes: v.Mutes(0, p.Thumb), Speaker: sp, Width: cardWidth}.SVG()
	if v.Circle > 0 {
		card.Mark = v.Mark(letter)
	}
	return card
}

// number numbers the chords of a part, in the order in which they follow one another, in
// the keys that they have there.
func (p *chordPart) number(keys []harmony.PartKey, part int, numbering harmony.Numbering, sp words.Speaker) {
	chords := make([]chord.Chord, len(p.Slots))
	var sections []harmony.Section
	for i := range p.Slots {
		chords[i] = p.Slots[i].sounds
		var key pitch.Key
		for _, k := range keys {
			if k.Part < part || k.Part == part && k.Bar <= p.Slots[i].Bar {
				key = k.Key
			}
		}
		if n := len(sections); n == 0 || sections[n-1].Key != key {
			sections = append(sections, harmony.Section{From: i, Key: key})
		}
		sections[len(sections)-1].To = i + 1
	}
	for i, n := range harmony.InSections(chords, sections, numbering) {
		p.Slots[i].Number, p.Slots[i].Borrowed = n.Number, sp.Borrowed(n.Borrowed)
	}
}

// instrument is the guitar that a song is played on.
func instrument(g *song.Song) neck.Instrument { return hand.Player{}.On(g.Tuning, g.Capo) }

// capoRow is a place for the capo with the shapes that it leaves, each chord
// once.
type capoRow struct {
	voicing.Capo
	Chords []capoShape
	Drawn  SafeHTML // all of them
}

type capoShape struct{ Name, Frets string }

func capoRows(list []voicing.Capo) []capoRow {
	const most = 8
	rows := make([]capoRow, len(list))
	for i, at := range list {
		rows[i].Capo = at
		seen := map[string]bool{}
		for j, c := range at.Shapes {
			if !seen[c.Symbol] && len(rows[i].Chords) < most {
				seen[c.Symbol] = true
				shape := capoShape{Name: c.Symbol, Frets: "no usual shape"}
				if at.Usual[j] != neck.NoFrets {
					shape.Frets = at.Usual[j].String()
				}
				rows[i].Chords = append(rows[i].Chords, shape)
			}
		}
	}
	return rows
}

// retunedRow is what a string has to do, with the teacher's name for it.
type retunedRow struct {
	neck.Retuned
	Name string
}

func retunedRows(list [neck.Strings]neck.Retuned, sp words.Speaker) []retunedRow {
	rows := make([]retunedRow, len(list))
	for i, r := range list {
		rows[i] = retunedRow{r, sp.String(r.String)}
	}
	return rows
}

// strike is what sounds at a moment, for listening.
type strike struct {
	At float64   `json:"at"` // seconds
	Hz []float64 `json:"hz"` // low to high
}

func strikes(list []strike) string {
	b, _ := json.Marshal(list)
	return string(b)
}

// frequencies are what the strings of a shape sound.
func frequencies(f neck.Frets, in neck.Instrument) []float64 {
	hz := []float64{}
	for i, fret := range f {
		if fret >= 0 {
			hz = append(hz, in.Pitch(neck.StringAt(i), int(fret)).Hz(neck.A4))
		}
	}
	return hz
}

func hertz(f neck.Frets, in neck.Instrument) string {
	return strikes([]strike{{0, frequencies(f, in)}})
}

// chooseVoicing pins a shape for a chord, here or everywhere in the song, or with none lets
// its pins go; or takes a school for the easier chords of a part. It holds for everybody, or for
// one student alone.
func (s *songbook) chooseVoicing(c *echo.Context) error {
	g, form, q, err := s.songForm(c)
	if err != nil {
		return err
	}
	chosen, err := readChoice(form)
	if err != nil {
		return err
	}
	whole, err := s.read(c, g)
	if err != nil {
		return err
	}
	at := home(c).ID
	parsed, line, _ := chordsOf(whole, form.Get("line"))
	if form.Get("for") != "" {
		_, st, err := s.whom(c, form.Get("for"))
		if err != nil {
			return err
		}
		err = s.journaled(c, fmt.Sprintf("Changed chords of %s for %s.", g.Title, st.Name), func(ctx context.Context) error {
			return s.house.ChooseFor(ctx, at, g, &st, store.At(s.Now()), func(p *store.Part, way arrange.Way) (arrange.Way, bool) {
				i, ok := parsed.PartWith(p.PartID)
				if !ok || p.Player != line {
					return way, false
				}
				is, another := chosen.change(&parsed.Parts[i], way)
				if another && chosen.School != "" {
					p.Rung = arrange.EasyChords
				}
				return is, another
			})
		})
		if text := new(studio.NotTheirs); errors.As(err, &text) {
			return wrong(text.Error() + "; give it under For whom first, or choose for everybody.")
		} else if err != nil {
			return err
		}
	} else {
		err := s.journaled(c, fmt.Sprintf("Changed chords of %s.", g.Title), func(ctx context.Context) error {
			for i := range parsed.Parts {
				if line != "" && !slices.Contains(whole.Parts[i].Players(), line) {
					continue
				}
				err := s.Store.ChangeWay(ctx, at, g.ID, parsed.PartID(i), line, arrange.EasyChords, func(text string) (string, error) {
					way, _ := arrange.ParseWay(text)
					if is, another := chosen.change(&parsed.Parts[i], way); another {
						return is.String(), nil
					}
					return text, nil
				})
				if err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return s.showChords(c, q)
	}
	return see(c, "/songs/%d/chords?%s", g.ID, q.Encode())
}

// choice is what is chosen of a chord, or of the chords of a part.
type choice struct {
	Part       string
	School     voicing.School // where it is one for all chords of the part
	Shape      string         // empty lets go what was chosen
	Frets      neck.Frets
	Symbol     string
	Everywhere bool
	Bar        string
	At         []string // where in the bar
}

func readChoice(form url.Values) (one choice, err error) {
	one = choice{Part: form.Get("part"), Symbol: form.Get("symbol"), Everywhere: form.Has("everywhere"), Bar: form.Get("bar"), At: append(form["again"], form.Get("at"))}
	if form.Has("school") {
		if one.School, err = voicing.ParseSchool(form.Get("school")); err != nil {
			err = wrong(err.Error() + ".")
		}
		return one, err
	}
	if !one.Everywhere && !form.Has("here") {
		return one, wrong("Choose a shape, here or everywhere.")
	}
	if one.Shape = form.Get("here") + form.Get("everywhere"); one.Shape != "" {
		if one.Frets, err = neck.ParseFrets(one.Shape); err != nil {
			err = wrong(err.Error() + ".")
		}
	}
	return one, err
}

// change gives the way in which a part is made then; another tells whether it is another one.
func (one *choice) change(p *song.Part, way arrange.Way) (is arrange.Way, another bool) {
	if !one.Everywhere && p.Name != one.Part {
		return way, false
	}
	if one.School != "" {
		way.School = one.School
		return way, true
	}
	all := arrange.Pin{Of: one.Symbol, What: arrange.PinShape, Shape: one.Frets}
	there := false
	if one.Shape == "" && !one.Everywhere {
		way = way.Apart(all.Of, p) // what holds for all holds for the others
	}
	bars := p.Bars()
	for b := range bars {
		for j := range bars[b].Events {
			e := &bars[b].Events[j]
			here := p.Name == one.Part && strconv.Itoa(b+1) == one.Bar && slices.Contains(one.At, e.Start.String())
			if e.Kind != song.Chord || e.Chord.Symbol != all.Of || !here && !one.Everywhere {
				continue
			}
			there = true
			pin := arrange.Pin{Bar: b + 1, Event: true, Start: e.Start, What: arrange.PinShape, Shape: one.Frets}
			if one.Shape != "" && !one.Everywhere {
				way = way.Pin(pin)
				continue
			}
			way.Pins = slices.DeleteFunc(way.Pins, func(o arrange.Pin) bool {
				return o.Bar == pin.Bar && o.Event && o.Start == pin.Start
			})
		}
	}
	switch {
	case there && one.Everywhere && one.Shape != "":
		way = way.Pin(all)
	case there && one.Everywhere:
		way.Pins = slices.DeleteFunc(way.Pins, func(o arrange.Pin) bool { return o.Of == all.Of && o.What == all.What })
	}
	return way, there
}

// symbolsOf are the names of chords.
func symbolsOf(list []chord.Chord) (names []string) {
	for i := range list {
		names = append(names, list[i].Symbol)
	}
	return names
}

// forSinger is the key of a song that a singer asks for, like a third lower: the first of
// those that are tried.
func forSinger(g store.Song, text string) (pitch.Key, error) {
	key := sheet.Parse(g.Sheet).Song.Key
	if !key.Valid() {
		return key, pitch.Malformedf("write the key to go to, like A, or key: into the sheet first", "the song has no key to count from")
	}
	asked, err := voicing.ParseSinger(text, key)
	if err != nil {
		return key, err
	}
	return key.Transposed(asked[0]), nil
}

// transposeSong puts the song into another key, as a draft to look at.
func (s *songbook) transposeSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	to, err := pitch.ParseKey(c.FormValue("to"))
	if err != nil {
		if to, err = forSinger(g, c.FormValue("to")); err != nil {
			return wrong(err.Error() + ".")
		}
	}
	moved, err := sheet.Parse(g.Sheet).Transpose(to, c.FormValue("how") == "capo")
	if err != nil {
		return wrong(err.Error() + ".")
	}
	kept, err := s.Store.ReplaceDraft(c.Request().Context(), home(c).ID, g.ID, &moved.Text, store.At(s.Now()))
	if err != nil {
		return err
	}
	text := fmt.Sprintf("This is %s in %s, not saved yet.", g.Title, to)
	const most = 4
	for _, n := range moved.Notes[:min(len(moved.Notes), most)] {
		text += " " + n + "."
	}
	if len(moved.Notes) > most {
		text += fmt.Sprintf(" And %d more notes moved to other places.", len(moved.Notes)-most)
	}
	undo := fmt.Sprintf("/songs/%d/draft/discard", g.ID)
	if kept != 0 {
		undo = fmt.Sprintf("/songs/%d/typed/%d", g.ID, kept)
		text += " What you had typed is kept under Saves."
	}
	s.notice(c, undo, "%s", text)
	return see(c, "/songs/%d", g.ID)
}
