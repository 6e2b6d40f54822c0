// A rhythm that is tapped: the click that counts it in, the moments of the taps, and then
// the frets, one after the other, in the place of the x that each tap has become.
import { Ear } from "./play/ear.js";
import { placed } from "./notation.js";
import { bare } from "./typing.js";

const ahead = 0.4; // seconds that clicks are given to the sound card before they sound
const mostBars = 16; // the server takes some more, so that a last tap on the next bar loses none

// countIn is how many bars are counted in at a tempo.
export const countIn = (tempo) => (tempo < 70 ? 2 : 1);

// Tapping is one try. count is called at each beat with its number, from 1, and whether
// it counts in; over when it has gone on for as long as it may.
export class Tapping {
  constructor({ tempo, beats, click, count, over }) {
    Object.assign(this, { tempo, beats, click, count, over });
    this.taps = [];
    this.beat = 60 / tempo;
  }

  start() {
    if (!this.click) return;
    this.context = new AudioContext();
    this.context.resume();
    this.ear = new Ear(this.context);
    this.bars = countIn(this.tempo);
    const lead = 0.25;
    this.first = this.context.currentTime + lead; // of the clicks
    this.begin = performance.now() / 1000 + lead + this.bars * this.beats * this.beat; // of the music
    this.sent = 0;
    this.told = 0;
    this.timer = setInterval(() => this.go(), 20);
    this.go();
  }

  go() {
    for (; this.first + this.sent * this.beat < this.context.currentTime + ahead; this.sent++) {
      this.ear.hear(this.first + this.sent * this.beat, { role: "click", accent: this.sent % this.beats === 0 });
    }
    const lead = this.bars * this.beats;
    const beat = Math.floor((performance.now() / 1000 - this.begin) / this.beat) + lead; // that has begun
    if (beat < this.told) return;
    this.told = beat + 1;
    if (beat >= lead + mostBars * this.beats) return this.over();
    this.count((beat % this.beats) + 1, beat < lead);
  }

  // tap takes a tap at a moment of the page, in milliseconds.
  tap(moment) {
    this.begin ??= moment / 1000;
    this.taps.push(moment / 1000 - this.begin);
  }

  stop() {
    clearInterval(this.timer);
    this.context?.close();
    return this.taps;
  }
}

// tappedIn says where lines of bars go, from a position in a sheet: what takes the place of
// the text between two positions, and where the lines then begin. Where no part has begun
// they are one of their own.
export function tappedIn(text, at, lines) {
  const begin = text.lastIndexOf("\n", at - 1) + 1;
  const end = `${text}\n`.indexOf("\n", at);
  if (!/^[^|#:\n]+:[ ]*$/m.test(text.slice(0, end))) {
    const head = text.trimEnd().length;
    const name = /^Tapped:/m.test(text) ? "Tapped again" : "Tapped";
    const insert = `${head ? "\n\n" : ""}${name}:\n${lines}`;
    return { from: head, to: text.length, insert, begin: head + insert.length - lines.length, length: lines.length };
  }
  if (bare.test(text.slice(begin, end)) && text[begin] === "|") return { from: begin, to: end, insert: lines, begin, length: lines.length };
  return placed(text, at, lines, "part");
}

// marks are where the taps stand in a text that have no fret yet.
export const marks = (text) => [...text.matchAll(/(?<=[\s(|])x(?=[\s)|]|$)/g)].map((m) => m.index);

// fretted is a sign that was typed, with the string of the one before where it is a fret
// alone.
export function fretted(sign, before) {
  if (!/^\d+$/.test(sign)) return sign;
  const note = before.split(/[\s(|]+/).findLast((word) => /^[hpstr/\\]?\d+[EADGBe]/.test(word));
  return note ? sign + note.split("+").at(-1).match(/\d+(.)/)[1] : sign;
}
