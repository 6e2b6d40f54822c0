// What is heard when, out of the music that the server sends: rounds of some bars, and
// the clicks that count them in. Seconds are those of the music's own tempo; who plays
// them makes them longer or shorter in proportion.

// round is the bars from one index to before another: what sounds in them, in the order
// of time, counted from their beginning.
export function round(music, from, to) {
  const begin = music.bars[from].at;
  const end = to < music.bars.length ? music.bars[to].at : music.seconds;
  const inside = (at) => at >= begin - 1e-9 && at < end - 1e-9;
  const sounds = [];
  music.voices.forEach((voice, index) => {
    for (const [at, length, hz, loud, how, bend, slid, muted] of voice.strikes) {
      if (inside(at)) sounds.push({ at: at - begin, length: Math.min(length, end - at), hz, loud, how, bend, slid, muted: muted === 1, voice: index, role: voice.role });
    }
  });
  for (const [at, , accent] of music.beats) if (inside(at)) sounds.push({ at: at - begin, role: "click", accent });
  sounds.sort((a, b) => a.at - b.at);
  const bars = music.bars.slice(from, to).map((bar, i) => ({ ...bar, at: bar.at - begin, index: from + i }));
  return { length: end - begin, sounds, bars };
}

// slow is the tempo below which two bars are counted in.
const slow = 70;

// countIn is the clicks before a bar: a whole bar, two where it is slow, and what a
// pickup leaves out of its own.
export function countIn(music, from, tempo) {
  const bar = music.bars[from];
  const bars = tempo < slow ? 2 : 1;
  const sounds = [];
  for (let n = 0; n < bars * bar.beats; n++) sounds.push({ at: n * bar.beat, role: "click", accent: n % bar.beats === 0 });
  const whole = bars * bar.beats * bar.beat;
  for (let n = 0; n * bar.beat < bar.lead - 1e-9; n++) sounds.push({ at: whole + n * bar.beat, role: "click", accent: n === 0 });
  return { length: whole + bar.lead, sounds, bars: [], counts: true };
}
