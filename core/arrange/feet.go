package arrange

// Foot is a step on the way of a hillside: a stroke, where it stands, in bars from the
// start, and what it asks of the hands.
type Foot struct{ At, Demand float64 }

// Feet lists the strokes of a bar, At from 0 to 1.
func (b *Bar) Feet() []Foot {
	lead, length := b.Measure.Lead.Float(), b.Measure.Length().Float()
	list := make([]Foot, len(b.Events))
	for i := range b.Events {
		list[i] = Foot{(b.Events[i].Start.Float() - lead) / length, b.Events[i].Demand}
	}
	return list
}

// Feet lists the strokes of a whole version.
func (v *Version) Feet() []Foot {
	var list []Foot
	for b := range v.Bars {
		for _, f := range v.Bars[b].Feet() {
			list = append(list, Foot{f.At + float64(b), f.Demand})
		}
	}
	return list
}
