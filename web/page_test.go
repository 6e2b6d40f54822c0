package web

import (
	"bytes"
	"fmt"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"os"
	"testing"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/progress"
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
		first := around(all, anHourAgo(now))
		assert.LessOrEqual(t, first, len(all)-mostComings)
		assert.Equal(t, want, all[first].LessonTime, clock)
	}
}

// Of many lessons a list shows those that want the teacher most, in their order.
func TestTellingLessons(t *testing.T) {
	stands := func(id int64, state progress.State) lessonProgress {
		l := lessonProgress{Parts: []partProgress{{Look: progress.Look{State: state}}}}
		l.ID, l.Telling = id, &l.Parts[0]
		return l
	}
	without := lessonProgress{}
	without.ID = 9
	shown, more := telling([]lessonProgress{stands(1, progress.New), without, stands(3, progress.Stuck), stands(4, progress.Growing), stands(5, progress.Due)})
	var ids []int64
	for _, l := range shown {
		ids = append(ids, l.ID)
	}
	assert.Equal(t, []int64{3, 4, 5}, ids)
	assert.Equal(t, 2, more)
	shown, more = telling([]lessonProgress{without, stands(2, progress.New)})
	assert.Len(t, shown, 2)
	assert.Zero(t, more)
}

// A file that is sent lies on the disk, however long it is: memory has what a form may have.
func TestFilesLieOnTheDisk(t *testing.T) {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "export.zip")
	require.NoError(t, err)
	_, err = part.Write(make([]byte, 12<<20))
	require.NoError(t, err)
	require.NoError(t, form.Close())
	r := httptest.NewRequest(http.MethodPost, "/settings/return", &body)
	r.Header.Set("Content-Type", form.FormDataContentType())
	err = filesToDisk(func(c *echo.Context) error {
		defer c.Request().MultipartForm.RemoveAll() //nolint:errcheck // the system tidies up as well
		f, err := c.FormFile("file")
		require.NoError(t, err)
		in, err := f.Open()
		require.NoError(t, err)
		defer in.Close()
		assert.IsType(t, new(os.File), in)
		return nil
	})(echo.New().NewContext(r, httptest.NewRecorder()))
	require.NoError(t, err)
}
