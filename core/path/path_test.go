package path

import (
	"math"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// draw makes a graph of any form that is small enough to try every choice.
func draw(t *rapid.T) *Graph {
	var g Graph
	n := rapid.IntRange(1, 7).Draw(t, "nodes")
	cost := rapid.Float64Range(0, 10)
	for range n {
		costs := rapid.SliceOfN(cost, 1, 4).Draw(t, "own")
		if rapid.IntRange(0, 9).Draw(t, "ruled out") == 0 && len(costs) > 1 {
			costs[0] = math.Inf(1)
		}
		g.Node(costs)
	}
	for range rapid.IntRange(0, 2*n).Draw(t, "links") {
		a, b := rapid.IntRange(0, n-1).Draw(t, "a"), rapid.IntRange(0, n-1).Draw(t, "b")
		m := rapid.SliceOfN(cost, g.States(a)*g.States(b), g.States(a)*g.States(b)).Draw(t, "cost")
		g.Link(a, b, rapid.Float64Range(0, 3).Draw(t, "weight"), func(i int, row []float64) {
			copy(row, m[i*len(row):])
		})
	}
	return &g
}

// every calls f with every choice of states.
func every(g *Graph, f func([]int)) {
	states := make([]int, g.Nodes())
	var from func(int)
	from = func(node int) {
		if node == len(states) {
			f(states)
			return
		}
		for states[node] = range g.States(node) {
			from(node + 1)
		}
	}
	from(0)
}

func TestSolveAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := draw(t)
		found := g.Solve()
		states, total := found.States, found.Total
		require.True(t, found.Exact)
		require.InDelta(t, g.Total(states), total, 1e-9)
		best := math.Inf(1)
		every(g, func(states []int) { best = min(best, g.Total(states)) })
		require.InDelta(t, best, total, 1e-9, "a cheaper choice exists")
	})
}

// Nodes held to some of their states are, and the rest is the best beside them.
func TestAmongAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := draw(t)
		allowed := map[int][]int{}
		for node := range g.Nodes() {
			if rapid.Bool().Draw(t, "held") {
				state := rapid.IntRange(0, g.States(node)-1).Draw(t, "state")
				allowed[node] = []int{state}
				if state > 0 && rapid.Bool().Draw(t, "two") {
					allowed[node] = []int{0, state}
				}
			}
		}
		found := g.Among(allowed)
		states, total := found.States, found.Total
		best := math.Inf(1)
		every(g, func(states []int) {
			for node, list := range allowed {
				if states[node] != list[0] && states[node] != list[len(list)-1] {
					return
				}
			}
			best = min(best, g.Total(states))
		})
		if math.IsInf(best, 1) {
			return
		}
		require.InDelta(t, best, total, 1e-9)
		for node, list := range allowed {
			require.Contains(t, list, states[node])
		}
	})
}

// What is said several times of the same two nodes adds up, in either
// direction, and a node linked to itself goes on as it is.
func TestLinks(t *testing.T) {
	var g Graph
	a, b := g.Node([]float64{0, 1}), g.Node([]float64{0, 0, 0})
	g.Link(a, b, 2, func(i int, row []float64) {
		for j := range row {
			row[j] = float64(10*i + j)
		}
	})
	g.Link(b, a, 1, func(j int, row []float64) {
		for i := range row {
			row[i] = float64(100*i + j)
		}
	})
	g.Link(a, a, 3, func(i int, row []float64) {
		for j := range row {
			row[j] = float64(1000*i + 7*j)
		}
	})
	assert.Equal(t, 1.0+2*(10+2)+(100+2)+3*(1000+7), g.Total([]int{1, 2}))
	assert.Equal(t, Solution{States: []int{0, 0}, Exact: true}, g.Solve())
	var empty Graph
	assert.Equal(t, Solution{States: []int{}, Exact: true}, empty.Solve())
}

// A tangle that is too wide to remember whole is narrowed, and what comes out
// is a choice whose total is told truly.
func TestNarrowing(t *testing.T) {
	var g Graph
	const nodes, states = 9, 24
	seed := uint32(1)
	next := func() float64 {
		seed = seed*1664525 + 1013904223
		return float64(seed>>16) / 65536
	}
	for range nodes {
		costs := make([]float64, states)
		for i := range costs {
			costs[i] = next() * 10
		}
		g.Node(costs)
	}
	for a := range nodes {
		for b := range a {
			g.Link(b, a, 1, func(_ int, row []float64) {
				for j := range row {
					row[j] = next()
				}
			})
		}
	}
	found := g.Solve()
	chosen, total := found.States, found.Total
	require.Len(t, chosen, nodes)
	assert.False(t, found.Exact, "it is said that states were left out")
	assert.InDelta(t, g.Total(chosen), total, 1e-9)
	greedy := make([]int, nodes)
	for node := range nodes {
		for i := range states {
			if g.own[node][i] < g.own[node][greedy[node]] {
				greedy[node] = i
			}
		}
	}
	assert.Less(t, total, g.Total(greedy)+1e-9, "no worse than each node by itself")
}

// A chain is linear: 16,000 nodes of 8 states.
func BenchmarkChain(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		var g Graph
		for i := range 16_000 {
			g.Node(make([]float64, 8))
			if i > 0 {
				g.Link(i-1, i, 1, func(k int, row []float64) {
					for j := range row {
						row[j] = float64((k + j + i) % 5)
					}
				})
			}
		}
		g.Solve()
	}
}

// What is remembered of a node taken away, for every choice of those around it, is what is
// left of it when one of those has fewer states.
func TestWithout(t *testing.T) {
	s := &solver{states: [][]int{{0, 1}, {0, 1, 2, 3}, {0, 1, 2}}}
	t3 := &taken{node: 9, around: []int{0, 1, 2}}
	at := func(i, j, k int) uint16 { return uint16(100*i + 10*j + k) }
	for i := range 2 {
		for j := range 4 {
			for k := range 3 {
				t3.best = append(t3.best, at(i, j, k))
			}
		}
	}
	for node, stays := range [][]bool{{false, true}, {true, false, false, true}, {true, true, false}} {
		var want []uint16
		for i := range 2 {
			for j := range 4 {
				for k := range 3 {
					if stays[[]int{i, j, k}[node]] {
						want = append(want, at(i, j, k))
					}
				}
			}
		}
		assert.Equal(t, want, s.without(t3, node, stays))
	}
}

// hubs makes a chain of so many steps in which each also depends on one of a few nodes
// that all of it hangs on, and what its links cost.
func hubs(steps, few int, cost func(node, other, i, j int) float64) *Graph {
	var g Graph
	link := func(a, b int) {
		g.Link(a, b, 1, func(i int, row []float64) {
			for j := range row {
				row[j] = cost(a, b, i, j)
			}
		})
	}
	for range few {
		g.Node([]float64{0, 0})
	}
	for step := range steps {
		node := g.Node([]float64{0, 0, 0})
		if step > 0 {
			link(node-1, node)
		}
		link(step*7%few, node)
	}
	return &g
}

// A long chain of which every step depends on one of a few nodes is solved as for each
// choice of those few it would be alone.
func TestHubs(t *testing.T) {
	const steps, few = 900, 4
	cost := func(a, b, i, j int) float64 { return float64((a*31+b*17+i*13+j*7+a*b%5*i*j)%23) / 23 }
	best := math.Inf(1)
	for choice := range 1 << few {
		at := func(hub int) int { return choice >> hub & 1 }
		var sums [3]float64
		for step := range steps {
			node := few + step
			var next [3]float64
			for j := range next {
				next[j] = math.Inf(1)
				for i, sum := range sums {
					if step > 0 {
						sum += cost(node-1, node, i, j)
					}
					next[j] = min(next[j], sum)
				}
				hub := step * 7 % few
				next[j] += cost(hub, node, at(hub), j)
			}
			sums = next
		}
		best = min(best, sums[0], sums[1], sums[2])
	}
	found := hubs(steps, few, cost).Solve()
	states, total := found.States, found.Total
	assert.Len(t, states, few+steps)
	assert.InDelta(t, best, total, 1e-6)
}

// Twice as many steps that hang on the same few nodes take twice as long.
func BenchmarkHubs(b *testing.B) {
	for _, steps := range []int{1000, 10000, 100000} {
		g := hubs(steps, 6, func(a, b, i, j int) float64 { return float64((a*31+b*17+i*13+j*7)%23) / 23 })
		b.Run(strconv.Itoa(steps), func(b *testing.B) {
			for b.Loop() {
				g.Solve()
			}
		})
	}
}
