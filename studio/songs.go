package studio

import (
	"cmp"
	"context"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
)

// partsOf are the rows of what the parts of a song are known by.
func partsOf(g *song.Song, ids []song.Identity) []store.SongPart {
	rows := make([]store.SongPart, len(ids))
	for i, id := range ids {
		rows[i] = store.SongPart{Position: i, PartID: id.ID, Name: g.Parts[i].Name, Bars: id.Bars, NextBar: id.Next}
	}
	return rows
}

// MostSongTitle is how long the title of a song may be, in characters.
const MostSongTitle = 120

// AddSong adds a song to a studio, under the title that its sheet has or another.
func (h *House) AddSong(ctx context.Context, studio int64, title, text string, now store.Instant) (int64, error) {
	g := sheet.Parse(text).Song
	ids, _, next := song.Identify(nil, g, 0)
	id, err := h.Store.AddSong(ctx, studio, store.NewSave{Title: cmp.Or(title, g.Title), Sheet: text, Parts: partsOf(g, ids), NextPart: next}, now)
	if err == nil {
		h.Wake()
	}
	return id, err
}

// SaveSong saves a sheet that was read as a new version of a song, based on an earlier one;
// 0 takes whichever is there. Its parts are matched with those of before: lessons,
// decisions and what was practised go on with them. store.ErrConflict as store.SaveSong has
// it.
func (h *House) SaveSong(ctx context.Context, studio, id int64, base int, title, text string, sh *sheet.Sheet, now store.Instant) (store.Song, error) {
	saved, err := h.Store.SaveSong(ctx, studio, id, base, title, text, now, func(before store.Before) store.Followed { return follow(before, text, sh.Song) })
	if err == nil {
		h.Wake()
	}
	return saved, err
}

// follow is what becomes of a song whose sheet is another now.
func follow(before store.Before, text string, is *song.Song) store.Followed {
	was := sheet.Parse(before.Song.Sheet).Song.WithIDs(identities(before.Parts))
	ids, beside, next := song.Identify(was, is, before.Song.NextPart)
	is = is.WithIDs(ids)
	out := store.Followed{NewSave: store.NewSave{Sheet: text, Parts: partsOf(is, ids), NextPart: next}, Beside: beside}
	for _, w := range before.Ways {
		i, was1 := was.PartWith(w.PartID)
		j, is1 := is.PartWith(w.PartID)
		if was1 && is1 && w.Player == "" { // bars of other players are known by their places
			w.Way = movedWay(w.Way, &was.Parts[i], &is.Parts[j])
		}
		if w.Way != "" {
			out.Ways = append(out.Ways, w)
		}
	}
	return out
}

// movedWay is how the teacher wants a version of a part made whose bars have moved: what
// was decided for a bar goes with it, and goes when it is taken out.
func movedWay(text string, was, is *song.Part) string {
	way, err := arrange.ParseWay(text)
	if err != nil {
		return text // what is not understood stays as it is
	}
	moved := false
	kept := slices.Clone(way.Pins)[:0]
	for _, p := range way.Pins {
		if p.Bar > 0 {
			bar := is.BarWith(was.BarID(p.Bar))
			moved = moved || bar != p.Bar
			if p.Bar = bar; bar == 0 {
				continue
			}
		}
		kept = append(kept, p)
	}
	if !moved {
		return text
	}
	way.Pins = kept
	return way.String()
}

// Ways are how the teacher wants the versions of a song made, by line and rung.
type Ways map[Line]map[arrange.Rung]string

// Line is what somebody plays in a part.
type Line struct {
	Part   song.PartID
	Player string // by the name in the sheet; empty is the first one
}

// WaysOf are those of a song now.
func (h *House) WaysOf(ctx context.Context, studio, id int64) (Ways, error) {
	list, err := h.Store.WaysOf(ctx, studio, id)
	w := Ways{}
	for _, one := range list {
		w.set(Line{one.PartID, one.Player}, one.Rung, one.Way)
	}
	return w, err
}

func (w Ways) set(line Line, rung arrange.Rung, way string) {
	if way == "" {
		return
	}
	if w[line] == nil {
		w[line] = map[arrange.Rung]string{}
	}
	w[line][rung] = way
}

// Of reads the ways of a line. What a way says that is not understood any more
// is left to the program.
func (w Ways) Of(part song.PartID, player string) map[arrange.Rung]arrange.Way {
	read := map[arrange.Rung]arrange.Way{}
	for rung, text := range w[Line{part, player}] {
		read[rung], _ = arrange.ParseWay(text)
	}
	return read
}

// Key is what a piece of work depends on of them.
func (w Ways) Key() any {
	type one struct {
		Line Line
		Rung arrange.Rung
		Way  string
	}
	var list []one
	for line, of := range w {
		for rung, way := range of {
			list = append(list, one{line, rung, way})
		}
	}
	slices.SortFunc(list, func(a, b one) int {
		return cmp.Or(cmp.Compare(a.Line.Part, b.Line.Part), cmp.Compare(a.Line.Player, b.Line.Player), cmp.Compare(a.Rung, b.Rung))
	})
	return list
}
