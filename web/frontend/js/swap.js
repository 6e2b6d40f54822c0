import Alpine from "@alpinejs/csp";
import { announce } from "./announce.js";
import drag from "./drag.js";

// A view whose every choice is a link or a form: here they are followed in place.
// What the server answers takes the place of what is shown, element by element, so
// that the focus stays where it was; what changed is announced; and Back walks
// through what was chosen.
export default () => ({
  init() {
    // Kept, because the elements that ask for it later may be gone from the page by
    // then.
    this.root = this.$root;
    this.root.addEventListener("click", (event) => {
      const link = event.target.closest("a[data-swap]");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      // The address of a link in a drawing is an object.
      const url = new URL(link.getAttribute("href"), location);
      this.swap(url, { headers: fragment }, url);
    });
    this.root.addEventListener("submit", (event) => {
      const form = event.target.closest("form[data-swap]");
      if (!form) return;
      event.preventDefault();
      this.swap(new URL(form.getAttribute("action"), location), { method: "POST", headers: fragment, body: new URLSearchParams(new FormData(form, event.submitter)) }, null, form.dataset.saved);
    });
    this.root.addEventListener("change", (event) => {
      const { form } = event.target; // it may stand elsewhere on the page
      if (form?.matches("form.way, form[data-autosave]")) form.requestSubmit();
    });
    drag(this.root);
    window.addEventListener("popstate", () => this.swap(new URL(location), { headers: fragment }, null));
  },

  changed() {
    const fields = new URLSearchParams(new FormData(this.root.querySelector("form.choices")));
    const url = new URL(`${location.pathname}?${fields}`, location);
    this.swap(url, { headers: fragment }, url);
  },

  // swap puts what the server answers in the place of all that is shown; the address
  // changes with it where there is a new one.
  async swap(url, request, address, saved) {
    this.running?.abort();
    const running = this.running = new AbortController();
    const asked = document.activeElement?.value;
    this.root.setAttribute("aria-busy", "true");
    const answer = await ask(url, { ...request, signal: running.signal });
    if (this.running !== running) return; // something else was asked for meanwhile
    if (answer?.ok) this.show(answer.html, asked, address, saved);
    else if (answer && address && answer.status !== 401) location.assign(address);
    else if (answer) {
      const message = new DOMParser().parseFromString(answer.html, "text/html").querySelector("main p")?.textContent;
      announce(message ?? `The server answered ${answer.status}. Nothing was changed.`, true);
    }
    this.root.removeAttribute("aria-busy");
  },

  // show puts an answer in the place of all that is shown. asked is what stood in the
  // field that had the focus when it was asked for.
  show(html, asked, address, saved) {
    const shell = this.root.cloneNode(false);
    shell.innerHTML = html;
    Alpine.morph(this.root, shell.outerHTML, { key: (element) => element.id || element.getAttribute?.("data-key") || undefined });
    asAnswered(this.root, asked);
    document.dispatchEvent(new CustomEvent("valleyside:shown"));
    // The server may have left out what belonged to the choice before.
    const settled = this.root.querySelector("[data-address]")?.dataset.address;
    if (address && settled) address = new URL(settled, address);
    if (address && String(address) !== location.href) {
      if (steps(new URL(location), address)) history.replaceState(null, "", address);
      else history.pushState(null, "", address);
    }
    const told = saved ?? this.root.querySelector("[data-announce]")?.dataset.announce;
    if (told) announce(told);
  },
});

// ask is what the server answers; nothing where it does not, or nobody waits for it
// any more.
async function ask(url, request) {
  try {
    const response = await fetch(url, request);
    return { ok: response.ok, status: response.status, html: await response.text() };
  } catch (error) {
    if (error.name !== "AbortError") announce("No connection. What is shown stays as it is; try again.", true);
    return null;
  }
}

// asAnswered makes every field show what the server has answered with: what is
// shown is what is used. What has been typed since it was asked is left alone.
function asAnswered(root, asked) {
  for (const e of root.querySelectorAll("input, select, textarea")) {
    if (e === document.activeElement && e.value !== asked) continue;
    if (e.type === "checkbox" || e.type === "radio") e.checked = e.defaultChecked;
    else if (e.tagName === "SELECT") for (const o of e.options) o.selected = o.defaultSelected;
    else if (e.type !== "hidden") e.value = e.defaultValue;
  }
}

const fragment = { "X-Fragment": "1" };

// steps tells whether two addresses differ only in what is looked at: going from
// note to note is no choice to come back to.
function steps(from, to) {
  const rest = (url) => {
    const q = new URLSearchParams(url.search);
    for (const field of ["bar", "at", "pass", "step", "waspart", "wasfor"]) q.delete(field);
    q.sort();
    return url.pathname + q;
  };
  return rest(from) === rest(to);
}
