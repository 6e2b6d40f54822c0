import { Player } from "./player.js";
import { Ear, levels } from "./ear.js";

// The play bar of a step: it plays what its tab shows, marks the place in the tab and the
// hills above it, keeps the screen awake, and offers to log what was played.
const every = 60; // ms between two looks
const slowest = 0.4; // of the tempo to reach
const quickest = 1.5;
let context; // one for the page
let ear;
let playing; // the one that plays

const roles = { version: "your part", written: "as written", other: "second player", bass: "bass", click: "click" };

export const player = (logged) => () => ({
  said: "",
  after: "",
  offers: false,
  // What is not named here would be looked for in the view around it.
  root: null, tabs: null, heard: "", music: null, player: null, timer: null, frame: null, lock: null, now: null, next: null, upright: null,
  minutes: 0, rounds: 0, looked: 0, levels: {},

  init() {
    this.root = this.$root;
    this.tabs = this.root.closest("[data-played]") ?? this.root.parentElement;
    const field = this.root.querySelector("[name=play-tempo]");
    field?.addEventListener("change", () => this.set(Number(field.value)));
    this.tabs.addEventListener("click", (event) => {
      if (!event.target.closest?.("svg.tab")) return;
      const place = document.elementsFromPoint(event.clientX, event.clientY).find((e) => e.matches(".place"));
      if (place) this.begin(place);
    });
    this.root.addEventListener("input", (event) => {
      const role = event.target.dataset?.role;
      if (!role || !ear) return;
      this.levels[role] = Number(event.target.value);
      ear.loud(role, this.levels[role]);
    });
    this.root.addEventListener("change", (event) => {
      if (event.target.name === "climb" && this.player) this.player.every = Number(event.target.value);
      if (event.target.name === "count" && this.player) this.player.count = event.target.checked;
    });
    // What plays goes on while something else of it is looked at, and stops with it.
    document.addEventListener("valleyside:shown", () => {
      if (!this.player) return;
      if (!this.root.isConnected || this.heard !== this.root.dataset.music) this.halt();
      else this.mix(this.player.music);
      this.show();
    });
  },

  destroy() { this.halt(); },

  // load asks for the music, once.
  async load() {
    this.music ??= fetch(this.root.dataset.music).then((r) => {
      if (!r.ok) throw new Error(String(r.status));
      return r.json();
    });
    try {
      return await this.music;
    } catch {
      this.music = null;
      this.said = "The music could not be loaded. Try again when there is a connection.";
      return null;
    }
  },

  async ready() {
    if (this.heard !== this.root.dataset.music) { // another version is shown by now
      this.halt();
      this.player = this.music = null;
      this.root.querySelector(".mixer")?.replaceChildren();
    }
    if (this.player) return true;
    this.heard = this.root.dataset.music;
    const music = await this.load();
    if (!music?.bars?.length) return false;
    context ??= new AudioContext({ latencyHint: "interactive" });
    ear ??= new Ear(context);
    this.player = new Player(music, ear, { changed: () => this.show(), finished: () => this.halt() });
    const field = this.root.querySelector("[name=play-tempo]");
    if (Number(field?.value) >= 20) this.player.tempo = Number(field.value);
    this.player.every = Number(this.root.querySelector("[name=climb]")?.value ?? 0);
    this.player.count = this.root.querySelector("[name=count]")?.checked ?? true;
    this.mix(music);
    return true;
  },

  // mix shows a slider for each that can be heard.
  mix(music) {
    const box = this.root.querySelector(".mixer");
    if (!box || box.children.length) return;
    const there = new Map(music.voices.map((v) => [v.role, v.role === "other" ? v.name : roles[v.role]]));
    there.set("click", roles.click);
    for (const [role, name] of there) {
      const label = Object.assign(document.createElement("label"), { textContent: `${name} ` });
      const range = Object.assign(document.createElement("input"), { type: "range", min: 0, max: 1, step: 0.05, value: this.levels[role] ?? (role === "written" ? 0 : levels[role]) });
      range.dataset.role = role;
      ear.loud(role, Number(range.value));
      label.append(range);
      box.append(label);
    }
  },

  async toggle() {
    if (this.player?.running) return this.halt();
    if (!(await this.ready())) return;
    await context.resume();
    playing?.halt();
    playing = this;
    for (const range of this.root.querySelectorAll("[data-role]")) ear.loud(range.dataset.role, Number(range.value));
    this.offers = false;
    this.after = "";
    this.player.start();
    this.timer = setInterval(() => this.player.tick(document.hidden), every);
    this.wake();
    this.draw();
    this.show();
  },

  halt() {
    if (!this.player) return;
    const rounds = this.player.rounds;
    this.player.stop();
    clearInterval(this.timer);
    cancelAnimationFrame(this.frame);
    this.lock?.release().catch(() => {});
    this.lock = undefined;
    this.mark(null);
    if (playing === this) playing = undefined;
    if (rounds > 0 && this.root.dataset.assignment) {
      this.offers = true;
      this.minutes = Math.max(1, Math.round(this.player.played / 60));
      this.after = `${rounds === 1 ? "One round" : `${rounds} rounds`} at ${Math.round(this.player.tempo)}, ${this.minutes} min`;
      this.rounds = rounds;
    }
    this.show();
  },

  async wake() {
    try { this.lock = await navigator.wakeLock?.request("screen"); } catch { /* not allowed here: the screen does as it does */ }
  },

  slower() { this.by(-2); },
  faster() { this.by(2); },
  async by(step) { if (await this.ready()) this.set(Math.round(this.player.tempo) + step); },
  async set(tempo) {
    if (!(await this.ready())) return;
    const { start, tempo: goal } = this.player.music;
    this.player.faster(Math.min(Math.max(tempo || this.player.tempo, 20, Math.min(start, slowest * goal)), quickest * goal));
  },

  async loopBar() {
    if (!(await this.ready())) return;
    const all = this.player.to - this.player.from < this.player.music.bars.length;
    if (all) return this.player.go(0, this.player.music.bars.length);
    const bar = this.player.place()?.bar ?? this.looked ?? 0;
    this.player.go(bar, bar + 1);
  },

  async back() {
    if (!(await this.ready())) return;
    this.player.go(0, this.player.music.bars.length);
  },

  slip() { this.player?.slipped(); this.said = "This round does not count."; },

  // begin plays from a bar that was pressed.
  async begin(place) {
    if (!(await this.ready())) return;
    const part = Number(place.closest("[data-part]")?.dataset.part ?? 0);
    const number = Number(place.dataset.bar);
    const bar = this.player.music.bars.findIndex((b) => b.part === part && b.number === number);
    if (bar < 0) return;
    this.player.go(bar, this.player.music.bars.length);
    if (!this.player.running) this.toggle();
  },

  show() {
    if (!this.player) return;
    const field = this.root.querySelector("[name=play-tempo]");
    if (field && document.activeElement !== field) field.value = Math.round(this.player.tempo);
    const button = this.root.querySelector(".play");
    if (button) {
      button.textContent = this.player.running ? "Stop" : "Play";
      button.classList.toggle("stops", this.player.running);
    }
    if (this.player.running) this.said = this.player.rounds ? `Round ${this.player.rounds + 1}` : "";
  },

  // draw follows the music on the page for as long as it plays.
  draw() {
    const place = this.player.place();
    this.mark(place);
    if (this.player.running) this.frame = requestAnimationFrame(() => this.draw());
  },

  find(bar) {
    const own = this.tabs.querySelector(`[data-part="${bar.part}"]`) ?? this.tabs;
    const all = [...own.querySelectorAll(`.place[data-bar="${bar.number}"]`)];
    return all.find((p) => p.dataset.pass === String(bar.pass)) ?? all.find((p) => !p.dataset.pass || p.dataset.pass === "0") ?? all[0];
  },

  // mark shows where it is: the bar, how far in it, and the next one where it is hard.
  mark(place) {
    const bars = this.player.music.bars;
    const count = this.root.querySelector(".counting");
    if (count) count.textContent = place?.counts ? String(((place.counts - 1) % bars[this.player.from].beats) + 1) : "";
    const now = place && place.bar !== undefined ? this.find(bars[place.bar]) : null;
    const next = place && place.next !== undefined ? bars[place.next] : null;
    if (now !== this.now || next !== this.next) {
      for (const old of this.tabs.querySelectorAll(".place.now, .place.soon")) old.classList.remove("now", "soon");
      now?.classList.add("now");
      if (next?.hard && next !== bars[place.bar]) this.find(next)?.classList.add("soon");
      if (now && now !== this.now) {
        this.looked = place.bar;
        (next ? this.find(next) ?? now : now).closest("svg")?.scrollIntoView({ block: "nearest", behavior: still() ? "auto" : "smooth" });
        now.closest("svg")?.scrollIntoView({ block: "nearest", inline: "nearest", behavior: still() ? "auto" : "smooth" });
      }
      this.now = now;
      this.next = next;
    }
    this.line(now, place?.share ?? 0);
  },

  // line is the upright line that goes through the bar.
  line(now, share) {
    const svg = now?.ownerSVGElement;
    if (!svg) return this.upright?.remove();
    this.upright ??= document.createElementNS("http://www.w3.org/2000/svg", "rect");
    if (this.upright.ownerSVGElement !== svg) {
      this.upright.remove();
      this.upright.setAttribute("class", "upright");
      this.upright.setAttribute("width", "2");
      svg.append(this.upright);
    }
    const n = (name) => Number(now.getAttribute(name));
    this.upright.setAttribute("x", n("x") + n("width") * share);
    this.upright.setAttribute("y", n("y"));
    this.upright.setAttribute("height", n("height"));
  },

  async log(clean) {
    if (!this.offers) return;
    this.offers = false;
    const d = this.root.dataset;
    this.player.played = 0;
    this.said = "Sending …";
    this.said = await logged({ student: d.student, url: d.url }, { assignment: d.assignment, of: d.of, part: d.logPart, rung: d.rung, step: d.step, tempo: String(Math.round(this.player.tempo)), clean: String(clean ? Math.min(this.rounds, 50) : 0), minutes: String(this.minutes), word: "" });
  },
  cleanly() { return this.log(true); },
  notYet() { return this.log(false); },
});

const still = () => matchMedia("(prefers-reduced-motion: reduce)").matches;
