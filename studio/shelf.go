package studio

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/skill"
	"valleyside/core/song"
	"valleyside/store"
)

// The shelf of a studio is compared with what each student has, in the background: what songs ask
// for is part of their sums, what a student has is what their teacher says and what they have
// learnt.

// Needed is what a song asks of a player on a rung: of parts by what they are known by.
type Needed struct {
	Rung  arrange.Rung `json:"rung"`
	Needs []skill.Need `json:"needs"`
}

// shelved are the rungs on which songs are compared, the fullest first: as it is written, and in
// the same texture, stands before what is simpler.
var shelved = []arrange.Rung{arrange.AsWritten, arrange.EasyChords, arrange.TwoNote, arrange.OneFinger}

// sameTexture is how many of them play a song as it is meant.
const sameTexture = 2

// neededOf measures what a song asks for on each of the rungs that any of its parts has; the other
// parts are as written.
func neededOf(g *song.Song, a *arrange.Arranger, p hand.Player) (list []Needed) {
	for _, rung := range shelved {
		var versions []*arrange.Version
		any := rung == arrange.AsWritten
		for i := range g.Parts {
			on := arrange.AsWritten
			if rung != on && a.Refused(i, rung) == nil {
				on, any = rung, true
			}
			v := a.Version(i, on, arrange.Way{})
			versions = append(versions, &v)
		}
		if !any {
			continue
		}
		needs := skill.Of(g, versions, p)
		for i := range needs {
			for k, part := range needs[i].Parts {
				needs[i].Parts[k] = int(g.PartID(part))
			}
		}
		list = append(list, Needed{rung, needs})
	}
	return list
}

// riffs is the kind under which riffs stand beside skills: songs share them, and nobody has to
// have them.
const riffs skill.Kind = "riff"

// sharedOf is what a song shares with others: what it asks for in its own texture, and its riffs.
func sharedOf(g *song.Song, a *arrange.Arranger, needed []Needed) (list []store.SongSkill) {
	for _, n := range needed {
		if !n.Rung.Literal() {
			continue
		}
		for i := range n.Needs {
			need := &n.Needs[i]
			if need.Kind != skill.Pace && need.Kind != skill.Reach && need.Skill&(hand.TwoFingers|hand.ThreeFingers) == 0 { // which all songs have
				list = append(list, store.SongSkill{Kind: string(need.Kind), Key: need.Key, Name: need.Name})
			}
		}
	}
	for i := range g.Parts {
		v := a.Version(i, arrange.AsWritten, arrange.Way{})
		for _, r := range skill.Riffs(g, &v) {
			list = append(list, store.SongSkill{Kind: string(riffs), Key: r.Key, Name: riffName(g, &r)})
		}
	}
	return list
}

// riffName says where a riff is, and where on the neck.
func riffName(g *song.Song, r *skill.Riff) string {
	name := fmt.Sprintf("bar %d of %s, on the %s string", r.Bar, g.Parts[r.Part].Name, r.On)
	if r.At > 0 {
		name += fmt.Sprintf(" from fret %d", r.At)
	}
	return name
}

// shelfRead is what songs ask for, as it was read from their sums: each once, for all students.
type shelfRead map[string][]Needed

// of reads what a sum has of what a song asks for. It is shared and must not be changed.
func (r shelfRead) of(text string) []Needed {
	list, ok := r[text]
	if !ok {
		_ = json.Unmarshal([]byte(text), &list) // what is none is empty
		r[text] = list
	}
	return list
}

// fitShelf works out how far away songs are for a student, those of whom that is not known or has
// changed.
func (h *House) fitShelf(ctx context.Context, studio, student int64, read shelfRead) error {
	st, err := h.Store.Student(ctx, studio, student)
	if err != nil {
		return err
	}
	songs, err := h.Store.UnfitSongs(ctx, studio, student)
	if err != nil || len(songs) == 0 {
		return err
	}
	learnt, err := h.Store.LearntParts(ctx, studio, student)
	if err != nil {
		return err
	}
	var fits []store.SongFit
	err = h.guard(ctx, "The songs that fit "+st.Name, []slog.Attr{slog.Int64("student", student), slog.String("hand", fmt.Sprintf("%+v", Player(&st)))}, func() error {
		has := hasOf(&st, learnt, read)
		for _, g := range songs {
			fit := bestFit(&has, read.of(g.Needs))
			fit.SongID = g.SongID
			fits = append(fits, fit)
		}
		return nil
	})
	if err != nil {
		return err
	}
	return h.Store.SetFits(ctx, studio, student, fits)
}

// hasOf is what a student has: by their teacher's word, and by the parts that they have learnt, on
// the rungs on which songs are compared.
func hasOf(st *store.Student, learnt []store.LearntPart, read shelfRead) skill.Has {
	has := skill.Has{Student: Learner(st)}
	for _, p := range learnt {
		for _, n := range read.of(p.Needs) {
			if n.Rung != p.Rung {
				continue
			}
			for i := range n.Needs {
				if slices.Contains(n.Needs[i].Parts, int(p.PartID)) {
					has.With(n.Needs[i : i+1])
				}
			}
		}
	}
	return has
}

// WithoutChanges leaves out changes where there is anything else: they are learnt with their
// shapes.
func WithoutChanges(missing []skill.Need) []skill.Need {
	isChange := func(n skill.Need) bool { return n.Kind == skill.Change }
	if rest := slices.DeleteFunc(slices.Clone(missing), isChange); len(rest) > 0 {
		return rest
	}
	return missing
}

// bestFit is how far away a song is: as it is meant where that is ready or one thing away, else on
// the first simpler rung that is. Whoever plays chords does not play a song of chords with one
// finger: it comes later.
func bestFit(has *skill.Has, all []Needed) store.SongFit {
	fits := make([]store.SongFit, len(all))
	for i, n := range all {
		ready, missing := has.Compare(n.Needs)
		fits[i] = store.SongFit{Ready: string(ready), Rung: n.Rung}
		for _, m := range WithoutChanges(missing) {
			if len(fits[i].Missing) == 0 {
				fits[i].FirstKind = string(m.Kind)
			}
			fits[i].Missing = append(fits[i].Missing, m.Name)
		}
	}
	if len(all) > 0 && has.Chords() && slices.ContainsFunc(all[0].Needs, func(n skill.Need) bool { return n.Kind == skill.Family && skill.OfChords(n.Key) }) {
		fits = slices.DeleteFunc(fits, func(f store.SongFit) bool { return slices.Index(shelved, f.Rung) >= sameTexture })
	}
	simple := func(f store.SongFit) bool { return slices.Index(shelved, f.Rung) >= sameTexture }
	for _, want := range []struct {
		ready  skill.Ready
		simple bool
	}{{skill.Now, false}, {skill.First, false}, {skill.Now, true}, {skill.First, true}} {
		if i := slices.IndexFunc(fits, func(f store.SongFit) bool { return f.Ready == string(want.ready) && simple(f) == want.simple }); i >= 0 {
			return fits[i]
		}
	}
	if len(fits) == 0 {
		return store.SongFit{Ready: string(skill.Later)}
	}
	return fits[0]
}
