// Package path chooses a state for each of many nodes so that all of it
// together costs least. What a state costs by itself, and what two states cost
// one after the other, is all that it is told; it knows nothing of what they
// stand for.
//
// A row of things that follow one another is a chain of links. A line that is
// played again links its end to its start, with the weight of how often that
// happens; a part that loops does the same; and what must come out alike
// wherever it stands is one node with several links.
//
// The search is exact. It takes the nodes away one by one, the cheapest first,
// and remembers for each which of its states is best for every choice of the
// nodes around it (variable elimination: U. Bertelè and F. Brioschi, Nonserial
// Dynamic Programming, 1972; a chain makes it the usual dynamic programming).
// Time and memory grow with the nodes and, within a tangle of links, with the
// product of the states that have to be remembered together. Where that product
// is beyond Most, the states of the tangle that promise least are left out, and
// the choice is exact among the others.
package path

import (
	"container/heap"
	"math"
	"slices"
)

// Most is how many combinations of states are remembered at once.
const Most = 1 << 12

// Graph is what is chosen among. The zero Graph is empty and ready.
type Graph struct {
	own    [][]float64 // by node and state
	links  []link
	higher [][]int // by node: the links to nodes with higher numbers
	costs  slab[float64]
	row    []float64
	solver solver
}

type link struct {
	a, b int
	cost []float64 // cost[state of a * states of b + state of b]
}

// Node adds a node whose states cost so much by themselves, at least one, and
// returns its number. +Inf rules a state out.
func (g *Graph) Node(costs []float64) int {
	own := g.costs.cut(len(costs))
	copy(own, costs)
	g.own = append(g.own, own)
	g.higher = emptied(g.higher, len(g.higher)+1)
	return len(g.own) - 1
}

// Room makes room for so many nodes, and about as many links.
func (g *Graph) Room(nodes int) {
	g.own = slices.Grow(g.own, nodes)
	g.higher = slices.Grow(g.higher, nodes)
	g.links = slices.Grow(g.links, nodes)
}

// Reset empties the graph and keeps its memory for the next one.
func (g *Graph) Reset() {
	g.own, g.links, g.higher = g.own[:0], g.links[:0], g.higher[:0]
	g.costs.again()
}

// Nodes is how many nodes there are.
func (g *Graph) Nodes() int { return len(g.own) }

// States is how many states a node has.
func (g *Graph) States(node int) int { return len(g.own[node]) }

// Link adds weight times what it costs to go from each state of one node to
// each of another: cost is asked for the row of a state of from and fills in
// what every state of to costs after it. A node may be linked to itself.
func (g *Graph) Link(from, to int, weight float64, cost func(state int, row []float64)) {
	n, m := len(g.own[from]), len(g.own[to])
	if m > len(g.row) {
		g.row = make([]float64, 2*m)
	}
	row := g.row[:m]
	if from == to {
		for i := range n {
			cost(i, row)
			g.own[from][i] += weight * row[i]
		}
		return
	}
	a, b := min(from, to), max(from, to)
	at := -1
	for _, l := range g.higher[a] {
		if g.links[l].b == b {
			at = l
		}
	}
	if at < 0 {
		at = len(g.links)
		g.higher[a] = append(g.higher[a], at)
		g.links = append(g.links, link{a, b, g.costs.cut(n * m)})
	}
	table := g.links[at].cost
	for i := range n {
		cost(i, row)
		if from == a {
			for j, c := range row {
				table[i*m+j] += weight * c
			}
		} else {
			for j, c := range row {
				table[j*n+i] += weight * c
			}
		}
	}
}

// Add adds to what a state of a node costs by itself.
func (g *Graph) Add(node, state int, cost float64) { g.own[node][state] += cost }

// Total is what a choice costs: a state for each node.
func (g *Graph) Total(states []int) float64 {
	sum := 0.0
	for node, costs := range g.own {
		sum += costs[states[node]]
	}
	for _, l := range g.links {
		sum += l.cost[states[l.a]*len(g.own[l.b])+states[l.b]]
	}
	return sum
}

// Solution is a choice of a state for each node.
type Solution struct {
	States []int
	Total  float64
	// Exact tells that no choice costs less. It is false where states were left out of a
	// tangle that is too wide to remember whole.
	Exact bool
}

// Solve finds the choice of least cost. Of equal states it takes the first.
func (g *Graph) Solve() Solution {
	return g.Among(nil)
}

// Among is Solve with some nodes held to a few of their states.
func (g *Graph) Among(allowed map[int][]int) Solution {
	s := &g.solver
	s.reset(g)
	most := 0
	for _, costs := range g.own {
		most = max(most, len(costs))
	}
	all := upTo(most)
	for node := range g.own {
		if list, held := allowed[node]; held {
			s.states[node] = list
			continue
		}
		s.states[node] = all[:len(g.own[node]):len(g.own[node])]
	}
	s.begin()
	s.run()
	states := s.backwards()
	return Solution{states, g.Total(states), !s.narrowed}
}

// reset makes a solver ready for a graph.
func (s *solver) reset(g *Graph) {
	n := len(g.own)
	s.graph, s.narrowed = g, false
	s.states = sized(s.states, n)
	s.around = emptied(s.around[:0], n)
	s.gone, s.stamp, s.seen = sized(s.gone, n), sized(s.stamp, n), sized(s.seen, n)
	s.leaves, s.queue, s.order, s.near, s.round = s.leaves[:0], s.queue[:0], slices.Grow(s.order[:0], n), s.near[:0], 0
	s.costs.again()
	s.numbers.again()
	s.bests.again()
	s.factors.again()
}

// sized is a list of n zeros, in the memory of an earlier one where that is enough.
func sized[T any](list []T, n int) []T {
	if cap(list) < n {
		return make([]T, n)
	}
	list = list[:n]
	clear(list)
	return list
}

// emptied makes a list n long with empty lists, in the memory of those that were
// there before.
func emptied[T any](list [][]T, n int) [][]T {
	from := len(list)
	if cap(list) < n {
		list = slices.Grow(list[:cap(list)], n-cap(list))
	}
	list = list[:n]
	for i := from; i < n; i++ {
		list[i] = list[i][:0]
	}
	return list
}

// solver takes nodes away until none is left.
type solver struct {
	narrowed bool // states were left out
	graph    *Graph
	states   [][]int // by node: those that are still in the running
	around   [][]*factor
	gone     []bool
	stamp    []int
	leaves   []int // nodes with one neighbour at most
	queue    queue // the others, once there are no leaves
	order    []taken
	// What is needed for a moment, and where small slices are cut from.
	near    []int
	seen    []int // by node: the last round in which it was a neighbour
	round   int
	at      []int
	offsets []int
	own     []float64
	rows    []row
	costs   slab[float64]
	numbers slab[int]
	bests   slab[uint16]
	factors slab[factor]
}

// slab hands out slices cut from larger ones, each twice as large as the one
// before. It keeps them to hand them out again.
type slab[T any] struct {
	blocks [][]T
	at     int // the block that is cut from
	used   int // how much of it is gone
}

const firstBlock, largestBlock = 64, 4096

// cut hands out n zeros.
func (s *slab[T]) cut(n int) []T {
	for ; s.at < len(s.blocks); s.at++ {
		if block := s.blocks[s.at]; s.used+n <= len(block) {
			part := block[s.used : s.used+n : s.used+n]
			s.used += n
			clear(part)
			return part
		}
		s.used = 0
	}
	size := firstBlock
	if last := len(s.blocks) - 1; last >= 0 {
		size = min(2*len(s.blocks[last]), largestBlock)
	}
	s.blocks = append(s.blocks, make([]T, max(size, n)))
	s.at, s.used = len(s.blocks)-1, n
	return s.blocks[s.at][:n:n]
}

// again takes back all that was handed out.
func (s *slab[T]) again() { s.at, s.used = 0, 0 }

// row is a factor that is looked up by the choice around a node.
type row struct {
	cost    []float64
	strides []int // by the nodes around
	step    int   // from state to state of the node
}

// factor is what some nodes cost together. The last node's states vary fastest.
type factor struct {
	nodes []int
	cost  []float64
	done  bool
}

// taken is a node that has been taken away, and which of its states is best for
// each choice of the nodes that were around it.
type taken struct {
	node   int
	around []int
	best   []uint16
}

func (s *solver) begin() {
	for node := range s.graph.own {
		own := &s.factors.cut(1)[0]
		own.nodes = s.numbers.cut(1)
		own.nodes[0] = node
		own.cost = s.costs.cut(len(s.states[node]))
		for i, state := range s.states[node] {
			own.cost[i] = s.graph.own[node][state]
		}
		s.around[node] = append(s.around[node], own)
	}
	for _, l := range s.graph.links {
		f := &s.factors.cut(1)[0]
		f.nodes, f.cost = s.numbers.cut(2), l.cost
		f.nodes[0], f.nodes[1] = l.a, l.b
		n := len(s.graph.own[l.b])
		if len(s.states[l.a]) < len(s.graph.own[l.a]) || len(s.states[l.b]) < n {
			f.cost = make([]float64, 0, len(s.states[l.a])*len(s.states[l.b]))
			for _, i := range s.states[l.a] {
				for _, j := range s.states[l.b] {
					f.cost = append(f.cost, l.cost[i*n+j])
				}
			}
		}
		s.around[l.a] = append(s.around[l.a], f)
		s.around[l.b] = append(s.around[l.b], f)
	}
	for node := range s.graph.own {
		if len(s.neighbours(node, 2)) <= 1 {
			s.leaves = append(s.leaves, node)
		}
	}
}

// run takes all nodes away: leaves as long as there are any, and between them
// whichever node takes least.
func (s *solver) run() {
	tangled := false
	for {
		if last := len(s.leaves) - 1; last >= 0 {
			node := s.leaves[last]
			s.leaves = s.leaves[:last]
			if !s.gone[node] {
				s.eliminate(node, tangled)
			}
			continue
		}
		if !tangled {
			tangled = true
			for node := range s.graph.own {
				if !s.gone[node] {
					s.queue = append(s.queue, entry{node, s.effort(node), s.stamp[node]})
				}
			}
			heap.Init(&s.queue)
		}
		if s.queue.Len() == 0 {
			return
		}
		next := s.queue[0]
		heap.Pop(&s.queue)
		if !s.gone[next.node] && s.stamp[next.node] == next.stamp {
			s.eliminate(next.node, true)
		}
	}
}

// neighbours lists the nodes that a node has factors with, those that are found first
// where that is enough. The list holds until the next call.
func (s *solver) neighbours(node, enough int) []int {
	list := s.near[:0]
	factors := s.around[node]
	s.round++
	s.seen[node] = s.round
	at, done := 0, 0
	for ; at < len(factors) && len(list) < enough; at++ {
		f := factors[at]
		if f.done {
			done++
			continue
		}
		factors[at-done] = f
		for _, other := range f.nodes {
			if s.seen[other] != s.round {
				s.seen[other] = s.round
				list = append(list, other)
			}
		}
	}
	// What is done is forgotten. Of a node with many factors of which few were looked at,
	// the others are not touched.
	if done > 0 {
		copy(factors[done:at], factors[:at-done])
		s.around[node] = factors[done:]
	}
	s.near = list
	return list
}

// beyond is an effort that nothing can be spent on; how far beyond it a node is does not
// matter.
const beyond = 1e30

// effort is how many combinations have to be looked at to take a node away. A node that
// is beyond effort since it stands between very many is not looked at for longer than
// that takes, however often what is around it changes.
func (s *solver) effort(node int) float64 {
	for enough := 128; ; enough *= 8 {
		n := float64(len(s.states[node]))
		found := s.neighbours(node, enough)
		for _, other := range found {
			n *= float64(len(s.states[other]))
		}
		if n > beyond || len(found) < enough {
			return min(n, beyond)
		}
	}
}

func (s *solver) eliminate(node int, tangled bool) {
	found := s.neighbours(node, math.MaxInt)
	around := s.numbers.cut(len(found))
	copy(around, found)
	slices.Sort(around)
	if s.narrow(node, around) {
		around = slices.DeleteFunc(around, func(other int) bool { return s.gone[other] })
		if s.gone[node] {
			return
		}
	}
	sizes := s.numbers.cut(len(around))
	size := 1
	for i, other := range around {
		sizes[i] = len(s.states[other])
		size *= sizes[i]
	}
	out := &s.factors.cut(1)[0]
	out.nodes, out.cost = around, s.costs.cut(size)
	t := taken{node: node, around: around, best: s.bests.cut(size)}
	s.reduce(node, out, &t, sizes)
	s.order = append(s.order, t)
	s.gone[node] = true
	for _, f := range s.around[node] {
		f.done = true
	}
	s.around[node] = s.around[node][:0]
	for _, other := range around {
		s.around[other] = append(s.around[other], out)
	}
	s.requeue(around, tangled)
}

// requeue puts nodes whose surroundings have changed where they are found again.
func (s *solver) requeue(nodes []int, tangled bool) {
	for _, other := range nodes {
		s.stamp[other]++
		switch {
		case len(s.neighbours(other, 2)) <= 1:
			s.leaves = append(s.leaves, other)
		case tangled:
			s.queue = append(s.queue, entry{other, s.effort(other), s.stamp[other]})
			heap.Fix(&s.queue, len(s.queue)-1)
		}
	}
}

// reduce works out, for every choice of the nodes around one, its best state
// and what that costs.
func (s *solver) reduce(node int, out *factor, t *taken, sizes []int) {
	n := len(s.states[node])
	// own is what depends on the node alone, the others are rows that are
	// looked up by the choice around.
	own := append(s.own[:0], make([]float64, n)...)
	rows := s.rows[:0]
	for _, f := range s.around[node] {
		if len(f.nodes) == 1 {
			for i, c := range f.cost {
				own[i] += c
			}
			continue
		}
		r := row{cost: f.cost, strides: s.numbers.cut(len(out.nodes))}
		stride := 1
		for k := len(f.nodes) - 1; k >= 0; k-- {
			if f.nodes[k] == node {
				r.step = stride
			} else {
				r.strides[slices.Index(out.nodes, f.nodes[k])] = stride
			}
			stride *= len(s.states[f.nodes[k]])
		}
		rows = append(rows, r)
	}
	s.own, s.rows = own, rows
	at := append(s.at[:0], make([]int, len(sizes))...)
	offsets := append(s.offsets[:0], make([]int, len(rows))...)
	s.at, s.offsets = at, offsets
	for i := range out.cost {
		best, which := math.Inf(1), 0
		switch len(rows) {
		case 1:
			c, step := rows[0].cost[offsets[0]:], rows[0].step
			for state, sum := range own {
				if sum += c[state*step]; sum < best {
					best, which = sum, state
				}
			}
		case 2:
			c, step := rows[0].cost[offsets[0]:], rows[0].step
			d, walk := rows[1].cost[offsets[1]:], rows[1].step
			for state, sum := range own {
				if sum += c[state*step] + d[state*walk]; sum < best {
					best, which = sum, state
				}
			}
		default:
			for state, sum := range own {
				for k := range rows {
					sum += rows[k].cost[offsets[k]+state*rows[k].step]
				}
				if sum < best {
					best, which = sum, state
				}
			}
		}
		out.cost[i], t.best[i] = best, uint16(which)
		for k := len(at) - 1; k >= 0; k-- { // the next choice around
			at[k]++
			for r := range rows {
				offsets[r] += rows[r].strides[k]
			}
			if at[k] < sizes[k] {
				break
			}
			for r := range rows {
				offsets[r] -= rows[r].strides[k] * sizes[k]
			}
			at[k] = 0
		}
	}
}

// narrow leaves out states around a node, those that promise least, until what
// has to be remembered together is not too much. Those that are left with one
// state are settled. It tells whether it left out any.
func (s *solver) narrow(node int, around []int) (some bool) {
	for {
		product, widest := 1.0, node
		for i := -1; i < len(around); i++ {
			other := node
			if i >= 0 {
				other = around[i]
			}
			product *= float64(len(s.states[other]))
			if len(s.states[other]) > len(s.states[widest]) {
				widest = other
			}
		}
		if product <= Most || len(s.states[widest]) == 1 {
			return some
		}
		some, s.narrowed = true, true
		if s.halve(widest); len(s.states[widest]) == 1 {
			s.settle(widest)
		}
	}
}

// settle takes away a node that has one state left: what it costs with each of
// the others is theirs from then on, and it ties them together no more.
func (s *solver) settle(node int) {
	near := slices.Clone(s.neighbours(node, math.MaxInt))
	for _, f := range s.around[node] {
		f.nodes = slices.DeleteFunc(slices.Clone(f.nodes), func(other int) bool { return other == node })
	}
	s.around[node], s.gone[node] = s.around[node][:0], true
	s.order = append(s.order, taken{node: node, best: []uint16{0}})
	s.requeue(near, true)
}

// halve leaves out the half of a node's states that promise least: by what they
// cost with the best that each factor has for them.
func (s *solver) halve(node int) {
	n := len(s.states[node])
	promise := make([]float64, n)
	for _, f := range s.around[node] {
		if f.done {
			continue
		}
		least := make([]float64, n)
		for i := range least {
			least[i] = math.Inf(1)
		}
		s.each(f, node, func(state, i int) { least[state] = min(least[state], f.cost[i]) })
		for i := range promise {
			promise[i] += least[i]
		}
	}
	order := upTo(n)
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case promise[a] < promise[b]:
			return -1
		case promise[a] > promise[b]:
			return 1
		}
		return 0
	})
	keep := order[:(n+1)/2]
	slices.Sort(keep)
	stays := make([]bool, n)
	for _, i := range keep {
		stays[i] = true
	}
	for _, f := range s.around[node] {
		if f.done {
			continue
		}
		cost := make([]float64, 0, len(f.cost)*len(keep)/n)
		s.each(f, node, func(state, i int) {
			if stays[state] {
				cost = append(cost, f.cost[i])
			}
		})
		f.cost = cost
	}
	left := make([]int, len(keep))
	for i, k := range keep {
		left[i] = s.states[node][k]
	}
	s.states[node] = left
	for i := range s.order { // what was remembered for the states that are gone
		t := &s.order[i]
		if k := slices.Index(t.around, node); k >= 0 {
			t.best = s.without(t, k, stays)
		}
	}
}

// each calls f for every entry of a factor with the state that a node has in
// it.
func (s *solver) each(fac *factor, node int, f func(state, i int)) {
	stride, size := 1, len(s.states[node])
	for k := len(fac.nodes) - 1; fac.nodes[k] != node; k-- {
		stride *= len(s.states[fac.nodes[k]])
	}
	for i := range fac.cost {
		f(i/stride%size, i)
	}
}

// without is what was remembered for a node taken away earlier, without the
// states that the k-th of the nodes around it has lost.
func (s *solver) without(t *taken, k int, stays []bool) []uint16 {
	stride := 1
	for j := len(t.around) - 1; j > k; j-- {
		stride *= len(s.states[t.around[j]])
	}
	var best []uint16
	for i, b := range t.best {
		if stays[i/stride%len(stays)] {
			best = append(best, b)
		}
	}
	return best
}

// backwards finds the states again, those taken away last first.
func (s *solver) backwards() []int {
	at := make([]int, len(s.graph.own))
	chosen := make([]int, len(s.graph.own))
	for _, t := range slices.Backward(s.order) {
		i := 0
		for _, other := range t.around {
			i = i*len(s.states[other]) + at[other]
		}
		at[t.node] = int(t.best[i])
		chosen[t.node] = s.states[t.node][at[t.node]]
	}
	return chosen
}

func upTo(n int) []int {
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	return list
}

// entry is a node in the queue, with the effort of taking it away; it is stale
// where the node has another stamp.
type entry struct {
	node   int
	effort float64
	stamp  int
}

type queue []entry

func (q queue) Len() int { return len(q) }
func (q queue) Less(i, j int) bool {
	return q[i].effort < q[j].effort || q[i].effort == q[j].effort && q[i].node < q[j].node
}
func (q queue) Swap(i, j int) { q[i], q[j] = q[j], q[i] }
func (q *queue) Push(x any)   { *q = append(*q, x.(entry)) }

// Pop takes the last away. The first is looked at before, since an interface
// would need memory of its own.
func (q *queue) Pop() any {
	*q = (*q)[:len(*q)-1]
	return nil
}
