package draw

import (
	"slices"
	"strings"
	"unicode/utf8"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// What is sung stands under the count, a row for each verse.

// sung gives the bars of a part their words, and room for them.
func sung(p *song.Part, bars []Bar) []Bar {
	at := 0
	for _, l := range p.Lines {
		for _, verse := range l.Words {
			rows := make([][]song.Sung, len(l.Bars))
			for _, w := range verse {
				rows[w.Bar] = append(rows[w.Bar], w)
			}
			for i, row := range rows {
				b := &bars[at+i]
				b.Words = append(b.Words, row)
				for _, w := range row {
					b.split(w.Start)
				}
				b.room(row)
			}
		}
		at += len(l.Bars)
	}
	return bars
}

// split makes a moment in which something goes on a column of its own.
func (b *Bar) split(at pitch.Frac) {
	i := slices.IndexFunc(b.Columns, func(c Column) bool { return !c.At.Less(at) })
	if i == 0 || i > 0 && b.Columns[i].At == at {
		return
	}
	if i < 0 {
		i = len(b.Columns)
	}
	before := &b.Columns[i-1]
	first := at.Sub(before.At).Float()
	rest := Column{At: at, Length: before.Length - first}
	before.Length = first
	b.Columns = slices.Insert(b.Columns, i, rest)
}

// room widens columns so that no word runs into the next.
func (b *Bar) room(row []song.Sung) {
	for i, w := range row {
		first, end := b.over(w), len(b.Columns)
		if i+1 < len(row) {
			end = max(b.over(row[i+1]), first+1)
		}
		has := 0.0
		for j := first; j < end; j++ {
			has += b.Columns[j].width(Style{})
		}
		if need := wordWidth(w.Text); need > has {
			b.Columns[first].room = b.Columns[first].width(Style{}) + need - has
		}
	}
}

// wordWidth is about how wide a text is, px.
func wordWidth(text string) float64 { return 8*float64(utf8.RuneCountInString(text)) + 8 }

// over is the column that a word stands under, or after.
func (b *Bar) over(w song.Sung) int {
	found := 0
	for i := range b.Columns {
		if !w.Start.Less(b.Columns[i].At) {
			found = i
		}
	}
	return found
}

// sing writes the words of a bar.
func (b *Bar) sing(c *canvas, s Style, left, stretch, top float64) {
	x := make([]float64, len(b.Columns)+1)
	x[0] = left + b.pad()*stretch
	for i := range b.Columns {
		x[i+1] = x[i] + b.Columns[i].width(s)*stretch
	}
	for row, verse := range b.Words {
		for _, w := range verse {
			i := b.over(w)
			at := x[i]
			if col := &b.Columns[i]; col.Length > 0 {
				at += w.Start.Sub(col.At).Float() / col.Length * (x[i+1] - x[i])
			}
			c.text("sung", at+1, top+float64(row)*wordRoom, w.Text)
		}
	}
}

// sungText is what is sung in a bar, all verses.
func (b *Bar) sungText() string {
	var verses []string
	for _, verse := range b.Words {
		var words []string
		for _, w := range verse {
			words = append(words, w.Text)
		}
		if len(words) > 0 {
			verses = append(verses, strings.Join(words, " "))
		}
	}
	return strings.Join(verses, " / ")
}
