import { countIn, round } from "./rounds.js";

// A Player plays music to an ear: it hands over what sounds a little ahead, each with the
// moment at which it is to be heard, worked out from where its round began, so that
// nothing drifts. The ear tells what time it is; in a test it is one that writes down.
const ahead = 0.4; // seconds
const aheadUnseen = 2.5; // where the browser lets timers wait
const lead = 0.12; // until the first sound
const up = 1.05; // by which the tempo climbs

export class Player {
  constructor(music, ear, { changed = () => {}, finished = () => {} } = {}) {
    Object.assign(this, { music, ear, changed, finished, tempo: music.start, from: 0, to: music.bars.length, loop: true, count: true, every: 0, rounds: 0, played: 0 });
    this.running = false;
  }

  // rate is how much longer everything takes than at the music's tempo.
  get rate() { return this.music.tempo / this.tempo; }

  start() {
    if (this.running) return;
    this.running = true;
    this.rounds = 0;
    this.clean = 0;
    this.began = this.ear.now();
    this.parts = [];
    this.at = this.ear.now() + lead;
    if (this.count) this.add(countIn(this.music, this.from, this.tempo));
    this.add(round(this.music, this.from, this.to));
    this.tick();
  }

  stop() {
    if (!this.running) return;
    this.played += this.ear.now() - this.began;
    this.running = false;
    this.ear.forget(this.ear.now());
    this.changed();
  }

  // add puts one more stretch at the end of what is to come.
  add(stretch) {
    const part = { ...stretch, begin: this.at, rate: this.rate, next: 0 };
    this.parts.push(part);
    this.at = part.begin + part.length * part.rate;
  }

  // tick hands over what is due soon. It is to be called several times a second.
  tick(unseen = false) {
    if (!this.running) return;
    const until = this.ear.now() + (unseen ? aheadUnseen : ahead);
    for (let i = 0; i < this.parts.length; i++) {
      const part = this.parts[i];
      while (part.next < part.sounds.length && part.begin + part.sounds[part.next].at * part.rate < until) {
        const s = part.sounds[part.next++];
        this.ear.hear(part.begin + s.at * part.rate, s, (s.length ?? 0) * part.rate);
      }
      if (i === this.parts.length - 1 && this.at < until && this.loop) this.add(round(this.music, this.from, this.to));
    }
    while (this.parts.length && this.ends(this.parts[0]) <= this.ear.now()) this.over(this.parts.shift());
    if (!this.parts.length) {
      this.stop();
      this.finished();
    }
  }

  ends(part) { return part.begin + part.length * part.rate; }

  // over is what follows a stretch that has been played to its end.
  over(part) {
    if (part.counts) return;
    this.rounds++;
    this.clean++;
    if (this.every && this.clean >= this.every && this.tempo < this.music.tempo) {
      this.clean = 0;
      this.faster(Math.min(Math.round(this.tempo * up), this.music.tempo));
    }
    this.changed();
  }

  // slipped says that the round was not clean: the climb begins again.
  slipped() { this.clean = -1; this.changed(); }

  // faster changes the tempo from now on: what was handed over and has not been heard is
  // taken back, and what is left of the stretch goes on from where it is.
  faster(tempo) {
    this.tempo = tempo;
    if (this.running && this.parts.length) {
      const now = this.ear.now() + 0.03;
      const part = this.parts[0];
      const done = Math.max(0, (now - part.begin) / part.rate);
      this.ear.forget(now);
      part.rate = this.rate;
      part.begin = now - done * part.rate;
      part.next = part.sounds.findIndex((s) => s.at >= done);
      if (part.next < 0) part.next = part.sounds.length;
      this.parts.length = 1;
      this.at = this.ends(part);
      if (part.counts) this.add(round(this.music, this.from, this.to));
      this.tick();
    }
    this.changed();
  }

  // go plays other bars, from their beginning; counted in where it is not running on.
  go(from, to) {
    const running = this.running;
    this.stop();
    this.from = from;
    this.to = to;
    if (running) this.start();
    this.changed();
  }

  // place is where it is: the bar that sounds, by its index in the music, how much of it
  // is over, and which comes next; nothing while it is counted in or silent.
  place() {
    if (!this.running) return null;
    const now = this.ear.now();
    const part = this.parts.find((p) => now < this.ends(p));
    if (!part || now < part.begin) return null;
    if (part.counts) return { counts: part.sounds.filter((s) => part.begin + s.at * part.rate <= now).length };
    const at = (now - part.begin) / part.rate;
    let i = part.bars.findLastIndex((b) => b.at <= at + 1e-9);
    if (i < 0) i = 0;
    const bar = part.bars[i];
    const end = part.bars[i + 1]?.at ?? part.length;
    const next = part.bars[i + 1]?.index ?? (this.loop ? this.from : undefined);
    return { bar: bar.index, share: (at - bar.at) / (end - bar.at), next };
  }
}
