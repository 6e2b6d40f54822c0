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
		want   arrange.Rung
	}{
		{[]float64{2, 3, 3.5, 5, 5.5, 6}, arrange.TwoNote}, // octaves are a taste
		{[]float64{2, 3, 3, 5, 3, 3}, arrange.AsWritten},
		{[]float64{6, 5, 7, 8, 9, 9}, arrange.TwoNote},
		{[]float64{1, 1, 1, 1, 1, 1}, arrange.AsWritten},
		{[]float64{2, 3, 3, 3, 3.9, 5}, arrange.EasyChords},
	} {
		got, why := Suggest(ladder(c.grades...))
		assert.Equal(t, c.want, got, "%v", c.grades)
		assert.NotEmpty(t, why)
	}
}
