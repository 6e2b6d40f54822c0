package chord

// Qualities lists the suffixes of all qualities that have a usual name, the
// plainest first.
func Qualities() []string {
	list := make([]string, len(qualities))
	for i, q := range qualities {
		list[i] = q.Suffix
	}
	return list
}
