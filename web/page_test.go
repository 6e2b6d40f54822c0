package web

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
)

// Values for a template have names, all of them.
func TestArgs(t *testing.T) {
	named, err := args("to", "/", "what", 1)
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"to": "/", "what": 1}, named)
	_, err = args("to")
	assert.ErrorContains(t, err, "without a value")
	_, err = args(1, 2)
	assert.ErrorContains(t, err, "no name")
}

// Of many who come those are shown who come now, in the evening the last, after midnight the
// first.
func TestAroundNow(t *testing.T) {
	var all []store.Student
	for i := range 30 {
		all = append(all, store.Student{LessonTime: fmt.Sprintf("%02d:%02d", 8+i/3, i%3*20)}) // 08:00 to 17:40
	}
	for clock, want := range map[string]string{"00:20": "08:00", "07:00": "08:00", "10:30": "09:40", "13:00": "12:00", "16:00": "14:00", "23:50": "14:00"} {
		now, err := time.Parse("15:04", clock)
		require.NoError(t, err)
		shown := around(all, anHourAgo(now))
		assert.Len(t, shown, mostComings)
		assert.Equal(t, want, shown[0].LessonTime, clock)
	}
}
