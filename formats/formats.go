// Package formats is the table of the open forms in which songs go out and come in. Each
// form has a folder of its own that knows it; here is what they have in common.
package formats

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/letters"
	"valleyside/formats/midi"
	"valleyside/formats/musicxml"
	"valleyside/formats/shared"
	"valleyside/formats/tab"
	"valleyside/formats/take"
	"valleyside/formats/wav"
	"valleyside/formats/words"
)

// Form is a form in which a song is written or read.
type Form string

// The forms.
const (
	MusicXML Form = "musicxml"
	MXL      Form = "mxl" // MusicXML in an archive
	MIDI     Form = "midi"
	Tab      Form = "tab"
	Words    Form = "words"
	WAV      Form = "wav"
	JSON     Form = "json"
	Sheet    Form = "sheet" // the form of this program
)

// kind is a row of the table.
type kind struct {
	form      Form
	extension string
	media     string
	write     func(io.Writer, Piece) error
	read      func(*Reading, []byte, Options) error
}

var kinds = []kind{
	{MusicXML, ".musicxml", "application/vnd.recordare.musicxml+xml", writeMusicXML, (*Reading).readMusicXML},
	{MXL, ".mxl", "application/vnd.recordare.musicxml", writeMXL, (*Reading).readMusicXML},
	{MIDI, ".mid", "audio/midi", writeMIDI, (*Reading).readMIDI},
	{Tab, ".tab.txt", "text/plain; charset=utf-8", writeTab, (*Reading).readText},
	{Words, ".words.txt", "text/plain; charset=utf-8", writeWords, (*Reading).readText},
	{WAV, ".wav", "audio/wav", writeWAV, nil},
	{JSON, ".json", "application/json", writeJSON, nil},
}

// Out lists the forms in which songs are written.
func Out() (list []Form) {
	for _, k := range kinds {
		list = append(list, k.form)
	}
	return list
}

// In lists the forms that are read.
func In() (list []Form) {
	for _, k := range kinds {
		if k.read != nil {
			list = append(list, k.form)
		}
	}
	return append(list, JSON, Sheet)
}

// Extension is how names of files in the form end, Media its media type.
func (f Form) Extension() string { return f.kind().extension }

// Media is the media type of the form.
func (f Form) Media() string { return f.kind().media }

func (f Form) kind() kind {
	i := slices.IndexFunc(kinds, func(k kind) bool { return k.form == f })
	if i < 0 {
		return kind{form: f}
	}
	return kinds[i]
}

// ParseForm reads the name of a form, one of a list.
func ParseForm(name string, list []Form) (Form, error) {
	f := Form(strings.ToLower(strings.TrimSpace(name)))
	if !slices.Contains(list, f) {
		names := make([]string, len(list))
		for i := range list {
			names[i] = string(list[i])
		}
		return "", fmt.Errorf("%q is not a form; write %s", name, strings.Join(names, ", "))
	}
	return f, nil
}

// Piece is what is written: a song and what is played of it.
type Piece struct {
	Song  *song.Song
	Music []play.Music // of every part
	// Sheet is the text of the song, for the form that keeps it.
	Sheet string
	// CountIn is how many bars are counted in, where that can be heard.
	CountIn int
	Mix     Mix
}

// Mix is what a practice track has besides the version.
type Mix struct {
	Click   bool
	Bass    bool
	Others  bool         // the other players
	Written []play.Music // the parts as they are written, nil where they are not heard
}

// Of prepares a piece: what is chosen of a song, at a tempo in beats per minute, 0 being
// that of the sheet. part is the only one that is written, −1 all.
func Of(s *song.Song, o arrange.Options, part int, chosen func(part int) play.Choice) Piece {
	s = AtTempo(s, o.Tempo)
	o.Tempo = 0
	p := Piece{Song: s, Music: play.Arrange(s, o, chosen)}
	if part >= 0 {
		p = p.Only(part)
	}
	return p
}

// Only is one part of a piece, played once.
func (p Piece) Only(part int) Piece {
	one := *p.Song
	one.Parts, one.Order = one.Parts[part:part+1], []song.Leg{{Part: 0, Times: 1}}
	p.Song, p.Music = &one, p.Music[part:part+1]
	if p.Mix.Written != nil {
		p.Mix.Written = p.Mix.Written[part : part+1]
	}
	return p
}

// AtTempo is a song at another tempo, in beats per minute; 0 keeps it. Parts with a tempo
// of their own keep their relation to the song's, within the limits of a sheet.
func AtTempo(s *song.Song, tempo float64) *song.Song {
	if tempo == 0 || tempo == s.Tempo {
		return s
	}
	other := *s
	other.Parts = slices.Clone(s.Parts)
	for i := range other.Parts {
		other.Parts[i].Tempo = min(max(play.Tempo(s, &s.Parts[i], tempo), sheet.MinTempo), sheet.MaxTempo)
	}
	other.Tempo = tempo
	return &other
}

// Write writes a piece in a form.
func Write(w io.Writer, f Form, p Piece) error {
	k := f.kind()
	if k.write == nil {
		return fmt.Errorf("nothing is written as %s", f)
	}
	if n := play.Length(p.Song, play.Options{}); n > play.MostBars {
		return fmt.Errorf("that is %d bars played out, the limit is %d; choose a part or fewer repeats", n, play.MostBars)
	}
	return k.write(w, p)
}

func writeMusicXML(w io.Writer, p Piece) error { return musicxml.Write(w, p.Song, p.Music) }
func writeMXL(w io.Writer, p Piece) error      { return musicxml.WriteCompressed(w, p.Song, p.Music) }
func writeTab(w io.Writer, p Piece) error      { return tab.Write(w, p.Song, p.Music) }
func writeWords(w io.Writer, p Piece) error    { return words.Write(w, p.Song, p.Music) }

func writeMIDI(w io.Writer, p Piece) error {
	t := play.Of(p.Song, p.Music, play.Options{CountIn: p.CountIn})
	return midi.Write(w, p.Song, t, p.Song.Tempo)
}

// longestTrack is how long a practice track is at most, in seconds: a file of 150 MB.
const longestTrack = 30 * 60

func writeWAV(w io.Writer, p Piece) error {
	o := play.Options{CountIn: p.CountIn, Cents: p.Song.Tuning.Cents}
	if road := play.Plan(p.Song, p.Song.Tempo); road.Seconds > longestTrack {
		return fmt.Errorf("that lasts %.0f minutes, the limit is %d; choose a part or fewer repeats", road.Seconds/60, longestTrack/60)
	}
	t := play.Of(p.Song, p.Music, o)
	track := wav.Track{Seconds: t.Seconds, Open: p.Song.Open()}
	strikes := t.Strikes
	if !p.Mix.Others {
		strikes = slices.DeleteFunc(slices.Clone(strikes), func(k play.Strike) bool { return k.Player != "" })
	}
	track.Layers = append(track.Layers, wav.Layer{Strikes: strikes, Gain: 1})
	if p.Mix.Written != nil {
		written := play.Of(p.Song, p.Mix.Written, o).Strikes
		written = slices.DeleteFunc(written, func(k play.Strike) bool { return k.Player != "" })
		track.Layers = append(track.Layers, wav.Layer{Strikes: written, Gain: 0.6})
	}
	if p.Mix.Bass {
		track.Layers = append(track.Layers, wav.Layer{Strikes: play.Bass(p.Song, t, o), Gain: 0.9})
	}
	if p.Mix.Click {
		track.Beats = t.Beats
	} else {
		track.Beats = slices.DeleteFunc(slices.Clone(t.Beats), func(b play.Beat) bool { return b.Bar >= 0 })
	}
	if out, ok := w.(io.WriteSeeker); ok {
		return wav.Write(out, track)
	}
	// The length of the sound stands at the beginning, so it is written to a file first.
	f, err := os.CreateTemp("", "track-*.wav")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if err := wav.Write(f, track); err != nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	_, err = io.Copy(w, f)
	return err
}

// oneSong is a song as JSON: its sheet, and what a reader of other programs may want to
// know without reading it.
type oneSong struct {
	Kind  string   `json:"kind"` // songKind
	Title string   `json:"title"`
	By    string   `json:"by,omitempty"`
	Parts []string `json:"parts"`
	Sheet string   `json:"sheet"`
}

const songKind = "valleyside song"

func writeJSON(w io.Writer, p Piece) error {
	one := oneSong{Kind: songKind, Title: p.Song.Title, By: p.Song.By, Parts: []string{}, Sheet: p.Sheet}
	for i := range p.Song.Parts {
		one.Parts = append(one.Parts, p.Song.Parts[i].Name)
	}
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(one)
}

// Options say how something is read.
type Options struct {
	From   Form                // empty is found out
	PerBar int                 // of a text: how many chords have a bar between them; 0 is guessed
	As     map[int]shared.Kind // of a text, by line from 0: what it is, where that is not as it seems
}

// MaxBytes is how long a file is at most.
const MaxBytes = 10 << 20

// Reading is something that has been read and not been taken over yet.
type Reading struct {
	Form     Form
	Score    *take.Score   // nil where a sheet was read
	Lines    []shared.Line // of a text that was shared, what each was read as; nil of other forms
	sheet    string
	problems take.Problems
}

// Read reads a file in any form. It changes nothing; Take makes a sheet of it. What a file may cost is
// bounded by the limits of its form; the error is that of ctx where nobody waits for it any more.
func Read(ctx context.Context, data []byte, o Options) (*Reading, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("it has more than %d MB", MaxBytes>>20)
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if o.From == "" {
		var err error
		if o.From, err = Detect(data); err != nil {
			return nil, err
		}
	}
	r := &Reading{Form: o.From}
	switch k := o.From.kind(); {
	case o.From == Sheet:
		text, err := letters.Decoded(data)
		if err != nil {
			return nil, err
		}
		r.sheet = text
		return r, r.check()
	case o.From == JSON:
		text, err := readJSON(data)
		r.sheet = text
		if err != nil {
			return nil, err
		}
		return r, r.check()
	case k.read == nil:
		return nil, fmt.Errorf("nothing is read from %s", o.From)
	default:
		if err := k.read(r, data, o); err != nil {
			return nil, err
		}
		return r, nil
	}
}

// check tells whether a sheet that was read can be used.
func (r *Reading) check() error {
	for _, p := range sheet.Parse(r.sheet).Problems {
		if p.Severity == sheet.Error {
			r.problems.Say(fmt.Sprintf("line %d", p.Line), p.Mend, "%s", p.Message)
		}
	}
	return nil
}

func (r *Reading) readMusicXML(data []byte, _ Options) (err error) {
	r.Score, err = musicxml.Read(data, &r.problems)
	return err
}

func (r *Reading) readMIDI(data []byte, _ Options) (err error) {
	r.Score, err = midi.Read(data, &r.problems)
	return err
}

// readText reads a text: one of this program as it wrote it, or one as people share them.
func (r *Reading) readText(data []byte, o Options) error {
	text, err := letters.Decoded(data)
	if err != nil {
		return err
	}
	switch {
	case len(text) > shared.MaxBytes:
		err = fmt.Errorf("the text has more than %d KB", shared.MaxBytes>>10)
	case tab.Is(text):
		r.Score, err = tab.Read(text, &r.problems)
	default:
		r.Score, r.Lines, err = shared.Read(text, shared.Options{PerBar: o.PerBar, As: o.As}, &r.problems)
	}
	return err
}

func readJSON(data []byte) (string, error) {
	var one oneSong
	if err := json.Unmarshal(data, &one); err != nil {
		return "", fmt.Errorf("it is no valid JSON: %w", err)
	}
	if one.Sheet == "" {
		return "", errors.New("it is JSON, but no song: there is no sheet in it")
	}
	return one.Sheet, nil
}

// Detect finds out in which form something is.
func Detect(data []byte) (Form, error) {
	text := bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\ufeff")))
	switch {
	case len(text) == 0:
		return "", errors.New("it is empty")
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		return MXL, nil
	case bytes.HasPrefix(data, []byte("MThd")):
		return MIDI, nil
	case bytes.HasPrefix(data, []byte("RIFF")):
		return "", errors.New("it is a recording; notes are not read out of sound")
	case text[0] == '<':
		return MusicXML, nil
	case text[0] == '{' && json.Valid(text):
		return JSON, nil
	}
	decoded, err := letters.Decoded(data)
	switch {
	case err != nil:
		return "", err
	case strings.HasPrefix(strings.TrimSpace(decoded), "<"):
		return MusicXML, nil
	case strings.ContainsRune(decoded, 0):
		return "", errors.New("it is no text and none of the forms that are read: MusicXML, MIDI, tab, words with chords")
	}
	if s := sheet.Parse(decoded); s.OK() || titled(s) {
		return Sheet, nil
	}
	switch {
	case shared.IsTab(decoded) || tab.Is(decoded):
		return Tab, nil
	case shared.Is(decoded):
		return Words, nil
	}
	return "", errors.New("it is text, but neither a sheet, nor tab of six lines, nor words with chords above them")
}

// titled tells whether a text was meant as a sheet: it has a title and bars that can be
// read.
func titled(s *sheet.Sheet) bool {
	if s.Song.Title == "" {
		return false
	}
	music, lost := 0, 0
	for _, l := range s.Lines {
		switch l.Kind {
		case sheet.Music:
			music++
		case sheet.AsTyped:
			lost++
		}
	}
	return music > lost
}

// Players lists who plays in what was read, and how many notes or chords they have.
func (r *Reading) Players() (names []string, notes []int) {
	if r.Score == nil {
		return nil, nil
	}
	for i := range r.Score.Players {
		p := &r.Score.Players[i]
		name := p.Name
		if name == "" {
			name = "Guitar"
		}
		names, notes = append(names, name), append(notes, max(len(p.Sounds), len(p.Chords)))
	}
	return names, notes
}

// Usual is the choice of players for what was read.
func (r *Reading) Usual() take.Choice {
	if r.Score == nil {
		return take.Choice{}
	}
	return r.Score.Usual()
}

// others says which players are left out.
func (r *Reading) others(c take.Choice, problems *take.Problems) {
	names, notes := r.Players()
	for i, name := range names {
		if i != c.First && !slices.Contains(c.Beside, i) && notes[i] > 0 {
			problems.Say(name, "take it beside the first if it is wanted", "another player with %d notes or chords is left out", notes[i])
		}
	}
}

// Take makes a sheet of what was read, and lists what could not be taken over as it was.
func (r *Reading) Take(ctx context.Context, c take.Choice) (string, take.Problems, error) {
	problems := slices.Clone(r.problems)
	if r.Score == nil {
		return r.sheet, problems, nil
	}
	s, err := r.Score.Song(ctx, c, &problems)
	if err != nil {
		return "", problems, err
	}
	r.others(c, &problems)
	text := sheet.Write(s)
	for len(text) > sheet.MaxBytes && len(s.Parts) > 1 {
		problems.Say(s.Parts[len(s.Parts)-1].Name, "split the song into two", "a sheet has %d KB at most; this part is left out", sheet.MaxBytes>>10)
		take.Cut(s)
		text = sheet.Write(s)
	}
	for len(text) > sheet.MaxBytes && take.Shorten(s) {
		problems.Say(s.Parts[0].Name, "split the song into two", "a sheet has %d KB at most; the end of it is left out", sheet.MaxBytes>>10)
		text = sheet.Write(s)
	}
	for _, p := range sheet.Parse(text).Problems {
		if p.Severity == sheet.Error {
			problems.Say(fmt.Sprintf("line %d of the sheet", p.Line), p.Mend, "%s", p.Message)
		}
	}
	return text, problems, nil
}
