package web

import (
	"crypto/sha256"
	"fmt"
	"sync"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/play"
	"valleyside/core/recent"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/store"
	"valleyside/web/draw"
)

// music remembers what was worked out of sheets lately. Nothing in it
// outlives a change: everything is found by the text it was worked out of.
type music struct {
	mu        sync.Mutex
	summaries *recent.Memory[summaryKey, *summary]
	work      *recent.Memory[workKey, any]
	sheets    *recent.Memory[[sha256.Size]byte, *sheet.Sheet]
}

// remembered bounds the summaries that are kept, workKept the pieces of work for a
// page, each of a part or song of so many bars at most, sheetsKept the sheets that
// were read, each of so many bytes at most.
const (
	remembered = 400
	workKept   = 24
	workBars   = 120
	sheetsKept = 12
	sheetBytes = 8 << 10
)

// workKey is what a piece of work for a page was worked out of.
type workKey [sha256.Size]byte

// workOf is the key of a piece of work: what it is, the sheet, the ways and the
// options that it is worked out of, and what else it depends on.
func workOf(what, text string, w ways, o arrange.Options, more ...any) workKey {
	tuning := ""
	if o.Tuning != nil {
		tuning = o.Tuning.String()
	}
	return sha256.Sum256(fmt.Appendf(nil, "%s\x00%s\x00%v\x00%v\x00%v\x00%s\x00%s\x00%v", what, text, w, o.Player.Usual(), o.Tempo, tuning, o.School, more))
}

// worked gives a piece of work, done now or lately: whoever looks through a part
// asks for the same at every click. It is shared and must not be changed.
func worked[V any](m *music, key workKey, bars int, do func() (V, error)) (V, error) {
	m.mu.Lock()
	found, ok := m.work.Get(key)
	m.mu.Unlock()
	if ok {
		return found.(V), nil
	}
	made, err := do()
	if err == nil && bars <= workBars {
		m.mu.Lock()
		m.work.Put(key, made)
		m.mu.Unlock()
	}
	return made, err
}

// read reads a sheet, now or lately. It is shared and must not be changed.
func (m *music) read(text string) *sheet.Sheet {
	if len(text) > sheetBytes {
		return sheet.Parse(text)
	}
	key := sha256.Sum256([]byte(text))
	m.mu.Lock()
	sh, ok := m.sheets.Get(key)
	m.mu.Unlock()
	if ok {
		return sh
	}
	sh = sheet.Parse(text)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.sheets.Put(key, sh)
	return sh
}

type summaryKey struct {
	sheet  [sha256.Size]byte // and the ways
	player hand.Player
	tempo  float64
}

func newMusic() *music {
	return &music{summaries: recent.New[summaryKey, *summary](remembered), work: recent.New[workKey, any](workKept),
		sheets: recent.New[[sha256.Size]byte, *sheet.Sheet](sheetsKept)}
}

// summary is what the lists and hillsides show of a song.
type summary struct {
	Facts    songFacts
	Parts    []partSummary
	Problems int // errors in the sheet
	Roadmap  play.Roadmap
}

// songFacts are the settings of a song, in words.
type songFacts struct {
	Title, By, Key, Meter, Tempo, Feel, Tuning string
	Capo                                       int
	TempoValue                                 float64
}

// partSummary is a part and its rungs.
type partSummary struct {
	Name    string
	Bars    int
	Tempo   float64
	Rungs   []rungSummary // the easiest first
	Suggest arrange.Rung
	Why     string // of the suggestion
}

type rungSummary struct {
	Rung  arrange.Rung
	Grade float64
	Feet  []draw.Foot // stroke by stroke
}

// Rung finds the summary of a rung; the part as written where there is none.
func (p *partSummary) Rung(r arrange.Rung) *rungSummary {
	for i := range p.Rungs {
		if p.Rungs[i].Rung == r {
			return &p.Rungs[i]
		}
	}
	return &p.Rungs[len(p.Rungs)-1]
}

// Written is the part as written.
func (p *partSummary) Written() *rungSummary { return p.Rung(arrange.AsWritten) }

// ways are the teacher's ways of making versions, by part and rung.
type ways map[string]map[arrange.Rung]string

// set keeps a way; an empty one is none.
func (w ways) set(part string, rung arrange.Rung, way string) {
	if way == "" {
		return
	}
	if w[part] == nil {
		w[part] = map[arrange.Rung]string{}
	}
	w[part][rung] = way
}

// of reads the ways of a part. What a way says that is not understood any more
// is left to the program.
func (w ways) of(part string) map[arrange.Rung]arrange.Way {
	read := map[arrange.Rung]arrange.Way{}
	for rung, text := range w[part] {
		read[rung], _ = arrange.ParseWay(text)
	}
	return read
}

// waysOfSong are those that a song has now, waysOf those that a lesson or an
// assignment has.
func (s *Server) waysOfSong(c *echo.Context, song int64) (ways, error) {
	list, err := s.Store.WaysOf(c.Request().Context(), studio(c).ID, song)
	w := ways{}
	for _, one := range list {
		w.set(one.Part, arrange.Rung(one.Rung), one.Way)
	}
	return w, err
}

func waysOf(parts []store.Part) ways {
	w := ways{}
	for _, p := range parts {
		w.set(p.Part, arrange.Rung(p.Rung), p.Way)
	}
	return w
}

// options are how versions are made in a studio.
func (s *Server) options(c *echo.Context, p hand.Player, tempo float64) arrange.Options {
	return arrange.Options{Player: p, Tempo: tempo, Book: s.book, School: voicing.School(studio(c).ChordSchool)}
}

// Part finds a part by name.
func (s *summary) Part(name string) *partSummary {
	for i := range s.Parts {
		if s.Parts[i].Name == name {
			return &s.Parts[i]
		}
	}
	return nil
}

// Grade is that of the hardest part as written.
func (s *summary) Grade() float64 {
	hardest := 0.0
	for i := range s.Parts {
		hardest = max(hardest, s.Parts[i].Written().Grade)
	}
	return hardest
}

// Hill is the whole song as one hillside.
func (s *summary) Hill(width, height float64) draw.Hill {
	h := draw.Hill{Width: width, Height: height, Label: "Hillside of " + s.Facts.Title}
	for i := range s.Parts {
		h.Append(s.Parts[i].Bars, nil, s.Parts[i].Written().Feet)
	}
	return h
}

func facts(s *song.Song) songFacts {
	f := songFacts{Title: s.Title, By: s.By, Key: s.Key.String(), Meter: s.Meter.String(), Tempo: fmt.Sprintf("%g", s.Tempo),
		Tuning: s.Tuning.String(), Capo: s.Capo, TempoValue: s.Tempo}
	if s.Feel != (song.Feel{}) {
		f.Feel = s.Feel.String()
	}
	return f
}

// summarize works out a song for a player and at a target tempo, the tempo of
// the options; 0 is that of the sheet.
func (m *music) summarize(text string, w ways, o arrange.Options) *summary {
	tempo := o.Tempo
	key := summaryKey{sha256.Sum256(fmt.Appendf(nil, "%s\x00%v\x00%s", text, w, o.School)), o.Player.Usual(), tempo}
	m.mu.Lock()
	found, ok := m.summaries.Get(key)
	m.mu.Unlock()
	if ok {
		return found
	}
	sh := sheet.Parse(text)
	found = &summary{Facts: facts(sh.Song)}
	for _, q := range sh.Problems {
		if q.Severity == sheet.Error {
			found.Problems++
		}
	}
	if tempo == 0 {
		tempo = sh.Song.Tempo
	}
	found.Roadmap = play.Plan(sh.Song, tempo)
	arranger := arrange.New(sh.Song, o)
	for i := range sh.Song.Parts {
		part := &sh.Song.Parts[i]
		ps := partSummary{Name: part.Name, Bars: part.Written(), Tempo: play.Tempo(sh.Song, part, tempo)}
		versions := arranger.Ladder(i, w.of(part.Name))
		for j := range versions {
			v := &versions[j]
			ps.Rungs = append(ps.Rungs, rungSummary{Rung: v.Rung, Grade: v.Grade, Feet: draw.Feet(v)})
		}
		ps.Suggest, ps.Why = lesson.Suggest(versions)
		found.Parts = append(found.Parts, ps)
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.summaries.Put(key, found)
	return found
}
