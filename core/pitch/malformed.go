package pitch

import "fmt"

// Malformed is something typed that cannot be read: what is wrong with it, and how
// to mend it, each to be said on its own.
type Malformed struct{ What, Mend string }

// Malformedf makes a Malformed of how to mend it, and of a format for what is wrong.
func Malformedf(mend, format string, args ...any) *Malformed {
	return &Malformed{What: fmt.Sprintf(format, args...), Mend: mend}
}

func (e *Malformed) Error() string { return e.What + "; " + e.Mend }
