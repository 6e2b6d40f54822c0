package tab

import (
	"os"
	"testing"
	"valleyside/core/sheet"
	"valleyside/formats/take"
)

func TestDbg(t *testing.T) {
	if os.Getenv("F") == "" {
		t.Skip()
	}
	d, _ := os.ReadFile(os.Getenv("F"))
	var p take.Problems
	sc, err := Read(d, &p)
	if err != nil {
		t.Fatal(err)
	}
	t.Logf("%+v", sc.Players[0].Sounds)
	g, err := sc.Song(sc.Usual(), &p)
	t.Log(err, p)
	t.Log("\n" + sheet.Write(g))
}
