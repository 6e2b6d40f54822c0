// Package sheet reads and writes the text in which a teacher types a song.
//
// A sheet is lines: settings ("tempo: 104"), part names ("Verse:"), lines of
// bars ("| 0A - 3A 5A |"), comments and blank lines. Parse keeps every line, so
// that Format can put each back in its place in the canonical layout, and
// reports everything that is wrong at once.
package sheet

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Limits of a sheet. What is beyond them is reported, not read.
const (
	MaxBytes   = 200 * 1024
	MaxParts   = 64
	MaxBars    = 2000 // written bars, of all players
	MaxSlots   = 64   // in a bar, those inside brackets counted
	MaxNesting = 3
	MinTempo   = 20
	MaxTempo   = 400
	MaxTimes   = 99 // of a repeat
	MaxCapo    = 12
)

// Severity says how bad a problem is.
type Severity string

// An Error keeps part of the sheet from being read; a Warning does not.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
)

// Problem is something in a sheet that the teacher should look at.
type Problem struct {
	Line     int      `json:"line"`   // from 1
	Column   int      `json:"column"` // in characters, from 1
	Severity Severity `json:"severity"`
	Message  string   `json:"message"` // what is wrong
	Mend     string   `json:"mend"`    // how to mend it
}

func (p Problem) String() string {
	return fmt.Sprintf("%d:%d: %s: %s; %s", p.Line, p.Column, p.Severity, p.Message, p.Mend)
}

// Sheet is a text that has been read.
type Sheet struct {
	// Song is what could be read. It is never nil; where OK is false, bars
	// and settings with errors are missing from it or empty.
	Song     *song.Song
	Problems []Problem // ordered by line and column
	// Lines is the tree of the sheet: one for each line of the text, in their order.
	Lines []Line
}

// OK tells whether the sheet has no errors. It may have warnings.
func (s *Sheet) OK() bool {
	return !slices.ContainsFunc(s.Problems, func(p Problem) bool { return p.Severity == Error })
}

// Parse reads a sheet. It never fails: what cannot be read is in Problems.
func Parse(text string) *Sheet {
	p := &parser{sheet: &Sheet{Song: newSong()}}
	if len(text) > MaxBytes {
		p.errorf(1, 1, fmt.Sprintf("split the song into several sheets of at most %d KB", MaxBytes/1024),
			"the sheet has %d KB, the limit is %d KB", (len(text)+1023)/1024, MaxBytes/1024)
		p.keep(Line{Text: strings.TrimRight(text, "\n")})
		return p.sheet
	}
	text = strings.TrimPrefix(text, "\ufeff")
	text = strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n")
	text = strings.TrimRight(text, "\n")
	for i, raw := range strings.Split(text, "\n") {
		if !utf8.ValidString(raw) {
			valid := strings.ToValidUTF8(raw, "\ufffd")
			p.errorf(i+1, strings.IndexRune(valid, '\ufffd')+1, "save the sheet as UTF-8 text", "the line is not UTF-8 text")
			raw = valid
		}
		p.line(i+1, raw)
	}
	p.finish()
	slices.SortStableFunc(p.sheet.Problems, func(a, b Problem) int {
		return cmp.Or(cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column))
	})
	return p.sheet
}

// parser reads lines one after another.
type parser struct {
	sheet *Sheet
	// part is being read; nil before the first, and while a part beyond the
	// limit is passed over.
	part    *song.Part
	own     map[string]bool // settings seen so far, in the song or the part
	bars    int             // written so far
	full    bool            // the limit of bars has been reported
	numbers bool            // chords may be typed as degrees of the key
	order   orderSetting
	pickup  pickup           // of the part
	like    like             // of the part
	music   []typedLine      // of the part, as far as it is read
	others  map[int]readPart // by part: what those that are like it take over
	titled  bool
	parts   int // part names seen
	// held is the last event of each player, which a - at the start of a bar
	// makes longer.
	held map[string]*song.Event
	// orphans are players' lines that stand before the line they run beside.
	orphans []song.Voice
	orphan  place // of the first of them
	at      place // of the value that is being read
}

type place struct{ line, column int }

// pickup is how many beats the first bar of a part has; 0 is a whole bar.
type pickup struct {
	beats pitch.Frac
	place place
}

// orderSetting is kept until all parts are known.
type orderSetting struct {
	text         string
	line, column int
	index        int // in sheet.lines
}

func (p *parser) errorf(line, column int, mend, format string, args ...any) {
	p.problem(line, column, Error, mend, fmt.Sprintf(format, args...))
}

func (p *parser) warnf(line, column int, mend, format string, args ...any) {
	p.problem(line, column, Warning, mend, fmt.Sprintf(format, args...))
}

func (p *parser) problem(line, column int, severity Severity, mend, message string) {
	p.sheet.Problems = append(p.sheet.Problems, Problem{Line: line, Column: column, Severity: severity, Message: message, Mend: mend})
}

// keep adds a line to the sheet.
func (p *parser) keep(l Line) { p.sheet.Lines = append(p.sheet.Lines, l) }
