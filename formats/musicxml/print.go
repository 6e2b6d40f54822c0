package musicxml

import (
	"encoding/xml"
	"strconv"
	"strings"
)

// printedNote is a note whose elements have been printed already: most of a file are
// notes, and the general way of encoding/xml would take most of the time that a file takes.
type printedNote struct {
	XMLName xml.Name `xml:"note"`
	Inner   string   `xml:",innerxml"`
}

// printNote prints the elements of a note, in the order of the schema and of the type note,
// indented as the rest of the file.
func printNote(n *note) *printedNote {
	var p elementPrinter
	p.depth = 4
	p.b.Grow(768)
	p.empty("chord", n.Chord)
	if k := n.Pitch; k != nil {
		p.open("pitch", "")
		p.text("step", k.Step)
		p.optional("alter", k.Alter)
		p.text("octave", strconv.Itoa(k.Octave))
		p.close("pitch")
	}
	if n.Rest != nil {
		p.leaf("rest", attribute("measure", n.Rest.Measure), "")
	}
	p.text("duration", n.Duration)
	for _, t := range n.Ties {
		p.leaf("tie", attribute("type", t.Type), "")
	}
	p.optional("voice", n.Voice)
	p.optional("type", n.Type)
	for i := range n.Dots {
		p.empty("dot", &n.Dots[i])
	}
	if m := n.TimeMod; m != nil {
		p.open("time-modification", "")
		p.text("actual-notes", strconv.FormatInt(m.Actual, 10))
		p.text("normal-notes", strconv.FormatInt(m.Normal, 10))
		p.close("time-modification")
	}
	if h := n.Notehead; h != nil {
		p.leaf("notehead", attribute("parentheses", h.Parentheses), h.Shape)
	}
	for i := range n.Notations {
		p.notations(&n.Notations[i])
	}
	for _, l := range n.Lyrics {
		p.open("lyric", attribute("number", l.Number))
		p.text("syllabic", strings.Join(l.Syllabic, ""))
		p.text("text", strings.Join(l.Text, " "))
		p.close("lyric")
	}
	if n.Play != nil {
		p.open("play", "")
		p.text("mute", n.Play.Mute)
		p.close("play")
	}
	p.b.WriteString("\n   ")
	return &printedNote{Inner: p.b.String()}
}

// elementPrinter prints elements.
type elementPrinter struct {
	b     strings.Builder
	depth int
}

const spaces = "                "

func (p *elementPrinter) line() {
	p.b.WriteByte('\n')
	p.b.WriteString(spaces[:p.depth])
}

// attribute is an attribute where it has a value.
func attribute(name, value string) string {
	if value == "" {
		return ""
	}
	return " " + name + `="` + escaped(value) + `"`
}

func escaped(s string) string {
	if !strings.ContainsAny(s, "<>&\"'\r\n\t") {
		return s
	}
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a builder takes everything
	return b.String()
}

func (p *elementPrinter) open(name, attributes string) {
	p.line()
	p.b.WriteByte('<')
	p.b.WriteString(name)
	p.b.WriteString(attributes)
	p.b.WriteByte('>')
	p.depth++
}

func (p *elementPrinter) close(name string) {
	p.depth--
	p.line()
	p.b.WriteString("</")
	p.b.WriteString(name)
	p.b.WriteByte('>')
}

// leaf prints an element with nothing but a text in it.
func (p *elementPrinter) leaf(name, attributes, text string) {
	p.line()
	p.b.WriteByte('<')
	p.b.WriteString(name)
	p.b.WriteString(attributes)
	if text == "" {
		p.b.WriteString("/>")
		return
	}
	p.b.WriteByte('>')
	p.b.WriteString(escaped(text))
	p.b.WriteString("</")
	p.b.WriteString(name)
	p.b.WriteByte('>')
}

func (p *elementPrinter) text(name, text string) { p.leaf(name, "", text) }

func (p *elementPrinter) optional(name, text string) {
	if text != "" {
		p.leaf(name, "", text)
	}
}

func (p *elementPrinter) empty(name string, e *empty) {
	if e != nil {
		p.leaf(name, "", "")
	}
}

func (p *elementPrinter) notations(n *notations) {
	p.open("notations", "")
	for _, t := range n.Tied {
		p.leaf("tied", attribute("type", t.Type), "")
	}
	for _, t := range n.Tuplets {
		p.leaf("tuplet", attribute("type", t.Type), "")
	}
	for _, s := range n.Slides {
		p.leaf("slide", attribute("type", s.Type)+attribute("line-type", s.Line), "")
	}
	if n.Ornaments != nil {
		p.open("ornaments", "")
		for _, w := range n.Ornaments.Wavy {
			p.leaf("wavy-line", attribute("type", w.Type)+attribute("number", strconv.Itoa(w.Number)), "")
		}
		p.close("ornaments")
	}
	if t := n.Technical; t != nil {
		p.open("technical", "")
		p.empty("up-bow", t.UpBow)
		p.empty("down-bow", t.DownBow)
		if h := t.Harmonic; h != nil {
			p.open("harmonic", "")
			p.empty("natural", h.Natural)
			p.empty("sounding-pitch", h.Sounding)
			p.close("harmonic")
		}
		for _, f := range t.Fingerings {
			p.text("fingering", f)
		}
		if t.Pluck != "" {
			p.text("pluck", t.Pluck)
		}
		if t.Fret != nil {
			p.text("fret", strconv.Itoa(*t.Fret))
		}
		if t.String > 0 {
			p.text("string", strconv.Itoa(t.String))
		}
		for _, h := range t.HammerOn {
			p.leaf("hammer-on", attribute("type", h.Type), h.Text)
		}
		for _, h := range t.PullOff {
			p.leaf("pull-off", attribute("type", h.Type), h.Text)
		}
		for _, b := range t.Bends {
			p.open("bend", "")
			p.text("bend-alter", b.Alter)
			p.empty("release", b.Release)
			p.close("bend")
		}
		p.empty("tap", t.Tap)
		p.close("technical")
	}
	if a := n.Articulations; a != nil {
		p.open("articulations", "")
		p.empty("accent", a.Accent)
		p.empty("staccato", a.Short)
		p.empty("scoop", a.Scoop)
		p.empty("plop", a.Plop)
		p.empty("doit", a.Doit)
		p.empty("falloff", a.Falloff)
		p.close("articulations")
	}
	p.close("notations")
}
