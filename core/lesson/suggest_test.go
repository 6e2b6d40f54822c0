package lesson

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/arrange"
)

func TestSuggest(t *testing.T) {
	ladder := func(grades ...float64) []arrange.Version {
		var list []arrange.Version
		for i, g := range grades {
			list = append(list, arrange.Version{Rung: arrange.Rungs[i], Grade: g})
		}
		return list
	}
	for _, c := range []struct {
		grades []float64
		want   Suggestion
	}{
		{[]float64{2, 3, 3.5, 5, 5.5, 6}, Suggestion{arrange.TwoNote, Fullest}}, // octaves are a taste
		{[]float64{2, 3, 3, 5, 3, 3}, Suggestion{arrange.AsWritten, Fullest}},
		{[]float64{6, 5, 7, 8, 9, 9}, Suggestion{arrange.TwoNote, Easiest}},
		{[]float64{1, 1, 1, 1, 1, 1}, Suggestion{arrange.AsWritten, Fullest}},
		{[]float64{2, 3, 3, 3, 3.9, 5}, Suggestion{arrange.EasyChords, Fullest}},
	} {
		assert.Equal(t, c.want, Suggest(ladder(c.grades...)), "%v", c.grades)
	}
}
