// The notation beside the sheet: looking for a sign, and putting its example in.

const asides = new Set(["how", "do", "i", "can", "you", "to", "write", "type", "enter", "a", "an", "the", "is", "what", "in", "of", "for", "my", "make", "add"]);

// finds tells whether all that is asked for stands in a text; "how do I write" and the
// like are passed over, and the ending of a word: bends and bending find a bend.
export function finds(text, asked) {
  const all = text.toLowerCase();
  return asked.toLowerCase().split(/\s+/).map((w) => (w.length > 1 ? w.replace(/[?.,;]+$/, "") : w)).filter((w) => w && !asides.has(w))
    .every((w) => all.includes(w) || w.length > 3 && all.includes(w.replace(/(ing|ed|es|s)$/, "")));
}

// placed says where an example goes, from a position in a sheet: what takes the place of
// the text between two positions, and where the example then begins. A setting of the
// song that is there already is not put in again: its line is what is found.
export function placed(text, at, example, place) {
  if (place === "song") {
    const first = text.search(/^[^|#:\n]+:[ ]*$/m);
    const head = first < 0 ? text : text.slice(0, first);
    const name = example.slice(0, example.indexOf(":") + 1);
    const there = head.search(new RegExp(`^${name}`, "m"));
    if (there >= 0) return { from: there, to: there, insert: "", begin: there, length: `${head.slice(there)}\n`.indexOf("\n") };
    const end = head.trimEnd().length;
    return { from: end, to: end, insert: (end ? "\n" : "") + example, begin: end + (end ? 1 : 0), length: example.length };
  }
  if (place === "part") {
    const end = `${text}\n`.indexOf("\n", at);
    const bare = text[end - 1] === undefined || text[end - 1] === "\n";
    return { from: end, to: end, insert: (bare ? "" : "\n") + example, begin: end + (bare ? 0 : 1), length: example.length };
  }
  if (at > 0 && /[^\s(|]/.test(text[at - 1])) at += text.slice(at).match(/^[^\s()|]*/)[0].length; // not into a slot
  const before = at > 0 && !/[\s(]/.test(text[at - 1]) ? " " : "";
  const after = at < text.length && !/[\s)]/.test(text[at]) ? " " : "";
  return { from: at, to: at, insert: before + example + after, begin: at + before.length, length: example.length };
}

// notation is the panel of it, as the part of the editor that it is.
export const notation = {
  // help opens the notation beside the sheet, or closes it.
  help() {
    const panel = this.$refs.notation;
    if (!this.$refs.tap.hidden) this.taps();
    panel.hidden = !panel.hidden;
    (panel.hidden ? this.$refs.text : this.$refs.asked).focus();
  },

  find() {
    const asked = this.$refs.asked.value;
    let some = false;
    for (const topic of this.$refs.notation.querySelectorAll("[data-topic]")) {
      let any = false;
      for (const sign of topic.querySelectorAll("[data-words]")) {
        sign.hidden = !finds(sign.dataset.words, asked);
        any ||= !sign.hidden;
      }
      topic.hidden = !any;
      some ||= any;
    }
    this.$refs.nothing.hidden = some;
  },

  // put puts an example where the cursor stands, or where such lines stand.
  put(event) {
    const button = event.target.closest("[data-example]");
    if (!button) return;
    const text = this.$refs.text;
    const change = placed(text.value, text.selectionEnd, button.dataset.example, button.dataset.place);
    text.focus();
    text.setSelectionRange(change.from, change.to);
    if (change.insert) document.execCommand("insertText", false, change.insert);
    text.setSelectionRange(change.begin, change.begin + change.length);
    this.moved();
  },
};
