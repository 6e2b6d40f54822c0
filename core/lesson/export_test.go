package lesson

import "valleyside/core/neck"

// With is k with a shape that has been learnt.
func (k Known) With(f neck.Frets) Known {
	more := Known{shapes: map[shapeKey]bool{keyOf(f): true}, names: k.names, Skills: k.Skills}
	for key := range k.shapes {
		more.shapes[key] = true
	}
	return more
}
