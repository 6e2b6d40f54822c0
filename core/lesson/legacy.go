package lesson

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// Steps were once known by words in which the names of their parts stood between « and »,
// as in "piece «Verse» 3 to 4". What was kept under those words is read once more, for the
// song of which it was said.

// OldStepID is the step that such words name; ok is false where they name none of the song.
func OldStepID(words string, of *song.Song) (id StepID, ok bool) {
	text, tail := words, ""
	var parts []int
	for {
		before, rest, more := strings.Cut(text, "«")
		if !more {
			tail = strings.TrimSpace(text)
			break
		}
		name, after, closed := strings.Cut(rest, "»")
		i, there := of.PartNamed(name)
		if !closed || !there {
			return StepID{}, false
		}
		if len(parts) == 0 {
			id.Kind = Kind(strings.TrimSpace(before))
		}
		parts, text = append(parts, i), after
	}
	tail, cut, isCut := strings.Cut(tail, " / ") // the names of parts may have that in them as well
	if head, n, numbered := strings.Cut(tail, ", "); numbered {
		id.Nth, _ = strconv.Atoi(n)
		id.Nth, tail = max(id.Nth-1, 0), head
	}
	if len(parts) == 0 {
		if id, ok = oldWithoutPart(tail, id); !ok {
			return StepID{}, false
		}
	} else {
		id.Part = of.PartID(parts[0])
	}
	if len(parts) > 1 {
		id.Into = of.PartID(parts[1])
	}
	bars := func(text string, part int) (from, to int, ok bool) {
		a, b, _ := strings.Cut(text, " to ")
		first, err1 := strconv.Atoi(a)
		last, err2 := strconv.Atoi(b)
		p := &of.Parts[part]
		ok = err1 == nil && err2 == nil && first >= 1 && first <= last && last <= p.Written()
		return p.BarID(first), p.BarID(last), ok
	}
	switch {
	case id.Kind == "next rung":
		id.Kind = Finish
	case id.Kind == Finish && len(parts) > 0:
		n, err := strconv.Atoi(tail)
		if err != nil || n <= 0 || n >= int(touches) {
			return StepID{}, false
		}
		id.Touch = Touch(n)
	case id.Kind == Piece:
		if id.From, id.To, ok = bars(tail, parts[0]); !ok {
			return StepID{}, false
		}
	}
	if isCut && len(parts) > 0 {
		if id.Cut[0], id.Cut[1], ok = bars(cut, parts[0]); !ok {
			return StepID{}, false
		}
	}
	_, err := ParseStepID(id.String())
	return id, err == nil
}

// oldWithoutPart reads words that name no part.
func oldWithoutPart(words string, id StepID) (StepID, bool) {
	fields := strings.Fields(words)
	if len(fields) == 0 {
		return id, false
	}
	id.Kind = Kind(fields[0])
	switch n := shapesOf[id.Kind]; {
	case n > 0:
		if len(fields) != n+1 {
			return id, false
		}
		for i, field := range fields[1:] {
			f, err := neck.ParseFrets(field)
			if err != nil {
				return id, false
			}
			id.Shapes[i] = f
		}
	case id.Kind == Form:
		id.Cues = slices.Equal(fields[1:], []string{"by", "cues"})
	case id.Kind == ByTeacher && len(fields) == 2:
		id.Own, _ = strconv.Atoi(fields[1])
	default:
		return id, false
	}
	return id, true
}

// OldPlan reads a plan that speaks of steps by such words, of a song; what it says of steps
// that the song does not have is counted in lost.
func OldPlan(text string, of *song.Song) (p Plan, lost int, err error) {
	var old struct {
		Template Template
		Order    []string
		Out      map[string]Out
		Split    map[string]Split
		Set      map[string]Wish
		Own      []struct {
			Own
			Key   string `json:"key"`
			After string `json:"after"`
		}
	}
	if err := json.Unmarshal([]byte(text), &old); err != nil {
		return Plan{}, 0, err
	}
	id := func(words string) (StepID, bool) {
		id, ok := OldStepID(words, of)
		if !ok {
			lost++
		}
		return id, ok
	}
	p.Template = old.Template
	for _, words := range old.Order {
		if step, ok := id(words); ok {
			p.Order = append(p.Order, step)
		}
	}
	p.Out, p.Set = renamed(old.Out, id), renamed(old.Set, id)
	p.Split = renamed(old.Split, id)
	for step, s := range p.Split {
		if i, ok := of.PartWith(step.Part); ok {
			for k, bar := range s.After {
				s.After[k] = of.Parts[i].BarID(bar)
			}
		}
	}
	for _, o := range old.Own {
		own := o.Own
		own.After = StepID{}
		step, ok := id(o.Key)
		if !ok {
			continue
		}
		own.ID = step.Own
		if o.After != "" {
			own.After, _ = id(o.After)
		}
		p.Own = append(p.Own, own)
	}
	return p, lost, nil
}

func renamed[V any](of map[string]V, id func(string) (StepID, bool)) map[StepID]V {
	var out map[StepID]V
	for words, v := range of {
		if step, ok := id(words); ok {
			if out == nil {
				out = map[StepID]V{}
			}
			out[step] = v
		}
	}
	return out
}

// IsOldPlan tells whether a plan speaks of steps by such words.
func IsOldPlan(text string) bool {
	var old map[string]json.RawMessage
	return json.Unmarshal([]byte(text), &old) == nil && (strings.Contains(text, "«") || strings.Contains(text, `"key":"own `) || strings.Contains(text, `"shape `) ||
		strings.Contains(text, `"change `) || strings.Contains(text, `"form by cues"`))
}

// OldPlanFaults lists what such a plan cannot be, of whatever song it is.
func OldPlanFaults(text string) []string {
	if len(text) > MostPlan {
		return []string{"they are too long"}
	}
	var old struct {
		Set map[string]Wish
		Own []struct {
			Title, Words, Sheet string
			Start, Goal         float64
			Passes, Minutes     int
		}
	}
	if err := json.Unmarshal([]byte(text), &old); err != nil {
		return []string{err.Error()}
	}
	p := Plan{Set: map[StepID]Wish{}}
	n := 0
	for _, w := range old.Set {
		n++
		p.Set[StepID{Kind: Whole, Part: song.PartID(n)}] = w
	}
	for i, o := range old.Own {
		p.Own = append(p.Own, Own{ID: i + 1, Title: o.Title, Words: o.Words, Sheet: o.Sheet, Start: o.Start, Goal: o.Goal, Passes: o.Passes, Minutes: o.Minutes})
	}
	return p.Faults()
}
