package grade

// Demands lists them all.
func Demands() []Demand {
	list := make([]Demand, demands)
	for d := range list {
		list[d] = Demand(d)
	}
	return list
}
