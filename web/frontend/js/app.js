// What the browser does beyond links and forms.
import Alpine from "@alpinejs/csp";
import editor from "./editor.js";
import rungs from "./rungs.js";
import { log, waiting } from "./log.js";
import { listenForKeys } from "./keys.js";
import { listenToListen } from "./listen.js";

Alpine.data("editor", editor);
Alpine.data("rungs", rungs);
Alpine.data("log", log);
Alpine.data("waiting", waiting);
Alpine.start();
listenForKeys();
listenToListen();

// Forms that save themselves when something in them changes.
document.addEventListener("change", (event) => event.target.closest("form[data-autosubmit]")?.requestSubmit());

document.addEventListener("click", async (event) => {
  const copy = event.target.closest("[data-copy]");
  if (copy) {
    await navigator.clipboard.writeText(document.querySelector(copy.dataset.copy).textContent);
    copy.textContent = "Copied";
  }
  if (event.target.closest("[data-print]")) window.print();
});
