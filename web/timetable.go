package web

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/progress"
	"valleyside/core/timetable"
	"valleyside/formats/calendar"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// timetableView is a week of a studio.
type timetableView struct {
	Page
	Monday       time.Time
	Before, Next string // the weeks beside it, as an address has them
	Month        string
	Days         []weekDay
	Picture      SafeHTML
	Chosen       *chosenLesson
	Owed         []owedLesson
	Holidays     []holidayLine
	Names        []string // of all students
	Hours        string   // when lessons are given, as typed
	Guessed      string   // or as they are worked out
	Form         placeForm
	Calendar     calendarBox
}

// weekDay is a day of a week.
type weekDay struct {
	Date    time.Time
	Today   bool
	Holiday string
	Blocks  []block
}

// block is a lesson as it is drawn.
type block struct {
	studio.Coming
	Link   string
	Chosen bool
}

// Time is when it begins; Ends when it ends.
func (b *block) Time() string { return studio.Clock(b.At) }

// Ends is when it ends.
func (b *block) Ends() string { return studio.Clock(b.At + b.Minutes) }

// To is where it was moved to.
func (b *block) To() string {
	if b.ToDay == b.Day && b.ToAt >= 0 {
		return studio.Clock(b.ToAt)
	}
	return strings.TrimSpace(dayOf(b.ToDay).Format("Mon 2 Jan") + " " + studio.Clock(b.ToAt))
}

// From is the day from which it was moved.
func (b *block) From() string { return dayOf(b.Day).Format("Mon 2 Jan") }

// chosenLesson is the lesson that is looked at.
type chosenLesson struct {
	block
	Date   time.Time
	Free   []freePlace
	Series *store.Series
	Often  string // how it comes again
	Gone   bool   // it does not take place
}

// Value is its day as a form has it.
func (l *chosenLesson) Value() string { return l.Date.Format(time.DateOnly) }

// freePlace is a place to which a lesson can be moved.
type freePlace struct {
	Date  time.Time
	Value string
	Time  string
}

// owedLesson is one that was cancelled in time and is to be made up.
type owedLesson struct {
	Names string
	Date  time.Time
	Link  string
}

type holidayLine struct {
	ID          int64
	First, Last time.Time
	Name        string
}

// placeForm is what the form of a new place begins with.
type placeForm struct {
	Who, Day, Time string
	Minutes, Every int
	MakesUp        int64
	MakesUpDay     int
}

// calendarBox is the address at which a calendar finds lessons.
type calendarBox struct {
	To     string // where the form goes
	Made   store.Instant
	Names  bool
	Whole  bool   // of the whole studio
	Fresh  string // the address, the once that it is shown
	Webcal string
}

// How a week is drawn, and how much is offered.
const (
	weekWidth    = 880 // px
	offersPlaces = 6
	searchDays   = 28 // for free places
	owedSince    = 120
)

func dayOf(day int) time.Time { return progress.BeginOf(day, time.UTC) }

func dayFrom(text string) (int, bool) {
	t, err := time.Parse(time.DateOnly, text)
	return progress.DayOf(t), err == nil && t.Year() > 1970 && t.Year() < 2200
}

func (s *roster) timetable(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c)
	now := s.Now().In(at.Zone())
	today := progress.DayOf(now)
	day, ok := dayFrom(c.QueryParam("week"))
	if !ok {
		day = today
	}
	monday := timetable.Monday(day)
	comings, rows, err := s.house.Comings(ctx, at.ID, monday, monday+6)
	if err != nil {
		return err
	}
	v := timetableView{Page: s.page(c, "Timetable", "timetable"), Monday: dayOf(monday), Before: dayOf(monday - 7).Format(time.DateOnly), Next: dayOf(monday + 7).Format(time.DateOnly),
		Month: dayOf(monday + 3).Format("2006-01"), Hours: at.OpenHours}
	v.draw(comings, rows, monday, today, c.QueryParam("at"))
	if err := s.chooseLesson(ctx, &v, &at, monday, today); err != nil {
		return err
	}
	if v.Owed, err = s.owed(ctx, at.ID, today); err != nil {
		return err
	}
	for _, h := range rows.Holidays {
		v.Holidays = append(v.Holidays, holidayLine{h.ID, dayOf(h.FirstDay), dayOf(h.LastDay), h.Name})
	}
	students, err := s.Store.StudentNames(ctx, at.ID)
	if err != nil {
		return err
	}
	for _, st := range students {
		v.Names = append(v.Names, st.Name)
	}
	v.Guessed = openWords(studio.OpenHours(&store.Studio{}, &rows, today))
	if v.Form, err = s.placeForm(c, today); err != nil {
		return err
	}
	if v.Calendar, err = s.calendarBox(c, 0); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "timetable", v)
}

// draw puts the lessons of a week on their days.
func (v *timetableView) draw(comings []studio.Coming, rows store.Timetable, monday, today int, chosen string) {
	w := draw.Week{Label: "Lessons of the week of " + v.Monday.Format("2 January 2006"), Width: weekWidth}
	for d := range 7 {
		day := weekDay{Date: dayOf(monday + d), Today: monday+d == today}
		for _, h := range rows.Holidays {
			if monday+d >= h.FirstDay && monday+d <= h.LastDay {
				day.Holiday = cmp.Or(h.Name, "holiday")
			}
		}
		column := draw.WeekDay{Title: day.Date.Format("Mon 2."), Note: day.Holiday, Today: day.Today}
		for _, c := range comings {
			if c.On != monday+d {
				continue
			}
			b := block{Coming: c}
			id := fmt.Sprintf("%d-%d-%s", c.Series, c.Day, c.State)
			b.Link, b.Chosen = fmt.Sprintf("/timetable?week=%s&at=%s#chosen", v.Monday.Format(time.DateOnly), id), id == chosen
			day.Blocks = append(day.Blocks, b)
			class := "state-" + string(c.State)
			if c.Clash {
				class += " clash"
			}
			column.Lessons = append(column.Lessons, draw.WeekLesson{From: c.At, To: c.At + c.Minutes, Time: b.Time(), Who: c.Names(), Mark: b.Mark(), Class: class, Link: b.Link, Chosen: b.Chosen,
				Label: strings.Join(strings.Fields(b.Time()+" "+c.Names()+" "+b.Mark()), " ") + ", " + day.Date.Format("Monday 2 January")})
		}
		v.Days, w.Days = append(v.Days, day), append(w.Days, column)
	}
	v.Picture = w.SVG()
}

// Mark is what is to be said of a lesson.
func (b *block) Mark() string {
	switch b.State {
	case timetable.Cancelled:
		return "cancelled"
	case timetable.TooLate:
		return "cancelled late"
	case timetable.MovedAway:
		return "to " + b.To()
	case timetable.Free:
		return "free"
	}
	switch {
	case b.Clash:
		return "overlaps"
	case b.State == timetable.MovedHere && b.Day == b.On:
		return "moved"
	case b.State == timetable.MovedHere:
		return "from " + b.From()
	case b.MakesUp:
		return "made up"
	}
	return map[int]string{0: "once", 2: "every second", 3: "every third", 4: "every fourth"}[b.Every]
}

// chooseLesson shows what can be done with the lesson that is looked at.
func (s *roster) chooseLesson(ctx context.Context, v *timetableView, at *store.Studio, monday, today int) error {
	var is *block
	for d := range v.Days {
		for i := range v.Days[d].Blocks {
			if b := &v.Days[d].Blocks[i]; b.Chosen {
				is = b
			}
		}
	}
	if is == nil {
		return nil
	}
	series, err := s.Store.SeriesWith(ctx, at.ID, is.Series)
	if err != nil || len(series) == 0 {
		return err
	}
	l := &chosenLesson{block: *is, Date: dayOf(is.On), Series: &series[0], Often: often(&series[0]), Gone: !is.Takes()}
	v.Chosen = l
	l.Free, err = s.freePlaces(ctx, at, max(today, monday), is.Minutes)
	return err
}

// freePlaces are the next places of so many minutes from a day on.
func (s *roster) freePlaces(ctx context.Context, at *store.Studio, from, minutes int) (list []freePlace, err error) {
	t, err := s.Store.Timetable(ctx, at.ID, 0, from, from+searchDays)
	if err != nil {
		return nil, err
	}
	lessons := t.Lessons(from, from+searchDays)
	perDay := map[int]int{}
	for _, slot := range timetable.FreePlaces(lessons, studio.OpenHours(at, &t, from), t.Free(), from, searchDays, minutes, offersPlaces*20) {
		if perDay[slot.Day]++; perDay[slot.Day] > 2 || len(list) >= offersPlaces {
			continue // some of several days say more than all of one
		}
		d := dayOf(slot.Day)
		list = append(list, freePlace{d, d.Format(time.DateOnly), studio.Clock(slot.At)})
	}
	return list, nil
}

// often says how a series comes again.
func often(s *store.Series) string {
	switch s.Every {
	case 0:
		if s.MakesUp > 0 {
			return "a single lesson that makes up the one of " + dayOf(s.MakesUpDay).Format("Mon 2 Jan 2006")
		}
		return "a single lesson"
	case 1:
		return "every week since " + dayOf(s.FirstDay).Format("2 Jan 2006")
	case 2:
		return "every second week since " + dayOf(s.FirstDay).Format("2 Jan 2006")
	}
	return fmt.Sprintf("every %d weeks since %s", s.Every, dayOf(s.FirstDay).Format("2 Jan 2006"))
}

// openWords writes when lessons are given, as it is typed.
func openWords(open []timetable.Open) string {
	var list []string
	for _, o := range open {
		list = append(list, fmt.Sprintf("%s %s-%s", o.Weekday.String()[:3], studio.Clock(o.From), studio.Clock(o.To)))
	}
	return strings.Join(list, ", ")
}

// owed are the lessons that are to be made up.
func (s *roster) owed(ctx context.Context, home int64, today int) (list []owedLesson, err error) {
	changes, err := s.Store.Owed(ctx, home, today-owedSince)
	if err != nil || len(changes) == 0 {
		return nil, err
	}
	ids := make([]int64, len(changes))
	for i := range changes {
		ids[i] = changes[i].SeriesID
	}
	series, err := s.Store.SeriesWith(ctx, home, ids...)
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		i := slices.IndexFunc(series, func(one store.Series) bool { return one.ID == c.SeriesID })
		students, err := s.Store.StudentsWith(ctx, home, series[i].Students...)
		if err != nil {
			return nil, err
		}
		if len(students) == 0 {
			continue
		}
		who := studio.Coming{Students: students}
		list = append(list, owedLesson{who.Names(), dayOf(c.Day), fmt.Sprintf("/timetable?makeup=%d-%d#place", c.SeriesID, c.Day)})
	}
	return list, nil
}

// placeForm is what the form of a new place begins with: what is asked for, or a lesson that is to
// be made up at the next free place.
func (s *roster) placeForm(c *echo.Context, today int) (f placeForm, err error) {
	f = placeForm{Who: c.QueryParam("who"), Day: dayOf(today).Format(time.DateOnly), Minutes: studio.UsualHour, Every: 1}
	of, day, ok := strings.Cut(c.QueryParam("makeup"), "-")
	id, err1 := strconv.ParseInt(of, 10, 64)
	n, err2 := strconv.Atoi(day)
	if !ok || err1 != nil || err2 != nil {
		return f, nil
	}
	ctx, at := c.Request().Context(), home(c)
	series, err := s.Store.SeriesWith(ctx, at.ID, id)
	if err != nil || len(series) == 0 {
		return f, err
	}
	students, err := s.Store.StudentsWith(ctx, at.ID, series[0].Students...)
	if err != nil {
		return f, err
	}
	who := studio.Coming{Students: students}
	f.Who, f.Minutes, f.Every, f.MakesUp, f.MakesUpDay = who.Names(), series[0].Minutes, 0, id, n
	free, err := s.freePlaces(ctx, &at, today+1, f.Minutes)
	if len(free) > 0 {
		f.Day, f.Time = free[0].Value, free[0].Time
	}
	return f, err
}

// changeTimetable does what a form of the timetable asks for.
func (s *roster) changeTimetable(c *echo.Context) error {
	r := rescheduling{s, c, s.Now().In(zone(c))}
	do := map[string]func() error{"add": r.add, "move": r.move, "cancel": r.cancel, "restore": r.restore, "end": r.end, "remove": r.remove, "change": r.change,
		"holiday": r.holiday, "no-holiday": r.noHoliday, "hours": r.hours}[c.FormValue("action")]
	if do == nil {
		return wrong("Nothing was asked for.")
	}
	return do()
}

// rescheduling changes a timetable by a form.
type rescheduling struct {
	*roster
	c   *echo.Context
	now time.Time
}

// do does a change that can be taken back, and goes to the week of a day.
func (r *rescheduling) do(day int, f func(ctx context.Context) (string, error)) error {
	if err := r.undoable(r.c, f); err != nil {
		return err
	}
	return see(r.c, "/timetable?week=%s", dayOf(day).Format(time.DateOnly))
}

// lesson reads which lesson is meant.
func (r *rescheduling) lesson() (series int64, day int, err error) {
	series, err1 := strconv.ParseInt(r.c.FormValue("series"), 10, 64)
	day, err2 := strconv.Atoi(r.c.FormValue("day"))
	if errors.Join(err1, err2) != nil {
		return 0, 0, store.ErrNotFound
	}
	return series, day, nil
}

// when reads a day and a time.
func (r *rescheduling) when() (day, at int, err error) {
	day, ok := dayFrom(r.c.FormValue("date"))
	if !ok {
		return 0, 0, wrong("Choose the day of the lesson.")
	}
	if at, err = studio.ParseClock(r.c.FormValue("time")); err != nil {
		return 0, 0, wrong(sentence(err.Error()))
	}
	return day, at, nil
}

// place reads a place: its students by their names, its day, time, length and how often it comes.
func (r *rescheduling) place() (one store.Series, names string, err error) {
	ctx, at := r.c.Request().Context(), home(r.c)
	all, err := r.Store.StudentNames(ctx, at.ID)
	if err != nil {
		return one, "", err
	}
	one.StudioID = at.ID
	var who []string
	for _, name := range strings.Split(r.c.FormValue("who"), ",") {
		if name = strings.TrimSpace(name); name == "" {
			continue
		}
		i := slices.IndexFunc(all, func(st store.Student) bool { return strings.EqualFold(st.Name, name) })
		if i < 0 {
			return one, "", wrong(fmt.Sprintf("Nobody is called %q. Write the name as it is on the students' page; two students with a comma between them.", name))
		}
		if !slices.Contains(one.Students, all[i].ID) {
			one.Students, who = append(one.Students, all[i].ID), append(who, all[i].Name)
		}
	}
	if len(who) == 0 {
		return one, "", wrong("Write who comes.")
	}
	if err := r.often(&one); err != nil {
		return one, "", err
	}
	return one, strings.Join(who, " and "), nil
}

// often reads when a place is, how long and how often.
func (r *rescheduling) often(one *store.Series) (err error) {
	if one.FirstDay, one.At, err = r.when(); err != nil {
		return err
	}
	minutes, err := number(r.c, "minutes", "The minutes of the lesson", 5, studio.MostHour)
	if err != nil {
		return err
	}
	every, err := number(r.c, "every", "The weeks", 0, studio.MostEvery)
	one.Minutes, one.Every = int(minutes), int(every)
	return err
}

func (r *rescheduling) add() error {
	one, names, err := r.place()
	if err != nil {
		return err
	}
	if one.Every == 0 {
		one.MakesUp, _ = strconv.ParseInt(r.c.FormValue("makes"), 10, 64)
		one.MakesUpDay, _ = strconv.Atoi(r.c.FormValue("makesday"))
	}
	if faults := studio.FaultsOfSeries(&one); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	when := strings.TrimSpace(dayOf(one.FirstDay).Format("Mon 2 Jan 2006") + " " + studio.Clock(one.At))
	how := map[int]string{0: "once, on " + when, 1: "every week from " + when + " on", 2: "every second week from " + when + " on"}[one.Every]
	return r.do(one.FirstDay, func(ctx context.Context) (string, error) {
		id, err := r.Store.AddSeries(ctx, one)
		return fmt.Sprintf("%s: %s.%s", names, cmp.Or(how, when), r.clashWith(ctx, id, one.FirstDay)), err
	})
}

// clashWith says with whom a lesson overlaps on a day.
func (r *rescheduling) clashWith(ctx context.Context, series int64, day int) string {
	list, err := r.house.ComingOn(ctx, home(r.c).ID, day)
	if err != nil {
		return ""
	}
	for i := range list {
		if list[i].Series == series && list[i].Clash {
			for j := range list {
				if j != i && list[j].Clash && list[j].At < list[i].At+list[i].Minutes && list[i].At < list[j].At+list[j].Minutes {
					return fmt.Sprintf(" It overlaps with %s at %s.", list[j].Names(), studio.Clock(list[j].At))
				}
			}
		}
	}
	return ""
}

func (r *rescheduling) move() error {
	series, day, err := r.lesson()
	if err != nil {
		return err
	}
	to, at, err := r.when()
	if err != nil {
		return err
	}
	return r.set(store.Change{SeriesID: series, Day: day, Kind: timetable.Moved, ToDay: to, ToAt: at}, to, "Moved to "+strings.TrimSpace(dayOf(to).Format("Mon 2 Jan 2006")+" "+studio.Clock(at))+".")
}

func (r *rescheduling) cancel() error {
	series, day, err := r.lesson()
	if err != nil {
		return err
	}
	if r.c.FormValue("how") == "late" {
		return r.set(store.Change{SeriesID: series, Day: day, Kind: timetable.Late}, day, "Cancelled late: it is not made up.")
	}
	return r.set(store.Change{SeriesID: series, Day: day, Kind: timetable.InTime}, day, "Cancelled in time: it is to be made up.")
}

// set changes one lesson.
func (r *rescheduling) set(ch store.Change, week int, says string) error {
	ch.StudioID = home(r.c).ID
	if faults := studio.FaultsOfChange(&ch); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	ctx := r.c.Request().Context()
	series, err := r.Store.SeriesWith(ctx, ch.StudioID, ch.SeriesID)
	if err != nil {
		return err
	}
	if len(series) == 0 {
		return store.ErrNotFound
	}
	if rule := series[0].Rule(); len(rule.Days(ch.Day, ch.Day)) == 0 {
		return store.ErrNotFound
	}
	students, err := r.Store.NamesOf(ctx, ch.StudioID, series[0].Students...)
	if err != nil {
		return err
	}
	who := studio.Coming{Students: students}
	return r.do(week, func(ctx context.Context) (string, error) {
		if err := r.Store.SetChange(ctx, ch); err != nil {
			return "", err
		}
		says += fmt.Sprintf(" It is the lesson of %s, %s.", who.Names(), dayOf(ch.Day).Format("Mon 2 Jan 2006"))
		if ch.Kind == timetable.Moved {
			says += r.clashWith(ctx, ch.SeriesID, ch.ToDay)
		}
		return says, nil
	})
}

func (r *rescheduling) restore() error {
	series, day, err := r.lesson()
	if err != nil {
		return err
	}
	return r.do(day, func(ctx context.Context) (string, error) {
		return "The lesson is as it was.", r.Store.DeleteChange(ctx, home(r.c).ID, series, day)
	})
}

// end has a place end before a day.
func (r *rescheduling) end() error {
	id, day, err := r.lesson()
	if err != nil {
		return err
	}
	return r.do(day, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("The place ended before %s.", dayOf(day).Format("Mon 2 January 2006")), r.Store.EndSeries(ctx, home(r.c).ID, id, day)
	})
}

// remove takes a place away that was added by mistake.
func (r *rescheduling) remove() error {
	id, day, err := r.lesson()
	if err != nil {
		return err
	}
	return r.do(day, func(ctx context.Context) (string, error) {
		return "The place is not there any more.", r.Store.EndSeries(ctx, home(r.c).ID, id, 0)
	})
}

// change has a place be at another time from a day on.
func (r *rescheduling) change() error {
	id, day, err := r.lesson()
	if err != nil {
		return err
	}
	ctx, at := r.c.Request().Context(), home(r.c).ID
	series, err := r.Store.SeriesWith(ctx, at, id)
	if err != nil {
		return err
	}
	if len(series) == 0 {
		return store.ErrNotFound
	}
	one := series[0]
	one.LastDay = 0
	if err := r.often(&one); err != nil {
		return err
	}
	if faults := studio.FaultsOfSeries(&one); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	return r.do(one.FirstDay, func(ctx context.Context) (string, error) {
		err := r.Store.EndSeries(ctx, at, id, day)
		if err == nil {
			_, err = r.Store.AddSeries(ctx, one)
		}
		return fmt.Sprintf("From %s on it is at %s.", dayOf(one.FirstDay).Format("Mon 2 January 2006"), cmp.Or(studio.Clock(one.At), "no fixed time")), err
	})
}

func (r *rescheduling) holiday() error {
	h := store.Holiday{StudioID: home(r.c).ID, Name: field(r.c, "name", studio.MostHoliday)}
	var ok bool
	if h.FirstDay, ok = dayFrom(r.c.FormValue("first")); ok {
		h.LastDay = h.FirstDay
		if text := r.c.FormValue("last"); text != "" {
			h.LastDay, ok = dayFrom(text)
		}
	}
	if !ok || h.LastDay < h.FirstDay {
		return wrong("Choose the first and the last day of the holidays.")
	}
	if faults := studio.FaultsOfHoliday(&h); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	return r.do(h.FirstDay, func(ctx context.Context) (string, error) {
		_, err := r.Store.AddHoliday(ctx, h)
		return fmt.Sprintf("No lessons from %s to %s.", dayOf(h.FirstDay).Format("2 Jan 2006"), dayOf(h.LastDay).Format("2 Jan 2006")), err
	})
}

func (r *rescheduling) noHoliday() error {
	id, err := strconv.ParseInt(r.c.FormValue("holiday"), 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	ctx, at := r.c.Request().Context(), home(r.c).ID
	h, err := r.Store.Holiday(ctx, at, id)
	if err != nil {
		return err
	}
	return r.do(h.FirstDay, func(ctx context.Context) (string, error) {
		return "The holidays are gone; the lessons of those days are on.", r.Store.DeleteHoliday(ctx, at, id)
	})
}

func (r *rescheduling) hours() error {
	hours := field(r.c, "hours", studio.MostAbout)
	if _, err := studio.ParseOpen(hours); err != nil {
		return wrong(sentence(err.Error()))
	}
	return r.do(progress.DayOf(r.now), func(ctx context.Context) (string, error) {
		return "Free places are looked for in these hours.", r.Store.SetOpenHours(ctx, home(r.c).ID, hours)
	})
}

// monthView is a month at a glance.
type monthView struct {
	Page
	First        time.Time
	Before, Next string
	Weeks        [][]monthDay
}

type monthDay struct {
	Date    time.Time
	Today   bool
	In      bool // of the month
	Holiday string
	Lessons []block
	More    int // lessons beside those
}

// mostOfDay is how many lessons of a day a month shows.
const mostOfDay = 12

func (s *roster) month(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c)
	now := s.Now().In(at.Zone())
	first, err := time.Parse("2006-01", c.QueryParam("month"))
	if err != nil || first.Year() < 1971 || first.Year() > 2199 {
		first = time.Date(now.Year(), now.Month(), 1, 0, 0, 0, 0, time.UTC)
	}
	from, to := timetable.Monday(progress.DayOf(first)), timetable.Monday(progress.DayOf(first.AddDate(0, 1, -1)))+6
	comings, rows, err := s.house.Comings(ctx, at.ID, from, to)
	if err != nil {
		return err
	}
	v := monthView{Page: s.page(c, first.Format("January 2006"), "timetable"), First: first, Before: first.AddDate(0, -1, 0).Format("2006-01"), Next: first.AddDate(0, 1, 0).Format("2006-01")}
	for day := from; day <= to; day++ {
		d := monthDay{Date: dayOf(day), Today: day == progress.DayOf(now), In: dayOf(day).Month() == first.Month()}
		for _, h := range rows.Holidays {
			if day >= h.FirstDay && day <= h.LastDay {
				d.Holiday = cmp.Or(h.Name, "holiday")
			}
		}
		for _, one := range comings {
			switch {
			case one.On != day || !one.Takes():
			case len(d.Lessons) == mostOfDay:
				d.More++
			default:
				d.Lessons = append(d.Lessons, block{Coming: one, Link: fmt.Sprintf("/timetable?week=%s&at=%d-%d-%s", d.Date.Format(time.DateOnly), one.Series, one.Day, one.State)})
			}
		}
		if (day-from)%7 == 0 {
			v.Weeks = append(v.Weeks, nil)
		}
		v.Weeks[len(v.Weeks)-1] = append(v.Weeks[len(v.Weeks)-1], d)
	}
	return c.Render(http.StatusOK, "month", v)
}

// freshCalendar is where an address that has just been made waits for the page that shows it.
const freshCalendar = "fresh calendar"

// calendarBox is the address of a studio's calendar, or of a student's.
func (s *roster) calendarBox(c *echo.Context, student int64) (b calendarBox, err error) {
	ctx, at := c.Request().Context(), home(c).ID
	b = calendarBox{To: "/calendar", Whole: student == 0}
	if student != 0 {
		b.To = fmt.Sprintf("/students/%d/calendar", student)
	}
	is, err := s.Store.CalendarOf(ctx, at, student)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return b, err
	}
	b.Made, b.Names = is.MadeAt, is.Names
	owner, token, _ := strings.Cut(s.sessions.GetString(ctx, freshCalendar), " ")
	if token != "" && owner == strconv.FormatInt(student, 10) {
		s.sessions.Remove(ctx, freshCalendar)
		b.Fresh = s.address(c) + "/calendar/" + token + ".ics"
		if _, rest, ok := strings.Cut(b.Fresh, "://"); ok {
			b.Webcal = "webcal://" + rest
		}
	}
	return b, nil
}

// setCalendar makes the address of a calendar, or ends it.
func (s *roster) setCalendar(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	back, student := "/timetable#calendar", int64(0)
	if c.Param("student") != "" {
		st, err := s.studentFrom(c)
		if err != nil {
			return err
		}
		back, student = fmt.Sprintf("/students/%d#calendar", st.ID), st.ID
	}
	if c.FormValue("action") == "end" {
		if err := s.Store.EndCalendar(ctx, at, student); err != nil {
			return err
		}
		s.notice(c, "", "The calendar's address is ended: whoever has it sees nothing any more.")
		return see(c, "%s", back)
	}
	token, err := s.Store.SetCalendar(ctx, store.Calendar{StudioID: at, StudentID: student, Names: c.FormValue("names") != "", MadeAt: store.At(s.Now())})
	if err != nil {
		return err
	}
	s.sessions.Put(ctx, freshCalendar, fmt.Sprintf("%d %s", student, token))
	return see(c, "%s", back)
}

// calendar is what a calendar finds at its address, without signing in.
func (s *roster) calendar(c *echo.Context) error {
	token, ok := strings.CutSuffix(c.Param("token"), ".ics")
	if !ok {
		return store.ErrNotFound
	}
	ctx := c.Request().Context()
	is, err := s.Store.CalendarBy(ctx, token)
	if err != nil {
		return err
	}
	at, err := s.Store.Studio(ctx, is.StudioID)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=900")
	return s.sendCalendar(c, &at, is.StudentID, is.Names)
}

// sendCalendar writes the lessons of a studio, or of a student, for calendars.
func (s *base) sendCalendar(c *echo.Context, at *store.Studio, student int64, names bool) error {
	zone := at.Zone()
	now := s.Now().In(zone)
	events, lessons, from, err := s.house.Calendar(c.Request().Context(), at.ID, student, names, progress.DayOf(now))
	if err != nil {
		return err
	}
	var b bytes.Buffer // whole, or an error
	if err := calendar.Write(&b, at.Name, events, lessons, zone, from, now); err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", b.Bytes())
}
