// Forms keep what is typed into them: over a lost connection, an ended session, a
// reload or Back. It stays in this browser until the server has said that the form
// was taken, by the mark that it was sent with.
const prefix = "valleyside form ";
const done = "valleyside_done";
const longest = 30 * 24 * 3600 * 1000;

const kept = (form) => form.method === "post" && form.matches("[data-keep]");
const nameOf = (form) => `${prefix}${location.pathname} ${form.getAttribute("action")}`;
const fields = (form) => [...form.elements].filter((e) => e.name && !["hidden", "password", "submit", "button", "file"].includes(e.type) && e.tagName !== "BUTTON");
const valueOf = (e) => (e.type === "checkbox" || e.type === "radio" ? e.checked : e.value);
const first = (e) => (e.type === "checkbox" || e.type === "radio" ? e.defaultChecked : e.tagName === "SELECT" ? [...e.options].find((o) => o.defaultSelected)?.value ?? e.options[0]?.value : e.defaultValue);
const idOf = (e) => (e.type === "checkbox" || e.type === "radio" ? `${e.name}=${e.value}` : e.name);

export function keepForms() {
  forget();
  for (const form of document.querySelectorAll("form")) if (kept(form)) restore(form);
  for (const kind of ["input", "change"]) {
    document.addEventListener(kind, (event) => { const form = event.target.form; if (form && kept(form)) keep(form); });
  }
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!kept(form)) return;
    const mark = form.elements._form ?? form.appendChild(Object.assign(document.createElement("input"), { type: "hidden", name: "_form" }));
    mark.value = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
    keep(form, mark.value);
  });
}

function keep(form, mark) {
  const changed = fields(form).filter((e) => valueOf(e) !== first(e)).map((e) => [idOf(e), valueOf(e)]);
  try {
    if (changed.length) localStorage.setItem(nameOf(form), JSON.stringify({ at: Date.now(), mark, changed }));
    else localStorage.removeItem(nameOf(form));
  } catch { /* no room, or none allowed: the form is as it would be without */ }
}

// forget lets go what the server has taken, and what is old.
function forget() {
  const taken = document.cookie.split("; ").find((c) => c.startsWith(`${done}=`))?.slice(done.length + 1);
  for (const name of Object.keys(localStorage).filter((n) => n.startsWith(prefix))) {
    const { at, mark } = read(name);
    if ((taken && mark === taken) || !(Date.now() - at < longest)) localStorage.removeItem(name);
  }
  if (taken) document.cookie = `${done}=; path=/; max-age=0`;
}

const read = (name) => { try { return JSON.parse(localStorage.getItem(name)) ?? {}; } catch { return {}; } };

function restore(form) {
  const { changed } = read(nameOf(form));
  if (!changed) return;
  const values = new Map(changed);
  const differ = fields(form).filter((e) => values.has(idOf(e)) && values.get(idOf(e)) !== first(e));
  if (!differ.length) return localStorage.removeItem(nameOf(form));
  for (const e of differ) {
    if (e.type === "checkbox" || e.type === "radio") e.checked = values.get(idOf(e));
    else e.value = values.get(idOf(e));
  }
  const note = Object.assign(document.createElement("p"), { className: "kept" });
  const away = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "Throw it away" });
  away.addEventListener("click", () => { localStorage.removeItem(nameOf(form)); form.reset(); note.remove(); form.querySelector("input:not([type=hidden]), textarea, select")?.focus(); });
  note.append("What you typed here is not sent yet.", away);
  form.append(note);
}
