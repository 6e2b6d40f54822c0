// What the browser does beyond links and forms.
import Alpine from "@alpinejs/csp";
import editor from "./editor.js";
import morph from "@alpinejs/morph";
import swap from "./swap.js";
import { log, logged, waiting } from "./log.js";
import { player } from "./play/view.js";
import { listenForKeys } from "./keys.js";
import { bringSongs, closeFolds } from "./bring.js";
import { keepForms } from "./keep.js";
import { listenToListen } from "./listen.js";
import { measure } from "./measure.js";
import { freshen, keepOffline } from "./offline.js";

Alpine.data("editor", editor);
Alpine.data("swap", swap);
Alpine.data("log", log);
Alpine.data("waiting", waiting);
Alpine.data("player", player(logged));
Alpine.plugin(morph);
Alpine.start();
listenForKeys();
listenToListen();
keepForms();
bringSongs();
closeFolds();
measure();
keepOffline();
freshen();

// Of parts of which one is open at a time, the one that is opened stays under the thumb
// when the one above it closes.
document.addEventListener("click", (event) => {
  const summary = event.target.closest("summary");
  const part = summary?.parentElement;
  if (!part?.matches("details[name]") || part.open) return;
  const before = summary.getBoundingClientRect().top;
  part.addEventListener("toggle", () => window.scrollBy({ top: summary.getBoundingClientRect().top - before, behavior: "instant" }), { once: true });
});

document.addEventListener("click", async (event) => {
  const copy = event.target.closest("[data-copy]");
  if (copy) {
    await navigator.clipboard.writeText(document.querySelector(copy.dataset.copy).textContent);
    copy.textContent = "Copied";
  }
  if (event.target.closest("[data-print]")) window.print();
});
