// Keys: whatever carries data-key is pressed or focused by it. Keys are
// written as "g s" for one after the other and "ctrl+s" for both at once.
let typed = "";
let timer;

export function listenForKeys() {
  document.addEventListener("keydown", (event) => {
    // Keys by themselves leave what is being filled in alone, and can be turned off.
    const typing = event.target.closest?.("input, textarea, select, [contenteditable]");
    const together = event.ctrlKey || event.metaKey;
    if (event.altKey || (!together && (typing || off()))) return;
    if (event.key === " " && event.target.closest?.("button, summary, a, label")) return; // it presses them
    const key = (together ? "ctrl+" : "") + (together && event.shiftKey ? "shift+" : "") + (event.key === " " ? "space" : event.key.toLowerCase());
    if (key === "?" || key === "ctrl+/") {
      event.preventDefault();
      return showKeys();
    }
    clearTimeout(timer);
    const sequence = typed ? `${typed} ${key}` : key;
    const target = find(sequence) ?? find(key);
    typed = !target && key.length === 1 && !together ? key : "";
    timer = setTimeout(() => { typed = ""; }, 1200);
    if (!target) return;
    event.preventDefault();
    if (target.matches("input[type=checkbox], input[type=radio]") || !target.matches("input, textarea, select")) return target.click();
    target.focus();
    if (target.matches("input")) target.select(); // what is typed next takes its place
  });
  document.addEventListener("click", (event) => { if (event.target.closest("[data-keys]")) showKeys(); });
}

const setting = "valleyside keys";
const off = () => localStorage.getItem(setting) === "off";

const find = (key) => document.querySelector(`[data-key="${CSS.escape(key)}"]`);

function showKeys() {
  const dialog = document.getElementById("keys");
  const rows = [...document.querySelectorAll("[data-key]")].flatMap((element) => {
    const term = document.createElement("dt");
    term.append(...element.dataset.key.split(" ").map((k) => Object.assign(document.createElement("kbd"), { textContent: k })));
    const what = document.createElement("dd");
    what.textContent = element.dataset.keyLabel ?? element.textContent.trim();
    return [term, what];
  });
  dialog.querySelector("dl").replaceChildren(...rows);
  const box = dialog.querySelector("[name=single]");
  box.checked = !off();
  box.onchange = () => { if (box.checked) localStorage.removeItem(setting); else localStorage.setItem(setting, "off"); };
  if (!dialog.open) dialog.showModal();
}
