import { announce } from "./announce.js";
import { notation } from "./notation.js";
import { offers } from "./offers.js";
import { begins, prints, show } from "./preview.js";
import { send } from "./send.js";
import { tapping } from "./tapping.js";
import { entered, headed } from "./typing.js";

const draftAfter = 700; // ms without a keystroke
const sayAfter = 1200;
const tryAgain = 1000;
const longestWait = 30_000; // ms, for a preview

// The sheet editor: preview while typing, problems in the margin, a draft that
// survives a closed tab and a lost connection. What stays in the browser says on
// which save it is based; what is based on an older one is not put over
// the newer, but shown beside it.
export default () => ({
  ...notation,
  ...tapping,
  status: "",
  given: "", // of those who have the song

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
        this.clash(kept.text, `In this browser there is another text, typed ${kept.at ? new Date(kept.at).toLocaleString() : "earlier"} and never sent, based on save ${kept.base}. This is save ${this.version}, of ${this.$root.dataset.savedAt}.`);
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
    this.left();
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
      setTimeout(() => { if (this.behind) this.preview(); }, tryAgain);
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
      this.given = answer.says ?? "";
    } catch (error) {
      const theirs = error.answer?.conflict;
      if (theirs) {
        this.status = "Not saved: there are two texts now";
        return this.clash(theirs.sheet, `This song was saved somewhere else meanwhile: save ${theirs.version}, ${theirs.when}. What you typed is below, the other text beside it. Both are kept.`, theirs);
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
    this.frets = undefined;
    this.drawMargin();
    this.preview();
  },

  // aside has a text kept by the server, beside the draft and the saves, and
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
    if (theirs) this.status = `This is save ${theirs.version}. What you typed is kept under Saves.`;
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
    else if (event.key.length === 1) this.over(event);
  },

  // over lets who types the bar line that Enter has begun, and its space, type over them.
  over(event) {
    const { selectionStart, selectionEnd } = this.$refs.text;
    const there = this.began?.at === selectionStart && selectionStart === selectionEnd && event.key === this.began.signs[0];
    if (there) event.preventDefault();
    this.began = there ? { at: selectionStart, signs: this.began.signs.slice(1) } : undefined;
  },

  // enter begins the next line of bars like the one before; the name of a part that was typed
  // on one that was begun so stands alone on its line.
  enter(event) {
    const { value, selectionStart, selectionEnd } = this.$refs.text;
    if (event.shiftKey || event.ctrlKey || event.altKey || event.metaKey || event.isComposing || selectionStart !== selectionEnd) return;
    const name = headed(value, selectionStart);
    if (name) return this.change(name);
    const change = entered(value, selectionStart);
    if (!change) return;
    event.preventDefault();
    this.change(change);
    this.began = change.insert ? { at: this.$refs.text.selectionStart, signs: "| " } : undefined;
  },

  // change puts text in the place of what stands between two positions.
  change({ from, to, insert }) {
    this.$refs.text.setSelectionRange(from, to);
    document.execCommand(insert ? "insertText" : "delete", false, insert); // can be undone, unlike a value that is set
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
