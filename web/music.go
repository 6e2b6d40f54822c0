package web

import (
	"errors"
	"strconv"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/play"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// partSummary is a part and its rungs.
type partSummary struct {
	ID      song.PartID
	Name    string
	Bars    int
	Tempo   float64
	Player  string        // whose line it is
	Players []string      // the others who play in it
	Rungs   []rungSummary // the easiest first
	Suggest arrange.Rung  // what fits the student
	Why     string        // why it does
	Fits    string        // what is begun with of the whole song, in a sentence
}

type rungSummary struct {
	Rung  arrange.Rung
	Grade float64
	Feet  []arrange.Foot // stroke by stroke
}

// Rung finds the summary of a rung; the part as written where there is none.
func (p *partSummary) Rung(r arrange.Rung) *rungSummary {
	for i := range p.Rungs {
		if p.Rungs[i].Rung == r {
			return &p.Rungs[i]
		}
	}
	return &p.Rungs[len(p.Rungs)-1]
}

// Written is the part as written.
func (p *partSummary) Written() *rungSummary { return p.Rung(arrange.AsWritten) }

// options are how versions are made in a studio.
func (s *base) options(c *echo.Context, p hand.Player, tempo float64) arrange.Options {
	at := home(c)
	return s.house.Options(&at, p, tempo)
}

// whom lists the students that a page may be made for by their names, and reads the one
// that is asked for; nobody where none is.
func (s *base) whom(c *echo.Context, asked string) (names []store.Student, one store.Student, err error) {
	ctx, at := c.Request().Context(), home(c).ID
	if names, err = s.Store.StudentNames(ctx, at); err != nil {
		return nil, one, err
	}
	n, err := strconv.ParseInt(asked, 10, 64)
	if err != nil || n <= 0 {
		return names, one, nil
	}
	one, err = s.Store.Student(ctx, at, n)
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return names, one, err
}

// read reads the latest version of a song, whose parts are known by their numbers.
func (s *base) read(c *echo.Context, g store.Song) (*song.Song, error) {
	ids, err := s.Store.SongParts(c.Request().Context(), home(c).ID, g.ID, g.Save)
	return s.house.Read(home(c).ID, g.Sheet, ids), err
}

// ladders work out the rungs of all parts of a song, for a student with the hand and at the
// target tempo of the options, of the lines that the parts of a lesson name.
func (s *base) ladders(c *echo.Context, g *song.Song, text string, w studio.Ways, o arrange.Options, parts []store.Part, who *store.Student) ([]partSummary, error) {
	written, players := g, map[song.PartID]string{}
	for _, p := range parts {
		players[p.PartID] = p.Player
	}
	g = g.As(func(i int) string { return players[g.PartID(i)] })
	bars := 0
	for i := range g.Parts {
		bars += g.Parts[i].Written()
	}
	tempo := o.Tempo
	if tempo == 0 {
		tempo = g.Tempo
	}
	ctx := c.Request().Context()
	return studio.Worked(ctx, s.house, home(c).ID, studio.WorkOf("ladders", text, idsOf(g), w.Key(), studio.OfOptions(o), parts, who.ID == 0, who.Known, who.Minutes, speaker(c)), bars, func() ([]partSummary, error) {
		a := arrange.New(g, o)
		var list []partSummary
		all := make([][]arrange.Version, len(g.Parts))
		for i := range g.Parts {
			part := &g.Parts[i]
			p := partSummary{ID: g.PartID(i), Name: part.Name, Bars: part.Written(), Tempo: play.Tempo(g, part, tempo), Player: players[g.PartID(i)], Players: written.Parts[i].Players()}
			versions, err := a.LadderWhile(ctx, i, w.Of(p.ID, p.Player))
			if err != nil {
				return nil, err
			}
			for j := range versions {
				p.Rungs = append(p.Rungs, rungSummary{Rung: versions[j].Rung, Grade: versions[j].Grade, Feet: versions[j].Feet()})
			}
			list, all[i] = append(list, p), versions
		}
		learner := studio.LearnerOrAnybody(who)
		learner.Player = o.Player
		fitted := fit.Song(g, all, learner)
		for i := range fitted.Parts {
			p := &fitted.Parts[i]
			list[p.Part].Suggest, list[p.Part].Why = p.Version.Rung, speaker(c).FitPart(p)
			list[p.Part].Fits = speaker(c).Fit(g, &fitted)
		}
		return list, nil
	})
}

// idsOf is what the parts of a song are known by, for a key.
func idsOf(g *song.Song) (ids []song.Identity) {
	for i := range g.Parts {
		ids = append(ids, g.Parts[i].Identity)
	}
	return ids
}

// hillOf is a hillside that was kept, as a picture.
func hillOf(kept string, width, height float64, label string) draw.Hill {
	h := studio.ParseHillside(kept)
	return draw.Hill{Bars: h.Bars, Ridge: h.Ridge, Path: h.Path, Width: width, Height: height, Label: label}
}

// partOf reads what a part is known by from a form.
func partOf(text string) song.PartID {
	n, err := strconv.Atoi(text)
	if err != nil {
		return 0
	}
	return song.PartID(n)
}
