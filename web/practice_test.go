package web_test

import (
	"encoding/json"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
)

// An entry that is sent by a script is answered with its own id, logged or
// refused for good, and carries the time at which it was made: by its age, so
// that a clock that is wrong does no harm.
func TestPracticeIsAnsweredByItsID(t *testing.T) {
	h := openDemo(t)
	token, saskia := h.link("Saskia")
	ctx := t.Context()
	given, err := h.store.AssignmentsOf(ctx, studioOfDemo, saskia.ID)
	require.NoError(t, err)
	v := h.visitor()
	page := v.get("/s/" + token)
	assert.NotContains(t, page.body, "_csrf", "no token that could expire")
	send := func(sent, age string, change map[string]string) (int, map[string]string) {
		form := url.Values{"assignment": {strconv.FormatInt(given[0].ID, 10)}, "part": {given[0].Parts[0].Part}, "tempo": {"64"}, "clean": {"2"}, "minutes": {"5"}, "sent": {sent}, "age": {age}}
		for field, value := range change {
			form.Set(field, value)
		}
		r, err := http.NewRequest("POST", h.http.URL+"/s/"+token+"/entries", strings.NewReader(form.Encode()))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("Accept", "application/json")
		r.Header.Set("Sec-Fetch-Site", "same-origin")
		res, err := v.client.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		var answer map[string]string
		require.NoError(t, json.NewDecoder(res.Body).Decode(&answer))
		return res.StatusCode, answer
	}
	for sent, age := range map[string]string{"now": "0", "an hour ago": "3600", "no age": "", "not a number": "NaN", "tomorrow": "-86400", "a year ago": "31536000"} {
		status, answer := send(sent, age, nil)
		assert.Equal(t, http.StatusOK, status)
		assert.Equal(t, sent, answer["id"])
	}
	entries, err := h.store.EntriesOf(ctx, studioOfDemo, saskia.ID, 0, 0)
	require.NoError(t, err)
	at := map[string]store.Instant{}
	for _, e := range entries {
		at[e.SentID] = e.PractisedAt
	}
	for sent, want := range map[string]time.Time{"now": noon, "an hour ago": noon.Add(-time.Hour), "no age": noon, "not a number": noon, "tomorrow": noon, "a year ago": noon.AddDate(0, 0, -90)} {
		assert.Equal(t, store.At(want), at[sent], sent)
	}
	for sent, change := range map[string]map[string]string{"wrong tempo": {"tempo": "9000"}, "no such part": {"part": "Nowhere"}, "no such lesson": {"assignment": "1"}} {
		status, answer := send(sent, "0", change)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		assert.Equal(t, sent, answer["refused"], "refused for good")
		assert.NotEmpty(t, answer["error"])
	}
	require.NoError(t, h.store.Close())
	status, answer := send("the disk is gone", "0", nil)
	assert.GreaterOrEqual(t, status, 500)
	assert.Empty(t, answer["refused"], "not for good: it is sent again")
	assert.Empty(t, answer["id"])
}
