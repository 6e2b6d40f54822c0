package schedule

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"valleyside/core/progress"
)

// learner is a made-up student: how far a day of practice brings them, how often they practise,
// how long they remember.
type learner struct {
	r       *rand.Rand
	minutes int
	gain    float64 // beats a minute that a good stretch of practice brings
	tidy    float64 // share of days on which there is practice
	forgets float64 // share of a tempo that a day without practice costs
	parts   []studied
}

type studied struct {
	target  float64
	can     float64 // the fastest tempo at which it is clean
	last    int     // the day on which it was practised
	entries []progress.Entry
	overdue int // days, the most
	late    int // the same, of days on which there was practice
	plateau int // days of practice without a faster clean tempo, and without a word to go another way
}

// play is a stretch of practice: how many passes were clean at a tempo.
func (l *learner) play(p *studied, tempo float64, day int, at time.Time) {
	p.can *= math.Pow(1-l.forgets, float64(max(day-p.last-1, 0)))
	clean := 0
	switch {
	case tempo <= p.can:
		clean = 3 + l.r.IntN(2)
	case tempo <= p.can+6:
		clean = l.r.IntN(3)
	}
	if tempo <= p.can+8 {
		p.can = min(p.can+l.gain*(0.5+l.r.Float64()), p.target*1.1)
	}
	p.last = day
	p.entries = append(p.entries, progress.Entry{Tempo: tempo, Clean: clean, At: at})
}

// Two hundred students practise for a year by their sittings; every four weeks a part is new.
// What is learnt is not forgotten, nobody is stuck without being told another way, and nobody
// has more to do than there is time for.
func TestAYear(t *testing.T) {
	const students, days, fortnight = 200, 365, 14
	begin := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	var late, overdue, plateau []int
	learnt, parts := 0, 0
	for n := range students {
		r := rand.New(rand.NewPCG(uint64(n), 7))
		l := learner{r: r, minutes: 10 + 5*r.IntN(7), gain: 1 + 4*r.Float64(), tidy: 0.35 + 0.65*r.Float64(), forgets: 0.0005 + 0.003*r.Float64()}
		for day := range days {
			if day%(2*fortnight) == 0 {
				target := float64(70 + 10*r.IntN(8))
				l.parts = append(l.parts, studied{target: target, can: target * (0.35 + 0.3*r.Float64()), last: day})
			}
			practises := r.Float64() < l.tidy
			now := begin.AddDate(0, 0, day).Add(18 * time.Hour)
			looks := make([]progress.Look, len(l.parts))
			for i := range l.parts {
				p := &l.parts[i]
				looks[i] = progress.LookAt(p.entries, p.target, now)
				if looks[i].State == progress.Due {
					p.overdue = max(p.overdue, looks[i].Days)
				}
			}
			if !practises {
				continue
			}
			list, _ := Sitting(looks, l.minutes)
			sum := 0
			for _, one := range list {
				sum += one.Minutes
				p, look := &l.parts[one.Part], looks[one.Part]
				before := look.Clean
				l.play(p, math.Round(look.Tempo), day, now)
				if after := progress.LookAt(p.entries, p.target, now); after.Clean > before || look.Move == progress.Back || after.State == progress.Learnt || after.State == progress.Due {
					p.plateau = 0
				} else {
					p.plateau++
				}
				plateau = append(plateau, p.plateau)
			}
			assert.Equal(t, l.minutes, sum, "student %d, day %d", n, day)
			for i := range looks {
				if looks[i].State == progress.Due && !slices.ContainsFunc(list, func(s Stretch) bool { return s.Part == i }) {
					l.parts[i].late++
				}
			}
		}
		for i := range l.parts {
			p := &l.parts[i]
			parts++
			if s := progress.LookAt(p.entries, p.target, begin.AddDate(0, 0, days)).State; s == progress.Learnt || s == progress.Due {
				learnt++
			}
			overdue, late = append(overdue, p.overdue), append(late, p.late)
		}
	}
	slices.Sort(overdue)
	slices.Sort(late)
	t.Logf("%d parts, %d of them learnt at the end; overdue at most %d days, of 95 in 100 parts at most %d; passed over on at most %d days of practice; at most %d stretches without ground or another way",
		parts, learnt, overdue[len(overdue)-1], overdue[len(overdue)*95/100], late[len(late)-1], slices.Max(plateau))
	assert.Greater(t, learnt, parts/3)
	assert.LessOrEqual(t, slices.Max(plateau), fortnight, "two weeks at most without another way")
	assert.LessOrEqual(t, overdue[len(overdue)-1], fortnight)
	assert.LessOrEqual(t, overdue[len(overdue)*95/100], fortnight/2)
}
