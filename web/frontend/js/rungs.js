// The rungs page: every choice is a link or a form; here they are followed in
// place, without a new page.
export default () => ({
  init() {
    // Kept, because the elements that ask for it later may be gone from the
    // page by then.
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
      this.swap(form.action, { method: "POST", headers: fragment, body: new URLSearchParams(new FormData(form, event.submitter)) });
    });
    this.root.addEventListener("change", (event) => event.target.closest("form.way")?.requestSubmit());
  },

  changed() {
    const fields = new URLSearchParams(new FormData(this.root.querySelector("form.choices")));
    const url = new URL(`${location.pathname}?${fields}`, location);
    this.swap(url, { headers: fragment }, url);
  },

  // swap puts what the server answers in the place of all that is shown; the
  // address changes with it where there is a new one.
  async swap(url, request, address) {
    this.running?.abort();
    this.running = new AbortController();
    const focus = focused();
    let response;
    try {
      response = await fetch(url, { ...request, signal: this.running.signal });
    } catch (error) {
      if (error.name !== "AbortError" && address) location.assign(address);
      return;
    }
    if (!response.ok) {
      if (address) location.assign(address);
      return;
    }
    this.root.innerHTML = await response.text();
    if (address) history.replaceState(null, "", address);
    if (focus) this.root.querySelector(focus)?.focus({ preventScroll: true });
  },
});

const fragment = { "X-Fragment": "1" };

// focused is a selector for what has the focus, to find it again afterwards.
function focused() {
  const at = document.activeElement;
  if (at?.dataset.key) return `[data-key="${CSS.escape(at.dataset.key)}"]`;
  if (at?.type === "radio") return `[name="${CSS.escape(at.name)}"]:checked`;
  if (at?.name) return `[name="${CSS.escape(at.name)}"]`;
  return "";
}
