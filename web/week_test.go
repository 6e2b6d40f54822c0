package web_test

import (
	"fmt"
	"html"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
)

// The list of a lesson, the paper and the student's page show one week: what the list has on
// day 1 has a box on the paper today and stands on the phone, and what is done is on neither.
func TestOneWeek(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	plain := func(text string) string {
		return strings.Join(strings.Fields(html.UnescapeString(regexp.MustCompile(`<[^>]*>`).ReplaceAllString(text, " "))), " ")
	}
	for student, lesson := range map[int64]int64{2: 2, 5: 6} { // one song, two songs
		require.NoError(t, h.store.DeleteEntries(t.Context(), 1, student, store.At(noon.Add(-20*time.Hour)), store.At(noon)+1))
		token, err := h.store.AddLink(t.Context(), 1, student, "phone", store.At(noon))
		require.NoError(t, err)
		list := v.get(fmt.Sprintf("/lessons/%d?student=%d", lesson, student)).body
		paper := v.get(fmt.Sprintf("/lessons/%d/handout?student=%d", lesson, student)).body
		phone := v.get("/s/" + token).body
		_, phone, _ = strings.Cut(phone, "data-today")
		phone, _, _ = strings.Cut(phone, "</section>")
		today := map[string]bool{}
		for _, m := range regexp.MustCompile(`(?s)data-of="[^"]* ([^" ]*)"`).FindAllStringSubmatch(phone, -1) {
			today[m[1]] = true
		}
		boxes := map[string][]bool{} // by the title of the row
		for _, row := range regexp.MustCompile(`(?s)<th scope="row">(.*?)</th>(.*?)</tr>`).FindAllStringSubmatch(paper, -1) {
			title, _, _ := strings.Cut(row[1], "<small>")
			var on []bool
			for _, box := range regexp.MustCompile(`(?s)<td class="box">(.*?)</td>`).FindAllStringSubmatch(row[2], -1) {
				on = append(on, box[1] != "")
			}
			require.Len(t, on, 7)
			for i, has := range boxes[plain(title)] { // a part has a row for each stage
				on[i] = on[i] || has
			}
			boxes[plain(title)] = on
		}
		begun := 0
		for _, li := range regexp.MustCompile(`(?s)<li draggable="true" data-step="([^"]*)".*?<span class="name">(.*?)</span>.*?<span class="dayn">(.*?)</span>`).FindAllStringSubmatch(list, -1) {
			title, _, _ := strings.Cut(li[2], "<span")
			switch day := plain(li[3]); day {
			case "day 1":
				begun++
				assert.True(t, today[li[1]], "%s is on the phone today", li[1])
				require.Contains(t, boxes, plain(title))
				assert.True(t, boxes[plain(title)][0], "%s has a box today", title)
			case "day 8", "day 9", "day 10":
				assert.False(t, today[li[1]], "%s is for later", li[1])
			}
		}
		assert.Positive(t, begun, "student %d", student)
		assert.Greater(t, len(today), 0)
		for title, on := range boxes {
			assert.Contains(t, on, true, "%s stands on the paper for nothing", title)
		}
	}
}

// What was practised today is taken off today's minutes; with all of them, the page says that it
// is enough, and has tomorrow's for who likes more.
func TestEnoughForToday(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	const student = 2 // with fifteen minutes a day
	token, err := h.store.AddLink(t.Context(), 1, student, "phone", store.At(noon))
	require.NoError(t, err)
	today := func() (head, now, more string) {
		_, page, _ := strings.Cut(v.get("/s/"+token).body, "data-today")
		page, _, _ = strings.Cut(page, "</section>")
		head, _, _ = strings.Cut(page, "</h2>")
		now, more, _ = strings.Cut(page, "data-more")
		return strings.Join(strings.Fields(head), " "), now, more
	}
	head, now, more := today()
	assert.Contains(t, head, "15 minutes")
	assert.Contains(t, now, "data-of=")
	assert.Empty(t, more)
	given, err := h.store.AssignmentsOf(t.Context(), 1, student)
	require.NoError(t, err)
	log := func(minutes int, sent string) {
		require.NoError(t, h.store.AddEntry(t.Context(), store.Entry{StudioID: 1, StudentID: student, AssignmentID: given[0].ID, PartID: given[0].Parts[0].PartID, Rung: given[0].Parts[0].Rung, Some: true,
			Tempo: 50, Clean: 1, Minutes: minutes, PractisedAt: store.At(noon), SentID: sent}))
	}
	log(9, "nine")
	head, now, more = today()
	assert.Regexp(t, `[1-6] minutes more, 9 are done`, head)
	assert.Contains(t, now, "data-of=")
	assert.Contains(t, more, "data-of=")
	log(6, "six")
	head, now, more = today()
	assert.Contains(t, head, "that is enough: 15 minutes are done")
	assert.NotContains(t, now, "data-of=")
	assert.Contains(t, more, "data-of=")
}
