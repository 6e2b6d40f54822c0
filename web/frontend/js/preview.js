// The preview of a sheet: only what changed travels and is put in. What is drawn carries
// a print of itself; what the server sends empty is what has that print here already.

// prints lists what a preview has.
export function prints(preview) {
  const list = [];
  for (const part of preview.querySelector(".parts").children) {
    for (const e of [part, ...part.children]) if (e.dataset.drawn) list.push(e.dataset.drawn);
  }
  return list.join(" ");
}

// show puts an answer into a preview and what it says of the sign under the cursor into
// another element, and leaves alone what is in its place. It is not whole where something
// was left out that is not here after all; offered is what the word at the cursor may
// become, time the tempo there and the beats of a bar.
export function show(preview, sign, html) {
  const template = document.createElement("template");
  template.innerHTML = html.replace(picture, (_, print, svg) => {
    pictures.set(print, svg);
    return `<div class="line due" data-drawn="${print}"></div>`;
  });
  const come = template.content.querySelector(".sign");
  let time;
  if (come) {
    time = { tempo: Number(come.dataset.tempo), beats: Number(come.dataset.beats) };
    come.remove();
    sign.replaceChildren(...come.children);
    at = { part: come.dataset.part, bar: come.dataset.bar, seen: at.part === come.dataset.part && at.bar === come.dataset.bar };
  }
  const offered = template.content.querySelector(".offers");
  offered?.remove();
  const whole = filled(preview, template.content, (e) => e.dataset.part ?? e.className);
  draw(preview);
  return { whole, offered, time };
}

// begins is where in the sheet a bar of the preview begins, and undefined where it stands
// in another part.
export function begins(place) {
  const part = place.closest("[data-part]");
  const [line, column] = JSON.parse(part.dataset.bars)[place.dataset.bar - 1] ?? [0, 0];
  return column > 0 ? { line: Number(part.dataset.from) + line, column: column + 1 } : undefined;
}

// at is the bar that the cursor is in; it is seen once it was brought into view.
let at = {};

// follow marks the bar that the cursor is in, and brings it into view where that is new.
function follow(preview) {
  for (const old of preview.querySelectorAll(".place.now")) old.classList.remove("now");
  const part = [...preview.querySelectorAll("[data-part]")].find((e) => e.dataset.part === at.part);
  const place = part?.querySelector(`.place[data-bar="${at.bar}"]`);
  place?.classList.add("now");
  if (at.seen || preview.scrollHeight <= preview.clientHeight) return;
  const target = place?.closest(".line") ?? part;
  if (!target) return;
  const [top, window] = [target.getBoundingClientRect(), preview.getBoundingClientRect()];
  if (top.top < window.top) preview.scrollTop -= window.top - top.top;
  else if (top.bottom > window.bottom) preview.scrollTop += Math.min(top.bottom - window.bottom, top.top - window.top);
  at.seen = true;
}

// pictures are those of lines, by their prints, that have come and are not drawn yet.
const pictures = new Map();
const picture = /<div class="line" data-drawn="([^"]+)">(<svg.*?<\/svg>)<\/div>/gs;
const slice = 5; // ms

// draw draws as many lines as there is time for, and the others a little later: so what
// changes all of them holds up no key that follows. Until then they show what they did.
function draw(preview) {
  const begun = performance.now();
  for (const line of preview.querySelectorAll(".line.due")) {
    if (performance.now() - begun > slice) {
      setTimeout(() => draw(preview));
      return;
    }
    line.innerHTML = pictures.get(line.dataset.drawn);
    line.classList.remove("due");
  }
  pictures.clear();
  follow(preview);
}

// filled makes the children of one element those of another: what is named alike or is
// alike stays, and parts are filled in turn. Lines that are drawn anew take the place of
// those that are gone.
function filled(into, from, name = likeness) {
  const here = new Map();
  for (const e of into.children) here.set(name(e), [...here.get(name(e)) ?? [], e]);
  let whole = true;
  const wanted = [...from.children].map((come) => {
    const old = here.get(name(come))?.shift();
    if (!old) {
      whole &&= !missing(come);
      return come;
    }
    if (old.matches(".parts")) whole = filled(old, come, (e) => e.dataset.part ?? "") && whole;
    else if (old.matches("[data-part]")) whole = part(old, come) && whole;
    else if (likeness(old) !== likeness(come)) return come;
    return old;
  });
  const gone = [...here.values()].flat().filter((e) => e.matches(".line"));
  arrange(into, wanted.map((e) => (e.matches(".line.due") && e.parentNode !== into && gone.length ? renewed(gone.shift(), e) : e)));
  return whole;
}

function renewed(line, come) {
  line.dataset.drawn = come.dataset.drawn;
  line.classList.add("due");
  return line;
}

// part makes a part what has come of it.
function part(old, come) {
  old.dataset.from = come.dataset.from;
  if (come.childElementCount === 0) return old.dataset.drawn === come.dataset.drawn;
  Object.assign(old.dataset, come.dataset);
  return filled(old, come);
}

const likeness = (e) => e.dataset.drawn ?? e.outerHTML;
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
