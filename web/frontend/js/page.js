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
  if (event.target.closest("[data-print]")) window.print();
}

export function listenToPage() {
  document.addEventListener("click", stayUnderTheThumb);
  document.addEventListener("click", copyOrPrint);
}
