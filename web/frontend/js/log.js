import { send } from "./send.js";

// The student's log. An entry gets a mark of its own before it is sent, so
// that sending it twice logs it once; without a connection it waits in the
// browser and is sent later.
export default () => ({
  said: "",

  init() {
    this.form = this.$root;
    this.url = this.form.getAttribute("action");
    this.flush();
    window.addEventListener("online", () => this.flush());
  },

  step(event) {
    const input = this.form.elements.tempo;
    const next = Math.round(Number(input.value) || 0) + Number(event.currentTarget.dataset.step);
    input.value = Math.min(Math.max(next, Number(input.min)), Number(input.max));
  },

  async send() {
    const fields = Object.fromEntries(new FormData(this.form));
    delete fields._csrf;
    fields.sent = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
    this.said = "Sending …";
    try {
      const answer = await (await send(this.url, fields)).json();
      this.said = `Logged: ${answer.logged}.`;
      this.form.elements.word.value = "";
    } catch (error) {
      if (!error.offline) {
        this.said = error.message;
        return;
      }
      keep([...waiting(this.url), fields], this.url);
      this.form.elements.word.value = "";
      this.said = "No connection. It is kept on this device and sent later.";
    }
  },

  // flush sends what has been waiting. One form does it for all.
  async flush() {
    if (this.form !== document.querySelector("form.log")) return;
    for (let list = waiting(this.url); list.length; list = waiting(this.url)) {
      try {
        await send(this.url, list[0]);
        this.said = "Sent what was waiting.";
      } catch (error) {
        if (error.offline) return;
      }
      keep(list.slice(1), this.url);
    }
  },
});

const name = (url) => `valleyside waiting ${url}`;
const waiting = (url) => JSON.parse(localStorage.getItem(name(url)) ?? "[]");

function keep(list, url) {
  if (list.length) localStorage.setItem(name(url), JSON.stringify(list));
  else localStorage.removeItem(name(url));
}
