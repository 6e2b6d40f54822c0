// The server draws lines of tab to the width of the window, which it is told by a
// cookie: on a phone they are short lines that can be read, and no long ones made
// small.
const name = "valleyside_width";

export function measure() {
  const told = Number(document.cookie.split("; ").find((c) => c.startsWith(`${name}=`))?.slice(name.length + 1));
  const tell = () => { document.cookie = `${name}=${Math.round(innerWidth)}; path=/; max-age=31536000; samesite=lax`; };
  tell();
  addEventListener("resize", tell);
  // What is drawn wider than the window is drawn again, once.
  const drawn = document.querySelector("[data-drawn]");
  const narrow = (told || 1280) > innerWidth + 60 && innerWidth < 1100;
  if (drawn && narrow && !document.querySelector(".editor")) location.reload();
}
