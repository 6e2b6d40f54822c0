import { announce } from "./announce.js";
import { finds, placed } from "./notation.js";
import { offers } from "./offers.js";
import { begins, prints, show } from "./preview.js";
import { send } from "./send.js";
import { fretted, marks, tappedIn, Tapping } from "./tap.js";
import { entered } from "./typing.js";

const draftAfter = 700; // ms without a keystroke
const sayAfter = 1200;
const longestWait = 30_000; // ms, for a preview

// The sheet editor: preview while typing, problems in the margin, a draft that
// survives a closed tab and a lost connection. What stays in the browser says on
// which saved version it is based; what is based on an older one is not put over
// the newer, but shown beside it.
export default () => ({
  status: "",

  init() {
    this.status = this.$root.querySelector("[role=status]").textContent;
    this.song = this.$root.dataset.song;
    this.saved = this.$root.dataset.saved;
    this.version = Number(this.$root.dataset.version);
    this.draft = Number(this.$root.dataset.draft);
    this.key = `valleyside draft ${this.song}`;
    this.offers = offers(this.$refs.text, this.$refs.offers);
    this.$nextTick(() => {
      this.drafted = this.$refs.text.value; // the server has what it has sent
      const kept = this.local();
      if (!kept || kept.text === this.$refs.text.value) this.forget();
      else if (kept.base === undefined || kept.base === this.version) {
        this.$refs.text.value = kept.text;
        this.typed();
      } else {
        this.clash(kept.text, `In this browser there is another text, typed ${kept.at ? new Date(kept.at).toLocaleString() : "earlier"} and never sent, based on version ${kept.base}. This is version ${this.version}, saved ${this.$root.dataset.savedAt}.`);
        this.aside(kept.text).then((safe) => { if (safe) this.forget(); if (this.clashing) this.clashing.safe = safe; });
      }
      this.drawMargin();
    });
    this.$root.addEventListener("click", (event) => this.jump(event.target.closest("[data-line]")));
    // The page that comes may be drawn before the draft has arrived: what is
    // typed stays here for it.
    document.getElementById("discard")?.addEventListener("submit", () => {
      this.discarded = true;
      this.forget();
    });
    window.addEventListener("beforeunload", () => { this.leaving = true; this.keepDraft(); });
  },

  typed(event) {
    clearTimeout(this.draftTimer);
    this.typing = Boolean(event);
    this.at = this.$refs.text.selectionStart;
    this.preview();
    this.draftTimer = setTimeout(() => this.keepDraft(), draftAfter);
    this.drawMargin();
    this.status = "Typed and not saved yet";
  },

  // preview has drawn what is typed. While that is on its way, what is typed next waits:
  // it is the latest that is asked for then.
  async preview() {
    this.behind = true;
    if (this.asking) return;
    this.asking = true;
    this.$refs.preview.setAttribute("aria-busy", "true");
    try {
      while (this.behind) {
        this.behind = false;
        await this.ask();
      }
    } catch (error) {
      this.status = `${error.message} The preview stands still; what you type is kept.`;
    } finally {
      this.asking = false;
      this.$refs.preview.removeAttribute("aria-busy");
    }
  },

  async ask() {
    const { preview, sign, text } = this.$refs;
    const has = this.lost ? "" : prints(preview);
    const place = this.place();
    const typing = this.typing;
    const answer = await send("/songs/preview", { sheet: text.value, has, line: place.line, column: place.column }, { signal: AbortSignal.timeout(longestWait), accept: "text/html" });
    const { whole, offered, time } = show(preview, sign, await answer.text());
    this.time = time ?? this.time;
    this.lost = !whole;
    if (typing && offered) this.offered = this.offers.show(offered, place);
    else this.offers.close();
    this.behind ||= this.lost && has !== "";
    this.drawMargin();
    clearTimeout(this.sayTimer);
    this.sayTimer = setTimeout(() => this.say(), sayAfter);
  },

  // local is what this browser has kept, with what it is based on.
  local() {
    const kept = localStorage.getItem(this.key);
    if (kept === null) return undefined;
    try {
      const value = JSON.parse(kept);
      if (typeof value?.text === "string") return value;
    } catch { /* a text by itself, as it was kept before */ }
    return { text: kept };
  },

  remember(text) {
    try {
      localStorage.setItem(this.key, JSON.stringify({ text, base: this.version, at: Date.now() }));
      return true;
    } catch {
      return false; // no room, or none allowed
    }
  },

  forget() { localStorage.removeItem(this.key); },

  // keepDraft sends what is typed, or keeps it in the browser until it can.
  async keepDraft() {
    clearTimeout(this.draftTimer);
    const text = this.$refs.text.value;
    if (this.discarded || this.clashing && !this.clashing.safe) return;
    if (text === this.drafted) return this.forget();
    const here = this.remember(text);
    const draft = this.draft;
    try {
      await send(`/songs/${this.song}/draft`, { sheet: text, draft });
      if (draft !== this.draft) return; // saved meanwhile
      this.drafted = text;
      if (!this.leaving) this.forget();
      if (this.$refs.text.value === text) this.status = text === this.saved ? "As it is saved" : "Kept as a draft, not saved yet";
    } catch (error) {
      this.status = error.status === 409 ? error.message : `${error.message} ${here ? "What you typed is kept in this browser." : "This browser has no room to keep it: do not close the page."}`;
    }
  },

  leave() { this.keepDraft(); },
  save() { return this.store({}); },
  format() { return this.store({ format: "1" }); },

  async store(extra) {
    clearTimeout(this.draftTimer);
    const text = this.$refs.text.value;
    try {
      const answer = await (await send(`/songs/${this.song}`, { sheet: text, base: this.version, ...extra })).json();
      this.settle(answer);
      if (this.$refs.text.value === text && answer.sheet !== text) {
        const at = this.$refs.text.selectionStart;
        this.show(answer.sheet);
        this.$refs.text.setSelectionRange(at, at);
      }
      document.getElementById("discard")?.remove();
      this.$root.querySelector("h1").textContent = answer.title;
      this.status = "Saved";
    } catch (error) {
      const theirs = error.answer?.conflict;
      if (theirs) {
        this.status = "Not saved: there are two texts now";
        return this.clash(theirs.sheet, `This song was saved somewhere else meanwhile: version ${theirs.version}, ${theirs.when}. What you typed is below, the other text beside it. Both are kept.`, theirs);
      }
      const here = this.remember(text);
      this.status = `${error.message} It is not saved, ${here ? "but kept in this browser" : "and this browser has no room to keep it: do not close the page"}.`;
    }
  },

  // settle takes a saved sheet as what everything is based on from now on.
  settle({ sheet, version, draft }) {
    this.saved = this.drafted = sheet;
    this.version = version;
    this.draft = draft;
    this.forget();
  },

  show(text) {
    this.$refs.text.value = text;
    this.drawMargin();
    this.preview();
  },

  // aside has a text kept by the server, beside the draft and the versions, and
  // tells whether it is.
  aside(text) {
    return send(`/songs/${this.song}/draft`, { sheet: text, draft: -1 }).then(() => true, (error) => error.status === 409);
  },

  // clash shows two texts. Where the other was saved elsewhere, theirs is that, and
  // mine was kept when the save was refused.
  clash(other, why, theirs) {
    this.clashing = { other, theirs, safe: Boolean(theirs) };
    this.$refs.theirs.value = other;
    this.$refs.conflictWhy.textContent = why;
    this.$refs.conflict.hidden = false;
    this.$refs.conflict.scrollIntoView({ block: "nearest" });
  },

  async takeTheirs() {
    const { other, theirs } = this.clashing ?? { other: this.$refs.theirs.value };
    const mine = this.$refs.text.value;
    if (!theirs && mine !== this.saved && !(await this.aside(mine))) {
      this.status = "No connection. Both texts stay as they are until there is one.";
      return;
    }
    this.declare(theirs);
    this.show(other);
    if (theirs) this.status = `This is version ${theirs.version}. What you typed is kept under Versions.`;
    else this.typed();
  },

  keepMine() {
    this.declare(this.clashing?.theirs);
    this.typed();
  },

  // declare ends a clash.
  declare(theirs) {
    this.clashing = undefined;
    this.$refs.conflict.hidden = true;
    if (theirs) this.settle(theirs);
  },

  problems() {
    const element = this.$refs.preview.querySelector("[data-problems]");
    return element ? JSON.parse(element.dataset.problems) : [];
  },

  // say tells those who hear the page what is wrong, once it has changed and typing
  // pauses.
  say() {
    const list = this.problems();
    const words = list.map((p) => `Line ${p.line}: ${p.message}. ${p.mend}.`).slice(0, 3);
    if (list.length > 3) words.push(`${list.length - 3} more.`);
    const said = words.join(" ") || (this.said ? "No problems any more." : "");
    const { first } = this.offers;
    if (said && said !== this.said) announce(said);
    else if (first && first !== this.toldOffer) announce(`Tab writes ${first}${this.offered > 1 ? `, the first of ${this.offered} offers` : ""}.`);
    this.toldOffer = first;
    this.said = list.length ? said : "";
  },

  // keyed is a key that is pressed in the sheet.
  keyed(event) {
    if (this.offers.key(event) || this.frets && this.fret(event)) return;
    if (event.key === "Enter") this.enter(event);
  },

  // enter begins the next line of bars like the one before.
  enter(event) {
    const { value, selectionStart, selectionEnd } = this.$refs.text;
    if (event.shiftKey || event.ctrlKey || event.altKey || event.metaKey || event.isComposing || selectionStart !== selectionEnd) return;
    const change = entered(value, selectionStart);
    if (!change) return;
    event.preventDefault();
    this.$refs.text.setSelectionRange(change.from, change.to);
    document.execCommand(change.insert ? "insertText" : "delete", false, change.insert); // can be undone, unlike a value that is set
  },

  // help opens the notation beside the sheet, or closes it.
  help() {
    const panel = this.$refs.notation;
    panel.hidden = !panel.hidden;
    (panel.hidden ? this.$refs.text : this.$refs.asked).focus();
  },

  find() {
    const asked = this.$refs.asked.value;
    let some = false;
    for (const topic of this.$refs.notation.querySelectorAll("[data-topic]")) {
      let any = false;
      for (const sign of topic.querySelectorAll("[data-words]")) {
        sign.hidden = !finds(sign.dataset.words, asked);
        any ||= !sign.hidden;
      }
      topic.hidden = !any;
      some ||= any;
    }
    this.$refs.nothing.hidden = some;
  },

  // put puts an example where the cursor stands, or where such lines stand.
  put(event) {
    const button = event.target.closest("[data-example]");
    if (!button) return;
    const text = this.$refs.text;
    const change = placed(text.value, text.selectionEnd, button.dataset.example, button.dataset.place);
    text.focus();
    text.setSelectionRange(change.from, change.to);
    if (change.insert) document.execCommand("insertText", false, change.insert);
    text.setSelectionRange(change.begin, change.begin + change.length);
    this.moved();
  },

  // taps opens what a rhythm is tapped on, or closes it.
  async taps() {
    const { tap, tempo, text, pad } = this.$refs;
    this.tapping?.stop();
    this.tapping = this.frets = undefined;
    tap.hidden = !tap.hidden;
    if (tap.hidden) return text.focus();
    this.at = text.selectionStart;
    await this.preview(); // it brings the time of the part that the cursor is in
    tempo.value = this.time?.tempo ?? 100;
    this.tell("ready");
    pad.focus();
  },

  // tell says what is to be done next.
  tell(state, n) {
    const { click, heard, pad } = this.$refs;
    const ready = click.checked ? "After a bar of clicks tap the rhythm, on any key or here. Enter ends it." : "Tap the rhythm, on any key or here: the first tap is on 1, the tempo yours. Enter ends it.";
    heard.textContent = { ready, frets: `Now the frets: type 7A, or 7 for the string before. Space goes to the next of ${n}, Enter ends it.`, done: "Tap the next bars, or close this." }[state] ?? state;
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

  // press is the pad: it starts, and then is tapped on.
  press(event) {
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
    this.tell("Tap. Enter ends it.");
  },

  beat(event) {
    this.tapping.tap(event.timeStamp);
    const { length } = this.tapping.taps;
    this.$refs.heard.textContent = `${length} ${length === 1 ? "tap" : "taps"}. Enter ends it.`;
  },

  // tapped puts what was tapped into the sheet, and goes on to its frets.
  async tapped() {
    const { text, tap, click } = this.$refs;
    const { tempo } = this.tapping;
    const taps = this.tapping.stop().map((at) => at.toFixed(4)).join(" ");
    this.tapping = undefined;
    let answer;
    try {
      if (!taps) throw new Error("Nothing was tapped. Start once more.");
      answer = await (await send("/songs/tap", { sheet: text.value, ...this.place(), taps, tempo, click: click.checked ? "1" : "" })).json();
    } catch (error) {
      this.tell("ready");
      this.$refs.heard.textContent = error.message;
      return;
    }
    const change = tappedIn(text.value, text.selectionStart, answer.lines);
    text.focus();
    text.setSelectionRange(change.from, change.to);
    document.execCommand("insertText", false, change.insert);
    this.frets = { from: change.begin, behind: text.value.length - change.begin - change.length };
    tap.querySelector(".pad").textContent = "Start";
    announce(answer.words);
    this.next(change.begin);
    this.$refs.said.textContent = answer.words;
  },

  // fret tells whether a key was one of going from fret to fret.
  fret(event) {
    const { text } = this.$refs;
    const end = text.value.length - this.frets.behind;
    if (event.ctrlKey || event.altKey || event.metaKey || text.selectionStart < this.frets.from || text.selectionStart > end) return false;
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

  // drawMargin numbers the lines and marks those with problems, where either has changed.
  drawMargin() {
    const count = this.$refs.text.value.split("\n").length;
    const problems = this.$refs.preview.querySelector("[data-problems]")?.dataset.problems;
    if (count === this.numbered?.count && problems === this.numbered.problems) return;
    this.numbered = { count, problems };
    const worst = new Map();
    for (const p of this.problems()) if (worst.get(p.line) !== "error") worst.set(p.line, p.severity);
    const runs = [""]; // numbers as they stand, and elements for those that are marked
    for (let n = 1; n <= count; n++) {
      if (worst.has(n)) {
        const mark = document.createElement("span");
        mark.textContent = `▸${n}`;
        mark.className = worst.get(n);
        runs.push(mark, "\n");
      } else runs[runs.length - 1] += `${n}\n`;
    }
    this.$refs.margin.replaceChildren(...runs);
    this.scrolled();
  },

  scrolled() { this.$refs.margin.scrollTop = this.$refs.text.scrollTop; },

  // place is the line and column of the cursor, in characters, from 1, and where it is
  // in all of the text.
  place() {
    const { value, selectionStart: at } = this.$refs.text;
    const lines = value.slice(0, at).split("\n");
    return { line: lines.length, column: [...lines.at(-1)].length + 1, at };
  },

  // moved shows what is under the cursor, and the problems of its line.
  moved() {
    const line = String(this.place().line);
    for (const b of document.getElementById("problems").querySelectorAll("[data-line]")) b.classList.toggle("here", b.dataset.line === line);
    if (this.$refs.text.selectionStart === this.at) return;
    this.at = this.$refs.text.selectionStart;
    this.typing = false;
    this.preview();
  },

  // look goes to the sign of a bar that is pressed in the preview.
  look(event) {
    const place = event.target.closest(".place");
    const to = place && begins(place);
    if (to) this.go(to);
  },

  // jump puts the cursor where a problem is.
  jump(problem) {
    if (problem) this.go({ line: Number(problem.dataset.line), column: Number(problem.dataset.column) });
  },

  go({ line, column }) {
    const lines = this.$refs.text.value.split("\n");
    let at = 0;
    for (let i = 0; i < line - 1; i++) at += lines[i].length + 1;
    at += [...(lines[line - 1] ?? "")].slice(0, column - 1).join("").length;
    this.$refs.text.focus();
    this.$refs.text.setSelectionRange(at, at);
    this.moved();
  },
});
