package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/progress"
	"valleyside/store"
)

// week are the lessons of a drawn week, each as its picture names it.
func week(page string) (list []string) {
	for _, m := range regexp.MustCompile(`<a class="lesson [^"]*" href="[^"]*" aria-label="([^"]*)"`).FindAllStringSubmatch(page, -1) {
		list = append(list, m[1])
	}
	return list
}

// at is the lesson of somebody in a drawn week.
func at(t *testing.T, page, who string) (series, day string) {
	m := regexp.MustCompile(`href="[^"]*at=(\d+)-(\d+)-[a-z]+[^"]*" aria-label="\d\d:\d\d ` + who).FindStringSubmatch(page)
	require.NotNil(t, m, "%s in %v", who, week(page))
	return m[1], m[2]
}

// A studio's fortnight: placed, moved, cancelled, made up, free, and ended; with each the way back.
func TestTimetable(t *testing.T) {
	h, v, home := room(t) // noon is Friday 20 March 2026
	for _, name := range []string{"Ada", "Bo", "Cleo"} {
		v.post("/students", url.Values{"name": {name}})
	}
	change := func(action string, pairs ...string) answer {
		form := url.Values{"action": {action}}
		for i := 0; i < len(pairs); i += 2 {
			form.Set(pairs[i], pairs[i+1])
		}
		return v.post("/timetable", form)
	}
	add := func(who, date, at, minutes, every string) answer {
		return change("add", "who", who, "date", date, "time", at, "minutes", minutes, "every", every)
	}
	see := func(date string) string { return v.get("/timetable?week=" + date).body }
	undo := func(page string) { // what the notice offers
		m := regexp.MustCompile(`action="(/bin/changes/\d+/undo)"`).FindStringSubmatch(page)
		require.NotNil(t, m, "an undo")
		require.Equal(t, http.StatusSeeOther, v.post(strings.ReplaceAll(m[1], "&amp;", "&"), nil).StatusCode)
	}
	assert.Equal(t, http.StatusSeeOther, add("ada", "2026-03-24", "16:00", "45", "1").StatusCode)
	assert.Equal(t, http.StatusSeeOther, add("Bo, Cleo", "2026-03-24", "17:00", "30", "2").StatusCode)
	assert.Equal(t, []string{"16:00 Ada, Tuesday 24 March", "17:00 Bo, Cleo every second, Tuesday 24 March"}, week(see("2026-03-26")))
	assert.Equal(t, []string{"16:00 Ada, Tuesday 31 March"}, week(see("2026-03-31")))

	// What overlaps is said, and can be taken back.
	assert.Contains(t, v.get(add("Cleo", "2026-03-24", "16:30", "45", "0").Header.Get("Location")).body, "It overlaps with Ada at 16:00.")
	page := see("2026-03-24")
	assert.Contains(t, strings.Join(week(page), "; "), "16:30 Cleo overlaps, Tuesday 24 March")
	add("Cleo", "2026-03-25", "10:00", "45", "0")
	undo(see("2026-03-24"))
	assert.NotContains(t, see("2026-03-24"), "Wednesday 25 March")

	// Moved, and back.
	series, day := at(t, page, "Ada")
	assert.Equal(t, http.StatusSeeOther, change("move", "series", series, "day", day, "date", "2026-03-27", "time", "9:15").StatusCode)
	page = see("2026-03-24")
	assert.Contains(t, week(page), "09:15 Ada from Tue 24 Mar, Friday 27 March")
	assert.Contains(t, week(page), "16:00 Ada to Fri 27 Mar 09:15, Tuesday 24 March")
	undo(page)
	assert.NotContains(t, see("2026-03-24"), "Friday 27 March")

	// Cancelled in time: owed until it is made up. Cancelled late: not.
	change("cancel", "series", series, "day", day, "how", "in time")
	page = see("2026-03-24")
	assert.Contains(t, page, "To be made up")
	assert.Contains(t, week(page), "16:00 Ada cancelled, Tuesday 24 March")
	form := v.get("/timetable?makeup=" + series + "-" + day).body
	assert.Contains(t, form, "Make it up")
	assert.Contains(t, form, `name="who" value="Ada"`)
	change("add", "who", "Ada", "date", "2026-03-26", "time", "16:00", "minutes", "45", "every", "0", "makes", series, "makesday", day)
	page = see("2026-03-24")
	assert.NotContains(t, page, "To be made up")
	assert.Contains(t, week(page), "16:00 Ada made up, Thursday 26 March")
	_, late := at(t, see("2026-03-31"), "Ada")
	change("cancel", "series", series, "day", late, "how", "late")
	assert.NotContains(t, see("2026-03-31"), "To be made up")
	assert.Contains(t, week(see("2026-03-31")), "16:00 Ada cancelled late, Tuesday 31 March")

	// Holidays free what comes again.
	change("holiday", "first", "2026-04-06", "last", "2026-04-08", "name", "Spring")
	assert.Equal(t, []string{"16:00 Ada free, Tuesday 7 April", "17:00 Bo, Cleo free, Tuesday 7 April"}, week(see("2026-04-07")))
	assert.Contains(t, see("2026-04-07"), "Spring")
	change("no-holiday", "holiday", "1")
	assert.Equal(t, []string{"16:00 Ada, Tuesday 7 April", "17:00 Bo, Cleo every second, Tuesday 7 April"}, week(v.get("/timetable?week=2026-04-07").body))
	change("holiday", "first", "2026-04-06", "last", "2026-04-08", "name", "Spring")
	undo(see("2026-04-07"))
	assert.Len(t, week(see("2026-04-07")), 2)
	change("end", "series", series, "day", late)
	page = see("2026-04-07")
	assert.NotContains(t, strings.Join(week(page), " "), "Ada")
	undo(page)
	assert.Contains(t, strings.Join(week(see("2026-04-07")), " "), "Ada", "as it was before that")

	// From a day on at another time; and ended.
	_, next := at(t, see("2026-04-14"), "Ada")
	change("change", "series", series, "day", next, "date", "2026-04-15", "time", "18:00", "minutes", "60", "every", "2")
	assert.Equal(t, []string{"18:00 Ada every second, Wednesday 15 April"}, week(see("2026-04-14")))
	assert.Contains(t, week(see("2026-04-07")), "16:00 Ada, Tuesday 7 April", "before that it was as it was")
	changed, day := at(t, see("2026-04-15"), "Ada")
	change("end", "series", changed, "day", day)
	assert.Empty(t, week(see("2026-04-15")))
	_, day = at(t, see("2026-04-21"), "Bo, Cleo")
	shared := at2(t, see("2026-04-21"), "Bo, Cleo")
	change("change", "series", shared, "day", day, "date", "2026-04-22", "time", "9:00", "minutes", "30", "every", "1")
	page = see("2026-04-21")
	assert.Equal(t, []string{"09:00 Bo, Cleo, Wednesday 22 April"}, week(page))
	undo(page)
	assert.Equal(t, []string{"17:00 Bo, Cleo every second, Tuesday 21 April"}, week(see("2026-04-21")))

	// The hours in which free places are looked for.
	change("hours", "hours", "Sat 9-10:30")
	assert.Contains(t, v.get(fmt.Sprintf("/timetable?week=2026-03-24&at=%s-%d-on", at2(t, see("2026-03-24"), "Bo, Cleo"), dayNumber("2026-03-24"))).body, "Sat 28., 09:00")
	for name, a := range map[string]answer{
		"nobody":       add("Dora", "2026-03-24", "16:00", "45", "1"),
		"who":          add(" , ", "2026-03-24", "16:00", "45", "1"),
		"no day":       add("Ada", "tomorrow", "16:00", "45", "1"),
		"far away":     add("Ada", "9026-01-01", "16:00", "45", "1"),
		"no time":      add("Ada", "2026-03-24", "25:00", "45", "1"),
		"too long":     add("Ada", "2026-03-24", "16:00", "9999", "1"),
		"too seldom":   add("Ada", "2026-03-24", "16:00", "45", "99"),
		"no lesson":    change("move", "series", "1", "day", "7", "date", "2026-03-27", "time", "9:15"),
		"no series":    change("cancel", "series", "99", "day", day),
		"backwards":    change("holiday", "first", "2026-04-08", "last", "2026-04-06"),
		"for ever":     change("holiday", "first", "2026-04-08", "last", "2096-04-06"),
		"no hours":     change("hours", "hours", "Someday 14-20"),
		"end of hours": change("hours", "hours", "Mon 20-14"),
		"nothing":      change("dance"),
	} {
		assert.GreaterOrEqual(t, a.StatusCode, 400, name)
		assert.Less(t, a.StatusCode, 500, name)
	}
	for _, path := range []string{"/timetable?week=x&at=1-2", "/timetable?makeup=99-1", "/timetable?makeup=x", "/timetable/month?month=x", "/timetable/month?month=9999-01", "/timetable/month?month=2026-04"} {
		assert.Equal(t, http.StatusOK, v.get(path).StatusCode, path)
	}
	other := h.cellar()
	assert.Empty(t, week(other.get("/timetable?week=2026-03-24").body))
	assert.Equal(t, http.StatusNotFound, other.post("/timetable", url.Values{"action": {"cancel"}, "series": {series}, "day": {day}}).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, other.post("/timetable", url.Values{"action": {"add"}, "who": {"Ada"}, "date": {"2026-03-24"}, "minutes": {"45"}, "every": {"1"}}).StatusCode, "nobody there is called so")
	_ = home
}

func at2(t *testing.T, page, who string) string {
	series, _ := at(t, page, who)
	return series
}

func dayNumber(date string) int {
	d, _ := time.Parse(time.DateOnly, date)
	return progress.DayOf(d)
}

// Today shows who comes by the timetable: two together, one moved here, and who does not come.
func TestTodayByTheTimetable(t *testing.T) {
	h, v, home := room(t)
	ctx := t.Context()
	friday := progress.DayOf(noon)
	who := map[string]int64{}
	for _, name := range []string{"Ada", "Bo", "Cleo", "Dan"} {
		id, err := h.store.AddStudent(ctx, store.Student{StudioID: home, Name: name, LessonDay: -1})
		require.NoError(t, err)
		who[name] = id
	}
	place := func(day, at int, names ...string) int64 {
		s := store.Series{StudioID: home, FirstDay: day, Every: 1, At: at, Minutes: 45}
		for _, name := range names {
			s.Students = append(s.Students, who[name])
		}
		id, err := h.store.AddSeries(ctx, s)
		require.NoError(t, err)
		return id
	}
	place(friday-7, 15*60, "Ada", "Bo")
	moved := place(friday-1, 16*60, "Cleo")
	off := place(friday, 17*60, "Dan")
	assert.NotContains(t, v.get("/").body, "Cleo</a>")
	require.NoError(t, h.store.SetChange(ctx, store.Change{StudioID: home, SeriesID: moved, Day: friday - 1, Kind: "moved", ToDay: friday, ToAt: 14 * 60}))
	require.NoError(t, h.store.SetChange(ctx, store.Change{StudioID: home, SeriesID: off, Day: friday, Kind: "in time"}))
	page := v.get("/").body
	order := regexp.MustCompile(`class="name" href="/students/\d+">(\w+)</a>`).FindAllStringSubmatch(page, -1)
	var names []string
	for _, m := range order {
		names = append(names, m[1])
	}
	assert.Equal(t, []string{"Cleo", "Ada", "Bo"}, names)
	assert.Equal(t, 2, strings.Count(page, "together</span>"))
	assert.Contains(t, page, "moved from Thu 19 Mar")
	assert.Regexp(t, `Dan, 17:00:\s+cancelled in time, to be made up`, page)
	assert.Contains(t, v.get(fmt.Sprintf("/students/%d/hour", who["Cleo"])).body, "Next: Ada, 15:00")
	assert.Contains(t, v.get(fmt.Sprintf("/students/%d/hour", who["Ada"])).body, `<span class="time">15:00</span>`, "by the clock of the lesson")
	page = v.get(fmt.Sprintf("/students/%d", who["Ada"])).body
	assert.Contains(t, page, "with Bo")
	assert.NotContains(t, page, `name="day"`, "a shared place is changed in the timetable")
	v.post(fmt.Sprintf("/students/%d", who["Ada"]), url.Values{"name": {"Ada"}, "reach": {"90"}, "scale": {"620"}, "nps": {"4"}, "picking": {"alternate"}})
	assert.Contains(t, v.get(fmt.Sprintf("/students/%d", who["Ada"])).body, "with Bo", "and stays when the rest is saved")
}

// A calendar reads its lessons at a secret address, without signing in; without names unless they
// are wanted. A new address ends the one before, and one of who was deleted is none.
func TestCalendars(t *testing.T) {
	h, v, _ := room(t)
	pia := v.added("Pia", "2", "14:00")
	v.added("Bo", "3", "15:00")
	stranger := h.visitor()
	address := func(page string) string {
		m := regexp.MustCompile(`<code id="ics">[^<]*(/calendar/[^<]*)</code>`).FindStringSubmatch(page)
		require.NotNil(t, m)
		return m[1]
	}
	v.post("/calendar", url.Values{})
	whole := address(v.get("/timetable").body)
	assert.NotContains(t, v.get("/timetable").body, `id="ics"`, "shown once")
	text := stranger.get(whole)
	assert.Equal(t, "text/calendar; charset=utf-8", text.Header.Get("Content-Type"))
	assert.Equal(t, 2, strings.Count(text.body, "BEGIN:VEVENT"))
	assert.NotContains(t, text.body, "Pia")
	v.post("/calendar", url.Values{"names": {"1"}})
	named := address(v.get("/timetable").body)
	assert.Contains(t, stranger.get(named).body, "SUMMARY:Pia")
	assert.Equal(t, http.StatusNotFound, stranger.get(whole).StatusCode, "the one before is ended")

	v.post(pia+"/calendar", url.Values{})
	own := address(v.get(pia).body)
	text = stranger.get(own)
	assert.Equal(t, 1, strings.Count(text.body, "BEGIN:VEVENT"))
	assert.Contains(t, text.body, "T140000")
	v.post(pia+"/delete", nil)
	assert.Equal(t, http.StatusNotFound, stranger.get(own).StatusCode)
	assert.NotContains(t, stranger.get(named).body, "Pia")
	v.post("/calendar", url.Values{"action": {"end"}})
	assert.Equal(t, http.StatusNotFound, stranger.get(named).StatusCode)
	for _, path := range []string{"/calendar/x", "/calendar/.ics", "/calendar/" + strings.Repeat("a", 500) + ".ics", strings.TrimSuffix(own, ".ics")} {
		assert.Equal(t, http.StatusNotFound, stranger.get(path).StatusCode, path)
	}
}
