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
      this.follow(link.href);
    });
  },

  changed() {
    const form = this.root.querySelector("form.choices");
    const chosen = new URLSearchParams(new FormData(form));
    const before = new URLSearchParams(location.search);
    // Another part brings its own tempo.
    if (before.has("part") ? before.get("part") !== chosen.get("part") : document.activeElement?.name === "part") chosen.delete("tempo");
    this.follow(`${location.pathname}?${chosen}`);
  },

  async follow(url) {
    this.running?.abort();
    this.running = new AbortController();
    const focus = focused();
    let response;
    try {
      response = await fetch(url, { headers: { "X-Fragment": "1" }, signal: this.running.signal });
    } catch (error) {
      if (error.name !== "AbortError") location.assign(url);
      return;
    }
    if (!response.ok) return location.assign(url);
    this.root.innerHTML = await response.text();
    history.replaceState(null, "", url);
    if (focus) this.root.querySelector(focus)?.focus({ preventScroll: true });
  },
});

// focused is a selector for what has the focus, to find it again afterwards.
function focused() {
  const at = document.activeElement;
  if (at?.dataset.key) return `[data-key="${CSS.escape(at.dataset.key)}"]`;
  if (at?.type === "radio") return `[name="${CSS.escape(at.name)}"]:checked`;
  if (at?.name) return `[name="${CSS.escape(at.name)}"]`;
  return "";
}
