// The preview of a sheet: only what changed travels and is put in. What is drawn carries
// a print of itself; what the server sends empty is what has that print here already.

// prints lists what a preview has.
export function prints(preview) {
  const list = [];
  for (const part of preview.querySelector(".parts").children) {
    for (const e of [part, ...part.children]) if (e.dataset.print) list.push(e.dataset.print);
  }
  return list.join(" ");
}

// show puts an answer into a preview, and leaves alone what is in its place. It is false
// where something was left out that is not here after all.
export function show(preview, html) {
  const template = document.createElement("template");
  template.innerHTML = html.replace(picture, (_, print, svg) => {
    pictures.set(print, svg);
    return `<div class="line due" data-print="${print}"></div>`;
  });
  const whole = filled(preview, template.content, (e) => e.dataset.part ?? e.className);
  draw(preview);
  return whole;
}

// pictures are those of lines, by their prints, that have come and are not drawn yet.
const pictures = new Map();
const picture = /<div class="line" data-print="([^"]+)">(<svg.*?<\/svg>)<\/div>/gs;
const slice = 10; // ms

// draw draws as many lines as there is time for, and the others a little later: so what
// changes all of them holds up no key that follows. Until then they show what they did.
function draw(preview) {
  const begun = performance.now();
  for (const line of preview.querySelectorAll(".line.due")) {
    if (performance.now() - begun > slice) {
      setTimeout(() => draw(preview));
      return;
    }
    line.innerHTML = pictures.get(line.dataset.print);
    line.classList.remove("due");
  }
  pictures.clear();
}

// filled makes the children of one element those of another: what is named alike or is
// alike stays, and parts are filled in turn. Lines that are drawn anew take the place of
// those that are gone.
function filled(into, from, name = likeness) {
  const here = {};
  for (const e of into.children) (here[name(e)] ??= []).push(e);
  let whole = true;
  const wanted = [...from.children].map((come) => {
    const old = here[name(come)]?.shift();
    if (!old) {
      whole &&= !missing(come);
      return come;
    }
    if (old.matches(".parts")) whole = filled(old, come, (e) => e.dataset.part ?? "") && whole;
    else if (old.matches("[data-part]")) whole = part(old, come) && whole;
    else if (likeness(old) !== likeness(come)) return come;
    return old;
  });
  const gone = Object.values(here).flat().filter((e) => e.matches(".line"));
  arrange(into, wanted.map((e) => (e.matches(".line.due") && e.parentNode !== into && gone.length ? renewed(gone.shift(), e) : e)));
  return whole;
}

function renewed(line, come) {
  line.dataset.print = come.dataset.print;
  line.classList.add("due");
  return line;
}

// part makes a part what has come of it.
function part(old, come) {
  if (come.childElementCount === 0) return old.dataset.print === come.dataset.print;
  old.dataset.print = come.dataset.print;
  return filled(old, come);
}

const likeness = (e) => e.dataset.print ?? e.outerHTML;
const missing = (e) => e.matches(".line") ? !e.matches(".due") : e.matches("[data-part]") && (e.childElementCount === 0 || [...e.children].some(missing));

// arrange makes elements the children of another, and moves none that need not be.
function arrange(parent, wanted) {
  const stays = new Set(wanted);
  for (const child of [...parent.children]) if (!stays.has(child)) child.remove();
  let at = parent.firstElementChild;
  for (const element of wanted) {
    if (element === at) at = at.nextElementSibling;
    else parent.insertBefore(element, at);
  }
}
