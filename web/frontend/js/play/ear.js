// An ear is who is played to: this one makes sound. A string is a delay line that is
// filled with noise and smoothed each time round, tuned to a fraction of a sample, worked
// out once for each pitch; a palm on the strings makes it short and dark, a dead stroke is
// the noise alone. It works with an audio context, also one that is not heard.
const ring = 3.2; // seconds that a string is worked out for
const muted = 0.5;
const release = 0.025; // how quickly a finger stops it
const dead = 5; // how a strike begins, as core/play counts

export const levels = { version: 0.9, written: 0.45, other: 0.5, bass: 0.6, click: 0.5 };

export class Ear {
  constructor(context) {
    this.context = context;
    this.strings = new Map();
    this.coming = new Set();
    const soft = context.createWaveShaper(); // a limiter would hear, and so play, late
    soft.curve = Float32Array.from({ length: 1025 }, (_, i) => Math.tanh((1.4 * (i - 512)) / 512));
    soft.connect(context.destination);
    this.buses = {};
    const places = { version: 0, written: 0.35, other: -0.35, bass: 0, click: 0 };
    for (const [role, level] of Object.entries(levels)) {
      const gain = context.createGain();
      gain.gain.value = level;
      const pan = context.createStereoPanner();
      pan.pan.value = places[role];
      gain.connect(pan).connect(soft);
      this.buses[role] = gain;
    }
  }

  now() { return this.context.currentTime; }

  // loud sets how loud a role is, 0 to 1.
  loud(role, level) { this.buses[role].gain.value = level; }

  // hear plays one sound at a moment.
  hear(when, s, length) {
    if (s.role === "click") return this.play(this.click(s.accent), when, 0.06, s.accent ? 1 : 0.6, "click");
    if (s.how === dead) return this.play(this.noise(), when, 0.09, s.loud * 0.6, s.role);
    const source = this.play(this.string(s.hz, s.muted, s.role === "bass"), when, length, s.loud, s.role);
    const rate = source.playbackRate;
    if (s.bend) {
      rate.setValueAtTime(2 ** (-s.bend / 1200), when);
      rate.linearRampToValueAtTime(1, when + Math.min(0.22, length * 0.6));
    } else if (s.slid) {
      rate.setValueAtTime(s.slid / s.hz, when);
      rate.exponentialRampToValueAtTime(1, when + Math.min(0.11, length * 0.5));
    }
  }

  play(buffer, when, length, loud, role) {
    const source = this.context.createBufferSource();
    source.buffer = buffer;
    const gain = this.context.createGain();
    gain.gain.setValueAtTime(loud, when);
    gain.gain.setValueAtTime(loud, when + length);
    gain.gain.setTargetAtTime(0, when + length, release);
    source.connect(gain).connect(this.buses[role]);
    source.start(when);
    source.stop(when + length + 8 * release);
    const one = { source, gain, when };
    this.coming.add(one);
    source.onended = () => this.coming.delete(one);
    return source;
  }

  // forget takes back what is not to be heard yet at a moment, and ends what sounds.
  forget(when) {
    for (const one of this.coming) {
      if (one.when >= when) {
        one.source.onended = null;
        one.source.disconnect();
      } else {
        one.gain.gain.cancelScheduledValues(when);
        one.gain.gain.setTargetAtTime(0, when, release);
      }
      if (one.when >= when) this.coming.delete(one);
    }
  }

  kept(key, make) {
    if (!this.strings.has(key)) this.strings.set(key, make());
    return this.strings.get(key);
  }

  buffer(samples) {
    const b = this.context.createBuffer(1, samples.length, this.context.sampleRate);
    b.copyToChannel(samples, 0);
    return b;
  }

  string(hz, isMuted, low) {
    return this.kept(`${hz} ${isMuted} ${low}`, () => this.buffer(pluck(this.context.sampleRate, hz, isMuted, low)));
  }

  noise() {
    return this.kept("noise", () => {
      const rate = this.context.sampleRate;
      const random = seeded(7);
      let low = 0;
      return this.buffer(Float32Array.from({ length: Math.ceil(rate * 0.09) }, (_, n) => {
        low += 0.35 * (random() - low);
        return low * Math.exp(-n / (rate * 0.018));
      }));
    });
  }

  click(accent) {
    return this.kept(`click ${accent}`, () => {
      const rate = this.context.sampleRate;
      const hz = accent ? 1760 : 1175;
      return this.buffer(Float32Array.from({ length: Math.ceil(rate * 0.06) }, (_, n) => 0.7 * Math.cos((2 * Math.PI * hz * n) / rate) * Math.exp(-n / (rate * 0.012))));
    });
  }
}

// seeded makes noise that is the same each time.
function seeded(seed) {
  return () => {
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
    return seed / 0x3fffffff - 1;
  };
}

// pluck works out a string: noise through a loop as long as its period.
function pluck(rate, hz, isMuted, low) {
  const samples = new Float32Array(Math.ceil(rate * (isMuted ? muted : ring)));
  const period = rate / hz - 0.5; // the smoothing takes half a sample
  const length = Math.max(2, Math.floor(period - 0.2));
  const rest = period - length;
  const pass = (1 - rest) / (1 + rest); // an all-pass filter takes the rest
  const line = new Float32Array(length);
  const random = seeded(Math.round(hz * 100) | 1);
  const dark = isMuted ? 0.22 : low ? 0.18 : 0.45; // the softness of the pick
  let soft = 0;
  for (let i = 0; i < length; i++) {
    soft += dark * (random() - soft);
    line[i] = soft;
  }
  const mean = line.reduce((a, b) => a + b, 0) / length;
  const peak = Math.max(...line.map((v) => Math.abs(v - mean)), 1e-6);
  // The pick strikes near a fifth of the string: what has a node there is missing.
  const node = Math.max(1, Math.round(length / 5));
  const struck = line.map((v, i) => ((v - mean) - 0.6 * (line[(i + length - node) % length] - mean)) / (1.5 * peak));
  const last = isMuted ? 0.28 : Math.min(6.5, 900 / hz + 2.2); // seconds until it is a thousandth
  const decay = 10 ** (-3 / (last * hz));
  let before = 0, beforeOut = 0, x = 0;
  for (let n = 0, i = 0; n < samples.length; n++, i = (i + 1) % length) {
    const out = struck[i];
    samples[n] = out * 0.8;
    const smooth = decay * 0.5 * (out + x);
    x = out;
    const next = pass * smooth + before - pass * beforeOut;
    before = smooth;
    beforeOut = next;
    struck[i] = next;
  }
  return samples;
}
