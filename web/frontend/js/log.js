// The student's log. What is logged is written down on this device first, with a
// mark of its own, and sent from there until the server has answered with that
// mark: a dropped connection, an answer that never comes or is none (a station's
// page that asks to be signed in to, a server that is being started) or a closed
// tab lose nothing, and sending twice logs once. What the server refuses for good stays
// here too, to be read and copied, until it is put away.
const again = 20_000; // ms between tries while something waits
const patience = 15_000; // ms after which an answer is not waited for any more
const hasty = 10_000, tap = 700; // ms in which the same entry once more is asked about, and is the same press

const name = (student, what) => `valleyside ${what} student ${student}`;
const read = (key) => { try { return JSON.parse(localStorage.getItem(key)) ?? []; } catch { return []; } };

function write(key, list) {
  if (list.length) localStorage.setItem(key, JSON.stringify(list));
  else localStorage.removeItem(key);
}

const changed = () => document.dispatchEvent(new CustomEvent("valleyside:waiting"));

// fieldsOf is what is sent of an entry: how old it is, to the millisecond, so that
// entries of the same minute stay in their order, and not by which clock.
function fieldsOf(entry) {
  const { made, error, ...fields } = entry;
  return { ...fields, age: String(Math.max(0, Date.now() - made) / 1000) };
}

// Outbox sends what waits for one student, one after the other, one at a time.
class Outbox {
  constructor(student, url) {
    this.waiting = name(student, "waiting");
    this.refused = name(student, "refused");
    this.url = url;
    const old = `valleyside waiting ${url}`; // as it was kept before
    const kept = read(old);
    if (kept.length) {
      write(this.waiting, [...read(this.waiting), ...kept.map((e) => ({ made: Date.now(), ...e }))]);
      localStorage.removeItem(old);
    }
  }

  add(entry) { write(this.waiting, [...read(this.waiting), entry]); changed(); }
  drop(key, sent) { write(key, read(key).filter((e) => e.sent !== sent)); changed(); }

  // attempt sends one entry and tells what became of it.
  async attempt(entry) {
    let response;
    try {
      response = await fetch(this.url, { method: "POST", body: new URLSearchParams(fieldsOf(entry)), headers: { Accept: "application/json" }, signal: AbortSignal.timeout?.(patience) });
    } catch {
      return { waits: "No connection.", offline: true };
    }
    const answer = await response.json().catch(() => null);
    if (response.ok && answer?.id === entry.sent) return { logged: answer.logged };
    if (answer?.refused === entry.sent) return { refused: answer.error };
    return { waits: answer?.error ?? "No right answer came." };
  }

  // outcome sends what waits and tells what became of one entry.
  async outcome(sent) {
    for (let tries = 0; tries < 2; tries++) { // what was under way may have begun without it
      const outcomes = await this.flush();
      const own = outcomes.get(sent);
      if (own) return own;
      const stuck = [...outcomes.values()].find((o) => o.waits);
      if (stuck) return stuck;
    }
    return { waits: "Something else is being sent." };
  }

  // flush sends all that waits, until something has to go on waiting.
  async flush() {
    if (this.running) return this.running;
    const run = async () => {
      const outcomes = new Map();
      for (const entry of read(this.waiting)) {
        const outcome = await this.attempt(entry);
        outcomes.set(entry.sent, outcome);
        if (outcome.offline) break;
        if (outcome.waits) continue; // what comes after it may go all the same
        if (outcome.refused) write(this.refused, [...read(this.refused).filter((e) => e.sent !== entry.sent), { ...entry, error: outcome.refused }]);
        this.drop(this.waiting, entry.sent);
      }
      return outcomes;
    };
    this.running = (navigator.locks?.request(this.waiting, run) ?? run()).finally(() => { this.running = undefined; });
    return this.running;
  }
}

let outbox;
const boxOf = (student, url) => (outbox ??= new Outbox(student, url));

// keepAndSend writes down what was practised on this device, sends it, and says what
// became of it.
async function keepAndSend(box, fields) {
  const entry = { ...fields, sent: crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`, made: Date.now() };
  let kept = true;
  try {
    box.add(entry);
  } catch { // no room on this device, or none allowed
    kept = false;
  }
  const outcome = kept ? await box.outcome(entry.sent) : await box.attempt(entry);
  if (outcome.logged) document.dispatchEvent(new CustomEvent("valleyside:logged", { detail: entry }));
  if (outcome.logged) return { kept, outcome, says: `Logged: ${outcome.logged}.` };
  if (outcome.refused) return { kept, outcome, says: outcome.refused };
  return { kept, outcome, says: kept ? `${outcome.waits} It is kept on this device and sent later.` : `${outcome.waits} This device keeps nothing: leave the page open and press again.` };
}

// logged logs what was played along to.
export const logged = async ({ student, url }, fields) => (await keepAndSend(boxOf(student, url), fields)).says;

// log is one form.
export const log = () => ({
  said: "",

  init() {
    this.form = this.$root;
    this.box = boxOf(this.form.dataset.student, this.form.getAttribute("action"));
  },

  step(event) {
    const input = this.form.elements.tempo;
    const next = Math.round(Number(input.value) || 0) + Number(event.currentTarget.dataset.step);
    input.value = Math.min(Math.max(next, Number(input.min)), Number(input.max));
  },

  async write() {
    if (this.sending || this.twice()) return; // one press is one entry
    this.sending = true;
    this.said = "Sending …";
    const { kept, outcome, says } = await keepAndSend(this.box, Object.fromEntries(new FormData(this.form)));
    this.said = says;
    this.sending = false;
    if (!outcome.refused && (kept || outcome.logged)) {
      this.form.elements.word.value = "";
      Object.assign(this, { wrote: this.filled(), at: Date.now(), asked: false });
    }
  },

  // twice tells whether the same entry was logged a moment ago: two taps in a row are one
  // entry, and who means it presses once more.
  twice() {
    const since = Date.now() - this.at;
    if (this.filled() !== this.wrote || since > hasty || (this.asked && since > tap)) return false;
    if (!this.asked) Object.assign(this, { asked: true, at: Date.now() });
    this.said = "That is logged already. Press once more to log it a second time.";
    return true;
  },

  // filled is what stands in the form.
  filled() { return JSON.stringify([...new FormData(this.form)]); },
});

// waiting shows what is on this device, and sends it whenever it may go.
export const waiting = () => ({
  init() {
    this.root = this.$root;
    this.box = boxOf(this.root.dataset.student, this.root.dataset.url);
    document.addEventListener("valleyside:waiting", () => this.draw());
    window.addEventListener("storage", () => this.draw());
    window.addEventListener("online", () => this.send());
    document.addEventListener("visibilitychange", () => { if (!document.hidden) this.send(); });
    setInterval(() => { if (read(this.box.waiting).length) this.send(); }, again);
    this.root.addEventListener("click", (event) => {
      const button = event.target.closest("[data-away]");
      if (button) this.box.drop(this.box.refused, button.dataset.away);
    });
    this.draw();
    this.send();
  },

  async send() {
    const outcomes = await this.box.flush();
    if ([...outcomes.values()].some((o) => o.logged)) document.dispatchEvent(new CustomEvent("valleyside:logged"));
    if ([...outcomes.values()].some((o) => o.logged)) this.note = "Sent what was waiting.";
    this.draw();
  },

  draw() {
    const say = (tag, text, props = {}) => Object.assign(document.createElement(tag), { textContent: text, ...props });
    const words = (e) => `${e.part}: ${e.clean} clean at ${e.tempo}, ${e.minutes} min${e.word ? `, “${e.word}”` : ""}, ${new Date(e.made).toLocaleString()}`;
    const parts = [];
    const list = read(this.box.waiting);
    if (list.length) parts.push(say("p", list.length === 1 ? "One entry waits on this device to be sent." : `${list.length} entries wait on this device to be sent.`, { className: "warn" }));
    else if (this.note) parts.push(say("p", this.note));
    read(this.box.refused).forEach((e, i) => {
      const box = say("div", "", { className: "warn refusal" });
      const away = say("button", "Put it away", { type: "button", className: "button" });
      const copy = say("button", "Copy", { type: "button", className: "button" });
      copy.dataset.copy = `#refused${i}`;
      away.dataset.away = e.sent;
      box.append(say("p", `Not taken: ${e.error} Show it to your teacher.`), say("p", words(e), { id: `refused${i}` }), copy, away);
      parts.push(box);
    });
    this.root.replaceChildren(...parts);
  },
});
