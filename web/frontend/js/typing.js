// What the Enter key does in a sheet, where lines of bars follow one another.

const bars = /^((?:[^\s|:#\d][^|:#]*?)?[ ]*\| )[^\n]*\|[ ]*(?:x\d+)?[ ]*$/; // begins like | or lead |, and is closed
export const bare = /^(?:[^\s|:#\d][^|:#]*?)?[ ]*\|[ ]*$/;

// entered says what takes the place of the text between two positions when Enter is
// pressed at the end of a line: the next line of bars begins like the one before it, and
// one of which nothing but the beginning is there is taken away again. It is undefined
// where Enter is nothing but the end of a line.
export function entered(text, at) {
  const begin = text.lastIndexOf("\n", at - 1) + 1;
  if (at < text.length && text[at] !== "\n") return undefined;
  const line = text.slice(begin, at);
  if (bare.test(line)) return { from: begin, to: at, insert: "" };
  const found = line.match(bars);
  return found ? { from: at, to: at, insert: `\n${found[1]}` } : undefined;
}

const name = /^\|[ ]*([^\s|:,#\d][^|:,]*):$/; // of a part, on a line of bars that Enter began

// headed says what takes the place of the text between two positions when the name of a part
// was typed where Enter had begun a line of bars; it is undefined anywhere else.
export function headed(text, at) {
  const begin = text.lastIndexOf("\n", at - 1) + 1;
  const found = text.slice(begin, at).match(name);
  return found && (at === text.length || text[at] === "\n") ? { from: begin, to: at, insert: `${found[1]}:` } : undefined;
}
