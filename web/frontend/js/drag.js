// A list whose rows can be dragged to another place: data-drags names the form that is sent
// then, with the step and its new place. By keys it goes as well: a row's own place is a field.
export default (root) => {
  let row;
  const list = (event) => event.target.closest("[data-drags]");
  const over = (event) => list(event) && event.target.closest("[data-step]");
  const mark = (at) => {
    root.querySelectorAll(".dropped-here").forEach((li) => li.classList.remove("dropped-here"));
    at?.classList.add("dropped-here");
  };
  root.addEventListener("dragstart", (event) => {
    row = over(event);
    if (!row) return;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", row.dataset.step);
  });
  root.addEventListener("dragover", (event) => {
    const at = over(event);
    if (!row || !at) return;
    event.preventDefault();
    mark(at);
  });
  root.addEventListener("dragend", () => { row = undefined; mark(); });
  root.addEventListener("drop", (event) => {
    const at = over(event);
    if (!row || !at) return;
    event.preventDefault();
    const form = document.getElementById(list(event).dataset.drags);
    form.elements.step.value = row.dataset.step;
    form.elements.place.value = at.dataset.place;
    row = undefined;
    mark();
    form.requestSubmit();
  });
};
