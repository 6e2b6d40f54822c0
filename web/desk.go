package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/voicing"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// deskView answers quick questions about chords, without a song.
type deskView struct {
	Page
	Students []store.Student
	Student  int64
	Tuning   string
	Schools  []voicing.School
	School   voicing.School
	Symbol   string
	Sung     string
	Error    string
	Chord    *chord.Chord
	Tones    string
	Cards    []choiceCard
	None     string // why there are none
	Frets    string
	Tap      template.HTML
	Names    []deskName
	Along    []deskName // what the shape is at each fret
	TapHz    string
	Chords   string // a progression
	Problem  string
	Keys     string
	Chosen   []deskChord
	Capos    []capoRow
	Singer   string // what a singer asks for
	Unsung   string // what is wrong with it
	ForVoice []sungRow
	Pairs    [][2]capoRow
	Hear     string
	To       string
	Retune   []retunedRow
	Warnings []string
	Heard    string
	As       string
	Record   string
	Strings  []deskString
}

type deskName struct{ Name, Words string }

type deskChord struct {
	choiceCard
	Chord  chord.Chord
	Number string
	Why    string
	Change string
}

type deskString struct {
	String string
	Hz     float64
}

// tapWidth is the width of the neck to tap on, px: wide enough that the last fret
// can be hit by a finger. A narrower window scrolls it.
const tapWidth = 370

func (s *songbook) desk(c *echo.Context) error {
	q := c.QueryParams()
	home := home(c)
	v := deskView{Page: s.page(c, "Chord desk", "desk"), Schools: voicing.Schools, Tuning: "standard",
		Symbol: strings.TrimSpace(q.Get("symbol")), Frets: q.Get("frets"), Chords: q.Get("chords"), To: q.Get("to"), Heard: q.Get("heard"), As: q.Get("as"), Singer: strings.TrimSpace(q.Get("singer"))}
	var err error
	who := store.Student{}
	if v.Students, who, err = s.whom(c, q.Get("student")); err != nil {
		return err
	}
	var player hand.Player
	if who.ID != 0 {
		v.Student, player = who.ID, studio.Player(&who)
	}
	if v.School, err = voicing.ParseSchool(q.Get("school")); err != nil {
		v.School = voicing.All
	}
	tuning := neck.Standard
	if t, err := neck.Parse(q.Get("tuning")); err == nil && q.Get("tuning") != "" {
		tuning, v.Tuning = t, t.String()
	}
	st := style(c, tapWidth)
	cfg := voicing.Config{In: player.On(tuning, 0), Player: player, School: v.School, Max: mostCards}
	if n, err := pitch.ParseNote(q.Get("sung")); err == nil {
		cfg.Sung, v.Sung = n, n.String()
	}
	if v.Symbol == "" && v.Frets == "" && v.Chords == "" {
		v.Symbol = "Am7"
	}
	s.deskSymbol(&v, cfg, st)
	s.deskFrets(&v, q, tuning, player, st)
	s.deskProgression(&v, cfg, home, st)
	deskTuning(&v, tuning, st.Speaker)
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "desk#desk", v)
	}
	return c.Render(http.StatusOK, "desk", v)
}

// deskSymbol says what a symbol means and how to play it.
func (s *songbook) deskSymbol(v *deskView, cfg voicing.Config, st draw.Style) {
	if v.Symbol == "" {
		return
	}
	ch, err := chord.Parse(v.Symbol)
	if err != nil {
		v.Error = err.Error()
		return
	}
	v.Chord = &ch
	v.None = sentence(words.NoVoicing(ch, cfg.School))
	var tones []string
	for _, t := range ch.Tones {
		tones = append(tones, fmt.Sprintf("%s %s", t.Note, t.Degree))
	}
	v.Tones = strings.Join(tones, ", ")
	found := s.house.Book().Find(ch, cfg)
	if len(found) < 3 {
		cfg.Dominated = true
		found = s.house.Book().Find(ch, cfg)
	}
	for i := range found {
		card := newCard(&found[i], cfg.In, cfg.Player, st.Speaker, ch.Root)
		card.Key = i + 1
		v.Cards = append(v.Cards, card)
	}
}

// deskFrets names the shape that is tapped.
func (s *songbook) deskFrets(v *deskView, q map[string][]string, tuning neck.Tuning, player hand.Player, st draw.Style) {
	frets := neck.NoFrets
	if f, err := neck.ParseFrets(v.Frets); err == nil {
		frets = f
	}
	v.Tap = draw.Tap{Frets: frets, LeftHanded: player.LeftHanded, Speaker: st.Speaker, Width: st.Width,
		Link: func(f neck.Frets) string {
			if f == neck.NoFrets {
				return linkTo(q, "frets", "")
			}
			return linkTo(q, "frets", f.String())
		}}.SVG()
	if frets == neck.NoFrets {
		return
	}
	in := player.On(tuning, 0)
	classes, bass := in.Classes(frets)
	v.TapHz = hertz(frets, in)
	for _, n := range chord.Names(classes, bass, pitch.Key{}) {
		var notes []string
		for _, t := range n.Tones {
			notes = append(notes, t.String())
		}
		text := strings.Join(notes, " ")
		if more := st.Speaker.Name(n); more != "" {
			text = more + "; " + text
		}
		v.Names = append(v.Names, deskName{n.Name, text})
	}
	for _, m := range voicing.Along(frets, in, pitch.Key{}) {
		v.Along = append(v.Along, deskName{m.Frets.String(), st.Speaker.Along(m)})
	}
}

// deskProgression chooses voicings for chords together.
func (s *songbook) deskProgression(v *deskView, cfg voicing.Config, home store.Studio, st draw.Style) {
	var slots []voicing.Slot
	numbering, _ := harmony.ParseNumbering(home.Numbering)
	chords, numbered, err := harmony.Read(v.Chords, pitch.Key{}, numbering)
	if err != nil {
		v.Problem = err.Error()
		return
	}
	for _, ch := range chords {
		slots = append(slots, voicing.Slot{Chord: ch, Seconds: 1.5, Pin: neck.NoFrets})
	}
	const most = 64
	if len(chords) == 0 {
		return
	}
	if len(chords) > most {
		v.Problem = fmt.Sprintf("these are %d chords; write %d at most", len(chords), most)
		return
	}
	guesses := harmony.Keys(chords)
	sections := harmony.Sections(chords, numbered)
	key := sections[0].Key
	v.Keys = st.Speaker.Keys(guesses)
	numbers := harmony.InSections(chords, sections, numbering)
	cfg.Max, cfg.Key = 0, key
	var sound []strike
	for i, chosen := range s.house.Book().Progression(slots, cfg) {
		d := deskChord{Chord: chosen.Chord, Number: numbers[i].Number, Why: st.Speaker.Borrowed(numbers[i].Borrowed)}
		d.choiceCard = newCard(&chosen.Voicing, cfg.In, cfg.Player, st.Speaker, chosen.Chord.Root)
		if i > 0 {
			d.Change = st.Speaker.Change(chosen.Link)
		}
		sound = append(sound, strike{1.5 * float64(i), frequencies(chosen.Frets, cfg.In)})
		v.Chosen = append(v.Chosen, d)
	}
	v.Hear = strikes(sound)
	at := voicing.Config{In: cfg.In, Player: cfg.Player, Key: key}
	capos := s.house.Book().Capos(chords, at)
	v.Capos = capoRows(capos[:3])
	for _, pair := range voicing.ForTwo(capos)[:1] {
		rows := capoRows(pair[:])
		v.Pairs = append(v.Pairs, [2]capoRow{rows[0], rows[1]})
	}
	if v.Singer == "" {
		return
	}
	asked, err := voicing.ParseSinger(v.Singer, key)
	if err != nil {
		v.Unsung = sentence(err.Error())
		return
	}
	const mostKeys = 4
	for _, one := range s.house.Book().ForSinger(chords, asked[:min(mostKeys, len(asked))], at) {
		v.ForVoice = append(v.ForVoice, sungRow{one, strings.Join(symbolsOf(one.Sounds), " "), capoRows([]voicing.Capo{one.Capo})[0]})
	}
}

// sungRow is a key for a voice, the chords that sound in it, and the capo for them.
type sungRow struct {
	voicing.SungKey
	Chords string
	At     capoRow
}

// deskTuning plans a retuning, and says how far a record is off.
func deskTuning(v *deskView, from neck.Tuning, sp words.Speaker) {
	if to, err := neck.Parse(v.To); err == nil && v.To != "" {
		retune, cautions := neck.Retune(from, to, neck.A4)
		v.Retune, v.Warnings = retunedRows(retune, sp), sp.Retuning(cautions)
	}
	if v.Heard == "" {
		return
	}
	hz, err := strconv.ParseFloat(strings.Replace(v.Heard, ",", ".", 1), 64)
	note, errNote := pitch.ParseSpelled(v.As)
	if err != nil || errNote != nil || hz < 10 || hz > 20000 {
		v.Record = "Write the frequency in Hz, and the note that it should be with its octave, as in 435 and A4."
		return
	}
	cents := neck.Cents(hz, note.Pitch(), neck.A4)
	v.Record = sp.Record(cents) + ":"
	if odd := sp.Offset(neck.Odd(cents, note)); odd != "" {
		v.Record = odd + ". " + v.Record
	}
	from.Cents += cents
	for i := range neck.Strings {
		s := neck.StringAt(i)
		v.Strings = append(v.Strings, deskString{sp.String(s), from.Hz(s, neck.A4)})
	}
}
