package take

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Choice says which of the players become those of the song.
type Choice struct {
	// First is the index of the player whose notes the song is made of; Beside are those
	// that run beside it.
	First  int
	Beside []int
}

// Usual is the choice for a score of which nothing is said: the first player that has
// notes on a neck, or any; in a score of this program everybody else beside.
func (s *Score) Usual() Choice {
	c := Choice{}
	for i, p := range s.Players {
		if best := &s.Players[c.First]; !s.Own && (p.Placed && !best.Placed || len(best.Sounds)+len(best.Chords) == 0) {
			c.First = i
		}
	}
	for i := range s.Players {
		if s.Own && i != c.First {
			c.Beside = append(c.Beside, i)
		}
	}
	return c
}

// Song makes a song of a score. What could not be taken over is added to the problems.
// The error says why there is no song at all.
func (s *Score) Song(ctx context.Context, c Choice, problems *Problems) (*song.Song, error) {
	if len(s.Bars) == 0 || len(s.Players) == 0 {
		return nil, fmt.Errorf("there is no music in it")
	}
	if c.First < 0 || c.First >= len(s.Players) {
		return nil, fmt.Errorf("there is no track %d; it has %d", c.First+1, len(s.Players))
	}
	b := builder{ctx: ctx, score: s, problems: problems, left: mostArranged}
	if s.Own {
		b.left = mostArrangedOwn
	}
	first := &s.Players[c.First]
	b.song = &song.Song{Title: title(s.Title), By: clean(s.By), Meter: song.FourFour, Tempo: usualTempo, Tuning: neck.Standard, Capo: first.Capo}
	if first.Placed {
		b.song.Tuning = first.Tuning
	}
	if b.legs = s.road(problems); len(b.legs) == 0 {
		return nil, errors.New("its repeats leave no bar to play")
	}
	b.measure()
	b.settings()
	b.voices = append(b.voices, b.voice(first, ""))
	if own := first.named(s); own != nil {
		b.voices = append(b.voices, b.voice(own, b.player("chords")))
	}
	for _, i := range c.Beside {
		if i < 0 || i >= len(s.Players) || i == c.First {
			return nil, fmt.Errorf("there is no other track %d; it has %d", i+1, len(s.Players))
		}
		b.voices = append(b.voices, b.voice(&s.Players[i], b.player(s.Players[i].Name)))
	}
	b.parts()
	b.place()
	b.possible()
	b.names()
	b.anyway()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if !s.Own {
		b.song = sheet.Shorten(b.song)
	}
	b.limit()
	return b.song, nil
}

// limit leaves out what is beyond the bars that a sheet may have: other players, then
// parts from the end.
func (b *builder) limit() {
	s := b.song
	written := func() (n int) {
		for i := range s.Parts {
			for _, l := range s.Parts[i].Lines {
				n += len(l.Bars)
				for _, v := range l.Beside {
					n += len(v.Bars)
				}
			}
		}
		return n
	}
	if written() > sheet.MaxBars {
		for i := range s.Parts {
			for j := range s.Parts[i].Lines {
				s.Parts[i].Lines[j].Beside = nil
			}
		}
		b.problems.Say("", "take them over one by one", "a sheet has %d bars at most; the other players are left out", sheet.MaxBars)
	}
	for n := written(); n > sheet.MaxBars; n = written() {
		last := &s.Parts[len(s.Parts)-1]
		if len(s.Parts) > 1 {
			b.problems.Say(last.Name, "split the song into two", "a sheet has %d bars at most; this part is left out", sheet.MaxBars)
			Cut(s)
			continue
		}
		b.problems.Say(last.Name, "split the song into two", "a sheet has %d bars at most; the rest is left out", sheet.MaxBars)
		for k := len(last.Lines) - 1; k > 0 && n > sheet.MaxBars; k-- {
			n -= len(last.Lines[k].Bars)
			last.Lines = last.Lines[:k]
		}
		if n > sheet.MaxBars {
			last.Lines[0].Bars = last.Lines[0].Bars[:sheet.MaxBars]
			last.Lines[0].Words = nil
		}
	}
}

// Cut leaves out the last part of a song that has several.
func Cut(s *song.Song) {
	last := len(s.Parts) - 1
	s.Parts = s.Parts[:last]
	s.Order = slices.DeleteFunc(s.Order, func(l song.Leg) bool { return l.Part == last })
	if len(s.Order) == 0 {
		s.Order = []song.Leg{{Part: 0, Times: 1}}
	}
}

// Shorten leaves out the second half of a song's only part: of its lines, or of the bars of its only
// line with what is sung to them. It tells whether there was anything to leave out.
func Shorten(s *song.Song) bool {
	p := &s.Parts[0]
	if n := len(p.Lines); n > 1 {
		p.Lines = p.Lines[:n/2]
		return true
	}
	l := &p.Lines[0]
	n := len(l.Bars) / 2
	if n == 0 {
		return false
	}
	l.Bars = l.Bars[:n]
	for i := range l.Beside {
		l.Beside[i].Bars = l.Beside[i].Bars[:min(n, len(l.Beside[i].Bars))]
	}
	for i := range l.Words {
		l.Words[i] = slices.DeleteFunc(l.Words[i], func(w song.Sung) bool { return w.Bar >= n })
	}
	return true
}

// usualTempo is that of a song that says none, in quarter notes per minute.
const usualTempo = 100

// builder makes a song of a score.
type builder struct {
	ctx      context.Context
	left     int // how many events may be arranged yet
	score    *Score
	problems *Problems
	song     *song.Song
	legs     []leg
	measures []song.Measure // by bar; the zero Lead where it is whole
	begins   []pitch.Frac   // by bar: from the start of the score, in whole notes
	voices   []voice
}

// voice is what a player does, bar by bar.
type voice struct {
	player   string
	of       *Player
	bars     []song.Bar
	silent   []bool // by bar: nothing sounds when it begins
	unplaced bool
}

// player makes a name for a player beside the first that a sheet can have and nobody has
// yet.
func (b *builder) player(name string) string {
	base := sheet.PlayerName(name)
	name = base
	for n := 2; slices.ContainsFunc(b.voices, func(v voice) bool { return v.player == name }); n++ {
		name = base + " " + strconv.Itoa(n)
	}
	return name
}

// measure works out the time of every bar. One that is short where a part begins is a
// pickup, any other has a time of its own.
func (b *builder) measure() {
	s := b.score
	starts := map[int]bool{}
	for _, l := range b.legs {
		starts[l.blocks[0].bars[0]] = true
	}
	b.begins = make([]pitch.Frac, len(s.Bars)+1)
	b.measures = make([]song.Measure, len(s.Bars))
	for i := range s.Bars {
		bar := &s.Bars[i]
		m := song.Measure{Meter: bar.Meter}
		if length := bar.Length; length != m.Meter.Bar() && length.Num() > 0 {
			own, ok := meterOf(length)
			switch {
			case length.Less(m.Meter.Bar()) && starts[i]:
				fine := length.Div(m.Meter.Beat())
				pickup := sheet.NearestPickup(fine, m.Meter)
				if pickup != fine {
					b.problems.Say("bar "+bar.Name, "look at its rhythm", "its pickup is %s beats long, finer than a sheet can say; it is taken as %s", fine, pickup)
				}
				m.Lead = m.Meter.Bar().Sub(pickup.Mul(m.Meter.Beat()))
			case ok:
				m.Meter = own
			default:
				b.problems.Say("bar "+bar.Name, "look at its rhythm", "it lasts %s of a whole note, which no time signature says; it is taken as %s", length, m.Meter)
			}
		}
		b.measures[i] = m
		b.begins[i+1] = b.begins[i].Add(m.Length())
	}
}

// meterOf is the time of a bar that lasts so long.
func meterOf(length pitch.Frac) (song.Meter, bool) {
	for unit := int64(4); unit <= 32; unit *= 2 {
		if n := length.Mul(pitch.Whole(unit)); n.Den() == 1 && n.Num() >= 1 && n.Num() <= 32 {
			return song.Meter{Count: int(n.Num()), Unit: int(unit)}, true
		}
	}
	return song.Meter{}, false
}

// settings takes over what holds for the whole song.
func (b *builder) settings() {
	s := b.song
	first := b.score.Bars[b.legs[0].blocks[0].bars[0]]
	s.Meter, s.Key, s.Feel = first.Meter, first.Key, first.Feel
	if _, said := b.score.Settings["tempo"]; first.Tempo == 0 && !said && !b.score.Own {
		b.problems.Say("", "set the tempo", "it says no tempo; %d is taken", usualTempo)
	}
	s.Tempo = tempoIn(first.Tempo, first.Meter)
	for name, value := range b.score.Settings {
		switch name {
		case "key":
			if k, err := pitch.ParseKey(value); err == nil {
				s.Key = k
			}
		case "time":
			if m, err := song.ParseMeter(value); err == nil {
				s.Meter = m
			}
		case "tempo":
			if v, err := strconv.ParseFloat(value, 64); err == nil && v >= sheet.MinTempo && v <= sheet.MaxTempo {
				s.Tempo = v
			}
		case "feel":
			if f, err := song.ParseFeel(value); err == nil {
				s.Feel = f
			}
		case "chords":
			if n, err := song.ParseNaming(value); err == nil {
				s.Names = n
			}
		case "tuning":
			if t, err := neck.Parse(value); err == nil {
				s.Tuning = t
			}
		}
	}
}

// tempoIn is a tempo in quarter notes a minute in the beats of a meter, within the limits
// of a sheet.
func tempoIn(quarters float64, m song.Meter) float64 {
	if quarters == 0 {
		quarters = usualTempo
	}
	beats := quarters / 4 / m.Beat().Float()
	beats = float64(int64(beats*1000+0.5)) / 1000
	return min(max(beats, sheet.MinTempo), sheet.MaxTempo)
}

// part is the part of a leg, without its name.
func (b *builder) part(l *leg) song.Part {
	bars := b.score.Bars
	first := &bars[l.first]
	p := song.Part{Key: first.Key, Meter: b.meter(l), Feel: first.Feel,
		Advice: song.Advice{Note: clean(first.Note), Cue: clean(first.Cue), Sound: clean(first.Sound), Plucked: first.Plucked}}
	p.Tempo = tempoIn(first.Tempo, p.Meter)
	lead := first.Tempo
	for _, bl := range l.blocks {
		from := 0
		for i := 1; i <= len(bl.bars); i++ {
			if i < len(bl.bars) && (bl.times > 1 || !bars[bl.bars[i]].Line) {
				continue
			}
			p.Lines = append(p.Lines, b.line(&p, bl.bars[from:i], bl.times))
			from = i
		}
		for _, i := range bl.bars {
			if bars[i].Tempo != lead {
				b.problems.Say("bar "+bars[i].Name, "begin a part there if the change is meant to stay", "a change of tempo inside a part is left out")
				lead = bars[i].Tempo
			}
		}
	}
	if lead := b.measures[l.blocks[0].bars[0]].Lead; lead.Num() == 0 && len(p.Lines) > 0 {
		p.Lines[0].Bars[0].Lead = pitch.Frac{}
	}
	b.silences(&p)
	marks(&p)
	return p
}

// meter is the time of most bars of a leg, of those that are whole; of equals the first.
func (b *builder) meter(l *leg) song.Meter {
	for _, n := range b.score.Parts {
		if n.Name == l.name && n.Meter != (song.Meter{}) {
			return n.Meter
		}
	}
	count := map[song.Meter]int{}
	best := song.Meter{}
	for _, bl := range l.blocks {
		for _, i := range bl.bars {
			m := b.measures[i]
			count[m.Meter]++
			if count[m.Meter] > count[best] {
				best = m.Meter
			}
		}
	}
	return best
}

// line is a line of some bars. Another player has a line beside it where something is
// struck or still rings on from the bars before, or where it is known which lines they have,
// one of those.
func (b *builder) line(p *song.Part, bars []int, times int) song.Line {
	own := func(v *voice) []song.Bar {
		list := make([]song.Bar, len(bars))
		for j, i := range bars {
			list[j] = v.bars[i]
			list[j].Events = slices.Clone(list[j].Events)
			if m := b.measures[i].Meter; m != p.Meter {
				list[j].Meter = m
			}
		}
		// A bar that begins in silence says so: what is repeated does not go on from its own
		// end, unless it is said to, and nobody has to look back.
		for j, i := range bars {
			bar := &list[j]
			until, held := v.of.Held[i]
			if v.silent == nil || !v.silent[i] || held && until == pitch.Whole(0) {
				continue
			}
			if start := bar.Lead.Add(until); len(bar.Events) == 0 || start.Less(bar.Events[0].Start) {
				bar.Events = slices.Insert(bar.Events, 0, song.Event{Start: start, Kind: song.Rest})
			}
		}
		return list
	}
	l := song.Line{Bars: own(&b.voices[0]), Times: times}
	for i := range b.voices[1:] {
		v := &b.voices[i+1]
		rings := v.silent != nil && slices.ContainsFunc(bars, func(i int) bool { return !v.silent[i] })
		written := v.of.Without != nil && slices.ContainsFunc(bars, func(i int) bool { return !v.of.Without[i] })
		if list := own(v); written || v.of.Without == nil && (rings || slices.ContainsFunc(list, sounds)) {
			l.Beside = append(l.Beside, song.Voice{Player: v.player, Bars: list, Times: times})
		}
	}
	l.Words = b.words(bars)
	return l
}

// sounds tells whether anything is struck in a bar.
func sounds(b song.Bar) bool {
	return slices.ContainsFunc(b.Events, func(e song.Event) bool { return e.Sounds() })
}

// words are the verses of a line.
func (b *builder) words(bars []int) [][]song.Sung {
	verses := map[int][]song.Sung{}
	at := map[int][]int{}
	for j, i := range bars {
		at[i] = append(at[i], j)
	}
	for _, w := range b.voices[0].of.Words {
		for _, j := range at[w.Bar] {
			if text := strings.Join(strings.Fields(strings.NewReplacer("|", " ", "/", " ").Replace(w.Text)), " "); text != "" {
				verses[w.Verse] = append(verses[w.Verse], song.Sung{Bar: j, Start: w.Start.Add(b.measures[w.Bar].Lead), Text: text})
			}
		}
	}
	var list [][]song.Sung
	for _, verse := range sortedKeys(verses) {
		v := verses[verse]
		slices.SortStableFunc(v, func(x, y song.Sung) int { return cmp.Or(cmp.Compare(x.Bar, y.Bar), x.Start.Cmp(y.Start)) })
		if v = b.sayable(v, bars); len(v) > 0 {
			list = append(list, v)
		}
	}
	return list
}

// mostWords is how many characters are sung in a bar, with room for what stands between
// them.
const mostWords = 120

// sayable leaves out what is more than can be sung in a bar.
func (b *builder) sayable(verse []song.Sung, bars []int) []song.Sung {
	kept := verse[:0]
	bar, length := -1, 0
	for _, s := range verse {
		if s.Bar != bar {
			bar, length = s.Bar, 0
		}
		if length += utf8.RuneCountInString(s.Text); length > mostWords || len(kept) > 0 && kept[len(kept)-1].Bar == bar && kept[len(kept)-1].Start == s.Start {
			b.problems.Say("bar "+b.score.Bars[bars[bar]].Name, "type its words", "more is sung than a bar has room for; the rest is left out")
			continue
		}
		kept = append(kept, s)
	}
	return kept
}

func sortedKeys[V any](m map[int]V) []int {
	keys := make([]int, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// silences begins a part with silence where nothing begins in it, since a sheet holds
// nothing over into a part.
func (b *builder) silences(p *song.Part) {
	first := func(bars []song.Bar) {
		if bar := &bars[0]; len(bar.Events) == 0 || bar.Lead.Less(bar.Events[0].Start) {
			bar.Events = slices.Insert(bar.Events, 0, song.Event{Start: bar.Lead, Kind: song.Rest})
		}
	}
	seen := map[string]bool{}
	for i := range p.Lines {
		if i == 0 {
			first(p.Lines[i].Bars)
		}
		for j := range p.Lines[i].Beside {
			if v := &p.Lines[i].Beside[j]; !seen[v.Player] {
				seen[v.Player] = true
				first(v.Bars)
			}
		}
	}
}

// marks makes settings of the part of the marks that all its events have.
func marks(p *song.Part) {
	muted, ringing := false, false
	mute, ring := true, true
	each := func(do func(e *song.Event)) {
		for i := range p.Lines {
			bars := [][]song.Bar{p.Lines[i].Bars}
			for _, v := range p.Lines[i].Beside {
				bars = append(bars, v.Bars)
			}
			for _, list := range bars {
				for j := range list {
					for k := range list[j].Events {
						if e := &list[j].Events[k]; e.Sounds() {
							do(e)
						}
					}
				}
			}
		}
	}
	each(func(e *song.Event) {
		muted = muted || e.PalmMute
		mute = mute && (e.PalmMute != e.Accent)
		if !e.Short && !e.PalmMute && !e.Dead() {
			ringing = ringing || e.Ring
			ring = ring && e.Ring
		}
	})
	p.PalmMute, p.Ring = mute && muted, ring && ringing
	each(func(e *song.Event) {
		e.PalmMute = e.PalmMute && !p.PalmMute
		e.Ring = e.Ring && !p.Ring
	})
}

// parts makes the parts and the order of the song. What is named alike and played alike
// is one part.
func (b *builder) parts() {
	s := b.song
	used := map[string]int{}
	for i := range b.legs {
		l := &b.legs[i]
		p := b.part(l)
		name := b.partName(l, i)
		at := slices.IndexFunc(s.Parts, func(q song.Part) bool {
			p.Name = q.Name
			return (l.name == "" || baseName(q.Name, used) == name) && reflect.DeepEqual(p, q)
		})
		if at < 0 {
			if len(s.Parts) == sheet.MaxParts {
				b.problems.Say("bar "+b.score.Bars[l.first].Name, "split the song into two", "a sheet has %d parts at most; what begins here is left out", sheet.MaxParts)
				break
			}
			p.Name = name
			for n := 2; used[p.Name] > 0; n++ {
				p.Name = name + " " + strconv.Itoa(n)
			}
			used[p.Name] = 1
			at = len(s.Parts)
			s.Parts = append(s.Parts, p)
		}
		if b.fine(l) {
			continue
		}
		if n := len(s.Order); n > 0 && s.Order[n-1].Part == at && s.Order[n-1].Times+l.times <= sheet.MaxTimes {
			s.Order[n-1].Times += l.times
		} else {
			s.Order = append(s.Order, song.Leg{Part: at, Times: min(l.times, sheet.MaxTimes)})
		}
	}
	b.sort()
	b.order()
}

// fine tells whether a leg stands after the end of the song: a part that is not played.
func (b *builder) fine(l *leg) bool {
	return b.score.Own && slices.ContainsFunc(b.score.Bars[:l.first], func(bar Bar) bool { return bar.Fine })
}

// sort puts the parts in the order in which they are listed.
func (b *builder) sort() {
	s := b.song
	place := func(name string) int {
		return slices.IndexFunc(b.score.Parts, func(n Named) bool { return n.Name == name })
	}
	old := slices.Clone(s.Parts)
	slices.SortStableFunc(s.Parts, func(x, y song.Part) int { return cmp.Compare(place(x.Name), place(y.Name)) })
	for i := range s.Order {
		s.Order[i].Part, _ = s.PartNamed(old[s.Order[i].Part].Name)
	}
}

// order takes over the order of the parts that a text gives.
func (b *builder) order() {
	text := b.score.Settings["order"]
	if text == "" {
		return
	}
	var order []song.Leg
	for _, piece := range strings.Split(text, ",") {
		name, times := strings.TrimSpace(piece), 1
		if m := legTimes.FindStringSubmatch(name); m != nil {
			name = m[1]
			times, _ = strconv.Atoi(m[2])
		}
		i := slices.IndexFunc(b.song.Parts, func(p song.Part) bool { return strings.EqualFold(p.Name, name) })
		if i < 0 || times < 1 || times > sheet.MaxTimes {
			b.problems.Say("", "set the order by hand", "the order names %q, which is no part of it; the parts are played as they stand", name)
			return
		}
		order = append(order, song.Leg{Part: i, Times: times})
	}
	b.song.Order = order
}

var legTimes = regexp.MustCompile(`^(.+?) [x×](\d{1,2})$`)

// baseName is a part's name without the number that tells it from others of its name.
func baseName(name string, used map[string]int) string {
	if i := strings.LastIndexByte(name, ' '); i > 0 {
		if _, err := strconv.Atoi(name[i+1:]); err == nil && used[name[:i]] > 0 {
			return name[:i]
		}
	}
	return name
}

// partName is what a leg's part is called.
func (b *builder) partName(l *leg, i int) string {
	if name := sheet.NameOfPart(l.name); name != "" {
		return name
	}
	if len(b.legs) == 1 {
		return "All"
	}
	if i == 0 && len(b.legs) > 1 && b.legs[1].name != "" {
		return "Beginning"
	}
	return "Part"
}

// title is the first line of a title, and something where there is none.
func title(s string) string {
	if s = clean(s); s != "" {
		return s
	}
	return "Without a title"
}

// clean makes one line of a text that comes from elsewhere.
func clean(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if runes := []rune(s); len(runes) > longestText {
		s = string(runes[:longestText])
	}
	return s
}

const longestText = 200

// named is a player of its own that has the chord names which stand above somebody's
// notes, nil where there are none or where the notes are those chords.
func (p *Player) named(s *Score) *Player {
	names := slices.DeleteFunc(slices.Clone(p.Chords), func(c Chord) bool { return p.Strums[c.Bar] })
	if s.Own || len(names) == 0 || len(p.Sounds) == 0 {
		return nil
	}
	chords := 0
	for _, m := range moments(p.Sounds) {
		if len(m) >= 3 {
			chords++
		}
	}
	if chords*2 >= len(names) {
		return nil
	}
	return &Player{Name: "chords", Placed: true, Tuning: p.Tuning, Capo: p.Capo, Chords: names}
}

// moments groups sounds, which are in the order of time, by when they begin.
func moments(sounds []Sound) [][]Sound {
	var list [][]Sound
	for i := range sounds {
		if n := len(list); n > 0 && list[n-1][0].At == sounds[i].At {
			list[n-1] = append(list[n-1], sounds[i])
		} else {
			list = append(list, []Sound{sounds[i]})
		}
	}
	return list
}

// parse reads a chord's name.
func (b *builder) parse(n *Chord) (chord.Chord, bool) {
	c, err := chord.Parse(n.Symbol)
	if err != nil {
		b.problems.Say("bar "+b.score.Bars[n.Bar].Name, "write it as you would type it", "the chord %q is not understood and left out", n.Symbol)
		return c, false
	}
	if strings.Count(n.Symbol, "(") != strings.Count(n.Symbol, ")") { // brackets are groups in a sheet
		c, err = chord.Parse(c.Canonical())
	}
	return c, err == nil
}
