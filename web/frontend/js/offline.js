// A student's page is kept on the device, with the music that is on it.
export async function keepOffline() {
  const list = document.querySelector("[data-keep-offline]");
  if (!list || !navigator.serviceWorker) return;
  try {
    await navigator.serviceWorker.register("/worker.js", { scope: "/s/" });
    const { active } = await navigator.serviceWorker.ready;
    const assets = [...document.querySelectorAll("link[href^='/static/'], script[src^='/static/']")].map((e) => e.href ?? e.src);
    const fonts = performance.getEntriesByType("resource").map((e) => e.name).filter((n) => n.startsWith(`${location.origin}/static/`));
    active.postMessage({ keep: list.dataset.keepOffline.split("\n").filter(Boolean), page: location.origin + location.pathname, assets: [...new Set([...assets, ...fonts])] });
    document.documentElement.dataset.kept = "";
  } catch { /* none allowed here: the page is as it is without */ }
}

// After something was logged, what the page says about it is asked for again.
export function freshen() {
  document.addEventListener("valleyside:logged", async () => {
    if (!document.querySelector("[data-fresh], [data-today]")) return;
    try {
      const response = await fetch(location.pathname);
      if (!response.ok) return;
      const page = new DOMParser().parseFromString(await response.text(), "text/html");
      for (const old of document.querySelectorAll("[data-fresh]")) {
        const now = page.getElementById(old.id);
        if (now) old.replaceChildren(...now.childNodes);
      }
      today(document.querySelector("[data-today]"), page.querySelector("[data-today]"));
    } catch { /* it is fresh when it is loaded again */ }
  });
}

// today marks the steps that are done, and puts those that come in their place below, what is
// there for who likes more last: what is open and may be playing stays as it is.
function today(old, now) {
  if (!old) return;
  const steps = (of) => new Map([...(of?.querySelectorAll("details[data-of]") ?? [])].map((e) => [e.dataset.of, e]));
  const [there, next] = [steps(old), steps(now)];
  for (const [of, e] of there) {
    if (next.has(of) || e.classList.contains("done")) continue;
    e.classList.add("done");
    const minutes = e.querySelector("summary .today");
    if (minutes) minutes.textContent = "done";
  }
  const later = now?.querySelector("[data-more]");
  if (later && !old.querySelector("[data-more]")) {
    const box = old.appendChild(later.cloneNode(false));
    box.append(later.querySelector("h3").cloneNode(true));
  }
  const more = old.querySelector("[data-more]");
  for (const [of, e] of next) {
    if (there.has(of)) continue;
    e.open = false;
    if (later?.contains(e)) more.append(e);
    else old.insertBefore(e, more);
  }
  const [head, fresh] = [old.querySelector("h2"), now?.querySelector("h2")];
  if (head && fresh) head.replaceChildren(...fresh.childNodes);
}
