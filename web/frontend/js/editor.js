import { send } from "./send.js";

const previewAfter = 40; // ms without a keystroke
const draftAfter = 700;

// The sheet editor: preview while typing, problems in the margin, a draft that
// survives a closed tab and a lost connection.
export default () => ({
  status: "",

  init() {
    this.status = this.$root.querySelector("[role=status]").textContent;
    this.song = this.$root.dataset.song;
    this.saved = this.$root.dataset.saved;
    this.key = `valleyside draft ${this.song}`;
    this.$nextTick(() => {
      this.drafted = this.$refs.text.value; // the server has what it has sent
      const kept = localStorage.getItem(this.key);
      if (kept === this.$refs.text.value) localStorage.removeItem(this.key);
      else if (kept !== null) {
        this.$refs.text.value = kept;
        this.typed();
      }
      this.drawMargin();
    });
    this.$root.addEventListener("click", (event) => this.jump(event.target.closest("[data-line]")));
    // The page that comes may be drawn before the draft has arrived: what is
    // typed stays here for it.
    document.getElementById("discard")?.addEventListener("submit", () => {
      this.discarded = true;
      localStorage.removeItem(this.key);
    });
    window.addEventListener("beforeunload", () => { this.leaving = true; this.keepDraft(); });
  },

  typed() {
    clearTimeout(this.previewTimer);
    clearTimeout(this.draftTimer);
    this.previewTimer = setTimeout(() => this.preview(), previewAfter);
    this.draftTimer = setTimeout(() => this.keepDraft(), draftAfter);
    this.drawMargin();
    this.status = "Typed and not saved yet";
  },

  async preview() {
    this.running?.abort();
    this.running = new AbortController();
    try {
      const response = await send("/songs/preview", { sheet: this.$refs.text.value }, { signal: this.running.signal, accept: "text/html" });
      this.$refs.preview.innerHTML = await response.text();
      this.drawMargin();
    } catch (error) {
      if (error.name !== "AbortError") this.status = `${error.message} The preview stands still; what you type is kept.`;
    }
  },

  // keepDraft sends what is typed, or keeps it in the browser until it can.
  async keepDraft() {
    clearTimeout(this.draftTimer);
    const text = this.$refs.text.value;
    if (this.discarded) return;
    if (text === this.saved || text === this.drafted) return localStorage.removeItem(this.key);
    localStorage.setItem(this.key, text);
    try {
      await send(`/songs/${this.song}/draft`, { sheet: text });
      this.drafted = text;
      if (!this.leaving) localStorage.removeItem(this.key);
      if (this.$refs.text.value === text) this.status = "Kept as a draft, not saved yet";
    } catch (error) {
      this.status = `${error.message} What you typed is kept in this browser.`;
    }
  },

  leave() { this.keepDraft(); },
  save() { return this.store({}); },
  format() { return this.store({ format: "1" }); },

  async store(extra) {
    clearTimeout(this.draftTimer);
    const text = this.$refs.text.value;
    try {
      const answer = await (await send(`/songs/${this.song}`, { sheet: text, ...extra })).json();
      this.saved = answer.sheet;
      this.drafted = undefined;
      localStorage.removeItem(this.key);
      if (this.$refs.text.value === text && answer.sheet !== text) {
        const at = this.$refs.text.selectionStart;
        this.$refs.text.value = answer.sheet;
        this.$refs.text.setSelectionRange(at, at);
        this.drawMargin();
        this.preview();
      }
      document.getElementById("discard")?.remove();
      this.$root.querySelector("h1").textContent = answer.title;
      this.status = "Saved";
    } catch (error) {
      localStorage.setItem(this.key, text);
      this.status = `${error.message} It is not saved, but kept in this browser.`;
    }
  },

  problems() {
    const element = this.$refs.preview.querySelector("[data-problems]");
    return element ? JSON.parse(element.dataset.problems) : [];
  },

  // drawMargin numbers the lines and marks those with problems.
  drawMargin() {
    const worst = new Map();
    for (const p of this.problems()) if (worst.get(p.line) !== "error") worst.set(p.line, p.severity);
    const count = this.$refs.text.value.split("\n").length;
    const lines = [];
    for (let n = 1; n <= count; n++) {
      const line = document.createElement("div");
      line.textContent = worst.has(n) ? `▸${n}` : `${n}`;
      if (worst.has(n)) line.className = worst.get(n);
      lines.push(line);
    }
    this.$refs.margin.replaceChildren(...lines);
    this.scrolled();
  },

  scrolled() { this.$refs.margin.scrollTop = this.$refs.text.scrollTop; },

  // moved shows the problems of the line that the cursor stands in.
  moved() {
    const { value, selectionStart } = this.$refs.text;
    const line = String(value.slice(0, selectionStart).split("\n").length);
    for (const b of this.$refs.preview.querySelectorAll(".problems [data-line]")) b.classList.toggle("here", b.dataset.line === line);
  },

  // jump puts the cursor where a problem is.
  jump(problem) {
    if (!problem) return;
    const lines = this.$refs.text.value.split("\n");
    const line = Number(problem.dataset.line) - 1;
    let at = 0;
    for (let i = 0; i < line; i++) at += lines[i].length + 1;
    at += [...(lines[line] ?? "")].slice(0, Number(problem.dataset.column) - 1).join("").length;
    this.$refs.text.focus();
    this.$refs.text.setSelectionRange(at, at);
    this.moved();
  },
});
