package words

import (
	"fmt"

	"valleyside/core/progress"
	"valleyside/core/schedule"
)

func tries(n int) string { return number(n) + " tries" }

// Look says where a student is with a part and why, by its entries alone.
func (sp Speaker) Look(l progress.Look) string {
	switch l.Why {
	case progress.NotBegun:
		return fmt.Sprintf("not practised yet: begin at %.0f", l.Tempo)
	case progress.InPieces:
		return fmt.Sprintf("practised in pieces: begin the whole at %.0f", l.Tempo)
	case progress.CleanAtLast:
		return "learnt: looked at again in " + count(l.Days, "day") + ", on " + l.Due.Format("Mon 2 Jan 2006")
	case progress.LookedAt:
		if l.Days == 0 {
			return "learnt, and due today"
		}
		return "learnt, and due for " + count(l.Days, "day")
	case progress.Slipped:
		return "it was learnt, and the last look was not clean: once clean at the target, and it is again"
	case progress.ThreeTries:
		return fmt.Sprintf("the last %s were not clean: go back to %.0f, to a smaller piece, to the drill of the hard place, or to an easier version", tries(l.Tries), l.Tempo)
	case progress.NoGround:
		return fmt.Sprintf("no ground was gained in %s: go back to %.0f, to the drill of the hard place, or to an easier version", count(l.Days, "day"), l.Tempo)
	case progress.TwoDays:
		return fmt.Sprintf("clean at %.0f on different days: go up to %.0f", l.Clean, l.Tempo)
	case progress.OneDay:
		if l.Walked >= 1 {
			return fmt.Sprintf("clean at %.0f once: show it on another day, and it is learnt", l.Clean)
		}
		return fmt.Sprintf("clean at %.0f: show it on another day, then go up", l.Clean)
	case progress.Resting:
		return fmt.Sprintf("not practised for %s: go on at %.0f", count(l.Days, "day"), l.Tempo)
	}
	return fmt.Sprintf("no try was clean yet: try %.0f", l.Tempo)
}

// Stretch says what a stretch of a sitting is for.
func (sp Speaker) Stretch(k schedule.Kind, l progress.Look) string {
	switch k {
	case schedule.WarmUp:
		return "what comes easiest, until the hands are warm"
	case schedule.Good:
		return "something that is good already, at the end"
	case schedule.Drill:
		if l.Why == progress.NoGround {
			return fmt.Sprintf("the hard place alone, at %.0f, since no ground was gained in %s", l.Tempo, count(l.Days, "day"))
		}
		return fmt.Sprintf("the hard place alone, at %.0f, since the last %s were not clean", l.Tempo, tries(l.Tries))
	}
	return sp.Look(l)
}

// hourKinds are what is done in an hour, as a list has it.
var hourKinds = map[schedule.Kind]string{schedule.Arrive: "arrive", schedule.Hear: "hear first", schedule.Drill: "fix", schedule.Work: "next", schedule.Home: "take home", schedule.Good: "to end"}

// HourKind names what is done in an hour.
func (sp Speaker) HourKind(k schedule.Kind) string { return hourKinds[k] }

// Hour says why something is done in an hour.
func (sp Speaker) Hour(k schedule.Kind, h schedule.Heard) string {
	switch k {
	case schedule.Arrive:
		return "tune, look at what was noted last time, and ask what was hard"
	case schedule.Home:
		return "say and write down what is practised until the next time"
	case schedule.Work:
		if h.State == "" {
			return "nothing is given yet: choose a song that fits"
		}
	case schedule.Hear:
		if h.Minutes > 0 {
			return "practised for " + count(h.Minutes, "minute") + " since; " + sp.Look(h.Look)
		}
	}
	return sp.Stretch(k, h.Look)
}

// LeftOut says why a part is not in a sitting.
func (sp Speaker) LeftOut(why schedule.LeftOut, l progress.Look) string {
	switch why {
	case schedule.NotDueYet:
		return "it is learnt, and looked at again in " + count(max(l.Days, 0), "day")
	case schedule.OneAtOnce:
		return "one thing at a time: it comes when another one is there"
	}
	return "the minutes are full"
}
