// announce says what has changed, to those who hear the page; loud shows it as well.
export function announce(text, loud = false) {
  const quiet = document.getElementById("announce");
  quiet.textContent = "";
  setTimeout(() => { quiet.textContent = text; }, 50); // the same words are said again
  const box = document.getElementById("trouble");
  box.hidden = !loud;
  box.textContent = loud ? text : "";
}
