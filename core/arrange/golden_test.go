package arrange_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
)

var update = flag.Bool("update", false, "rewrite the golden files")

// Each file says what a guitarist would play, and why, asks for it, and holds
// the version that comes out.
func TestGoldenVersions(t *testing.T) {
	files, err := filepath.Glob("testdata/versions/*.txt")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 12)
	for _, file := range files {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txt"), func(t *testing.T) {
			archive, err := txtar.ParseFile(file)
			require.NoError(t, err)
			require.NotEmpty(t, archive.Comment, "a reason to agree")
			parts := map[string]string{}
			for _, f := range archive.Files {
				parts[f.Name] = string(f.Data)
			}
			s := sheet.Parse(parts["sheet"])
			require.Empty(t, s.Problems)
			rung, way, options := asked(t, parts["ask"])
			got := fingered(arrange.New(s.Song, options).Version(0, rung, way))
			if *update {
				archive.Files = append(archive.Files[:2], txtar.File{Name: "version", Data: []byte(got)})
				require.NoError(t, os.WriteFile(file, txtar.Format(archive), 0o644))
			}
			assert.Equal(t, parts["version"], got)
		})
	}
}

// asked reads what a golden file asks for.
func asked(t *testing.T, text string) (rung arrange.Rung, way arrange.Way, o arrange.Options) {
	var wishes []string
	for _, line := range strings.Split(strings.TrimSpace(text), "\n") {
		name, value, _ := strings.Cut(line, ": ")
		number, _ := strconv.ParseFloat(value, 64)
		var err error
		switch name {
		case "rung":
			rung, err = arrange.ParseRung(value)
		case "way":
			wishes = append(wishes, value)
		case "reach":
			o.Player.Reach = number
		case "scale":
			o.Player.Scale = number
		case "nps":
			o.Player.NotesPerSecond = number
		case "tuning":
			var tuning neck.Tuning
			tuning, err = neck.Parse(value)
			o.Tuning = &tuning
		default:
			t.Fatalf("%q is not understood", line)
		}
		require.NoError(t, err)
	}
	way, err := arrange.ParseWay(strings.Join(wishes, "\n"))
	require.NoError(t, err)
	return rung, way, o
}

// fingered writes a version: frets with their fingers, and below each bar what
// is said of it that is not about the whole.
func fingered(v arrange.Version) string {
	var b strings.Builder
	var sp words.Speaker
	for _, u := range v.Unmet {
		fmt.Fprintf(&b, "! %s\n", sp.Unmet(u, song.FourFour))
	}
	for i := range v.Bars {
		bar := &v.Bars[i]
		b.WriteString("|")
		for _, e := range bar.Events {
			var notes []string
			for _, n := range e.Notes {
				text := fmt.Sprintf("%d%s", n.Fret, n.String)
				if n.Finger > 0 {
					text += "[" + n.Finger.String() + "]"
				}
				notes = append(notes, text)
			}
			if notes == nil {
				notes = []string{"x"}
			}
			fmt.Fprintf(&b, " %s:%s", e.Beat, strings.Join(notes, "+"))
		}
		b.WriteByte('\n')
		for _, why := range sp.Bar(bar) {
			fmt.Fprintf(&b, "  %s\n", why)
		}
	}
	return b.String()
}
