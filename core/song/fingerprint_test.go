package song_test

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// whole is a part in which nothing is left out.
func whole() *song.Part {
	bar := func() song.Bar {
		return song.Bar{Events: []song.Event{{Start: pitch.F(1, 4), Length: pitch.F(1, 4), Notes: []song.Note{{String: 5, Fret: 7}}, Chord: chord.Chord{Symbol: "Am", Tones: []chord.Tone{{}}}, Line: 3, Column: 9}}, Meter: song.FourFour}
	}
	return &song.Part{Name: "Verse", Advice: song.Advice{Note: "slowly"}, Lines: []song.Line{{Bars: []song.Bar{bar()}, Times: 2,
		Beside: []song.Voice{{Player: "lead", Bars: []song.Bar{bar()}, Times: 1}}, Words: [][]song.Sung{{{Text: "so"}}}}}}
}

// leaves calls do with every number and word in a value, and its name.
func leaves(name string, v reflect.Value, do func(name string, v reflect.Value)) {
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				leaves(name+"."+v.Type().Field(i).Name, v.Field(i), do)
			}
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			leaves(fmt.Sprintf("%s[%d]", name, i), v.Index(i), do)
		}
	default:
		do(name, v)
	}
}

func TestFingerprintTellsEveryFieldApart(t *testing.T) {
	seen := map[any]string{song.Fingerprint(*whole()): "nothing changed"}
	changed, same := 0, 0
	p := whole()
	leaves("Part", reflect.ValueOf(p).Elem(), func(name string, v reflect.Value) {
		before := reflect.New(v.Type()).Elem()
		before.Set(v)
		defer v.Set(before)
		switch v.Kind() {
		case reflect.Bool:
			v.SetBool(!v.Bool())
		case reflect.String:
			v.SetString(v.String() + "!")
		case reflect.Float64:
			v.SetFloat(v.Float() + 0.5)
		case reflect.Uint8:
			v.SetUint(v.Uint() + 1)
		default:
			v.SetInt(v.Int() + 1)
		}
		print := song.Fingerprint(*p)
		if strings.HasSuffix(name, ".Line") || strings.HasSuffix(name, ".Column") {
			assert.Equal(t, song.Fingerprint(*whole()), print, name)
			same++
			return
		}
		other, taken := seen[print]
		require.False(t, taken, "%s is not told apart from %s", name, other)
		seen[print] = name
		changed++
	})
	assert.Greater(t, changed, 60)
	assert.Equal(t, 4, same, "of both players")
}

func TestFingerprintKeepsWhatFollowsApart(t *testing.T) {
	bar := func(starts ...int64) song.Bar {
		var b song.Bar
		for _, s := range starts {
			b.Events = append(b.Events, song.Event{Start: pitch.F(s, 8)})
		}
		return b
	}
	assert.NotEqual(t, song.Fingerprint(bar(0, 1), bar(2)), song.Fingerprint(bar(0), bar(1, 2)), "a bar line stands elsewhere")
	assert.NotEqual(t, song.Fingerprint("ab", "c"), song.Fingerprint("a", "bc"))
	assert.NotEqual(t, song.Fingerprint(pitch.F(1, 2)), song.Fingerprint(pitch.F(1, 4)), "times are told apart")
	assert.Panics(t, func() { song.Fingerprint(map[string]int{}) })
}
