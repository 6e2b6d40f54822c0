package web_test

import (
	"fmt"
	"html"
	"regexp"
	"strings"
	"testing"

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
