package web_test

import (
	"context"
	"fmt"
	"html"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/core/hand"
	"valleyside/core/progress"
	"valleyside/store"
	"valleyside/studio"
)

// size is how large a studio is.
type size struct{ songs, students, assignments, entries int }

// worst is a studio as large as they come: every hand is another, no two songs are alike.
var worst = size{500, 300, 1500, 1_000_000}

// least is one of everything, and small as much as fits on one page of each list.
var (
	least = size{1, 1, 1, 4}
	small = size{25, 25, 125, 500}
)

// anySong is a song of some parts of which no two bars are alike.
func anySong(r *rand.Rand, n int) string {
	var b strings.Builder
	fmt.Fprintf(&b, "title: Song %03d\ntempo: %d\n", n, 70+r.IntN(80))
	for _, part := range []string{"Riff", "Verse", "Chorus"} {
		fmt.Fprintf(&b, "%s:\n", part)
		for range 4 {
			b.WriteString("|")
			for range 8 {
				switch r.IntN(5) {
				case 0:
					fmt.Fprintf(&b, " %s", []string{"Am", "F", "C/G", "Em7", "Bm", "B5", "Dm7"}[r.IntN(7)])
				case 1:
					b.WriteString(" -")
				default:
					fmt.Fprintf(&b, " %d%c", r.IntN(9), "EADGBe"[r.IntN(6)])
				}
			}
			b.WriteString(" |\n")
		}
	}
	return b.String()
}

// grown is a studio of a size, in a house that has caught up with it.
func grown(b testing.TB, of size) *house {
	h := open(b)
	ctx := b.Context()
	r := rand.New(rand.NewPCG(11, 12))
	home, err := h.store.AddStudio(ctx, "Large", store.Teacher{Name: "Ada", Email: "ada@attic.example", Password: account.Hash("long enough now")}, store.At(noon))
	require.NoError(b, err)
	rules := studio.New(h.store, nil)
	lessons := make([]int64, of.songs)
	for i := range lessons {
		song, err := rules.AddSong(ctx, home, "", anySong(r, i), store.At(noon))
		require.NoError(b, err)
		lessons[i], err = h.store.AddLesson(ctx, store.Lesson{StudioID: home, SongID: song, Name: fmt.Sprintf("Song %03d", i), TargetTempo: 100, CreatedAt: store.At(noon),
			Parts: []store.Part{{PartID: 1, Part: "Riff", Rung: "one-finger"}, {PartID: 2, Part: "Verse", Rung: "two-note"}, {PartID: 3, Part: "Chorus", Rung: "as-written"}}})
		require.NoError(b, err)
	}
	var given []int64
	each := (of.assignments + of.students - 1) / of.students
	for i := range of.students {
		st, err := h.store.AddStudent(ctx, store.Student{StudioID: home, Name: fmt.Sprintf("Student %03d", i), Reach: float64(60 + r.IntN(80)), Scale: []float64{578, 620, 648}[r.IntN(3)], NotesPerSecond: 2 + 8*r.Float64(),
			NoBarre: r.IntN(3) == 0, NoLittle: r.IntN(3) == 0, Picking: string(hand.Alternate), Minutes: 10 + r.IntN(30), LessonDay: i % 7, LessonTime: "15:00", CreatedAt: store.At(noon)})
		require.NoError(b, err)
		for k := range each {
			a, err := rules.Give(ctx, home, lessons[(i*each+k)%of.songs], st, store.At(noon.AddDate(-3, 0, 0)))
			require.NoError(b, err)
			given = append(given, a)
		}
	}
	n := max(of.entries/len(given), 1)
	for i, a := range given {
		_, err = h.store.DB().ExecContext(ctx, `WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < ? - 1)
			INSERT INTO entries (studio_id, student_id, assignment_id, part_id, part, rung, tempo, clean, minutes, step, some, practised_at, sent_id)
			SELECT ?, student_id, id, 1 + n.i % 3, 'Riff', CASE n.i % 3 WHEN 0 THEN 'one-finger' WHEN 1 THEN 'two-note' ELSE 'as-written' END, 60 + n.i % 30, n.i % 5, 10,
				CASE n.i % 4 WHEN 0 THEN 'part.p' || (1 + n.i % 3) ELSE '' END, 0, ? - (? - n.i) * 14400 - ?, 'e' || n.i || '-' || id FROM n, assignments WHERE id = ?`,
			n, home, store.At(noon.Add(-time.Hour)), n, i, a)
		require.NoError(b, err)
	}
	if of.students > 1 { // five years of lessons, with notes, some of them moved
		_, err = h.store.DB().ExecContext(ctx, `UPDATE series SET first_day = first_day - 7 * 52 * 5;
			WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 52 * 5)
				INSERT INTO hours (studio_id, student_id, day, note) SELECT m.studio_id, m.student_id, s.first_day + 7 * n.i, 'bar ' || n.i || ' with the bridge' FROM series s JOIN series_students m ON m.series_id = s.id, n;
			WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 52 * 5 / 8)
				INSERT INTO changes (studio_id, series_id, day, kind, to_day, to_at) SELECT s.studio_id, s.id, s.first_day + 56 * n.i, 'moved', s.first_day + 56 * n.i + 1, 900 FROM series s, n`)
		require.NoError(b, err)
	}
	st, err := h.store.Studio(ctx, home)
	require.NoError(b, err)
	st.TimeZone = "Europe/Oslo" // in another zone all standings are made anew
	require.NoError(b, h.store.SetStudio(ctx, st))
	require.NoError(b, rules.Catch(ctx, home, nil))
	return h
}

// growing are the pages that are looked at, large or small.
var growing = []string{"/", "/songs", "/songs/1", "/songs/1/rungs", "/songs/1/chords", "/lessons/1", "/lessons/1/handout", "/students", "/students/1", "/students/1/songs", "/students/1/hour", "/timetable", "/timetable/month", "/desk", "/settings",
	"/songs?order=students&grade=5", "/songs/1/about", "/lessons", "/students/1/year", "/skills", "/skills?skill=family+open+chords&student=1", "/find?q=son", "/find?q=am", "/find?q=bar", "/bin"}

// BenchmarkGrowth asks for the pages of the least studio, of a small one and of the worst; where
// VALLEYSIDE_ENTRIES says so, with as many entries.
func BenchmarkGrowth(b *testing.B) {
	large := worst
	if n, err := strconv.Atoi(os.Getenv("VALLEYSIDE_ENTRIES")); err == nil {
		large.entries = n
	}
	for _, of := range []size{least, small, large} {
		h := grown(b, of)
		v := h.signIn("ada@attic.example", "long enough now")
		token, err := h.store.AddLink(context.Background(), 1, 1, "", store.At(noon))
		require.NoError(b, err)
		for _, path := range append(growing, "/s/"+token) {
			name := strings.Replace(path, token, "link", 1)
			begun := time.Now()
			require.Equal(b, http.StatusOK, v.get(path).StatusCode)
			first := time.Since(begun)
			b.Run(fmt.Sprintf("songs=%d%s", of.songs, name), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					require.Equal(b, http.StatusOK, v.get(path).StatusCode)
				}
				b.ReportMetric(float64(first.Microseconds())/1000, "ms/first")
			})
		}
		if of.students >= phones {
			b.Run(fmt.Sprintf("songs=%d/phones", of.songs), func(b *testing.B) { phonesLog(b, h, v) })
		}
	}
}

// phones is how many students log at once.
const phones = 200

// phonesLog lets 200 students log at once while their teacher looks at Today, again and
// again; what was answered has to be there.
func phonesLog(b *testing.B, h *house, teacher *visitor) {
	ctx := context.Background()
	var tokens [phones]string
	var forms [phones]url.Values
	for i := range phones {
		student := int64(i + 1)
		given, err := h.store.ListedAssignments(ctx, 1, student)
		require.NoError(b, err)
		forms[i] = url.Values{"assignment": {fmt.Sprint(given[0].ID)}, "of": {"1"}, "rung": {string(given[0].Parts[0].Rung)}, "tempo": {"70"}, "clean": {"3"}, "minutes": {"5"}}
		tokens[i], err = h.store.AddLink(ctx, 1, student, "", store.At(noon))
		require.NoError(b, err)
	}
	count := func() (n int) {
		require.NoError(b, h.store.DB().QueryRowContext(ctx, "SELECT count(*) FROM entries").Scan(&n))
		return n
	}
	before, rounds := count(), 0
	var took [][]time.Duration
	for b.Loop() {
		rounds++
		waits := make([]time.Duration, phones)
		var all sync.WaitGroup
		for i := range phones {
			all.Go(func() {
				form := url.Values{"sent": {fmt.Sprintf("phone-%d-%d", i, rounds)}}
				maps.Copy(form, forms[i])
				begun := time.Now()
				r, _ := http.NewRequest(http.MethodPost, h.http.URL+"/s/"+tokens[i]+"/entries", strings.NewReader(form.Encode()))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				r.Header.Set("Accept", "application/json")
				res, err := http.DefaultClient.Do(r)
				if assert.NoError(b, err) {
					res.Body.Close()
					assert.Equal(b, http.StatusOK, res.StatusCode)
				}
				waits[i] = time.Since(begun)
			})
		}
		assert.Equal(b, http.StatusOK, teacher.get("/").StatusCode)
		all.Wait()
		took = append(took, waits)
	}
	assert.Equal(b, before+rounds*phones, count(), "every entry that was answered is there")
	waits := slices.Concat(took...)
	slices.Sort(waits)
	b.ReportMetric(float64(waits[len(waits)*95/100].Microseconds())/1000, "ms/p95")
}

// Lists come in pages of which each has its own rows, all of them together every row once,
// and something can be looked for in them; Today shows as many as can be read.
func TestListsComeInPages(t *testing.T) {
	t.Parallel()
	h := grown(t, size{songs: 45, students: 30, assignments: 30, entries: 300})
	v := h.signIn("ada@attic.example", "long enough now")
	of := func(page, path string) []string {
		pattern := regexp.MustCompile(`<a class="name" href="` + path + `/\d+">([^<]+)</a>`)
		var names []string
		for _, m := range pattern.FindAllStringSubmatch(page, -1) {
			names = append(names, m[1])
		}
		return names
	}
	for path, pages := range map[string][]int{"/songs": {40, 5}, "/students": {25, 5}} {
		var all []string
		sizes := []int{}
		for next, page := path, ""; next != ""; {
			page = v.get(next).body
			names := of(page, path)
			sizes, all = append(sizes, len(names)), append(all, names...)
			next = ""
			if m := regexp.MustCompile(`href="([^"]+)" rel="next"`).FindStringSubmatch(page); m != nil {
				next = html.UnescapeString(m[1])
			}
		}
		assert.Equal(t, pages, sizes, path)
		assert.True(t, slices.IsSorted(all), path)
		assert.Len(t, slices.Compact(slices.Clone(all)), pages[0]+pages[1], path)

		assert.Equal(t, []string{all[27]}, of(v.get(path+"?find="+url.QueryEscape(strings.ToUpper(all[27]))).body, path), "whatever the case")
		none := v.get(path + "?find=%25")
		assert.Empty(t, of(none.body, path), "signs are not patterns")
		assert.Contains(t, none.body, "has “%” in")
		assert.Equal(t, http.StatusOK, v.get(path+"?page=999999999999&find="+strings.Repeat("x", 500)).StatusCode)
		assert.Contains(t, v.get(path+"?page=9").body, "All "+path[1:])
	}
	_, err := h.store.DB().ExecContext(t.Context(), "UPDATE series SET first_day = ?, at = 600 + id % 10 * 60 + 30", progress.DayOf(noon)-28)
	require.NoError(t, err)
	_, err = h.store.DB().ExecContext(t.Context(), "UPDATE standings SET tries = 5, due = 0 WHERE assignment_id % 2 = 0")
	require.NoError(t, err)
	today := v.get("/").body
	assert.Equal(t, 12, strings.Count(today, `class="row appointment"`))
	assert.Contains(t, today, "18 more come on that day")
	assert.Contains(t, v.get("/timetable/month").body, "and 18 more")
	assert.Equal(t, 30, strings.Count(v.get("/?day=whole").body, `class="row appointment"`))
	assert.Contains(t, today, "And more, on")
	_, err = h.store.DB().ExecContext(t.Context(), "UPDATE students SET name = 'Åse Ødegård' WHERE id = 3; UPDATE songs SET title = 'Élan Žižka' WHERE id = 3")
	require.NoError(t, err)
	assert.Equal(t, []string{"Åse Ødegård"}, of(v.get("/students?find=ødeG").body, "/students"))
	assert.Equal(t, []string{"Élan Žižka"}, of(v.get("/songs?find=žiž").body, "/songs"))
	assert.Equal(t, 8, strings.Count(today, `class="news"`))
}
