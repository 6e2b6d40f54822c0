package studio

import (
	"context"
	"fmt"

	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
)

// Upgrade brings what an older program has written up to date, in a studio or with 0 in
// all: parts and steps that were known by words get what they are known by now. It goes on
// where it was cut short. report is told how many songs are done, of how many.
func (h *House) Upgrade(ctx context.Context, studio int64, report func(done, of int)) error {
	old, err := h.Store.OldSongs(ctx, studio)
	if err != nil {
		return err
	}
	for i, g := range old {
		err := h.guard(ctx, fmt.Sprintf("Song %d of an older program", g.ID), nil, func() error { return h.Store.UpgradeSong(ctx, g.StudioID, g.ID, upgraded) })
		if err != nil {
			return err
		}
		if report != nil {
			report(i+1, len(old))
		}
	}
	return nil
}

// upgraded is what a song of an older program is now.
func upgraded(old *store.OldSong) store.Upgraded {
	var now store.Upgraded
	versions := map[int]*song.Song{}
	byName := map[string]song.PartID{} // as a part was called last
	var was *song.Song
	for i, v := range old.Saves {
		is := sheet.Parse(v.Sheet).Song
		ids, _, next := song.Identify(was, is, now.NextPart)
		if old.Known != nil {
			ids, next = identities(old.Known[i]), old.Song.NextPart
		}
		was, now.NextPart = is.WithIDs(ids), next
		versions[v.No] = was
		now.Parts = append(now.Parts, partsOf(is, ids))
		for i := range was.Parts {
			byName[was.Parts[i].Name] = was.PartID(i)
		}
	}
	now.NextPart = max(now.NextPart, 1)
	latest := versions[old.Song.Save]
	if latest == nil {
		latest = was
	}
	if latest == nil {
		latest = sheet.Parse("").Song
	}
	named := func(g *song.Song, name string) song.PartID {
		if i, ok := g.PartNamed(name); ok {
			return g.PartID(i)
		}
		return byName[name] // 0 where it was never there
	}
	plan := func(text string, g *song.Song) string {
		if text == "" {
			return ""
		}
		if p, err := lesson.ParsePlan(text); err == nil {
			return p.String() // it knows nothing of words
		}
		p, _, err := lesson.OldPlan(text, g)
		if err != nil || len(p.Faults()) > 0 {
			return text // what is wrong with it is said where it is looked at
		}
		return p.String()
	}
	for _, w := range old.Ways {
		if id := named(latest, w.Part); id != 0 {
			now.Ways = append(now.Ways, store.Way{PartID: id, Rung: w.Rung, Way: w.Way})
		}
	}
	for _, l := range old.Lessons {
		for i := range l.Parts {
			l.Parts[i].PartID = lost(named(latest, l.Parts[i].Part))
		}
		l.Plan = plan(l.Plan, latest)
		now.Lessons = append(now.Lessons, l)
	}
	of := map[int64]*song.Song{}
	for _, a := range old.Assignments {
		g := versions[a.SongSave]
		if g == nil {
			g = latest
		}
		of[a.ID] = g
		for i := range a.Parts {
			p := &a.Parts[i]
			p.PartID = lost(named(g, p.Part))
			if p.Target == 0 {
				p.Target = Given(g, []store.Part{{PartID: p.PartID, Rung: "x"}}, a.TargetTempo)[0].Target
			}
		}
		a.Plan = plan(a.Plan, g)
		now.Assignments = append(now.Assignments, a)
	}
	for _, e := range old.Practised {
		g := of[e.AssignmentID]
		if g == nil {
			g = latest
		}
		p := store.Practised{PartID: lost(named(g, e.Part))}
		if e.Step != "" {
			id, ok := lesson.OldStepID(e.Step, g)
			if !ok {
				id, _ = lesson.ParseStepID(e.Step)
			}
			p.Step, p.Some = id.String(), !id.OfWhole()
			if id.IsZero() { // nobody knows of what: but not of the whole
				p.Step, p.Some = "", true
			}
		}
		now.Practised = append(now.Practised, p)
	}
	return now
}

// lost is what a part is known by that nobody knows any more.
func lost(id song.PartID) song.PartID {
	if id == 0 {
		return -1
	}
	return id
}

// Open opens a database, brings it up to date, and tells how far it is.
func Open(ctx context.Context, path string, report func(string)) (*store.Store, error) {
	if report == nil {
		report = func(string) {}
	}
	s, err := store.OpenTelling(ctx, path, func(step, of int) { report(fmt.Sprintf("bringing the tables up to date: step %d of %d", step, of)) })
	if err != nil {
		return nil, err
	}
	err = New(s, nil).Upgrade(ctx, 0, func(done, of int) { report(fmt.Sprintf("bringing the studio up to date: song %d of %d", done, of)) })
	if err != nil {
		s.Close()
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	return s, nil
}

// TakeIn takes an export in whose rows were checked, and brings it up to date.
func (h *House) TakeIn(ctx context.Context, studio int64, a *store.Archive, report func(rows int)) error {
	err := h.Store.Import(ctx, studio, store.TakeIn{Archive: a, Report: report, Upgrade: func(ctx context.Context) error { return h.Upgrade(ctx, studio, nil) }})
	if err == nil {
		h.Wake()
	}
	return err
}
