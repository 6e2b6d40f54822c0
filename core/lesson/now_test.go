package lesson

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/arrange"
)

// Who plays a part has its pieces; who has not begins with the first of them.
func TestDone(t *testing.T) {
	l := build(read(t, roundAbout), arrange.AsWritten, Student{})
	at := map[StepID]Progress{}
	done := func() []bool { return Done(l.Steps, func(s *Step) Progress { return at[s.ID] }) }
	count := func() (n int) {
		for _, d := range done() {
			if d {
				n++
			}
		}
		return n
	}
	assert.Zero(t, count())

	first := &l.Steps[0]
	at[first.ID] = Progress{Once: first.Goal, Clean: first.Goal - 10}
	assert.Zero(t, count(), "one clean pass is not five")
	at[first.ID] = Progress{Clean: first.Goal}
	assert.Equal(t, 1, count())

	whole := -1
	for i := range l.Steps {
		if l.Steps[i].Kind == Whole && whole < 0 {
			whole = i
		}
	}
	at[l.Steps[whole].ID] = Progress{Clean: l.Steps[whole].Goal}
	for i, d := range done() {
		if i <= whole {
			assert.True(t, d, l.Steps[i].ID.String())
		}
	}
	for i := range l.Steps {
		if l.Steps[i].ID == (StepID{Kind: Form}) {
			at[StepID{Kind: Form}] = Progress{Once: l.Steps[i].Goal}
		}
	}
	for i, d := range done() {
		assert.True(t, d || l.Steps[i].Kind == Finish, l.Steps[i].ID.String())
	}
}

// A step is done at its goal, to half a beat, as often in a row as it asks.
func TestAStepIsDone(t *testing.T) {
	for _, c := range []struct {
		passes      int
		once, clean float64
		want        bool
	}{{3, 0, 80, true}, {3, 0, 79.5, true}, {3, 0, 79.4, false}, {3, 90, 0, false}, {1, 80, 0, true}, {1, 79, 78, false}, {1, 79.5, 0, true}} {
		s := Step{Goal: 80, Passes: c.passes}
		assert.Equal(t, c.want, s.done(Progress{Once: c.once, Clean: c.clean}), c)
	}
}

// Whoever has a step clean at a tempo goes on above it and not from the start again; one
// clean pass is enough where the step asks for no more.
func TestNext(t *testing.T) {
	for _, c := range []struct {
		passes   int
		p        Progress
		start    float64
		goal, at float64
	}{
		{3, Progress{}, 60, 100, 60},
		{3, Progress{Once: 80}, 60, 100, 60},
		{3, Progress{Clean: 80}, 60, 100, 84},
		{3, Progress{Clean: 50}, 60, 100, 54},
		{3, Progress{Clean: 98}, 60, 100, 100},
		{1, Progress{Once: 80, Clean: 70}, 60, 100, 84},
	} {
		s := Step{Start: c.start, Goal: c.goal, Passes: c.passes}
		assert.Equal(t, c.at, s.Next(c.p), "%+v", c)
	}
}
