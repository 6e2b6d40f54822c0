package web_test

import (
	"bytes"
	"encoding/xml"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/formats"
	"valleyside/store"
)

// drop sends a file as the form of the page does.
func (v *visitor) drop(path, name string, data []byte) answer {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	require.NoError(v.h.t, w.WriteField("_csrf", v.csrf))
	f, err := w.CreateFormFile("file", name)
	require.NoError(v.h.t, err)
	_, err = f.Write(data)
	require.NoError(v.h.t, err)
	require.NoError(v.h.t, w.Close())
	r, err := http.NewRequest(http.MethodPost, v.h.http.URL+path, &body)
	require.NoError(v.h.t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	res, err := v.client.Do(r)
	require.NoError(v.h.t, err)
	defer res.Body.Close()
	var text bytes.Buffer
	_, err = text.ReadFrom(res.Body)
	require.NoError(v.h.t, err)
	return answer{res, text.String()}
}

const pastedTab = "Harbour Stairs\nTempo: 100\n\nIntro\ne|----------------|\nB|----------------|\nG|----------------|\nD|-0-2-3-2-0------|\nA|-----------3-0--|\nE|----------------|\n"

// What is pasted is shown as a sheet and changes nothing until it is taken over, which can
// be undone.
func TestBringPasted(t *testing.T) {
	_, v, _ := room(t)
	at := v.post("/songs/bring", url.Values{"text": {pastedTab}}).Header.Get("Location")
	require.True(t, strings.HasPrefix(at, "/songs/bring/"), at)
	page := v.get(at).body
	assert.Contains(t, page, "| 0D 2D  3D 2D  0D 3A  0A - |")
	assert.Contains(t, page, "what was pasted, tab")
	assert.Contains(t, page, "All of it could be taken over")
	assert.NotContains(t, v.get("/songs").body, "Harbour Stairs", "nothing is changed yet")
	song := v.post("/songs/take-over", url.Values{"sheet": {"title: Harbour Stairs\n\nIntro:\n| 0D 2D 3D 2D |\n"}}).Header.Get("Location")
	taken := v.get(song).body
	assert.Contains(t, taken, "| 0D 2D 3D 2D |", "as it was mended")
	assert.Contains(t, taken, "Took over Harbour Stairs")
	v.post(song+"/delete", nil)
	assert.NotContains(t, v.get("/songs").body, `class="name"`)
}

// What cannot be read is said, and what was pasted is not lost; nobody sees what another
// studio has brought.
func TestBringUnreadable(t *testing.T) {
	h, v, _ := room(t)
	at := v.post("/songs/bring", url.Values{"text": {"Dear Ada,\nno lesson today"}}).Header.Get("Location")
	page := v.get(at).body
	assert.Contains(t, page, "neither a sheet, nor tab")
	assert.Contains(t, page, "no lesson today</textarea>")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/songs/bring", url.Values{"text": {""}}).StatusCode)
	_, err := h.store.AddStudio(t.Context(), "Cellar", store.Teacher{Name: "Bo", Email: "bo@cellar.example", Password: account.Hash("long enough too")}, store.At(noon))
	require.NoError(t, err)
	other := h.signIn("bo@cellar.example", "long enough too")
	assert.NotContains(t, other.get(at).body, "no lesson today")
	assert.Contains(t, other.get(at).body, "was put away")
	assert.Contains(t, v.get("/songs/bring/nothing").body, "was put away")
}

// A file has tracks to choose from, and is refused where it is too large.
func TestBringFile(t *testing.T) {
	_, v, _ := room(t)
	v.get("/songs/bring")
	sheet, err := os.ReadFile("../demo/songs/two-lamps.txt")
	require.NoError(t, err)
	song := v.typed(string(sheet))
	midi := v.get(song + "/take?as=midi")
	require.Equal(t, "audio/midi", midi.Header.Get("Content-Type"))
	at := v.drop("/songs/bring", "lamps.mid", []byte(midi.body)).Header.Get("Location")
	page := v.get(at).body
	assert.Contains(t, page, "lamps.mid, a MIDI file")
	assert.Contains(t, page, `name="first" value="1"`)
	first, second := v.get(at+"?first=0").body, v.get(at+"?first=1&beside=0").body
	assert.NotContains(t, first, "Guitar |")
	assert.Contains(t, second, "Guitar |", "the other track runs beside")
	large := v.drop("/songs/bring", "large.mid", bytes.Repeat([]byte("x"), formats.MaxBytes+(1<<20)))
	assert.Equal(t, http.StatusRequestEntityTooLarge, large.StatusCode)
}

// Songs, versions and lessons go out in every form, and come back.
func TestTakeAlong(t *testing.T) {
	_, v, _ := room(t)
	song := v.typed("title: Über Land\ntempo: 90\n\nA:\n| Em - G - | 0A 3A 5A - |\n\nB:\n| C - D - |\n")
	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"one-finger"}}).Header.Get("Location")
	for _, from := range []string{song + "/take?", song + "/take?part=A&rung=two-note&tempo=60&", lesson + "/take?"} {
		for _, f := range formats.Out() {
			a := v.get(from + "as=" + string(f))
			require.Equal(t, http.StatusOK, a.StatusCode, "%s %s", from, f)
			assert.Equal(t, f.Media(), a.Header.Get("Content-Type"))
			assert.Contains(t, a.Header.Get("Content-Disposition"), "attachment")
			assert.NotEmpty(t, a.body)
		}
	}
	for _, from := range []string{song + "/take?", lesson + "/take?"} {
		a := v.get(from + "as=svg")
		assert.Equal(t, "image/svg+xml", a.Header.Get("Content-Type"))
		require.NoError(t, xml.Unmarshal([]byte(a.body), new(struct{})), "it is whole")
		assert.Contains(t, a.body, "Über Land</text>")
		assert.Greater(t, strings.Count(a.body, "<svg "), 2, "a drawing for each line")
	}
	slow := v.get(song + "/take?part=A&rung=one-finger&tempo=60&as=tab").body
	assert.Contains(t, slow, "Tempo: 60")
	assert.NotContains(t, slow, "[B]", "only the part that is shown")
	assert.Equal(t, http.StatusNotFound, v.get(song+"/take?as=cassette").StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.get(v.typed("title: Empty\n")+"/take?as=midi").StatusCode)
	assert.Contains(t, v.get(song).body, "Take with you")
}

// A picture stands alone: how it looks is in plain attributes, whatever is drawn in it.
func TestPicturesStandAlone(t *testing.T) {
	_, v, _ := room(t)
	songs, err := filepath.Glob("../demo/songs/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, songs)
	css := v.get(regexp.MustCompile(`/static/app[^"]*\.css`).FindString(v.get("/songs").body)).body
	for _, name := range songs {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		picture := v.get(v.typed(string(text)) + "/take?as=svg").body
		require.NoError(t, xml.Unmarshal([]byte(picture), new(struct{})), name)
		for _, not := range []string{"class=", "style", "var(", "rem"} {
			assert.NotContains(t, picture, " "+not, name)
		}
		assert.Contains(t, picture, `fill="#26241f"`, name)
		for _, colour := range regexp.MustCompile(`#[0-9a-f]{6}`).FindAllString(picture, -1) {
			assert.Contains(t, css, colour, "the colours are those of the pages")
		}
		assert.Less(t, len(picture), 400_000, name)
	}
}

// Of a text that was shared each line is shown as what it was read as, and can be told to be
// something else with one press.
func TestBringLines(t *testing.T) {
	_, v, _ := room(t)
	at := v.post("/songs/bring", url.Values{"text": {"Low Field\n\nAm G\nwalk on\n\nstay by me\nC D\nfar off\n"}}).Header.Get("Location")
	page := v.get(at).body
	assert.Contains(t, page, "nothing was read of it: stay by me")
	assert.Contains(t, page, `<option value="6 part">part</option>`)
	assert.NotContains(t, page, "stay by me:")
	page = v.get(at + "?line=&line=6+part&line=99+chords&line=x&line=1+nonsense").body
	assert.Contains(t, page, "stay by me:\n")
	assert.Contains(t, page, `<option value="6 part">part</option>`)
	assert.Contains(t, page, "as it seemed")
}
