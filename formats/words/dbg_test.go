package words
import ("testing";"os";"valleyside/formats/take";"valleyside/core/sheet";"valleyside/core/play";"valleyside/core/arrange")
func TestDbg(t *testing.T){ if os.Getenv("F")=="" {t.Skip()}; d,_:=os.ReadFile(os.Getenv("F")); var p take.Problems; sc,err:=Read(d,Options{}, &p); if err!=nil {t.Fatal(err)}; g,err:=sc.Song(sc.Usual(),&p); t.Log(err,p); t.Log("\n"+sheet.Write(g))
g=sheet.Parse(sheet.Write(g)).Song
music := play.Arrange(g, arrange.Options{}, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
Write(os.Stdout, g, music)
}
