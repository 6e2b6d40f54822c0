// Tapping a rhythm in, as the part of the editor that it is: the panel in which it is
// tapped, and then the way from fret to fret in the sheet.
import { announce } from "./announce.js";
import { send } from "./send.js";
import { countIn, fretted, marks, tappedIn, Tapping } from "./tap.js";

export const tapping = {
  // taps opens what a rhythm is tapped on, or closes it.
  async taps() {
    const { tap, tempo, text, pad, notation } = this.$refs;
    this.tapping?.stop();
    this.tapping = this.frets = this.take = undefined;
    tap.hidden = !tap.hidden;
    if (tap.hidden) return text.focus();
    notation.hidden = true;
    this.at = text.selectionStart;
    pad.disabled = true;
    await this.preview(); // it brings the time of the part that the cursor is in
    pad.disabled = false;
    if (tap.hidden) return; // closed meanwhile
    tempo.value = this.time?.tempo ?? 100;
    this.tell("ready");
    pad.focus();
  },

  // tell says what is to be done next.
  tell(state, n) {
    const { click, done, heard, pad, tempo } = this.$refs;
    const ready = click.checked ? `After ${countIn(tempo.value) > 1 ? "two bars" : "a bar"} of clicks tap the rhythm, on any key or here. Enter or Done ends it.` : "Tap the rhythm, on any key or here: the first tap is on 1, the tempo yours. Enter or Done ends it.";
    heard.textContent = { ready, frets: `Now the frets: type 7A, or 7 for the string before. Space goes to the next of ${n}, Enter ends it.`, done: "Tap the next bars, or close this.", tap: "Tap. Enter or Done ends it." }[state];
    done.hidden = state !== "tap";
    if (state !== "tap") pad.classList.remove("lead");
    if (state === "ready" || state === "done") pad.textContent = "Start";
    if (state !== this.told) announce(heard.textContent);
    this.told = state;
  },

  // pressed is a key in what a rhythm is tapped on: a tap while one is tapped.
  pressed(event) {
    if (event.ctrlKey || event.altKey || event.metaKey || event.key === "Tab") return;
    if (event.key === "Escape") return this.taps();
    if (!this.tapping || event.target.matches("input")) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.repeat || event.key === "Shift") return;
    if (event.key === "Enter") this.tapped();
    else this.beat(event);
  },

  // press is the pad: it starts, and then is tapped on. What could not be sent is sent again.
  press(event) {
    if (this.take && event.type === "click") return this.write();
    if (this.tapping) return event.type === "pointerdown" ? this.beat(event) : undefined;
    if (event.type !== "click") return;
    const { pad, tempo, click } = this.$refs;
    this.tapping = new Tapping({
      tempo: Math.min(400, Math.max(20, Number(tempo.value) || 100)), beats: this.time?.beats ?? 4, click: click.checked,
      count: (n, lead) => { pad.textContent = lead ? `${n} …` : `${n}`; pad.classList.toggle("lead", lead); },
      over: () => this.tapped(),
    });
    this.tapping.start();
    pad.textContent = click.checked ? "…" : "Tap";
    this.tell("tap");
  },

  beat(event) {
    this.tapping.tap(event.timeStamp);
    const { length } = this.tapping.taps;
    this.$refs.heard.textContent = `${length} ${length === 1 ? "tap" : "taps"}. Enter or Done ends it.`;
  },

  // tapped ends a take.
  tapped() {
    if (!this.tapping) return;
    const { tempo, click } = this.tapping;
    const taps = this.tapping.stop().map((at) => at.toFixed(4)).join(" ");
    this.tapping = undefined;
    this.tell("ready");
    if (!taps) {
      this.$refs.heard.textContent = "Nothing was tapped. Start once more.";
      return;
    }
    this.take = { taps, tempo, click: click ? "1" : "" };
    return this.write();
  },

  // write puts a take into the sheet, and goes on to its frets.
  async write() {
    const { text, heard, pad } = this.$refs;
    const { take } = this;
    this.take = undefined;
    let answer;
    try {
      answer = await (await send("/songs/tap", { sheet: text.value, line: this.place().line, ...take })).json();
    } catch (error) {
      heard.textContent = error.message;
      if (error.offline) {
        this.take = take;
        heard.textContent += " What you tapped is kept until you close this.";
        pad.textContent = "Send it again";
      }
      return;
    }
    const change = tappedIn(text.value, text.selectionStart, answer.lines);
    text.focus();
    text.setSelectionRange(change.from, change.to);
    document.execCommand("insertText", false, change.insert);
    this.frets = { from: change.begin, behind: text.value.length - change.begin - change.length };
    announce(answer.words);
    this.next(change.begin);
    this.$refs.said.textContent = answer.words;
  },

  // left ends the way from fret to fret where something is typed elsewhere.
  left() {
    if (!this.frets) return;
    const { value, selectionStart } = this.$refs.text;
    if (selectionStart < this.frets.from || selectionStart > value.length - this.frets.behind) {
      this.frets = undefined;
      this.tell("done");
    }
  },

  // fret tells whether a key was one of going from fret to fret.
  fret(event) {
    const { text } = this.$refs;
    const end = text.value.length - this.frets.behind;
    if (event.ctrlKey || event.altKey || event.metaKey || event.isComposing || text.selectionStart < this.frets.from || text.selectionStart > end) return false;
    if (event.key === "Escape" || event.key === "Enter") {
      this.string();
      const at = text.value.length - this.frets.behind;
      text.setSelectionRange(at, at);
      this.frets = undefined;
      this.tell("done");
    } else if (event.key === " ") {
      this.string();
      this.next(text.selectionEnd);
    } else return false;
    event.preventDefault();
    return true;
  },

  // string completes a fret that was typed alone with the string of the one before.
  string() {
    const { text } = this.$refs;
    const before = text.value.slice(0, text.selectionStart);
    const sign = before.match(/[^\s(|]*$/)[0];
    const whole = text.selectionStart === text.selectionEnd ? fretted(sign, before.slice(0, before.length - sign.length)) : sign;
    if (whole !== sign) document.execCommand("insertText", false, whole.slice(sign.length));
  },

  // next selects the next tap without a fret, from a position on.
  next(from) {
    const { text } = this.$refs;
    const end = text.value.length - this.frets.behind;
    const left = marks(text.value.slice(0, end)).filter((at) => at >= this.frets.from);
    const at = left.find((m) => m >= from);
    if (at === undefined) {
      text.setSelectionRange(end, end);
      this.frets = undefined;
      this.tell("done");
    } else {
      text.setSelectionRange(at, at + 1);
      this.tell("frets", left.length);
    }
    this.moved();
  },
};
