package formats

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
)

// What strangers' programs write is well formed and odd: not the bytes are changed here but what
// they say. A file of each form is taken apart, some of its pieces go, come twice, change places
// or their numbers, and things are put in that others write.

// node is an element of XML.
type node struct {
	name string
	attr []xml.Attr
	text string
	kids []*node
}

func parseXML(data []byte) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	d.Strict = false
	open := []*node{{}}
	for {
		t, err := d.Token()
		if t == nil {
			if len(open[0].kids) == 0 {
				return nil, err
			}
			return open[0].kids[0], nil
		}
		top := open[len(open)-1]
		switch t := t.(type) {
		case xml.StartElement:
			n := &node{name: t.Name.Local, attr: slices.Clone(t.Attr)}
			top.kids = append(top.kids, n)
			open = append(open, n)
		case xml.EndElement:
			open = open[:len(open)-1]
		case xml.CharData:
			top.text += strings.TrimSpace(string(t))
		}
	}
}

func (n *node) write(b *bytes.Buffer) {
	fmt.Fprintf(b, "<%s", n.name)
	for _, a := range n.attr {
		fmt.Fprintf(b, ` %s="`, a.Name.Local)
		_ = xml.EscapeText(b, []byte(a.Value))
		b.WriteString(`"`)
	}
	b.WriteString(">")
	_ = xml.EscapeText(b, []byte(n.text))
	for _, k := range n.kids {
		k.write(b)
	}
	fmt.Fprintf(b, "</%s>", n.name)
}

func (n *node) all(list *[]*node) {
	*list = append(*list, n)
	for _, k := range n.kids {
		k.all(list)
	}
}

func (n *node) copy() *node {
	c := *n
	c.attr, c.kids = slices.Clone(n.attr), nil
	for _, k := range n.kids {
		c.kids = append(c.kids, k.copy())
	}
	return &c
}

// oddNumbers stand where a number is read.
var oddNumbers = []string{"0", "-1", "1", "2", "3", "7", "61", "97", "40001", "67108864", "4294967296", "99999999999999999999", "", "x", "1.5", "0.333333", "-0", "1e9"}

// oddElements are put in anywhere.
var oddElements = []string{
	`<backup><duration>1</duration></backup>`, `<backup><duration>99999</duration></backup>`, `<forward><duration>7</duration></forward>`,
	`<attributes><divisions>61</divisions></attributes>`, `<attributes><divisions>49999</divisions></attributes>`, `<attributes><staves>3</staves></attributes>`,
	`<attributes><transpose><chromatic>-9</chromatic></transpose></attributes>`, `<attributes><time><beats>32</beats><beat-type>32</beat-type></time></attributes>`,
	`<attributes><time><senza-misura/></time></attributes>`, `<attributes><staff-details><staff-lines>4</staff-lines></staff-details></attributes>`,
	`<attributes><measure-style><measure-repeat type="start">1</measure-repeat></measure-style></attributes>`, `<attributes><measure-style><slash type="start"/></measure-style></attributes>`,
	`<attributes><clef number="2"><sign>TAB</sign></clef></attributes>`, `<attributes><clef><sign>percussion</sign></clef></attributes>`,
	`<barline><repeat direction="backward" times="99"/></barline>`, `<barline><repeat direction="forward"/></barline>`, `<barline><ending number="1-32" type="start"/></barline>`, `<barline><ending number="2" type="stop"/></barline>`,
	`<direction><sound dacapo="yes"/></direction>`, `<direction><direction-type><words>D.S. al Coda</words></direction-type></direction>`, `<direction><direction-type><coda/></direction-type></direction>`, `<sound fine="yes"/>`, `<sound tocoda="c"/>`, `<sound coda="c"/>`, `<sound segno="s"/>`, `<sound dalsegno="s"/>`,
	`<direction><direction-type><rehearsal>A|,: #</rehearsal></direction-type></direction>`, `<chord/>`, `<grace/>`, `<cue/>`, `<rest/>`, `<dot/>`, `<tie type="stop"/>`,
	`<note><chord/><pitch><step>C</step><octave>9</octave></pitch><duration>3</duration></note>`, `<note><pitch><step>B</step><alter>2</alter><octave>0</octave></pitch><duration>100000</duration><tie type="start"/></note>`,
	`<note><unpitched/><duration>1</duration></note>`, `<notations><technical><string>6</string><fret>24</fret></technical></notations>`, `<notations><technical><string>1</string><fret>0</fret><bend><bend-alter>3</bend-alter></bend></technical></notations>`,
	`<notations><slide type="stop"/></notations>`, `<lyric number="20"><syllabic>middle</syllabic><text>la | / la</text></lyric>`,
	`<harmony><root><root-step>C</root-step><root-alter>2</root-alter></root><kind>major-ninth</kind><degree><degree-value>11</degree-value><degree-alter>1</degree-alter><degree-type>add</degree-type></degree></harmony>`,
	`<harmony><numeral><numeral-root>4</numeral-root></numeral><kind>major</kind></harmony>`, `<harmony><root><root-step>A</root-step></root><kind>none</kind><frame><frame-note><string>9</string><fret>3</fret></frame-note></frame></harmony>`,
}

func oddXML(data []byte, r *rand.Rand) []byte {
	root, err := parseXML(data)
	if err != nil {
		return data
	}
	for range 1 + r.IntN(8) {
		var list []*node
		root.all(&list)
		n, m := list[r.IntN(len(list))], list[r.IntN(len(list))]
		if r.IntN(2) == 0 { // rather where the music is
			if i := slices.IndexFunc(list[r.IntN(len(list)):], func(n *node) bool { return n.name == "measure" || n.name == "note" }); i >= 0 {
				n = list[i]
			}
		}
		switch r.IntN(7) {
		case 0:
			if len(n.kids) > 0 {
				i := r.IntN(len(n.kids))
				n.kids = slices.Delete(n.kids, i, i+1)
			}
		case 1:
			if len(n.kids) > 0 {
				i := r.IntN(len(n.kids))
				for range 1 + r.IntN(r.IntN(40)+1) {
					n.kids = slices.Insert(n.kids, i, n.kids[i].copy())
				}
			}
		case 2:
			if len(n.kids) > 1 {
				i, j := r.IntN(len(n.kids)), r.IntN(len(n.kids))
				n.kids[i], n.kids[j] = n.kids[j], n.kids[i]
			}
		case 3:
			n.kids = slices.Insert(n.kids, r.IntN(len(n.kids)+1), m.copy())
		case 4:
			if len(n.attr) > 0 && r.IntN(2) == 0 {
				n.attr[r.IntN(len(n.attr))].Value = oddNumbers[r.IntN(len(oddNumbers))]
				break
			}
			for _, m := range list[r.IntN(len(list)):] {
				if m.text != "" {
					m.text = oddNumbers[r.IntN(len(oddNumbers))]
					break
				}
			}
		case 5:
			for _, m := range list { // all of a kind
				if m.name == n.name && m.text != "" {
					m.text = oddNumbers[r.IntN(len(oddNumbers))]
				}
			}
		default:
			if odd, err := parseXML([]byte(oddElements[r.IntN(len(oddElements))])); err == nil {
				for range 1 + r.IntN(3) {
					n.kids = slices.Insert(n.kids, r.IntN(len(n.kids)+1), odd.copy())
				}
			}
		}
	}
	var b bytes.Buffer
	root.write(&b)
	return b.Bytes()
}

// oddMIDI is a file of tracks of any events.
func oddMIDI(r *rand.Rand) []byte {
	var tracks []byte
	n := 1 + r.IntN(4)
	for range n {
		var b []byte
		for range r.IntN(400) {
			if delta := r.IntN(r.IntN(2000) + 1); delta < 128 {
				b = append(b, byte(delta))
			} else {
				b = append(b, byte(delta>>7)|0x80, byte(delta&127))
			}
			ch, x, y := byte(r.IntN(16)*r.IntN(2)), byte(r.IntN(128)), byte(r.IntN(128))
			switch r.IntN(14) {
			case 0:
				b = append(b, 0xe0|ch, x, y)
			case 1:
				b = append(b, 0xb0|ch, []byte{100, 101, 6, 38, 7}[r.IntN(5)], byte(r.IntN(25)))
			case 2:
				b = append(b, 0xff, 0x58, 4, byte(r.IntN(40)), byte(r.IntN(8)), 24, 8)
			case 3:
				b = append(b, 0xff, 0x51, 3, byte(r.IntN(256)), x, y)
			case 4:
				b = append(b, 0xff, 0x06, 3, 'A', byte(r.IntN(256)), '|')
			case 5:
				b = append(b, 0xff, 0x59, 2, byte(r.IntN(15)-7), byte(r.IntN(3)))
			case 6, 7, 8:
				b = append(b, 0x80|ch, 30+x/2, 0)
			default:
				b = append(b, 0x90|ch, 30+x/2, y)
			}
		}
		b = append(b, 0, 0xff, 0x2f, 0)
		tracks = append(append(tracks, 'M', 'T', 'r', 'k', 0, 0, byte(len(b)>>8), byte(len(b))), b...)
	}
	ticks := []int{1, 2, 7, 24, 96, 480, 32767, 0}[r.IntN(8)]
	return append([]byte{'M', 'T', 'h', 'd', 0, 0, 0, 6, 0, 1, 0, byte(n), byte(ticks >> 8), byte(ticks)}, tracks...)
}

// oddLines are put between the lines of a text.
var oddLines = []string{"", "[Chorus]", "{chorus}", "Chorus x99", "{soc}", "{eoc}", "Capo 24", "Tuning: D A D G A D", "Drop D tuning", "Tuned down 1/2 step", "Time: 32/32", "Tempo: 1", "Pickup: 31", "| | |", "||: C :||", "| C | % | . | N.C. |", "C G Am (hold)", "[C]la[G]la", "  PM-----|", "~~~~ ^ v ^ v", " 1 & 2 & 3 e & a 4", "e|-----|", "e|--", "B|12h13p12/15\\3b(14)r12~-x-<12>-|", "E|--0--|x99", "|", "||", "(play 99 times)", "[3/4]", "Gtr 2", "# what", "> la / la", strings.Repeat("-", 300), "e|" + strings.Repeat("1", 200) + "|"}

func oddText(data []byte, r *rand.Rand) []byte {
	lines := strings.Split(string(data), "\n")
	for range 1 + r.IntN(10) {
		i, j := r.IntN(len(lines)), r.IntN(len(lines))
		switch r.IntN(7) {
		case 0:
			if len(lines) > 1 {
				lines = slices.Delete(lines, i, i+1)
			}
		case 1:
			for range 1 + r.IntN(8) {
				lines = slices.Insert(lines, i, lines[i])
			}
		case 2:
			lines[i], lines[j] = lines[j], lines[i]
		case 3:
			if k := len(lines[i]); k > 0 {
				at := r.IntN(k)
				lines[i] = lines[i][:at] + lines[i][at+r.IntN(k-at):]
			}
		case 4:
			if k := len(lines[i]); k > 0 {
				at := r.IntN(k)
				lines[i] = lines[i][:at] + []string{"|", "||", ":", "*", "12", "h", "p", "/", "(", ")", "[", "]", "<", "x", "~", "b", "—", "\t", "é", "7/8"}[r.IntN(20)] + lines[i][at:]
			}
		case 5:
			lines[i] += " " + lines[j]
		default:
			lines = slices.Insert(lines, i, oddLines[r.IntN(len(oddLines))])
		}
	}
	return []byte(strings.Join(lines, "\n"))
}

// plainFiles are songs in a form.
func plainFiles(t testing.TB, form Form) (list [][]byte) {
	names, _ := filepath.Glob("../demo/songs/*.txt")
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, Write(&b, form, Of(sheet.Parse(string(text)).Song, arrange.Options{}, r0(len(list)), func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })))
		list = append(list, b.Bytes())
	}
	others, _ := filepath.Glob("testdata/*.txt")
	for _, name := range others {
		if a, err := txtar.ParseFile(name); err == nil && len(a.Files) > 0 {
			if f, err := Detect(a.Files[0].Data); err == nil && f == form {
				list = append(list, a.Files[0].Data)
			}
		}
	}
	return list
}

// r0 is the first part of every other song, and all of the others.
func r0(i int) int { return -(i % 2) }

// Whatever a well-formed file says, it ends in a sheet that can be read or with a sentence.
func TestOddStructures(t *testing.T) {
	t.Parallel()
	const slow = 2 * time.Second
	explore, _ := time.ParseDuration(os.Getenv("VALLEYSIDE_EXPLORE"))
	for _, form := range []Form{MusicXML, MIDI, Tab, Words} {
		t.Run(string(form), func(t *testing.T) {
			files := plainFiles(t, form)
			begun, seed, read, most := time.Now(), uint64(1), 0, time.Duration(0)
			if explore > 0 {
				seed = rand.Uint64() >> 20
			}
			for n := 0; n < 150 || time.Since(begun) < explore; n++ {
				r := rand.New(rand.NewPCG(seed, uint64(n)))
				var data []byte
				switch form {
				case MusicXML:
					data = oddXML(files[r.IntN(len(files))], r)
				case MIDI:
					data = oddMIDI(r)
				default:
					data = oddText(files[r.IntN(len(files))], r)
				}
				at := time.Now()
				text, err := guarded(t, data, form)
				took := time.Since(at)
				most = max(most, took)
				if explore > 0 && took > slow {
					t.Errorf("seed %d, %d: %s", seed, n, took)
				}
				if err != nil {
					if strings.HasPrefix(err.Error(), "panic") {
						t.Fatalf("seed %d, %d: %v\n", seed, n, err)
					}
					continue
				}
				read++
				if s := sheet.Parse(text); !assert.Truef(t, s.OK(), "seed %d, %d: %v", seed, n, s.Problems) {
					return
				}
			}
			t.Logf("%d read, the slowest in %s", read, most)
			assert.Positive(t, read)
		})
	}
}

func guarded(t testing.TB, data []byte, form Form) (text string, err error) {
	defer func() {
		if e := recover(); e != nil {
			err = fmt.Errorf("panic: %v\n%s", e, debug.Stack())
		}
	}()
	return readAll(t.Context(), data, form)
}
