// What every page does beyond links and forms.

// Of parts of which one is open at a time, the one that is opened stays under the thumb
// when the one above it closes.
function stayUnderTheThumb(event) {
  const summary = event.target.closest("summary");
  const part = summary?.parentElement;
  if (!part?.matches("details[name]") || part.open) return;
  const before = summary.getBoundingClientRect().top;
  part.addEventListener("toggle", () => window.scrollBy({ top: summary.getBoundingClientRect().top - before, behavior: "instant" }), { once: true });
}

async function copyOrPrint(event) {
  const copy = event.target.closest("[data-copy]");
  if (copy) {
    await navigator.clipboard.writeText(document.querySelector(copy.dataset.copy).textContent);
    copy.textContent = "Copied";
  }
  if (event.target.closest("[data-print]")) {
    for (const fold of document.querySelectorAll("details[data-printed]")) fold.open = true;
    window.print();
  }
}

// A form that says which rows of a list are shown is sent when something is chosen in it; empty
// fields stay out of the address.
function choose(event) {
  const form = event.target.closest?.("form[data-filter]");
  if (form && event.target.type !== "search") form.requestSubmit();
}

function withoutEmpty(event) {
  const form = event.target;
  if (!form.matches?.("form[data-filter]")) return;
  for (const field of form.elements) if (field.name && !field.value) field.disabled = true;
}

export function listenToPage() {
  document.addEventListener("change", choose);
  document.addEventListener("submit", withoutEmpty);
  window.addEventListener("pageshow", () => { for (const field of document.querySelectorAll("form[data-filter] :disabled")) field.disabled = false; });
  document.addEventListener("click", stayUnderTheThumb);
  document.addEventListener("click", copyOrPrint);
}
