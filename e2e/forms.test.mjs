// Readers that others wrote agree with what is exported: the notes, frets and times of the
// timeline are in the MusicXML and the MIDI of every song of the example studio and of
// sheets with everything that can be typed, in its versions too.
import assert from "node:assert/strict";
import { test } from "node:test";
import { execFileSync } from "node:child_process";
import { readFileSync, readdirSync } from "node:fs";
import { join } from "node:path";
import { parse, validate } from "musicxml-io";
import { parseMidi } from "midi-file";
import { build, root } from "./lib.mjs";

const songs = readdirSync(join(root, "demo/songs")).map((name) => readFileSync(join(root, "demo/songs", name), "utf8"));
const everything = [
  "title: Everything\nkey: E minor\ntempo: 92\nfeel: swing 60%\norder: A x2, B, A\n\nA:\npickup: 1\n| 0E 3E |\n| h5A p3A s7A~ 5A' (7G 8G 9G) 7Gb2 r7G x | [2/4] C5=x355xx! xA* | x3\nlead | 12Go . | 12e - 15e - | x3\n\nB:\ntime: 7/8\nring: yes\n| 0E 2A 2D 0G 0B 2A . | 3D+5G' - - /5D 7D\\ - 0E |\n",
  "title: Fine\ntempo: 60\ntime: 3/4\n\nA:\n| 0E 0E 0E 0E 0E | (0A 2A 3A 5A 7A) (0D 2D) 3D | 0G - . 2G | % |\n",
];

function run(command, sheet, ...args) {
  return execFileSync(build(), [command, "-", ...args], { input: sheet, maxBuffer: 1 << 28, stdio: ["pipe", "pipe", "ignore"] });
}

// played is what the timeline has: the bars in a row, each with what is struck in it.
function played(sheet, ...args) {
  const t = JSON.parse(run("play", sheet, "--count-in", "0", "--json", ...args));
  const bars = t.bars.map((b) => ({ ...b, strikes: [] }));
  for (const k of t.strikes) {
    let i = bars.length - 1;
    while (bars[i].at > k.at + 1e-6) i--;
    bars[i].strikes.push(k);
  }
  return { ...t, bars };
}

const fraction = (text) => { const [n, d = 1] = text.split("/").map(Number); return n / d; };
const step = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const midiOf = (p) => 12 * (p.octave + 1) + step[p.step] + (p.alter ?? 0);
const pitchOf = (name) => { const [, letter, signs, octave] = name.match(/^([A-G])([#b]*)(-?\d)$/); return 12 * (Number(octave) + 1) + step[letter] + [...signs].reduce((n, c) => n + (c === "#" ? 1 : -1), 0); };

// walked lists the measures of a part as they are played.
function walked(part) {
  const list = [];
  for (let i = 0, begin = 0, done = 0; i < part.measures.length; i++) {
    const m = part.measures[i];
    const repeat = (direction) => m.barlines?.find((b) => b.repeat?.direction === direction)?.repeat;
    if (repeat("forward") && begin !== i) { begin = i; done = 0; }
    list.push(m);
    const back = repeat("backward");
    if (back && ++done < (back.times ?? 2)) i = begin - 1;
    else if (back) { begin = i + 1; done = 0; }
    if (m.entries.some((e) => e.type === "direction" && e.directionTypes?.some((t) => t.words === "Fine" || t.text === "Fine"))) break;
  }
  return list;
}

// struck lists what is struck in a measure: string, fret, pitch and time, in whole notes.
function struck(m, divisions, lead) {
  const out = [];
  let at = 0, last = 0;
  for (const e of m.entries) {
    if (e.type === "backup") { at -= e.duration; continue; }
    if (e.type === "forward") { at += e.duration; continue; }
    if (e.type !== "note") continue;
    const start = e.chord ? last : at;
    if (!e.chord) { last = at; at += e.duration; }
    const ties = (e.ties ?? (e.tie ? [e.tie] : [])).map((t) => t.type);
    if (e.rest || ties.includes("stop")) continue;
    const of = (name) => e.notations?.find((n) => n.type === "technical" && n.technical === name);
    out.push({ start: lead + start / divisions / 4, string: of("string")?.string, fret: of("fret")?.fret, pitch: midiOf(e.pitch), dead: e.notehead?.value === "x" || e.notehead === "x", bend: of("bend")?.bendAlter ?? 0 });
  }
  return out;
}

test("MusicXML has the notes, frets and times of the timeline", () => {
  let notes = 0;
  for (const sheet of [...songs, ...everything]) {
    for (const rung of ["as-written", "two-note", "easy-chords"]) {
      const want = played(sheet, "--rung", rung);
      const score = parse(run("export", sheet, "--as", "musicxml", "--rung", rung).toString());
      const title = sheet.match(/title: (.*)/)[1];
      const check = validate(score);
      assert.deepEqual(check.errors.map((e) => `${e.code} ${e.message}`), [], `${title}, ${rung}`);
      const players = [...new Set(want.strikes.map((k) => k.player))];
      assert.ok(score.parts.length >= players.length);
      for (const [index, part] of score.parts.entries()) {
        const name = index === 0 ? "" : score.partList.find((p) => p.id === part.id).name;
        const measures = walked(part);
        const divisions = part.measures[0].attributes.divisions;
        assert.equal(measures.length, want.bars.length, `${title}, ${rung}: bars`);
        const whole = new Map(); // of each measure: how long it is by its time, in the order in which they are written
        let beats = 4, unit = 4;
        for (const m of part.measures) {
          if (m.attributes?.time) [beats, unit] = [Number(m.attributes.time.beats), m.attributes.time.beatType];
          whole.set(m, beats / unit);
        }
        for (const [i, bar] of want.bars.entries()) {
          const m = measures[i];
          const length = m.entries.reduce((n, e) => n + (e.type === "note" && !e.chord ? e.duration : 0), 0) / divisions / 4;
          const key = (k) => `${k.start.toFixed(5)} ${k.string} ${k.dead ? "x" : `${k.fret} ${k.pitch}`}`;
          const got = struck(m, divisions, whole.get(m) - length).map(key).sort();
          const expected = bar.strikes.filter((k) => k.player === name).map((k) => key({
            start: fraction(k.start), string: { E: 6, A: 5, D: 4, G: 3, B: 2, e: 1 }[k.string] ?? k.string, dead: k.fret === null, fret: k.fret,
            pitch: k.fret === null ? 0 : pitchOf(k.pitch) - Math.round((k.bend ?? 0) / 100) })).sort();
          assert.deepEqual(got, expected, `${title}, ${rung}, ${name || "first player"}, bar ${i + 1}`);
          notes += got.length;
        }
      }
    }
  }
  assert.ok(notes > 3000, `${notes} notes were compared`);
});

test("MIDI has the notes, times and tempo of the timeline", () => {
  for (const sheet of [...songs, ...everything]) {
    for (const rung of ["as-written", "one-finger"]) {
      const want = played(sheet, "--rung", rung);
      const midi = parseMidi(run("export", sheet, "--as", "midi", "--rung", rung));
      const title = sheet.match(/title: (.*)/)[1];
      assert.equal(midi.tracks[0].find((e) => e.type === "trackName").text, title);
      const tempos = [];
      let tick = 0;
      for (const e of midi.tracks[0]) { tick += e.deltaTime; if (e.type === "setTempo") tempos.push([tick, e.microsecondsPerBeat]); }
      const seconds = (at) => {
        let s = 0;
        for (const [i, [from, per]] of tempos.entries()) {
          const to = Math.min(tempos[i + 1]?.[0] ?? Infinity, at);
          if (to > from) s += (to - from) / midi.header.ticksPerBeat * per / 1e6;
        }
        return s;
      };
      const got = [];
      for (const track of midi.tracks.slice(1)) {
        let now = 0;
        for (const e of track) {
          now += e.deltaTime;
          if (e.type === "noteOn" && e.velocity > 0 && e.channel !== 9) got.push({ at: seconds(now), note: e.noteNumber });
        }
      }
      const expected = want.strikes.filter((k) => k.fret !== null).map((k) => ({ at: k.at, note: pitchOf(k.pitch) - Math.round((k.bend ?? 0) / 100) }));
      const order = (a, b) => a.note - b.note || a.at - b.at;
      got.sort(order); expected.sort(order);
      assert.equal(got.length, expected.length, title);
      for (const [i, e] of expected.entries()) {
        assert.equal(got[i].note, e.note, title);
        assert.ok(Math.abs(got[i].at - e.at) < 0.003, `${title}, ${rung}: ${got[i].at} is not ${e.at}`);
      }
      const tempo = Number(sheet.match(/tempo: ([\d.]+)/)[1]), time = sheet.split("\n\n")[0].match(/time: (\d+)\/(\d+)/);
      const beat = time && [6, 9, 12].includes(Number(time[1])) && time[2] === "8" ? 1.5 : 4 / Number(time?.[2] ?? 4);
      assert.ok(Math.abs(6e7 / tempos[0][1] - tempo * beat) < 0.01, title);
    }
  }
});
