package web_test

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// anyBars writes bars of eighths of which none is like another.
func anyBars(b *strings.Builder, r *rand.Rand, bars int) {
	for range bars {
		b.WriteString("|")
		for range 8 {
			fmt.Fprintf(b, " %d%c", r.IntN(13), "EADGBe"[r.IntN(6)])
		}
		b.WriteString(" |\n")
	}
}

// slowSheets are the sheets within the limits that take the longest.
func slowSheets() map[string]string {
	r := rand.New(rand.NewPCG(3, 4))
	sheets := map[string]string{}
	var b strings.Builder
	b.WriteString("title: Nothing alike\ntempo: 100\n")
	for part := range 20 {
		fmt.Fprintf(&b, "P%d:\n", part)
		anyBars(&b, r, 100)
	}
	sheets["nothing alike, 2,000 bars"] = b.String()
	b.Reset()
	b.WriteString("title: One part\ntempo: 100\nA:\n")
	anyBars(&b, r, 2000)
	sheets["nothing alike, 2,000 bars in one part"] = b.String()
	b.Reset()
	b.WriteString("title: Odd chords\ntempo: 100\nA:\n")
	roots := []string{"C", "C#", "Db", "D", "D#", "Eb", "E", "F", "F#", "Gb", "G", "G#", "Ab", "A", "A#", "Bb", "B"}
	suffixes := []string{"", "m", "7", "maj7", "m7", "m7b5", "dim7", "9", "m9", "13", "7#9", "7b9", "6", "m6", "sus2", "sus4", "add9", "aug", "11", "6/9", "7sus4", "maj9", "m11", "dim"}
	for i := range 2000 {
		fmt.Fprintf(&b, "| %s%s - - - |\n", roots[i%len(roots)], suffixes[(i/len(roots))%len(suffixes)])
	}
	sheets["2,000 bars of odd chords"] = b.String()
	sheets["unclosed brackets"] = "title: B\nA:\n| " + strings.Repeat("( ", 99_000)
	sheets["closed brackets"] = "title: B\nA:\n| " + strings.Repeat("( ", 49_000) + strings.Repeat(") ", 49_000) + "|"
	sheets["an order of unknown parts"] = "title: O\norder: " + strings.Repeat("Nowhere, ", 22_000) + "\nA:\n| 0E |\n"
	var names strings.Builder
	for i := range 20_000 {
		fmt.Fprintf(&names, "Nowhr%d, ", i)
	}
	b.Reset()
	b.WriteString("title: O\norder: " + names.String()[:180_000] + "\n")
	for i := range 60 {
		fmt.Fprintf(&b, "Nowhere%d:\n| 0E |\n", i)
	}
	sheets["an order of many unknown parts"] = b.String()
	sheets["one long line"] = "title: L\nA:\n| " + strings.Repeat("0E ", 66_000) + "|"
	sheets["comments"] = "title: C\n" + strings.Repeat("#\n", 99_000)
	sheets["settings"] = "title: S\n" + strings.Repeat("nothing: x\n", 18_000)
	return sheets
}

// BenchmarkSlowSheets asks for the pages of the slowest sheets.
func BenchmarkSlowSheets(b *testing.B) {
	for name, sheet := range slowSheets() {
		require.Less(b, len(sheet), 200_000, name)
		h := openDemo(b)
		v := h.marit()
		song := v.post("/songs", url.Values{"title": {"Slow"}}).Header.Get("Location")
		require.Equal(b, http.StatusSeeOther, v.post(song, url.Values{"sheet": {sheet}}).StatusCode, name)
		for _, page := range []string{"", "/rungs", "/rungs?rung=one-finger&bar=1000", "/chords", "/saves"} {
			b.Run(name+page, func(b *testing.B) {
				for b.Loop() {
					require.Equal(b, http.StatusOK, v.get(song+page).StatusCode)
				}
			})
		}
	}
}

// BenchmarkLightPagesMeanwhile asks for light pages while four readers ask for the
// slowest one: how long they take at most in 95 of 100.
func BenchmarkLightPagesMeanwhile(b *testing.B) {
	h := openDemo(b)
	v := h.marit()
	song := v.post("/songs", url.Values{"title": {"Slow"}}).Header.Get("Location")
	require.Equal(b, http.StatusSeeOther, v.post(song, url.Values{"sheet": {slowSheets()["nothing alike, 2,000 bars in one part"]}}).StatusCode)
	ctx, stop := context.WithCancel(b.Context())
	var readers sync.WaitGroup
	for reader := range 4 {
		readers.Go(func() {
			for i := 0; ctx.Err() == nil; i++ {
				r, err := http.NewRequestWithContext(ctx, "GET", fmt.Sprintf("%s%s/rungs?tempo=%d", h.http.URL, song, 60+reader*1000+i), nil)
				if err != nil {
					b.Error(err)
					return
				}
				if res, err := v.client.Do(r); err == nil {
					io.Copy(io.Discard, res.Body) //nolint:errcheck // it is not looked at
					res.Body.Close()
				}
			}
		})
	}
	var took []time.Duration
	for b.Loop() {
		for _, page := range []string{"/", "/songs", "/students", "/students/1", "/lessons/1", "/settings"} {
			begun := time.Now()
			require.Equal(b, http.StatusOK, v.get(page).StatusCode)
			took = append(took, time.Since(begun))
		}
	}
	stop()
	readers.Wait()
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms/p95")
}
