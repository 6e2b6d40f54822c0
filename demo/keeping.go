package demo

import (
	"context"
	"time"

	"valleyside/store"
)

// tags are those that the teacher has put on songs, groups those on students.
var (
	tags = map[string][]string{"copper-kettle": {"waltz", "first year"}, "willow-post": {"waltz", "campfire"}, "two-lamps": {"campfire"}, "sundial": {"campfire"},
		"slate-roof": {"loud"}, "night-bus-nine": {"loud"}, "weir-gate": {"first year"}}
	groups = map[string][]string{"Odalys": {"beginners"}, "Rosalind": {"beginners", "daytime"}, "Ilse": {"beginners", "daytime"}, "Bram": {"spring concert"}, "Saskia": {"spring concert"}, "Teodor": {"spring concert"}}
	wishes = map[string]string{"Rosalind": "Copper Kettle", "Teodor": "Corner Lamp Shuffle"}
)

// keep puts tags on what is there, and has students wish for songs.
func keep(ctx context.Context, st *store.Store, home int64, songs, students map[string]int64, now time.Time) error {
	for name, list := range tags {
		if err := st.SetTags(ctx, home, store.OnSong, songs[name], list); err != nil {
			return err
		}
	}
	for name, list := range groups {
		if err := st.SetTags(ctx, home, store.OnStudent, students[name], list); err != nil {
			return err
		}
	}
	for name, wish := range wishes {
		song, err := st.SongTitled(ctx, home, wish)
		if err != nil {
			return err
		}
		if err := st.AddWord(ctx, store.Word{StudioID: home, StudentID: students[name], Word: wish, Wish: true, SongID: song, SaidAt: store.At(now.Add(-50 * time.Hour)), SentID: "wish"}); err != nil {
			return err
		}
	}
	return nil
}
