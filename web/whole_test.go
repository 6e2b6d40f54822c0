package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/core/arrange"
	"valleyside/demo"
	"valleyside/store"
	"valleyside/studio"
)

// The whole is tried with what nobody would type, until a limit: the same in every run, or
// with VALLEYSIDE_EXPLORE, which is how long each goes on, something new.

// exploring is a die, and tells whether to go on after so many tries.
func exploring(t *testing.T, tries int) (*rand.Rand, func(n int) bool) {
	length, err := time.ParseDuration(os.Getenv("VALLEYSIDE_EXPLORE"))
	if err != nil {
		return rand.New(rand.NewPCG(1, 1)), func(n int) bool { return n < tries }
	}
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	end := time.Now().Add(length)
	return rand.New(rand.NewPCG(seed, seed)), func(int) bool { return time.Now().Before(end) }
}

// oddNumbers, oddWords and oddSheets are what fields are filled with.
var (
	oddNumbers = []string{"", "0", "-1", "1", "2", "7", "60", "250", "1e308", "-1e308", "NaN", "Inf", "9000000000000000000", "99999999999999999999999", "0.0000001", "1,5", "abc", "0x10", "٣"}
	oddWords   = []string{"", " ", "x", "Verse / drill 2", "«Q» 1 to 2", "<script>alert(1)</script>", "\x00", "\xff\xfe", "🎸", strings.Repeat("long ", 3000), "../../etc", "%s%n", "'; DROP TABLE songs; --", "{{.}}", "O'Rook", "C, x32010, open chords", "H9, zz"}
	oddSheets  = []string{"", "title: T", "A:\n| 0E |", "title: T\nA:\n| 0E 3A | B5 F | (5A 7A) x |\nB:\n| C G Am F | x3\norder: A x2, B, Nobody\n", "title: T\ntuning: drop D\ncapo: 12\nA:\n| B5/B F#m7b5 | % | x99\n",
		"title: T\nA:\nlike: A\nB:\nlike: A\n| 1 |", "title: T\ntempo: 400\nA:\n| [1/4] 0E | [7/8] (((0E 0E) 0E) 0E) |\n", strings.Repeat("| 0E ", 3000), "title: T\nA:\npickup: 9\n| 12Go 7Gb2 r7G |\n", "\x00\xff"}
)

// oddValue fills a field.
func oddValue(r *rand.Rand, name string) string {
	one := func(list []string) string { return list[r.IntN(len(list))] }
	switch {
	case name == "sheet" || name == "text":
		return one(oddSheets)
	case strings.HasPrefix(name, "rung"), name == "with":
		return one(append([]string{"", "nonsense"}, rungs()...))
	case name == "action":
		return one([]string{"up", "down", "place", "out", "in", "cut", "join", "set", "unset", "own", "template", "save-template", "delete-template", "clear", "back", ""})
	case name == "step" || name == "what":
		return one([]string{"", "form", "part.p1", "part.p1.n1", "piece.p1.b1-2", "part.p1.c1-1", "own.o1", "shape.fx32010", "step:part.p1", "drill:1:1:part.p1", "part:1", "part:-1", "piece «A» 1 to 2", "drill:9999999999:1:x"})
	case name == "pin" || name == "unpin":
		return one([]string{"bar 1: string A", "all: frets 0-24", "bar 99 at 1/0: finger 3", "bar 1 at 1/4: shape 22-22-22-22-22-22", "all pins", ""})
	case name == "tuning" || name == "to":
		return one([]string{"standard", "drop D", "C C C C C C", "E2 A2 D3 G3 B3 E4 F4", "B minor", "", "half step down"})
	case r.IntN(4) == 0:
		return one(oddWords)
	}
	return one(oddNumbers)
}

func rungs() (list []string) {
	for _, r := range arrange.Rungs {
		list = append(list, string(r))
	}
	return list
}

// oddFields are the names of fields of the forms.
var oddFields = []string{"title", "name", "sheet", "text", "tempo", "rung", "rung 1", "rung 2", "rung 99", "part", "of", "student", "step", "action", "bar", "at", "pass", "with", "start", "goal", "passes", "minutes", "words", "template", "reach", "scale", "nps", "known", "about", "new",
	"picking", "day", "time", "nobarre", "nolittle", "thumb", "left", "hand", "shape", "symbol", "again", "here", "everywhere", "prefer", "thicken", "places", "school", "rhythm", "pin", "unpin", "to", "how", "tuning", "capo", "frets", "chords", "heard", "as", "sung", "base", "draft", "format", "query",
	"clean", "word", "sent", "age", "assignment", "from", "strings", "counting", "numbering", "zone", "paper", "shapes", "taps", "line", "column", "has", "click", "page", "v", "show", "what", "_form", "thing", "waspart", "wasfor", "full", "given", "rung 1 1", "rung 2 1", "rung 2 99", "target 1", "target 2", "place"}

// leavesOut are addresses that would end the try: they sign out, or change who may sign in.
var leavesOut = []string{"/sign-out", "/settings/password", "/settings/email", "/settings/codes", "/recover", "/set-up", "/sign-in", "/settings/return"}

// Whatever is sent to any address, nothing fails that is not the sender's, and every page is
// there afterwards.
func TestWhateverIsSent(t *testing.T) {
	t.Parallel()
	r, more := exploring(t, 150)
	h := openDemo(t)
	v := h.marit()
	token, bram := h.link("Bram")
	own := token // the link that is good now
	var routes []string
	for route, path := range h.addresses(token) {
		method, _, _ := strings.Cut(route, " ")
		if !slices.ContainsFunc(leavesOut, func(p string) bool { return strings.HasPrefix(path, p) }) && !strings.Contains(path, "*") {
			routes = append(routes, method+" "+path)
		}
	}
	slices.Sort(routes)
	pages := []string{"/", "/songs", "/students", "/settings", "/handouts", "/desk"}
	n := 0
	for ; more(n); n++ {
		method, path, _ := strings.Cut(routes[r.IntN(len(routes))], " ")
		if r.IntN(2) == 0 { // another row of the same kind
			path = strings.ReplaceAll(path, "/1", "/"+strconv.Itoa(r.IntN(14)))
		}
		path = strings.Replace(path, token, own, 1)
		form := url.Values{}
		for range r.IntN(12) {
			name := oddFields[r.IntN(len(oddFields))]
			form.Add(name, oddValue(r, name))
		}
		begun := time.Now()
		var a answer
		if method == "POST" {
			a = v.post(path, form)
		} else {
			a = v.do(method, path+"?"+form.Encode(), nil)
		}
		require.Less(t, a.StatusCode, 500, "%d: %s %s %v\n%s", n, method, path, form, a.body)
		require.Less(t, time.Since(begun), 20*time.Second, "%d: %s %s %v", n, method, path, form)
		if n%25 == 24 {
			require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), studioOfDemo, nil))
			for _, page := range pages {
				require.Equal(t, http.StatusOK, v.get(page).StatusCode, "%d: after %s %s %v: %s", n, method, path, form, page)
			}
			if _, err := h.store.StudentByLink(t.Context(), own); err == nil {
				require.Equal(t, http.StatusOK, v.get("/s/"+own).StatusCode, "%d: after %s %s %v: the student's page", n, method, path, form)
			} else if fresh, err := h.store.AddLink(t.Context(), studioOfDemo, bram.ID, "", store.At(noon)); err == nil {
				own = fresh // it was ended
			}
		}
	}
	t.Logf("%d requests", n)
}

// oddJSON are values that something in an export is changed to.
var oddJSON = []string{`null`, `0`, `-1`, `1`, `7`, `1e308`, `9000000000000000000`, `99999999999999999999`, `""`, `"x"`, `"\u0000"`, `"«A» 1 to 2"`, `[]`, `{}`, `[1,-4]`, `true`, `"{\"own\":[{\"id\":1,\"title\":\"x\",\"start\":60,\"goal\":60,\"passes\":1,\"minutes\":9000000000000000000}]}"`,
	`"{\"order\":[\"part.p1\",\"own.o1\"],\"split\":{\"part.p1\":{\"title\":\"\",\"after\":[-1,0,1,2,99]}}}"`, `"title: T\nA:\n| 0E |"`, `"octave"`, `"bar 1: string A"`, `"all: frets 24-0"`}

// An export with one value changed is refused with its reason, or taken in, and then every
// page is there.
func TestExportsWithOneValueChanged(t *testing.T) {
	t.Parallel()
	r, more := exploring(t, 4)
	from := openDemo(t)
	files := unpacked(t, from.everything(studioOfDemo))
	n, taken := 0, 0
	for ; more(n); n++ {
		other := slices.Clone(files)
		what := ""
		for what == "" {
			file := 2*r.IntN(len(other)/2) + 1
			lines := strings.Split(strings.TrimSpace(other[file]), "\n")
			at := r.IntN(len(lines))
			var row map[string]json.RawMessage
			if json.Unmarshal([]byte(lines[at]), &row) != nil || other[file-1] == "valleyside.json" {
				continue
			}
			var names []string
			for name := range row {
				names = append(names, name)
			}
			slices.Sort(names)
			name := names[r.IntN(len(names))]
			row[name] = json.RawMessage(oddJSON[r.IntN(len(oddJSON))])
			what = fmt.Sprintf("%s, row %d, %s: %s", other[file-1], at+1, name, row[name])
			changed, err := json.Marshal(row)
			require.NoError(t, err)
			lines[at] = string(changed)
			other[file] = strings.Join(lines, "\n") + "\n"
		}
		taken += triedIn(t, packed(t, other), what)
	}
	t.Logf("%d exports, %d of them taken in", n, taken)
}

// triedIn takes an export into an empty studio, where it can be, and asks for every page.
func triedIn(t *testing.T, data, what string) (taken int) {
	h := open(t)
	defer h.http.Close()
	_, err := h.store.AddStudio(t.Context(), "Cellar", store.Teacher{Name: "Bo", Email: "bo@cellar.example", Password: account.Hash("long enough too")}, store.At(noon))
	require.NoError(t, err)
	v := h.signIn("bo@cellar.example", "long enough too")
	page, thing := v.takeIn("studio.zip", data)
	require.Equal(t, http.StatusOK, page.StatusCode, what)
	if !strings.Contains(page.body, `action="/settings/take-in"`) {
		assert.Contains(t, page.body, "To be mended first", what)
		return 0
	}
	took := v.post("/settings/take-in", url.Values{"thing": {thing}})
	require.Equal(t, http.StatusSeeOther, took.StatusCode, "%s: %s", what, took.body)
	for range 2 { // before and after it has been worked out
		paths := []string{"/", "/songs", "/students", "/handouts", "/settings", "/settings/export"}
		songs, err := h.store.Songs(t.Context(), 1)
		require.NoError(t, err)
		for _, g := range songs {
			paths = append(paths, fmt.Sprintf("/songs/%d", g.ID), fmt.Sprintf("/songs/%d/rungs", g.ID), fmt.Sprintf("/songs/%d/chords", g.ID))
		}
		lessons, err := h.store.Lessons(t.Context(), 1)
		require.NoError(t, err)
		for _, l := range lessons {
			paths = append(paths, fmt.Sprintf("/lessons/%d", l.ID))
		}
		students, err := h.store.Students(t.Context(), 1)
		require.NoError(t, err)
		for _, st := range students {
			token, err := h.store.AddLink(t.Context(), 1, st.ID, "", store.At(noon))
			require.NoError(t, err)
			paths = append(paths, fmt.Sprintf("/students/%d", st.ID), "/s/"+token, "/s/"+token+"/log")
		}
		for _, path := range paths {
			begun := time.Now()
			require.Equal(t, http.StatusOK, v.get(path).StatusCode, "%s: %s", what, path)
			require.Less(t, time.Since(begun), 20*time.Second, "%s: %s", what, path)
		}
		require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), 1, nil))
	}
	return 1
}

// Two hundred phones log beside an export that is taken in: none waits for its end, nothing
// is lost.
func TestPhonesLogWhileAStudioComesIn(t *testing.T) {
	t.Parallel()
	h := open(t)
	require.NoError(t, demo.Fill(context.Background(), h.store, noon))
	token, saskia := h.link("Saskia")
	_, err := h.store.AddStudio(t.Context(), "Cellar", store.Teacher{Name: "Bo", Email: "bo@cellar.example", Password: account.Hash("long enough too")}, store.At(noon))
	require.NoError(t, err)
	files := unpacked(t, h.everything(studioOfDemo))
	for i := range files {
		if files[i] == "entries.jsonl" { // a long log
			one, _, _ := strings.Cut(files[i+1], "\n")
			files[i+1] += strings.Repeat(one+"\n", 4_000)
		}
	}
	bo := h.signIn("bo@cellar.example", "long enough too")
	_, thing := bo.takeIn("studio.zip", packed(t, files))
	before, err := h.store.EntriesOf(t.Context(), studioOfDemo, saskia.ID, 0, 0)
	require.NoError(t, err)
	given, err := h.store.AssignmentsOf(t.Context(), studioOfDemo, saskia.ID)
	require.NoError(t, err)
	done := make(chan string)
	go func() { done <- bo.post("/settings/take-in", url.Values{"thing": {thing}}).Header.Get("Location") }()
	logged, ended := 0, ""
	phone := h.visitor()
	for ended == "" || logged < 40 {
		select {
		case ended = <-done:
		default:
		}
		begun := time.Now()
		a := phone.post("/s/"+token+"/entries", url.Values{"assignment": {strconv.FormatInt(given[0].ID, 10)}, "of": {given[0].Parts[0].PartID.String()}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"1"}, "sent": {fmt.Sprint("phone ", logged)}})
		if a.StatusCode == http.StatusTooManyRequests {
			break // as many as one can practise
		}
		require.Equal(t, http.StatusSeeOther, a.StatusCode, a.body)
		require.Less(t, time.Since(begun), 8*time.Second)
		logged++
	}
	if ended == "" {
		ended = <-done
	}
	for strings.HasPrefix(ended, "/settings/return/") {
		time.Sleep(100 * time.Millisecond)
		page := bo.get(ended)
		if page.StatusCode == http.StatusSeeOther {
			ended = page.Header.Get("Location")
			break
		}
		require.Contains(t, page.body, "It is being taken in")
	}
	assert.Equal(t, "/students", ended)
	after, err := h.store.EntriesOf(t.Context(), studioOfDemo, saskia.ID, 0, 0)
	require.NoError(t, err)
	assert.Len(t, after, len(before)+logged)
	assert.Greater(t, logged, 20)
	assert.Equal(t, 4_000+strings.Count(strings.Join(unpacked(t, h.everything(studioOfDemo)), "\n"), `"practised_at"`)-logged,
		strings.Count(strings.Join(unpacked(t, h.everything(2)), "\n"), `"practised_at"`))
}
