package formats

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"
	"testing"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
)

// hundreds is a song of so many hundred bars in which no two are alike, riffs and chords
// in turn.
func hundreds(n int) string {
	var b strings.Builder
	b.WriteString("title: Long Way\ntempo: 100\n\n")
	chords := []string{"Em", "G", "C", "D", "Am7", "Fmaj7"}
	for part := range n {
		fmt.Fprintf(&b, "Part %d:\n", part+1)
		for bar := range 100 {
			k := part*100 + bar
			if bar%4 == 3 {
				fmt.Fprintf(&b, "| %s - %s - |\n", chords[k%6], chords[(k/6+k)%6])
				continue
			}
			b.WriteString("|")
			for slot := range 8 {
				v := k*8 + slot
				fmt.Fprintf(&b, " %d%c", (v*v/7+slot)%9, "EADGBe"[(v/3)%6])
			}
			b.WriteString(" |\n")
		}
		b.WriteString("\n")
	}
	return b.String()
}

func piece(n int) Piece {
	text := hundreds(n)
	s := sheet.Parse(text).Song
	p := Of(s, arrange.Options{}, -1, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
	p.Sheet, p.Mix = text, Mix{Click: true, Bass: true}
	return p
}

// BenchmarkExport writes 100 bars whose versions are there.
func BenchmarkExport(b *testing.B) {
	p := piece(1)
	for _, f := range Out() {
		b.Run(string(f), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				if err := Write(io.Discard, f, p); err != nil {
					b.Fatal(err)
				}
			}
			if f == WAV {
				b.ReportMetric(play.Plan(p.Song, p.Song.Tempo).Seconds/(b.Elapsed().Seconds()/float64(b.N)), "×faster")
			}
		})
	}
}

// BenchmarkImport makes a sheet of 2,000 bars in every form that is read.
func BenchmarkImport(b *testing.B) {
	p := piece(20)
	for _, f := range []Form{MusicXML, MXL, MIDI, Tab, Words} {
		var file bytes.Buffer
		if err := Write(&file, f, p); err != nil {
			b.Fatal(err)
		}
		b.Run(string(f), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				r, err := Read(context.Background(), file.Bytes(), Options{From: f})
				if err != nil {
					b.Fatal(err)
				}
				if _, _, err := r.Take(context.Background(), r.Usual()); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
