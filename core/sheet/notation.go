package sheet

// Place says where in a sheet an example of the notation stands.
type Place string

// The places of examples.
const (
	InBar  Place = "bar"  // a slot or some, between | and |
	InPart Place = "part" // a line below a part's name
	InSong Place = "song" // a line above the first part
)

// Sign is something that can be typed: what a teacher asks for, an example, and what the
// example means.
type Sign struct {
	Asks    string // "a bend"
	Example string
	Means   string
	Words   string // other words for it, by which it is looked for
	Place   Place
}

// Topic is some of the notation.
type Topic struct {
	Name  string
	Signs []Sign
}

// Notation is all that can be typed in a sheet, by topic.
func Notation() []Topic {
	return []Topic{
		{"Notes and time", []Sign{
			{"a note", "7A", "fret 7 of the A string: first the fret, then the string", "fret string single", InBar},
			{"notes together", "7A+9D", "two strings at once", "double stop power chord octave interval two", InBar},
			{"a longer note", "0A - - 3A", "- holds what sounds, here for three slots", "hold tie sustain length half whole", InBar},
			{"silence", "0A . 3A .", ". is a rest", "rest pause stop", InBar},
			{"eighths, triplets", "0A 2A 3A 2A 0A 2A 3A 5A", "slots share the bar equally: 8 in 4/4 are eighths, 12 are triplets, 16 sixteenths", "rhythm quarter sixteenth twelve grid count", InBar},
			{"faster notes in one slot", "0A (2A 3A) 5A -", "( ) splits one slot among what is in it; three notes in it are a triplet", "bracket triplet subdivision quick sixteenth group", InBar},
			{"a dead note", "xA", "the A string damped and struck", "muted ghost percussive x", InBar},
		}},
		{"Chords and strumming", []Sign{
			{"a chord by its name", "Em7 - D/F# -", "the name is enough; shapes are chosen for the student", "symbol slash bass", InBar},
			{"a chord with its shape", "C5=x355xx", "six strings low to high, x is not played", "voicing fingering frets diagram", InBar},
			{"a shape above fret 9", "B5=x-14-16-16-x-x", "with - between the strings", "high voicing two digits", InBar},
			{"down- and up-strokes", "Em7v Em7^", "v is down, ^ is up; so for notes: 7Av", "strum direction picking pick", InBar},
			{"a dead strum", "Em7v xv Em7^ x^", "x is a strum over damped strings", "scratch muted chop percussive", InBar},
			{"no chord", "NC", "nothing is played over it", "tacet n.c.", InBar},
		}},
		{"Techniques", []Sign{
			{"a hammer-on", "5A h7A", "h before the note that is hammered on", "legato slur hammer", InBar},
			{"a pull-off", "7A p5A", "p before the note that the finger is pulled off to", "legato slur pull", InBar},
			{"a slide", "5A s7A", "s before the note that is slid into, from the one before", "glide legato", InBar},
			{"a slide from nowhere", "/7A", "/ from below, \\ from above; behind the note it is slid off", "glissando scoop fall", InBar},
			{"a bend", "7Gb2", "bent by two semitones; b1 is one, b0.5 half of one", "bending string whole half tone", InBar},
			{"a bend let down", "7Gb2 r7G", "r before the fret that it comes back to, not picked again", "release bending", InBar},
			{"tapping", "5e t12e p5e", "t before a note tapped by the other hand", "tap", InBar},
			{"vibrato", "7G~", "~ after the note", "shake wobble", InBar},
			{"a harmonic", "12Eo", "o after the note", "natural flageolet bell", InBar},
			{"palm muting", "0E* 0E* 3E", "* after the note; mute: palm on a line below a part's name holds for all of it", "pm mute damp chug", InBar},
			{"an accent", "3A!", "! after the note", "loud stress", InBar},
			{"a short note", "3A'", "' after the note", "staccato stopped choke", InBar},
			{"a note that some play", "7A?", "? after the note or chord; easier versions leave it out", "optional brackets ghost maybe", InBar},
			{"a finger", "3A:2", "the second finger; 1 to 4, T is the thumb", "fingering fretting hand number pin", InBar},
			{"the fingers of a shape", "G=320003:21xxx3", "a sign for each string, x for none", "fingering chord voicing hand", InBar},
			{"a plucking finger", "3A:p 0G:i 1B:m", "p the thumb, i m a index, middle and ring; both hands: 3A:2p", "fingerstyle fingerpicking pima right hand", InBar},
			{"a note that rings on", "3D_", "_ after the note; ring: yes below a part's name holds for all of it", "let ring arpeggio lv", InBar},
		}},
		{"Parts and repeats", []Sign{
			{"a part", "Chorus:", "a name and a colon; its bars stand below it", "section verse intro bridge new", InPart},
			{"a line of bars", "| 0A - 3A 5A | 7A - 5A - |", "between | and |", "measure bar line", InPart},
			{"a line played three times", "| 0A - 3A 5A | x3", "x3 after the last bar line", "repeat times again loop", InPart},
			{"a bar that you are not sure of", "| 0A - 3A 5A ? |", "? behind the last slot; it is drawn by the bar's number", "unsure guess check maybe", InPart},
			{"the same bar again", "| 0A - 3A 5A | % |", "% is the bar before it", "repeat percent simile", InPart},
			{"a bar in another time", "| [2/4] 0E 3E |", "for this bar alone", "meter signature odd change", InPart},
			{"a second player", "lead | 7A - 5A - |", "a name in front: it runs beside the line above", "two guitars bass solo other", InPart},
			{"words that are sung", "words | Paper / lanterns |", "beneath a line of bars; / goes to the next chord or accent", "lyrics text verse sing", InPart},
			{"a part like another", "like: Verse", "takes over its bars and settings; 4 | C5 - D5 - | replaces bar 4", "copy same variation", InPart},
			{"a pickup", "pickup: 1", "the part's first bar is one beat long", "upbeat anacrusis auftakt", InPart},
			{"played with the fingers", "pluck: yes", "p i m a stand where strokes would; :p :i :m :a after a note are your own", "fingerstyle fingerpicking pick plectrum", InPart},
			{"a stroke pattern", "strum: d - d u - u d u", "strikes the chords of each bar so, where they are only named; a pattern of two bars has | between them", "rhythm strumming down up pattern two bars", InPart},
			{"a word to the student", "note: start softly", "is printed with the part; cue: is what to listen for", "comment hint remark cue", InPart},
			{"how it sounds", "sound: clean, neck pickup", "is printed with the part", "tone amplifier effects pickup gain", InPart},
			{"the roadmap", "order: Verse x2, Chorus", "part names in the order in which they are played", "structure form arrangement sequence repeat", InSong},
		}},
		{"Settings of the song", []Sign{
			{"the tuning", "tuning: drop D", "a name, or six notes low to high: D A D G A D", "retune strings", InSong},
			{"a capo", "capo: 2", "frets are counted from it", "capodastro transpose", InSong},
			{"chords as numbers", "chords: numbers", "1 5 6m 4 or I V vi IV in the bars are chords of the key; of a minor key digits count from the relative major", "degrees roman analysis function", InSong},
			{"what chord names are over a capo", "chords: shapes", "G over a capo at 2 is fingered as G and sounds A; chords: sounding names what sounds", "key transpose shape sounding concert pitch lowered", InSong},
			{"the key", "key: A minor", "names the notes and the chords' degrees", "scale tonality tonic", InSong},
			{"the time signature", "time: 6/8", "tempo counts dotted quarters in 6/8, 9/8 and 12/8", "meter beats bar waltz", InSong},
			{"the tempo", "tempo: 104", "beats a minute", "speed bpm fast slow", InSong},
			{"swing", "feel: swing", "or swing 60%, how late the second of two eighths is", "shuffle feel groove triplet", InSong},
			{"who made the song", "by: Nell Arbour", "beneath its title", "artist author composer", InSong},
			{"a remark to yourself", "# ask about the bridge", "a line that begins with # is not read", "comment", InPart},
		}},
	}
}
