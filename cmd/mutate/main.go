// Command mutate changes the core in small ways, one at a time, and tells which of the
// changes the tests of its own package notice: whether the tests would see a mistake there.
// Nothing in the tree is touched; the compiler is shown the changed file instead.
//
// Without arguments it tries the changes that are listed here, each of which once went
// unnoticed; with -n it draws so many more from all of the core, the same ones for the same
// -seed.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// change is one small change of a file.
type change struct {
	what, file string
	from, to   string // text, where it is listed
	at, end    int    // bytes, where it is drawn
}

// listed are changes that tests have missed.
var listed = []change{
	{what: "reach squared for cubed", file: "core/grade/demands.go", from: "d := s * s * s", to: "d := s * s"},
	{what: "capo left out of the force", file: "core/grade/demands.go", from: "n.Position(12-n.Capo)", to: "n.Position(12)"},
	{what: "work linear", file: "core/grade/grade.go", from: "return total * (1 + total)", to: "return total"},
	{what: "speed squared for cubed", file: "core/grade/demands.go", from: "share*share*share", to: "share*share"},
	{what: "the fourth power of hard places is a square", file: "core/grade/grade.go", from: "sum += m * m * m * m", to: "sum += m * m"},
	{what: "what was remembered without a state is off by one", file: "core/path/path.go", from: "stays[i/stride%len(stays)]", to: "stays[(i+1)/stride%len(stays)]"},
	{what: "a barre grows by a string", file: "core/grade/demands.go", from: "float64(b.BarreStrings - 1)", to: "float64(b.BarreStrings)"},
	{what: "the longest barre is the last", file: "core/hand/fingering.go", from: "strings > b.BarreStrings", to: "strings > 1"},
	{what: "a rung lies three frets above what is typed", file: "core/arrange/texture.go", from: "const mostAbove = 2", to: "const mostAbove = 3"},
	{what: "a tie at six half steps goes down", file: "core/sheet/transpose.go", from: "t.by > 6", to: "t.by >= 6"},
	{what: "a finger beside the barre costs more", file: "core/hand/form.go", from: "formShared  = 3.0", to: "formShared  = 3.5"},
	{what: "thinning begins 15 % late", file: "core/arrange/thin.go", from: "leeway = 1.03", to: "leeway = 1.18"},
	{what: "of a tapped run the highest note counts", file: "core/arrange/texture.go", from: "low = min(low, next.Pitch(open))", to: "low = max(low, next.Pitch(open))"},
	{what: "a tapped run goes on over what is picked", file: "core/arrange/texture.go", from: "next.By == song.Tapped || next.By == song.Picked", to: "next.By == song.Tapped"},
	{what: "after muted strokes open strings ring", file: "core/arrange/write.go", from: "before.from.Muted(w.score.part) || before.from.Short", to: "before.from.Short"},
	{what: "bars keep their numbers only at the beginning", file: "core/song/ids.go", from: "of.Bars[m-1-i] = was.BarID(n - i)", to: "of.Bars[m-1-i] = 0"},
	{what: "a number is given twice", file: "core/song/ids.go", from: "			of.Next++\n", to: ""},
	{what: "pieces that are like none are still meant", file: "core/lesson/id.go", from: "if like > most {", to: "if like >= most {"},
	{what: "a cut loses its last bar", file: "core/lesson/plan.go", from: "append(ends, whole.To)", to: "append(ends, whole.To-1)"},
	{what: "a step is done before its goal", file: "core/lesson/now.go", from: "s.best(p) >= s.Goal-0.5", to: "s.best(p) >= s.Goal-5"},
	{what: "a week has six days", file: "core/lesson/tempo.go", from: "const week = 7", to: "const week = 6"},
	{what: "ready after one day", file: "core/progress/progress.go", from: "ReadyDays   = 2", to: "ReadyDays   = 1"},
	{what: "an entry of some bars counts as a try", file: "core/progress/progress.go", from: "if e.Some {", to: "if e.Some && e.Clean > 99 {"},
	{what: "one clean pass is not seen", file: "core/progress/progress.go", from: "s.Once = max(s.Once, e.Tempo)", to: "s.Once = e.Tempo"},
}

func main() {
	n := flag.Int("n", 0, "how many changes to draw beside those that are listed")
	seed := flag.Uint64("seed", 1, "which ones")
	flag.Parse()
	list := slices.Clone(listed)
	drawn, err := draw(*n, *seed)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	list = append(list, drawn...)
	noticed := 0
	for _, c := range list {
		saw, err := try(c)
		word := "noticed "
		switch {
		case err != nil:
			word = "no change: " + err.Error()
		case saw:
			noticed++
		default:
			word = "MISSED  "
		}
		fmt.Printf("%s %s: %s\n", word, c.file, c.what)
	}
	fmt.Printf("%d of %d noticed, %.0f %%\n", noticed, len(list), 100*float64(noticed)/float64(max(len(list), 1)))
}

// try tells whether the tests of its package notice a change.
func try(c change) (bool, error) {
	text, err := os.ReadFile(c.file)
	if err != nil {
		return false, err
	}
	changed := string(text[:c.at]) + c.to + string(text[c.end:])
	if c.end == 0 {
		if strings.Count(string(text), c.from) < 1 {
			return false, fmt.Errorf("%q is not in it", c.from)
		}
		changed = strings.Replace(string(text), c.from, c.to, 1)
	}
	dir, err := os.MkdirTemp("", "valleyside-mutate-")
	if err != nil {
		return false, err
	}
	defer os.RemoveAll(dir)
	other := filepath.Join(dir, "changed.go")
	if err := os.WriteFile(other, []byte(changed), 0o600); err != nil {
		return false, err
	}
	path, err := filepath.Abs(c.file)
	if err != nil {
		return false, err
	}
	overlay, err := json.Marshal(map[string]map[string]string{"Replace": {path: other}})
	if err != nil {
		return false, err
	}
	list := filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(list, overlay, 0o600); err != nil {
		return false, err
	}
	pkg := "./" + filepath.Dir(c.file)
	if out, err := exec.Command("go", "build", "-overlay", list, pkg).CombinedOutput(); err != nil {
		return false, fmt.Errorf("it does not compile: %s", strings.TrimSpace(string(out)))
	}
	const longest = 3 * time.Minute // a change that never ends is noticed
	ctx, cancel := context.WithTimeout(context.Background(), longest)
	defer cancel()
	test := exec.CommandContext(ctx, "go", "test", "-overlay", list, "-count=1", "-failfast", pkg)
	test.Env = append(os.Environ(), "RAPID_SEED=1", "RAPID_NOFAILFILE=true")
	return test.Run() != nil, nil
}

// draw chooses small changes among all that can be made of the core: a comparison that is
// another, a sum that is a difference, a number that is a bit more.
func draw(n int, seed uint64) ([]change, error) {
	files, err := filepath.Glob("core/*/*.go")
	if err != nil {
		return nil, err
	}
	var all []change
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") || strings.Contains(file, "sheettest") {
			continue
		}
		found, err := changesOf(file)
		if err != nil {
			return nil, err
		}
		all = append(all, found...)
	}
	rand.New(rand.NewPCG(seed, seed)).Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	return all[:min(n, len(all))], nil
}

var others = map[token.Token]string{token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">", token.EQL: "!=", token.NEQ: "==", token.ADD: "-", token.SUB: "+", token.MUL: "/", token.LAND: "||", token.LOR: "&&"}

func changesOf(file string) (list []change, err error) {
	set := token.NewFileSet()
	parsed, err := parser.ParseFile(set, file, nil, 0)
	if err != nil {
		return nil, err
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	add := func(from, to token.Pos, with string) {
		a, b := set.Position(from), set.Position(to).Offset
		line := strings.TrimSpace(strings.Split(string(text), "\n")[a.Line-1])
		list = append(list, change{what: fmt.Sprintf("line %d: %s for %s in %s", a.Line, with, text[a.Offset:b], line), file: file, at: a.Offset, end: b, to: with})
	}
	ast.Inspect(parsed, func(node ast.Node) bool {
		switch e := node.(type) {
		case *ast.ImportSpec, *ast.StructType:
			return false
		case *ast.BinaryExpr:
			if with, ok := others[e.Op]; ok && !textual(e) {
				add(e.OpPos, e.OpPos+token.Pos(len(e.Op.String())), with)
			}
		case *ast.BasicLit:
			switch v, err := strconv.ParseFloat(e.Value, 64); {
			case err != nil:
			case e.Kind == token.INT:
				add(e.Pos(), e.End(), strconv.Itoa(int(v)+1))
			case e.Kind == token.FLOAT:
				add(e.Pos(), e.End(), strconv.FormatFloat(v*1.15+0.01, 'g', -1, 64))
			}
		}
		return true
	})
	return list, nil
}

// textual tells whether something puts words together.
func textual(e *ast.BinaryExpr) bool {
	for _, side := range []ast.Expr{e.X, e.Y} {
		if lit, ok := side.(*ast.BasicLit); ok && lit.Kind == token.STRING {
			return true
		}
		if b, ok := side.(*ast.BinaryExpr); ok && textual(b) {
			return true
		}
	}
	return false
}
