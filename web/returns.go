package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/formats"
	"valleyside/store"
	"valleyside/studio"
)

// Tables and exports come in again: what would be taken in is shown first, and refused as a
// whole with a list where something of it cannot be. A file lies on the disk meanwhile, however
// long it is.

const returnsTo = "/settings/return"

// Limits of what comes in again: how much one file has at most, how many files of all studios
// lie there, how long one may take to arrive, and how long a page waits for it to be taken in
// before it shows how far that is.
const (
	maxReturn    = 1 << 30
	mostReturned = 4
	arrives      = 30 * time.Minute
	takesAtOnce  = 3 * time.Second
)

// returned is something that is to be taken in again.
type returned struct {
	studio int64
	name   string // of the file
	file   *os.File
	size   int64

	mu    sync.Mutex
	found *findings // what is in it, once somebody has looked
	going *taking   // being taken in
}

// findings are what is in a file that is to be taken in.
type findings struct {
	What     string   // it is
	Lines    []string // what would be added
	Faults   []string
	Unknown  []string // columns that are left out
	rows     int
	archive  *store.Archive
	students []store.Student
	entries  []store.Entry
}

// taking is how far something is that is being taken in.
type taking struct {
	done chan struct{}
	mu   sync.Mutex
	rows int
	err  error
}

func (t *taking) report(rows int) {
	t.mu.Lock()
	t.rows = rows
	t.mu.Unlock()
}

func (r *returned) close() {
	r.mu.Lock()
	going := r.going
	r.mu.Unlock()
	away := func() {
		r.file.Close()
		os.Remove(r.file.Name()) //nolint:errcheck // gone already where that is possible
	}
	if going == nil {
		away()
		return
	}
	go func() {
		<-going.done
		away()
	}()
}

type returnView struct {
	Page
	Key, Name string
	*findings
	Going bool
	Rows  int
	Of    int
	Share int // of a hundred
}

// giveBack takes a file that is to be taken in again, and shows it.
func (s *office) giveBack(c *echo.Context) error {
	f, err := c.FormFile("file")
	if errors.Is(err, http.ErrMissingFile) || errors.Is(err, http.ErrNotMultipart) || err == nil && f.Size == 0 {
		return wrong("Choose the file that is to be taken in: an export of a studio or a student, or a table of students or of practice.")
	}
	if err != nil {
		return err
	}
	defer c.Request().MultipartForm.RemoveAll() //nolint:errcheck // the system tidies up as well
	in, err := f.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	file, err := os.CreateTemp("", "valleyside-return-")
	if err != nil {
		return err
	}
	r := &returned{studio: home(c).ID, name: oneLine(f.Filename, 80), file: file}
	if r.size, err = io.Copy(file, io.LimitReader(in, maxReturn)); err != nil {
		r.close()
		return err
	}
	os.Remove(file.Name()) //nolint:errcheck // where an open file can have no name
	return see(c, "%s/%s", returnsTo, s.returned.put(r))
}

// slowly gives a request the time that a long file takes on a bad line.
func slowly(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		until := time.Now().Add(arrives)
		control := http.NewResponseController(c.Response())
		control.SetReadDeadline(until)  //nolint:errcheck // where it cannot be set, the usual one holds
		control.SetWriteDeadline(until) //nolint:errcheck
		return next(c)
	}
}

var errPutAway = &problem{status: http.StatusNotFound, message: "The file was put away to make room. Choose it once more under Settings; nothing else is lost."}

func (s *office) returnedFrom(c *echo.Context, key string) (*returned, error) {
	r, ok := s.returned.get(key)
	if !ok || r.studio != home(c).ID {
		return nil, errPutAway
	}
	return r, nil
}

// returnedPage shows what would be taken in, or how far it is.
func (s *office) returnedPage(c *echo.Context) error {
	r, err := s.returnedFrom(c, c.Param("thing"))
	if err != nil {
		return err
	}
	v := returnView{Page: s.page(c, "Take in", "settings"), Key: c.Param("thing"), Name: r.name}
	r.mu.Lock()
	going := r.going
	r.mu.Unlock()
	if going != nil {
		return s.takingPage(c, r, going, v)
	}
	if v.findings, err = s.look(c, r); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "return", v)
}

// takingPage shows how far something is that is being taken in, and what came of it.
func (s *office) takingPage(c *echo.Context, r *returned, t *taking, v returnView) error {
	r.mu.Lock()
	v.findings = r.found
	r.mu.Unlock()
	select {
	case <-t.done:
		return s.tookIn(c, r, t)
	default:
	}
	t.mu.Lock()
	v.Going, v.Rows, v.Of = true, t.rows, v.rows
	t.mu.Unlock()
	v.Share = 100 * min(v.Rows, v.Of) / max(v.Of, 1)
	c.Response().Header().Set("Refresh", "1")
	return c.Render(http.StatusOK, "return", v)
}

// takeIn takes in what was shown. What takes long goes on while a page shows how far it is.
func (s *office) takeIn(c *echo.Context) error {
	key := c.FormValue("thing")
	r, err := s.returnedFrom(c, key)
	if err != nil {
		return err
	}
	found, err := s.look(c, r)
	if err != nil {
		return err
	}
	if len(found.Faults) > 0 {
		return wrong("It cannot be taken in: " + found.Faults[0] + ".")
	}
	r.mu.Lock()
	t := r.going
	if t == nil {
		t = &taking{done: make(chan struct{})}
		r.going, r.found = t, found
		ctx := context.WithoutCancel(c.Request().Context())
		go func() {
			defer close(t.done)
			t.err = s.takeFound(ctx, r.studio, found, t.report)
		}()
	}
	r.mu.Unlock()
	select {
	case <-t.done:
		return s.tookIn(c, r, t)
	case <-time.After(takesAtOnce):
		return see(c, "%s/%s", returnsTo, key)
	}
}

// takeFound takes in what was found in a file.
func (s *office) takeFound(ctx context.Context, at int64, f *findings, report func(int)) error {
	switch {
	case f.archive != nil:
		return s.house.TakeIn(ctx, at, f.archive, report)
	case f.students != nil:
		return s.Store.AddStudents(ctx, f.students)
	}
	return s.Store.AddEntries(ctx, f.entries)
}

// tookIn answers once something was taken in, or could not be; then it can be tried again.
func (s *office) tookIn(c *echo.Context, r *returned, t *taking) error {
	r.mu.Lock()
	found := r.found
	if t.err != nil {
		r.going = nil
	}
	r.mu.Unlock()
	if errors.Is(t.err, store.ErrNotEmpty) {
		return wrong("A whole studio is only taken into one that is empty; this one has songs or students.")
	}
	if t.err != nil {
		return t.err
	}
	s.notice(c, "", "Took in %s.", strings.Join(found.Lines, ", "))
	return see(c, "/students")
}

// look reads a file that is to be taken in, once: an export or a table, which the names of its
// columns tell apart.
func (s *office) look(c *echo.Context, r *returned) (*findings, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.found != nil {
		return r.found, nil
	}
	f, err := s.readReturned(c, r)
	if err == nil && f.archive != nil && len(f.Faults) == 0 { // a table is held against the students of now
		r.found = &f
	}
	return &f, err
}

func (s *office) readReturned(c *echo.Context, r *returned) (findings, error) {
	head := make([]byte, 400)
	n, err := r.file.ReadAt(head, 0)
	if err != nil && err != io.EOF {
		return findings{}, err
	}
	text := strings.TrimSpace(strings.TrimPrefix(string(head[:n]), "\ufeff"))
	if strings.HasPrefix(text, "{") || strings.HasPrefix(text, "PK") {
		return s.readExport(c, r)
	}
	if r.size > formats.MaxBytes {
		return findings{What: "a table", Faults: []string{fmt.Sprintf("a table has at most %d MB; cut it into several", formats.MaxBytes>>20)}}, nil
	}
	data, err := io.ReadAll(io.NewSectionReader(r.file, 0, r.size))
	if err != nil {
		return findings{}, err
	}
	header, _, _ := strings.Cut(strings.ToLower(text), "\n")
	if strings.Contains(header, "student") && strings.Contains(header, "practised") {
		return s.readPractice(c, data)
	}
	return s.readStudents(c, data)
}

// readExport looks through an export of a studio or a student.
func (s *office) readExport(c *echo.Context, r *returned) (f findings, err error) {
	f.What = "an export"
	a, err := store.OpenArchive(r.file, r.size)
	if err != nil {
		f.Faults = []string{err.Error() + "; a song goes in under Songs"}
		return f, nil
	}
	found := studio.Check(a)
	f.Faults, f.rows, f.archive = found.Faults, found.Rows, a
	if a.Whole {
		f.What = "the studio " + found.Name
		songs, err := s.Store.CountSongs(c.Request().Context(), home(c).ID)
		if err != nil {
			return f, err
		}
		students, err := s.Store.AnyStudents(c.Request().Context(), home(c).ID)
		if err != nil {
			return f, err
		}
		if songs > 0 || students {
			f.Faults = append(f.Faults, "a whole studio is only taken into one that is empty; this one has songs or students")
		}
	} else {
		f.What = "the student " + found.Name
	}
	add := func(n int, one, many string) {
		if n == 1 {
			f.Lines = append(f.Lines, "1 "+one)
		} else if n > 1 {
			f.Lines = append(f.Lines, fmt.Sprintf("%d %s", n, many))
		}
	}
	add(found.Students, "student", "students")
	add(found.Songs, "song", "songs")
	add(found.Lessons, "lesson", "lessons")
	add(found.Entries, "entry of practice", "entries of practice")
	return f, nil
}
