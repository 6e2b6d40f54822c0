// A song can be dropped on the pages of songs, or pasted where the title of a new one is
// written: it is sent to be read, and shown before anything is changed.
export function bringSongs() {
  // Of the tracks of a file and the lines of a text, a choice shows itself, and the lines stay in view.
  const choices = document.querySelector("form[data-changes]");
  if (choices) {
    document.addEventListener("change", (event) => {
      if (event.target.form !== choices) return;
      if (event.target.name === "line") choices.action = location.pathname + "#read-lines";
      choices.requestSubmit();
    });
  }
  const here = document.querySelector("form.bring, form[data-bring], .brought");
  if (!here) return;

  const send = (data) => {
    const sending = document.createElement("form");
    Object.assign(sending, { method: "post", action: "/songs/bring", enctype: "multipart/form-data", hidden: true });
    const add = (type, name) => sending.appendChild(Object.assign(document.createElement(type), { name }));
    add("input", "_csrf").value = document.querySelector("meta[name=csrf]").content;
    if (data.file) {
      const input = add("input", "file");
      input.type = "file";
      const list = new DataTransfer();
      list.items.add(data.file);
      input.files = list.files;
    } else {
      add("textarea", "text").value = data.text;
    }
    document.body.append(sending);
    sending.submit();
  };

  const over = (event) => {
    if (![...event.dataTransfer.types].some((t) => t === "Files" || t === "text/plain")) return;
    event.preventDefault();
    document.body.classList.add("dropping");
  };
  document.addEventListener("dragover", over);
  document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) document.body.classList.remove("dropping"); });
  document.addEventListener("drop", (event) => {
    document.body.classList.remove("dropping");
    if (event.target.closest("textarea") && !event.dataTransfer.files.length) return;
    const file = event.dataTransfer.files[0], text = event.dataTransfer.getData("text/plain");
    if (!file && !text) return;
    event.preventDefault();
    send(file ? { file } : { text });
  });
  here.querySelector("input[name=title]")?.addEventListener("paste", (event) => {
    const file = event.clipboardData.files[0], text = event.clipboardData.getData("text/plain");
    if (!file && !text.trim().includes("\n")) return;
    event.preventDefault();
    send(file ? { file } : { text });
  });
}

// A fold that lies over the page closes when something else is chosen, and by Escape, with
// the focus back on what opened it.
export function closeFolds() {
  const open = () => document.querySelector("details.away[open]");
  document.addEventListener("click", (event) => { const fold = open(); if (fold && !fold.contains(event.target)) fold.open = false; });
  document.addEventListener("keydown", (event) => {
    const fold = open();
    if (event.key !== "Escape" || !fold) return;
    fold.open = false;
    fold.querySelector("summary").focus();
  });
}
