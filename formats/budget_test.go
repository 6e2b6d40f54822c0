package formats

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"math/rand/v2"
	"runtime"
	"runtime/metrics"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
)

// scoreOf is a score of some measures of one part.
func scoreOf(inside string) string {
	return `<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>G</part-name></score-part></part-list><part id="P1">` + inside + `</part></score-partwise>`
}

// strange is a score of bars whose quarter notes are divided by other primes each.
func strange(bars, notes int) []byte {
	r := rand.New(rand.NewPCG(5, 6))
	var b strings.Builder
	for i := range bars {
		div := 2*r.IntN(40_000) + 40_001
		fmt.Fprintf(&b, `<measure number="%d"><attributes><divisions>%d</divisions></attributes>`, i+1, div)
		for range notes {
			fmt.Fprintf(&b, `<note><pitch><step>%c</step><octave>%d</octave></pitch><duration>%d</duration></note>`, "CDEFGAB"[r.IntN(7)], 3+r.IntN(2), div*4/notes+r.IntN(7))
		}
		b.WriteString("</measure>")
	}
	return []byte(scoreOf(b.String()))
}

// tabOf is ordinary tab of about so many bytes.
func tabOf(size int) []byte {
	r := rand.New(rand.NewPCG(7, 8))
	var b bytes.Buffer
	for b.Len() < size {
		for _, s := range "eBGDAE" {
			fmt.Fprintf(&b, "%c|", s)
			for range 4 {
				for range 8 {
					if r.IntN(4) == 0 {
						fmt.Fprintf(&b, "%d-", r.IntN(10))
					} else {
						b.WriteString("--")
					}
				}
				b.WriteString("|")
			}
			b.WriteString("\n")
		}
		b.WriteString("\n")
	}
	return b.Bytes()
}

// midiOf is a file of one track of events.
func midiOf(events []byte) []byte {
	track := append(events, 0, 0xff, 0x2f, 0)
	head := []byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x01\xe0MTrk")
	n := len(track)
	return append(append(head, byte(n>>24), byte(n>>16), byte(n>>8), byte(n)), track...)
}

// heavy is a file that asks for much, and what is said of it; nothing where it is read.
type heavy struct {
	make func() []byte
	want string
	long bool // it takes seconds: measured, not tested
}

var heavyFiles = map[string]heavy{
	"strange divisions":      {make: func() []byte { return strange(64, 40) }},
	"strange, longer":        {make: func() []byte { return strange(600, 60) }, long: true},
	"half a megabyte of tab": {make: func() []byte { return tabOf(512<<10 - 2000) }, long: true},
	"meters": {make: func() []byte {
		var b []byte
		for i := range 100_000 {
			b = append(b, 0x60, 0xff, 0x58, 4, byte(2+i%5), 2, 24, 8)
			if i%20 == 0 {
				b = append(b, 0, 0x90, 60, 100, 0x60, 0x80, 60, 0)
			}
		}
		return midiOf(b)
	}, want: "changes more than 10000"},
	"meters at once": {make: func() []byte {
		var b []byte
		for i := range 200_000 {
			b = append(b, 0, 0xff, 0x58, 4, byte(2+i%5), 2, 24, 8)
		}
		for range 4000 {
			b = append(b, 0, 0x90, 60, 100, 0x83, 0x60, 0x80, 60, 0)
		}
		return midiOf(b)
	}, want: "changes more than 10000"},
	"tempos": {make: func() []byte {
		var b []byte
		for i := range 100_000 {
			b = append(b, 0x10, 0xff, 0x51, 3, 7, byte(i), byte(i>>8))
			if i%20 == 0 {
				b = append(b, 0, 0x90, 60, 100, 0x60, 0x80, 60, 0)
			}
		}
		return midiOf(b)
	}, want: "changes more than 10000"},
	"bends": {make: func() []byte {
		var b []byte
		for range 120 {
			for k := range 100 {
				b = append(b, 0, 0x90, byte(20+k), 100)
			}
		}
		for i := range 200_000 {
			b = append(b, 1, 0xe0, byte(i&127), byte(i>>7&127))
		}
		return midiOf(b)
	}},
	"a chord of 50,000 midi notes": {make: func() []byte {
		var b []byte
		for i := range 50_000 {
			b = append(b, 0, 0x90, byte(40+i%40), 100)
		}
		for i := range 50_000 {
			b = append(b, byte(i&1), 0x80, byte(40+i%40), 0)
		}
		return midiOf(b)
	}},
	"a chord of 50,000 notes": {make: func() []byte {
		return []byte(scoreOf(`<measure number="1">` + `<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration></note>` + strings.Repeat(`<note><chord/><pitch><step>E</step><octave>4</octave></pitch><duration>1</duration></note>`, 50_000) + `</measure>`))
	}},
	"a long second part": {make: func() []byte {
		m := `<measure number="1"><note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note></measure>`
		return []byte(`<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>G</part-name></score-part><score-part id="P2"><part-name>H</part-name></score-part></part-list><part id="P1">` + m + `</part><part id="P2">` + strings.Repeat(m, 50) + `</part></score-partwise>`)
	}},
	"more than 20,000 bars": {make: func() []byte {
		return []byte(scoreOf(strings.Repeat(`<measure number="1"><note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note></measure>`, 25_000)))
	}},
	"many parts": {make: func() []byte {
		var b, list strings.Builder
		for i := range 2000 {
			fmt.Fprintf(&list, `<score-part id="P%d"><part-name>G</part-name></score-part>`, i)
			fmt.Fprintf(&b, `<part id="P%d"><measure number="1"><note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note></measure></part>`, i)
		}
		return []byte(`<?xml version="1.0"?><score-partwise version="4.0"><part-list>` + list.String() + `</part-list>` + b.String() + `</score-partwise>`)
	}},
	"repeated measures": {make: func() []byte {
		note := strings.Repeat(`<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration></note>`, 400)
		return []byte(scoreOf(`<measure number="1">` + note + `</measure><measure number="2"><attributes><measure-style><measure-repeat type="start">1</measure-repeat></measure-style></attributes></measure>` + strings.Repeat(`<measure number="3"></measure>`, 1900)))
	}, want: "more than 200000 notes"},
	"chords among words": {make: func() []byte { return []byte(strings.Repeat("[Am]la [C]la [G]la [F]la\n", 20_000)) }, long: true},
	"chord lines":        {make: func() []byte { return []byte(strings.Repeat("Am C G F Am C G F\nla la la la la la la\n", 11_000)) }},
	"one line of chords": {make: func() []byte { return []byte(strings.Repeat("Am ", 160_000)) }, want: "neither a sheet"},
	"headings":           {make: func() []byte { return []byte("Am C\n" + strings.Repeat("[Verse]\nAm C\n", 40_000)) }, long: true},
	"wide tab": {make: func() []byte {
		var b strings.Builder
		for range 70 {
			for _, s := range "eBGDAE" {
				fmt.Fprintf(&b, "%c|%s|\n", s, strings.Repeat("1-", 590))
			}
			b.WriteString("\n")
		}
		return []byte(b.String())
	}, long: true},
	"lines between": {make: func() []byte {
		return append(tabOf(20_000), []byte(strings.Repeat("what is this here for\n", 20_000))...)
	}, long: true},
	"lyrics": {make: func() []byte {
		l := ""
		for i := range 20 {
			l += fmt.Sprintf(`<lyric number="%d"><text>la</text></lyric>`, i+1)
		}
		return []byte(scoreOf(strings.Repeat(`<measure number="1">`+strings.Repeat(`<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration>`+l+`</note>`, 8)+`</measure>`, 800)))
	}, long: true},
	"endings": {make: func() []byte {
		return []byte(scoreOf(strings.Repeat(`<measure number="1"><barline><ending number="1-32" type="start"/><repeat direction="forward"/></barline><note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note><barline><ending number="1-32" type="stop"/><repeat direction="backward" times="99"/></barline></measure>`, 2000)))
	}},
	"attributes": {make: func() []byte {
		return []byte(scoreOf(`<measure number="1">` + strings.Repeat(`<attributes><divisions>7</divisions><time><beats>3+2+1</beats><beat-type>8</beat-type></time></attributes>`, 60_000) + `<note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note></measure>`))
	}},
	"jumps": {make: func() []byte {
		return []byte(scoreOf(strings.Repeat(`<measure number="1"><direction><direction-type><segno/></direction-type></direction><note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note><direction><direction-type><words>D.S.</words></direction-type></direction></measure>`, 1900)))
	}},
}

// readAll reads something with the usual choice of players.
func readAll(ctx context.Context, data []byte, form Form) (string, error) {
	r, err := Read(ctx, data, Options{From: form})
	if err != nil {
		return "", err
	}
	text, _, err := r.Take(ctx, r.Usual())
	return text, err
}

// However much a file asks for, it ends in a sheet or with a sentence.
func TestHeavyFiles(t *testing.T) {
	t.Parallel()
	for name, heavy := range heavyFiles {
		if heavy.long {
			continue
		}
		text, err := readAll(t.Context(), heavy.make(), "")
		if heavy.want != "" {
			assert.ErrorContains(t, err, heavy.want, name)
			continue
		}
		assert.NoError(t, err, name)
		assert.True(t, sheet.Parse(text).OK(), name)
	}
}

// Nobody is worked for who does not wait any more.
func TestCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	r, err := Read(ctx, tabOf(20_000), Options{})
	require.NoError(t, err)
	cancel()
	_, _, err = r.Take(ctx, r.Usual())
	assert.ErrorIs(t, err, context.Canceled)
	_, err = Read(ctx, tabOf(20_000), Options{})
	assert.ErrorIs(t, err, context.Canceled)
}

// BenchmarkHeavyFiles reads them, and says how many megabytes were held at most.
func BenchmarkHeavyFiles(b *testing.B) {
	for _, name := range slices.Sorted(maps.Keys(heavyFiles)) {
		b.Run(name, func(b *testing.B) {
			data := heavyFiles[name].make()
			runtime.GC()
			var most atomic.Uint64
			done := make(chan bool)
			go func() {
				held := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
				for {
					metrics.Read(held)
					most.Store(max(most.Load(), held[0].Value.Uint64()))
					select {
					case <-done:
						return
					case <-time.After(5 * time.Millisecond):
					}
				}
			}()
			for b.Loop() {
				_, _ = readAll(b.Context(), data, "")
			}
			close(done)
			b.ReportMetric(float64(most.Load()>>20), "MB/most")
		})
	}
}
