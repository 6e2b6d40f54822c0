// Finding anything from anywhere: by / or Ctrl+K a field opens over the page, and what it
// finds comes while one types. Without this the link leads to a page of its own.
let asked;

export function listenToFind() {
  const dialog = document.getElementById("finder");
  if (!dialog) return;
  const field = dialog.querySelector("input");
  const found = document.getElementById("finder-found");
  const open = (event) => {
    event.preventDefault();
    if (!dialog.open) dialog.showModal();
    field.select();
  };
  document.addEventListener("click", (event) => { if (event.target.closest("[data-find]")) open(event); });
  document.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && !event.shiftKey && event.key.toLowerCase() === "k") open(event);
  });
  let waiting;
  field.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(() => look(field.value.trim(), found), 120);
  });
  dialog.addEventListener("keydown", (event) => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const places = [field, ...found.querySelectorAll("a")];
    const at = places.indexOf(document.activeElement) + (event.key === "ArrowDown" ? 1 : -1);
    event.preventDefault();
    places[Math.max(0, Math.min(at, places.length - 1))].focus();
  });
  dialog.querySelector("form").addEventListener("submit", (event) => {
    const first = found.querySelector("a");
    if (!first || found.dataset.of !== field.value.trim()) return; // the page answers
    event.preventDefault();
    location.assign(first.href);
  });
}

// look shows what there is for some words, unless others were asked for meanwhile.
async function look(words, found) {
  asked?.abort();
  asked = new AbortController();
  if (!words) return found.replaceChildren();
  try {
    const answer = await fetch(`/find?q=${encodeURIComponent(words)}`, { headers: { "X-Fragment": "1" }, signal: asked.signal });
    if (!answer.ok) return;
    found.innerHTML = await answer.text();
    found.dataset.of = words;
  } catch (error) {
    if (error.name !== "AbortError") found.textContent = "No connection. Try again.";
  }
}
