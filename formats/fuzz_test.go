package formats

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"testing"

	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
)

// seeds gives a fuzz target the example songs in its form, and the files of others.
func seeds(f *testing.F, form Form) {
	names, _ := filepath.Glob("../demo/songs/*.txt")
	for _, name := range names {
		text, err := os.ReadFile(name)
		if err != nil {
			f.Fatal(err)
		}
		s := sheet.Parse(string(text)).Song
		var b bytes.Buffer
		p := Of(s, arrange.Options{}, 0, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
		if err := Write(&b, form, p); err != nil {
			f.Fatal(err)
		}
		f.Add(b.Bytes())
	}
	others, _ := filepath.Glob("testdata/*.txt")
	for _, name := range others {
		if a, err := txtar.ParseFile(name); err == nil && len(a.Files) > 0 {
			f.Add(a.Files[0].Data)
		}
	}
}

// taken reads something that may be anything: it ends with an error, or in a sheet that
// can be read.
func taken(t *testing.T, data []byte, form Form) {
	r, err := Read(context.Background(), data, Options{From: form})
	if err != nil {
		return
	}
	names, _ := r.Players()
	choice := r.Usual()
	if len(names) > 1 {
		choice.Beside = []int{(choice.First + 1) % len(names)}
	}
	text, _, err := r.Take(context.Background(), choice)
	if err != nil {
		return
	}
	if s := sheet.Parse(text); !s.OK() {
		t.Fatalf("%v\n%s", s.Problems, text)
	}
}

func FuzzMusicXML(f *testing.F) {
	seeds(f, MusicXML)
	f.Fuzz(func(t *testing.T, data []byte) { taken(t, data, MusicXML) })
}

func FuzzMXL(f *testing.F) {
	seeds(f, MXL)
	f.Fuzz(func(t *testing.T, data []byte) { taken(t, data, MXL) })
}

func FuzzMIDI(f *testing.F) {
	seeds(f, MIDI)
	f.Fuzz(func(t *testing.T, data []byte) { taken(t, data, MIDI) })
}

func FuzzTab(f *testing.F) {
	seeds(f, Tab)
	f.Fuzz(func(t *testing.T, data []byte) { taken(t, data, Tab) })
}

func FuzzWords(f *testing.F) {
	seeds(f, Words)
	f.Fuzz(func(t *testing.T, data []byte) { taken(t, data, Words) })
}
