// Listening: a small plucked string. What sounds comes from the server, as a
// list of moments with frequencies; here each string is a delay line that is
// filled with noise and smoothed each time round.
let context;
let playing;

export function listenToListen() {
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-listen]");
    if (button) play(JSON.parse(button.dataset.listen));
  });
}

function play(strikes) {
  context ??= new AudioContext();
  context.resume();
  playing?.stop();
  const rate = context.sampleRate;
  const ring = 2.2;
  const end = Math.max(0, ...strikes.map((s) => s.at)) + ring;
  const buffer = context.createBuffer(1, Math.ceil(end * rate), rate);
  const out = buffer.getChannelData(0);
  strikes.forEach((strike, i) => {
    const until = strikes[i + 1]?.at ?? end;
    strike.hz.forEach((hz, k) => pluck(out, rate, strike.at + 0.018 * k, Math.min(until, strike.at + ring), hz, 0.5 / Math.sqrt(strike.hz.length)));
  });
  playing = context.createBufferSource();
  playing.buffer = buffer;
  playing.connect(context.destination);
  playing.start();
}

// pluck adds a string that is struck at a time, in seconds, and damped at
// another.
function pluck(out, rate, from, until, hz, gain) {
  const period = rate / hz;
  const length = Math.max(2, Math.floor(period - 0.5));
  const line = new Float32Array(length);
  let seed = Math.round(hz * 100) | 1; // the same string sounds the same
  for (let i = 0; i < length; i++) {
    seed = (seed * 1103515245 + 12345) & 0x7fffffff;
    line[i] = (seed / 0x3fffffff - 1) * gain;
  }
  const decay = 0.998 - 0.002 * Math.min(hz / 1000, 1);
  const last = Math.min(Math.floor(until * rate), out.length);
  for (let n = Math.floor(from * rate), i = 0; n < last; n++, i = (i + 1) % length) {
    const next = (i + 1) % length;
    const fade = Math.min(1, (last - n) / (0.02 * rate));
    out[n] += line[i] * fade;
    line[i] = decay * 0.5 * (line[i] + line[next]);
  }
}
