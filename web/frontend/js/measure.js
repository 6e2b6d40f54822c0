// The server draws lines of tab to the width of the window, which it is told by a
// cookie: on a phone they are short lines that can be read, and no long ones made
// small.
const name = "valleyside_width";

// Whoever wants the notes larger gets them so on every page of this browser.
const larger = "valleyside larger";
const scale = 1.4;
export const isLarge = () => { try { return localStorage.getItem(larger) === "yes"; } catch { return false; } };

export function measure() {
  const told = Number(document.cookie.split("; ").find((c) => c.startsWith(`${name}=`))?.slice(name.length + 1));
  document.documentElement.classList.toggle("large", isLarge());
  const tell = () => { document.cookie = `${name}=${Math.round(innerWidth / (isLarge() ? scale : 1))}; path=/; max-age=31536000; samesite=lax`; };
  tell();
  addEventListener("resize", tell);
  // What is drawn wider than the window is drawn again, once.
  const drawn = document.querySelector("[data-drawn]");
  const narrow = (told || 1280) > innerWidth + 60 && innerWidth < 1100;
  if (drawn && narrow && !document.querySelector(".editor")) location.reload();
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-larger]")) return;
    localStorage.setItem(larger, isLarge() ? "no" : "yes");
    tell();
    location.reload();
  });
  for (const button of document.querySelectorAll("[data-larger]")) button.setAttribute("aria-pressed", String(isLarge()));
}
