// What a word in the sheet may become: a list below it, from which Tab takes one. The
// arrows choose another, Escape closes it; every other key goes on typing.

// offers is the list of a sheet: text is its field, list the element below the word.
export function offers(text, list) {
  let word; // what stands to be replaced: from where, and its line and column
  let chosen = 0;
  let pointed = false; // by an arrow: then Enter takes it too

  const close = () => {
    list.hidden = true;
    text.removeAttribute("aria-activedescendant");
  };

  const choose = (n) => {
    chosen = (n + list.children.length) % list.children.length;
    [...list.children].forEach((e, i) => e.setAttribute("aria-selected", String(i === chosen)));
    list.children[chosen].scrollIntoView({ block: "nearest" });
  };

  // fits tells whether an offer still begins like the word: it may have grown since it was
  // asked for.
  const fits = (option) => {
    const { selectionStart: at, selectionEnd } = text;
    return at === selectionEnd && at >= word.from && option.dataset.text.toLowerCase().startsWith(text.value.slice(word.from, at).toLowerCase());
  };

  // take puts what is chosen in the place of the word; that can be undone.
  const take = (option) => {
    close();
    text.setSelectionRange(word.from, text.selectionEnd);
    document.execCommand("insertText", false, option.dataset.text);
  };

  // place puts the list below the word, and above it where there is no room.
  const place = () => {
    const style = getComputedStyle(text);
    const height = parseFloat(style.lineHeight);
    const top = text.offsetTop + parseFloat(style.paddingTop) + word.line * height - text.scrollTop;
    const left = `calc(${text.offsetLeft + parseFloat(style.paddingLeft) - text.scrollLeft}px + ${word.column - 1}ch)`;
    list.style.left = `min(${left}, calc(100% - ${list.offsetWidth}px))`;
    const below = top + list.offsetHeight <= text.offsetTop + text.clientHeight;
    list.style.top = `${below ? top : top - height - list.offsetHeight}px`;
  };

  list.addEventListener("mousedown", (event) => event.preventDefault()); // the sheet keeps the focus
  list.addEventListener("click", (event) => {
    const option = event.target.closest("[data-text]");
    if (option && fits(option)) take(option);
  });
  text.addEventListener("blur", close);
  text.addEventListener("scroll", close);

  return {
    close,

    // show takes what the server offers for the cursor where it was asked for, and tells
    // how many there are.
    show(come, { line, column, at }) {
      const options = [...come.children];
      if (options.length === 0 || text.selectionStart !== at || text.selectionEnd !== at || document.activeElement !== text) {
        close();
        return 0;
      }
      const from = Number(come.dataset.from);
      word = { from: at - (column - from), line, column: from };
      options.forEach((e, i) => { e.id = `offer-${i}`; });
      list.replaceChildren(...options);
      list.hidden = false;
      pointed = false;
      choose(0);
      place();
      return options.length;
    },

    // key tells whether the list has taken a key.
    key(event) {
      if (list.hidden || event.ctrlKey || event.altKey || event.metaKey || event.shiftKey || event.isComposing) return false;
      switch (event.key) {
        case "Escape": close(); break;
        case "ArrowDown": case "ArrowUp":
          choose(chosen + (event.key === "ArrowDown" ? 1 : -1));
          pointed = true;
          text.setAttribute("aria-activedescendant", list.children[chosen].id);
          break;
        case "Enter":
          if (!pointed) return false;
          // falls through
        case "Tab":
          if (!fits(list.children[chosen])) {
            close();
            return false;
          }
          take(list.children[chosen]);
          break;
        case "ArrowLeft": case "ArrowRight": case "Home": case "End": close(); return false;
        default: return false;
      }
      event.preventDefault();
      return true;
    },

    get first() { return list.hidden ? undefined : list.children[0].dataset.text; },
  };
}
