package demo

import (
	"context"
	"time"

	"valleyside/core/progress"
	"valleyside/core/schedule"
	"valleyside/store"
)

// said is what was noted after a student's last lesson, and what they wrote since.
type said struct {
	note   string
	left   string // there was no time for it
	word   string
	answer string
}

var notes = map[string]said{
	"Odalys":   {note: "The tune at 64, both hands together. Lid: say the count aloud before you play.", word: "can I play it for my grandma on Sunday?"},
	"Bram":     {note: "Rain is there, with the palm on. Riff: slower than you like, the shift first.", left: "Hail"},
	"Yuna":     {note: "Crossing reads well; keep the third finger down through bar 2.", word: "my strings buzz when I play softly", answer: "bring it along, we look at the action together"},
	"Teodor":   {note: "Counted seven as 2, 2, 3 without the click. Landing at tempo."},
	"Saskia":   {note: "Morning with singing from bar 3 on; the pick stays in the hand.", left: "Noon"},
	"Kofi":     {note: "Stop is learnt. Ride: two notes, from the wrist."},
	"Alder":    {note: "Short week. Grass in two halves, pauses for the ring finger."},
	"Rosalind": {note: "Walk at 84. Turn went better when only the last bar was looped.", left: "Turn"},
}

// talk makes up a student's last lesson hour, and what was said since.
func talk(ctx context.Context, st *store.Store, home, id int64, s student, now time.Time) error {
	is, ok := notes[s.name]
	if !ok {
		return nil
	}
	day := progress.DayOf(now) + s.ahead - 7
	items := []store.HourItem{{Kind: schedule.Arrive, Minutes: 4, Title: "Tune and talk", Why: "tune, look at what was noted last time, and ask what was hard", Done: true}}
	if is.left != "" {
		items = append(items, store.HourItem{Kind: schedule.Work, Minutes: 41, Title: is.left, Why: "not practised yet"})
	}
	err := st.SetHour(ctx, home, id, day, func(h store.Hour) (store.Hour, error) {
		h.Note, h.Items = is.note, items
		return h, nil
	})
	if err != nil || is.word == "" {
		return err
	}
	w := store.Word{StudioID: home, StudentID: id, Word: is.word, SaidAt: store.At(now.Add(-26 * time.Hour)), SentID: "demo"}
	if is.answer != "" {
		w.Answer, w.AnsweredAt = is.answer, w.SaidAt+3600
	}
	return st.AddWord(ctx, w)
}
