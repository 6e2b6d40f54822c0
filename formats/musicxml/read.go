package musicxml

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/letters"
	"valleyside/formats/take"
)

// Limits of what is read.
const (
	MaxBytes = 10 << 20
	maxNotes = 200_000
	maxBars  = 4_000
	maxParts = 64
)

var errNotes = fmt.Errorf("it has more than %d notes", maxNotes)

// Read reads a partwise score, also a compressed one. The error says why it cannot be
// read at all.
func Read(data []byte, problems *take.Problems) (*take.Score, error) {
	if bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		var err error
		if data, err = unzip(data); err != nil {
			return nil, err
		}
	}
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the file has more than %d MB", MaxBytes>>20)
	}
	var file scorePartwise
	text, err := letters.Decoded(data)
	if err != nil {
		return nil, err
	}
	d := xml.NewDecoder(strings.NewReader(text))
	d.CharsetReader = charset
	d.Strict = true
	account := &accounted{Decoder: d, count: map[string]int{}, first: map[string]int{}}
	tokens := xml.NewTokenDecoder(account)
	root, err := start(tokens)
	if err != nil {
		return nil, err
	}
	if err := tokens.DecodeElement(&file, root); err != nil {
		return nil, readable(err)
	}
	score, err := newReader(&file, problems).score()
	if err == nil && !score.Own {
		account.say(problems)
	}
	return score, err
}

// start finds the root of the file and says what it is where it is no score of ours.
func start(d *xml.Decoder) (*xml.StartElement, error) {
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil, errors.New("there is no score in it")
		}
		if err != nil {
			return nil, readable(err)
		}
		e, ok := t.(xml.StartElement)
		if !ok {
			continue
		}
		switch e.Name.Local {
		case "score-partwise":
		case "score-timewise":
			return nil, errors.New("its measures stand outside its parts (score-timewise); save it as a partwise score")
		default:
			return nil, fmt.Errorf("it is XML, but no score: it begins with <%s>", e.Name.Local)
		}
		return &e, nil
	}
}

// readable is an error of the XML as a person can use it.
func readable(err error) error {
	var syntax *xml.SyntaxError
	if errors.As(err, &syntax) {
		return fmt.Errorf("line %d of the file is no valid XML: %s", syntax.Line, syntax.Msg)
	}
	return fmt.Errorf("the file cannot be read: %w", err)
}

// charset hands on what is declared to be in an encoding that has been turned into UTF-8 already.
func charset(name string, in io.Reader) (io.Reader, error) {
	switch strings.ToLower(name) {
	case "utf-16", "utf-16le", "utf-16be", "us-ascii", "ascii", "iso-8859-1", "windows-1252", "latin1":
		return in, nil
	}
	return nil, fmt.Errorf("the encoding %s is not known; save it as UTF-8", name)
}

// reader makes a score of the elements.
type reader struct {
	file     *scorePartwise
	problems *take.Problems
	out      *take.Score
	notes    int
}

func newReader(file *scorePartwise, problems *take.Problems) *reader {
	return &reader{file: file, problems: problems, out: &take.Score{Settings: map[string]string{}}}
}

func (r *reader) score() (*take.Score, error) {
	f, out := r.file, r.out
	if out.Title = f.MovementTitle; f.Work != nil && f.Work.Title != "" {
		out.Title = f.Work.Title
	}
	if id := f.Identification; id != nil {
		for _, c := range id.Creators {
			if out.By == "" || c.Type == "composer" {
				out.By = c.Text
			}
		}
		if id.Encoding != nil {
			for _, s := range id.Encoding.Software {
				out.Own = out.Own || s == Software
			}
		}
		for _, f := range id.Fields {
			switch {
			case !out.Own:
			case f.Name == partField:
				out.Parts = append(out.Parts, take.Named{Name: f.Text})
			case f.Name == partTimeField && len(out.Parts) > 0:
				out.Parts[len(out.Parts)-1].Meter, _ = song.ParseMeter(f.Text)
			default:
				out.Settings[f.Name] = f.Text
			}
		}
	}
	for _, c := range f.Credits {
		switch text := strings.Join(c.Words, " "); {
		case c.Type == "title" && out.Title == "":
			out.Title = text
		case c.Type == "composer" && out.By == "":
			out.By = text
		}
	}
	if len(f.Parts) > maxParts {
		r.problems.Say("", "leave out in the other program who is not needed", "it has %d players; the first %d are taken", len(f.Parts), maxParts)
		f.Parts = f.Parts[:maxParts]
	}
	for i := range f.Parts {
		p := &f.Parts[i]
		if len(p.Measures) > maxBars {
			r.problems.Say(r.name(p.ID, i), "split the song", "it has more than %d bars; the rest is left out", maxBars)
			p.Measures = p.Measures[:maxBars]
		}
		for len(out.Bars) < len(p.Measures) {
			out.Bars = append(out.Bars, take.Bar{})
		}
	}
	if len(out.Bars) == 0 {
		return nil, errors.New("there is no music in it")
	}
	lead := slices.IndexFunc(f.Parts, func(p part) bool { return len(p.Measures) > 0 })
	for i := range f.Parts {
		p := partReader{reader: r, part: &f.Parts[i], lead: i == lead, divisions: pitch.Whole(1), meter: song.FourFour}
		if err := p.read(r.name(f.Parts[i].ID, i)); err != nil {
			return nil, err
		}
	}
	if len(out.Players) == 0 {
		return nil, errors.New("there are no notes in it that a guitar could play")
	}
	return out, nil
}

// name is what a part is called.
func (r *reader) name(id string, i int) string {
	for _, p := range r.file.PartList.Parts {
		if p.ID == id && strings.TrimSpace(p.Name) != "" {
			return strings.TrimSpace(p.Name)
		}
	}
	return "part " + strconv.Itoa(i+1)
}

// staff is one staff of a part, a player of its own.
type staff struct {
	take.Player
	tab, drums bool
	lines      int
	tuning     map[int]pitch.Pitch // by line, from the lowest
	wrong      int                 // notes whose fret and pitch disagree
	unplaced   int                 // notes without string and fret
}

// partReader reads the measures of a part.
type partReader struct {
	*reader
	part      *part
	lead      bool // it says what holds for all parts
	divisions pitch.Frac
	meter     song.Meter
	staves    []*staff
	shift     int // semitones from what is written to what sounds
	bar       int
	at        pitch.Frac // of the measure, in whole notes
	end       pitch.Frac // of what has been read of the measure
	before    pitch.Frac // where the note before begins
	ending    []int
	closes    bool // the ending, with this measure
	repeating bool // measures are the same as the one before
	slashing  bool // measures are slashes: chords are struck by their names
	key       pitch.Key
	tempo     float64
	feel      song.Feel
}

func (p *partReader) read(name string) error {
	for i := range p.part.Measures {
		p.bar, p.at, p.end, p.before = i, pitch.Frac{}, pitch.Frac{}, pitch.Frac{}
		m := &p.part.Measures[i]
		sounds := p.count()
		for _, e := range m.Elements {
			if err := p.element(e); err != nil {
				return err
			}
		}
		if p.slashing {
			p.slashed()
		}
		p.finish(m)
		if p.repeating && !p.out.Own && p.count() == sounds {
			p.copyBar()
			if p.notes > maxNotes {
				return errNotes
			}
		}
		if p.repeating && p.out.Own {
			p.staff(1).Same = append(p.staff(1).Same, i)
		}
	}
	p.players(name)
	return nil
}

// count counts the sounds of all staves so far.
func (p *partReader) count() (n int) {
	for _, s := range p.staves {
		n += len(s.Sounds)
	}
	return n
}

// copyBar plays the measure before once more.
func (p *partReader) copyBar() {
	for _, s := range p.staves {
		first := len(s.Sounds)
		for first > 0 && s.Sounds[first-1].Bar == p.bar-1 {
			first--
		}
		for _, sound := range s.Sounds[first:] {
			sound.Bar++
			s.Sounds = append(s.Sounds, sound)
			p.notes++
		}
	}
}

// finish says how long the measure was, and what holds in it.
func (p *partReader) finish(m *measure) {
	b := &p.out.Bars[p.bar]
	if !p.lead && b.Meter == (song.Meter{}) { // longer than the first player
		before := &p.out.Bars[p.bar-1]
		b.Name, b.Meter, b.Key, b.Tempo, b.Feel = strconv.Itoa(p.bar+1), before.Meter, before.Key, before.Tempo, before.Feel
	}
	if p.lead {
		b.Name = m.Number
		if p.out.Own || b.Name == "" {
			b.Name = strconv.Itoa(p.bar + 1)
		}
		b.Meter, b.Key, b.Tempo, b.Feel, b.Pickup = p.meter, p.key, p.tempo, p.feel, m.Implicit == "yes"
		b.Endings = p.ending
		if p.closes {
			p.ending, p.closes = nil, false
		}
	}
	if b.Length.Less(p.end) {
		b.Length = p.end
	}
	whole := b.Meter.Bar()
	if b.Length.Less(whole) && !b.Pickup && p.bar > 0 && b.Times == 0 && !(p.bar+1 < len(p.out.Bars) && p.out.Bars[p.bar+1].Repeat) || b.Length.Num() == 0 {
		b.Length = whole
	}
}

// staff finds or makes a staff of the part, counted from 1.
func (p *partReader) staff(n int) *staff {
	n = min(max(n, 1), 8)
	for len(p.staves) < n {
		p.staves = append(p.staves, &staff{lines: neck.Strings, tuning: map[int]pitch.Pitch{}})
	}
	return p.staves[n-1]
}

func (p *partReader) element(e any) error {
	switch e := e.(type) {
	case *attributes:
		return p.attributes(e)
	case *printing:
		if p.lead && (e.NewSystem == "yes" || e.NewPage == "yes") {
			p.out.Bars[p.bar].Line = true
		}
	case *direction:
		p.direction(e)
	case *sound:
		p.sound(e)
	case *harmony:
		p.harmony(e)
	case *note:
		return p.note(e)
	case *backup:
		d, err := p.time(e.Duration)
		if err != nil {
			return err
		}
		if p.at = bounded(p.at.Sub(d)); p.at.Num() < 0 {
			p.at = pitch.Frac{}
		}
	case *forward:
		d, err := p.time(e.Duration)
		if err != nil {
			return err
		}
		p.forward(d)
	case *barline:
		if p.lead {
			p.barline(e)
		}
	}
	return nil
}

func (p *partReader) forward(d pitch.Frac) {
	if p.at = bounded(p.at.Add(d)); p.end.Less(p.at) {
		p.end = p.at
	}
}

// bounded is a time whose denominator stays small, however many divisions follow one another: the
// nearest of the slots that all plain rhythms lie in.
func bounded(at pitch.Frac) pitch.Frac {
	const finest, slots = 1 << 20, 5040 * 16
	if at.Den() <= finest {
		return at
	}
	return pitch.F(int64(math.Round(at.Float()*slots)), slots)
}

// time is a duration in whole notes.
func (p *partReader) time(text string) (pitch.Frac, error) {
	d, ok := decimal(text)
	if !ok || d.Num() < 0 || d.Num() > 1<<32 {
		return pitch.Frac{}, fmt.Errorf("measure %d: %q is no duration", p.bar+1, text)
	}
	return bounded(d.Div(p.divisions.Mul(pitch.Whole(4)))), nil
}

// decimal reads a decimal number exactly.
func decimal(text string) (pitch.Frac, bool) {
	whole, part, _ := strings.Cut(strings.TrimSpace(text), ".")
	if len(part) > 6 {
		part = part[:6]
	}
	n, err := strconv.ParseInt(whole+part, 10, 64)
	if err != nil || n > 1<<40 || n < -1<<40 {
		return pitch.Frac{}, false
	}
	den := int64(1)
	for range part {
		den *= 10
	}
	return pitch.F(n, den), true
}

func (p *partReader) attributes(a *attributes) error {
	if a.Divisions != "" {
		d, ok := decimal(a.Divisions)
		if !ok || d.Num() <= 0 || d.Num() > 1<<26 || d.Float() > 1<<20 {
			return fmt.Errorf("measure %d: a quarter note cannot be divided into %q", p.bar+1, a.Divisions)
		}
		p.divisions = d
	}
	if len(a.Keys) > 0 && p.lead {
		p.key, _ = readKey(&a.Keys[0])
		if by := p.shift % 12; by != 0 && len(a.Transpose) == 0 && p.key.Valid() {
			p.key = p.key.Transposed(by)
		}
	}
	if len(a.Times) > 0 && p.lead {
		p.times(&a.Times[0])
	}
	for _, c := range a.Clefs {
		s := p.staff(c.Number)
		s.tab, s.drums = c.Sign == "TAB", c.Sign == "percussion"
	}
	for _, d := range a.Staff {
		p.tuning(&d)
	}
	if len(a.Transpose) > 0 {
		t := a.Transpose[0]
		by, _ := strconv.ParseFloat(strings.TrimSpace(t.Chromatic), 64)
		if by >= -48 && by <= 48 && t.OctaveChange >= -4 && t.OctaveChange <= 4 {
			p.shift = int(by) + 12*t.OctaveChange
			if p.lead && p.key.Valid() && int(by)%12 != 0 && len(a.Keys) > 0 {
				p.key = p.key.Transposed(int(by)) // it is written for the player, and stands here as it sounds
			}
		}
	}
	for _, s := range a.Styles {
		if s.Repeat != nil {
			p.repeating = s.Repeat.Type == "start"
		}
		if s.Slash != nil {
			p.slashing = s.Slash.Type == "start"
		}
	}
	return nil
}

// times reads a time signature; several that are added up are one.
func (p *partReader) times(t *timeSign) {
	beats, unit := 0, 0
	for i, text := range t.Beats {
		for _, piece := range strings.Split(text, "+") {
			n, err := strconv.Atoi(strings.TrimSpace(piece))
			if err != nil || n < 1 || n > 32 {
				beats = 99
				break
			}
			beats += n
		}
		if i < len(t.BeatType) {
			u, err := strconv.Atoi(strings.TrimSpace(t.BeatType[i]))
			if err != nil || unit != 0 && u != unit {
				beats = 99
			}
			unit = u
		}
	}
	m, err := song.ParseMeter(fmt.Sprintf("%d/%d", beats, unit))
	if err != nil {
		p.problems.Say("bar "+strconv.Itoa(p.bar+1), "set the time by hand", "its time signature cannot be taken over; %s goes on", p.meter)
		return
	}
	p.meter = m
}

// tuning reads how a staff is tuned.
func (p *partReader) tuning(d *staffDetails) {
	s := p.staff(d.Number)
	if d.Lines > 0 {
		s.lines = d.Lines
	}
	for _, t := range d.Tuning {
		if n, ok := readNote(t.Step, fullSteps(t.Alter)); ok && t.Line >= 1 && t.Line <= 12 && t.Octave >= 0 && t.Octave <= 9 {
			s.tuning[t.Line] = pitch.Spelled{Note: n, Octave: t.Octave}.Pitch()
		}
	}
	if d.Capo > 0 && d.Capo <= sheet.MaxCapo {
		s.Capo = d.Capo
	}
}

func (p *partReader) direction(d *direction) {
	b := &p.out.Bars[p.bar]
	words := ""
	tempo := false
	for _, t := range d.Types {
		for _, r := range t.Rehearsal {
			if p.lead || b.Section == "" {
				b.Section = r
			}
		}
		if t.Segno != nil && (d.Sound == nil || d.Sound.Segno == "") {
			b.Segno = "segno"
		}
		if t.Coda != nil && (d.Sound == nil || d.Sound.Coda == "" && d.Sound.ToCoda == "") {
			b.Coda = "coda"
		}
		if m := t.Metronome; m != nil && p.lead {
			tempo = true
			p.metronome(m)
		}
		words = strings.TrimSpace(words + " " + strings.Join(t.Words, " "))
	}
	if d.Sound != nil {
		p.sound(d.Sound)
	}
	if words == unsureWord {
		p.staff(1).Unsure = append(p.staff(1).Unsure, p.bar)
		return
	}
	if words != "" && p.lead && !tempo {
		p.words(words, d.Sound != nil)
	}
}

var (
	timesWords = regexp.MustCompile(`^[x×]\s*\d+$|^\d+\s*[x×]$`)
	backWords  = regexp.MustCompile(`(?i)^d\.?\s?([cs])\.?(\s|$)`)
	fineWords  = regexp.MustCompile(`(?i)^fine$`)
	codaWords  = regexp.MustCompile(`(?i)^to coda`)
)

// words reads what stands above the staff: how often a line is played, where to go, or
// something for the player.
func (p *partReader) words(words string, sounds bool) {
	b := &p.out.Bars[p.bar]
	switch back := backWords.FindStringSubmatch(words); {
	case timesWords.MatchString(words):
		b.OfLine = true
	case sounds:
	case back != nil:
		b.Jump = take.Jump{Back: true, Segno: map[bool]string{true: "segno"}[strings.EqualFold(back[1], "s")]}
	case fineWords.MatchString(words):
		b.Fine = true
	case codaWords.MatchString(words):
		b.ToCoda = "coda"
	case swingWords.MatchString(words):
		if p.feel == (song.Feel{}) {
			p.feel = song.Swing
		}
	case b.Section == "":
		p.problems.Say("bar "+strconv.Itoa(p.bar+1), "add it as a note of the part", "what stands above the staff is left out: %s", cutWords(words))
	case strings.EqualFold(words, pluckWord):
		b.Plucked = true
	case strings.HasPrefix(words, cueWord) && b.Cue == "":
		b.Cue = strings.TrimPrefix(words, cueWord)
	case strings.HasPrefix(words, soundWord) && b.Sound == "":
		b.Sound = strings.TrimPrefix(words, soundWord)
	case b.Note == "":
		b.Note = words
	default:
		b.Note += "; " + words
	}
}

// swingWords say that eighths are swung.
var swingWords = regexp.MustCompile(`(?i)^(?:(?:medium|slow|fast|light|easy)\s+)?(?:swing|swung|shuffle)(?:\s+(?:feel|eighths|8ths))?\.?$`)

// cutWords are words of which a long text shows the beginning.
func cutWords(s string) string {
	const most = 60
	if runes := []rune(s); len(runes) > most {
		return string(runes[:most]) + "…"
	}
	return s
}

// metronome reads a tempo mark.
func (p *partReader) metronome(m *metronome) {
	per, err := strconv.ParseFloat(strings.TrimSpace(m.Minute), 64)
	unit := map[string]float64{"whole": 4, "half": 2, "quarter": 1, "eighth": 0.5, "16th": 0.25, "32nd": 0.125}[strings.TrimSpace(m.Unit)]
	if err != nil || unit == 0 {
		return
	}
	if len(m.Dots) > 0 {
		unit *= 1.5
	}
	p.setTempo(per * unit)
}

func (p *partReader) setTempo(quarters float64) {
	if quarters >= 5 && quarters <= 2000 {
		p.tempo = quarters
	}
}

// sound reads what a direction means.
func (p *partReader) sound(s *sound) {
	if !p.lead {
		return
	}
	b := &p.out.Bars[p.bar]
	if v, err := strconv.ParseFloat(s.Tempo, 64); err == nil {
		p.setTempo(v)
	}
	if w := s.Swing; w != nil {
		p.feel = song.Feel{}
		if sum := w.First + w.Second; w.Straight == nil && w.First > 0 && w.Second > 0 && (w.Type == "" || w.Type == "eighth") {
			if w.First == 2*w.Second {
				p.feel = song.Swing
			} else if share := float64(w.First) * 100 / float64(sum); share > 50 && share <= 80 {
				p.feel = song.Feel{Share: share}
			}
		}
	}
	if s.DaCapo == "yes" {
		b.Jump = take.Jump{Back: true}
	}
	if s.DalSegno != "" {
		b.Jump = take.Jump{Back: true, Segno: s.DalSegno}
	}
	for _, m := range []struct {
		from string
		to   *string
	}{{s.Segno, &b.Segno}, {s.Coda, &b.Coda}, {s.ToCoda, &b.ToCoda}} {
		if m.from != "" {
			*m.to = m.from
		}
	}
	b.Fine = b.Fine || s.Fine != ""
}

func (p *partReader) barline(b *barline) {
	bar := &p.out.Bars[p.bar]
	if b.Repeat != nil {
		switch b.Repeat.Direction {
		case "forward":
			bar.Repeat = true
		case "backward":
			bar.Times = min(max(b.Repeat.Times, 2), sheet.MaxTimes)
		}
	}
	if b.Segno != nil {
		bar.Segno = "segno"
	}
	if b.Coda != nil {
		bar.Coda = "coda"
	}
	if e := b.Ending; e != nil {
		switch e.Type {
		case "start":
			p.ending = passes(e.Number)
		case "stop", "discontinue":
			p.closes = true
		}
	}
}

// passes reads the numbers of an ending: "1", "1, 2", "1-3".
func passes(text string) (list []int) {
	for _, piece := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' || r == '.' }) {
		from, to, ranged := strings.Cut(piece, "-")
		a, err := strconv.Atoi(from)
		z := a
		if ranged {
			z, _ = strconv.Atoi(to)
		}
		for n := a; err == nil && n >= 1 && n <= z && n <= 32; n++ {
			list = append(list, n)
		}
	}
	return list
}

func (p *partReader) harmony(h *harmony) {
	at := take.At{Bar: p.bar, Start: p.at}
	if d, ok := decimal(h.Offset); ok && h.Offset != "" {
		if moved := bounded(p.at.Add(bounded(d.Div(p.divisions.Mul(pitch.Whole(4)))))); moved.Num() >= 0 {
			at.Start = moved
		}
	}
	symbol, none, ok := readHarmony(h)
	if !ok {
		p.problems.Say("bar "+strconv.Itoa(p.bar+1), "write it as you would type it", "a chord's name is not understood and left out")
		return
	}
	s := p.staff(1)
	s.Chords = append(s.Chords, take.Chord{At: at, Symbol: symbol, None: none, Frets: readFrame(h.Frame), Given: h.Type == explicit})
}
