package sheet

import (
	"slices"
	"strings"
	"unicode/utf8"

	"valleyside/core/song"
)

// wordsName stands before the first bar line of what is sung.
const wordsName = "words"

// longestWords is how many characters are sung in a bar at most.
const longestWords = 200

// nextWord goes on to the next chord or accent of a bar.
const nextWord = "/"

// wordsLine reads what is sung to the line of bars above it.
func (p *parser) wordsLine(n, column int, text string) {
	l := Line{Kind: Music, Player: wordsName, Times: 1, Part: len(p.sheet.Song.Parts) - 1}
	_, body, _ := strings.Cut(text, "|")
	body = strings.TrimSuffix(strings.TrimSpace(body), "|")
	for _, cell := range strings.Split(body, "|") {
		l.Words = append(l.Words, strings.Join(strings.Fields(strings.ReplaceAll(cell, nextWord, " "+nextWord+" ")), " "))
	}
	if p.part == nil || len(p.part.Lines) == 0 && p.like.of == "" {
		p.errorf(n, column, "write the line of bars that they are sung to above them", "these words belong to no bars")
		p.keep(Line{Text: text})
		return
	}
	p.keep(l)
	one := typedLine{place{n, column}, l}
	if p.like.of != "" {
		p.like.words = append(p.like.words, one)
		return
	}
	p.music = append(p.music, one)
	p.sing(one, &p.part.Lines[len(p.part.Lines)-1])
}

// sing gives a line of bars what is sung to it.
func (p *parser) sing(words typedLine, l *song.Line) {
	if len(words.Words) != len(l.Bars) {
		p.errorf(words.place.line, words.column, "write a | between the words of two bars, also where nothing is sung",
			"there are words for %s, the line above has %s", barCount(len(words.Words)), barCount(len(l.Bars)))
		return
	}
	if i := slices.IndexFunc(words.Words, func(cell string) bool { return utf8.RuneCountInString(cell) > longestWords }); i >= 0 {
		p.errorf(words.place.line, words.column, "share them among more bars", "the words of bar %d of the line are too long: %d characters are the limit", i+1, longestWords)
		return
	}
	var verse []song.Sung
	for i, cell := range words.Words {
		if cell == "" {
			continue
		}
		pieces := strings.Split(cell, nextWord)
		anchors := p.part.Anchors(&l.Bars[i], len(pieces))
		for j, piece := range pieces {
			if piece = strings.TrimSpace(piece); piece != "" && j < len(anchors) {
				verse = append(verse, song.Sung{Bar: i, Start: anchors[j], Text: piece})
			}
		}
	}
	l.Words = append(l.Words, verse)
}

// isWords tells whether a line is one of what is sung.
func isWords(head string) bool {
	return len(head) < 2*utf8.UTFMax*len(wordsName) && strings.EqualFold(strings.TrimSpace(head), wordsName)
}
