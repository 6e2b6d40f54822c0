package words

import (
	"fmt"

	"valleyside/core/progress"
)

// Advice says where a student is with a part, and what comes next.
func (sp Speaker) Advice(a progress.Advice) string {
	switch a.Kind {
	case progress.Begin:
		return fmt.Sprintf("not practised yet; begin at %.0f", a.Next)
	case progress.CleanDays:
		return fmt.Sprintf("clean at %.0f on %s", a.Target, count(a.N, "day"))
	case progress.Quiet:
		return "not practised for " + count(a.N, "day")
	case progress.Failing:
		return fmt.Sprintf("the last %s were not clean, the latest at %.0f; go back to %.0f or take an easier version", tries(a.N), a.Tempo, a.Next)
	case progress.NotClean:
		return fmt.Sprintf("not clean yet; try %.0f", a.Next)
	case progress.CleanOnce:
		return fmt.Sprintf("clean at %.0f once; show it on another day", a.Target)
	}
	return fmt.Sprintf("clean at %.0f of %.0f; try %.0f", a.Tempo, a.Target, a.Next)
}

func tries(n int) string { return number(n) + " tries" }
