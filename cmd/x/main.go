package main
import ("fmt";"os";"valleyside/core/sheet")
func main(){ b,_:=os.ReadFile(os.Args[1]); s:=sheet.Parse(string(b)); for _,p:=range s.Problems {fmt.Println(p)}; fmt.Print(s.Format()); for _,p:=range s.Song.Parts { for _,l:=range p.Lines { for _,b:=range l.Bars { for _,e:=range b.Events { fmt.Print(e.Start,"+",e.Length," ",sheet.FormatEvent(&e),"; ") }; fmt.Println()}}}}
