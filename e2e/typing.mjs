// How long it takes from a key in the sheet to its preview on the screen, and whether
// anything holds the page up meanwhile: node e2e/typing.mjs
import { browse, serve, signIn, visit } from "./lib.mjs";

// sheet writes a song of bars of eighths of which none is like another, in parts of so many.
function sheet(bars, inPart) {
  let state = 7;
  const random = (n) => { state = (state * 48271) % 2147483647; return state % n; };
  let text = "title: Long\nkey: E minor\ntempo: 100\n";
  for (let bar = 0; bar < bars; bar++) {
    if (bar % inPart === 0) text += `\nPart ${bar / inPart + 1}:\n`;
    text += `| ${Array.from({ length: 8 }, () => `${random(13)}${"EADGBe"[random(6)]}`).join(" ")} |\n`;
  }
  return text;
}

const share = (list, p) => list.toSorted((a, b) => a - b)[Math.ceil(list.length * p) - 1];

const server = await serve();
const browser = await browse();
try {
  const { page } = await visit(browser, server);
  await signIn(page);
  for (const [bars, inPart] of [[100, 10], [100, 100], [400, 10], [400, 400]]) {
    await page.goto("/songs/1");
    await page.getByLabel("The sheet", { exact: true }).fill(sheet(bars, inPart));
    await page.waitForTimeout(3000);
    await page.evaluate(() => {
      const text = document.querySelector("#sheet");
      window.waits = [];
      window.held = [];
      let since;
      text.addEventListener("keydown", () => { since ??= performance.now(); }, true);
      const preview = document.querySelector(".preview");
      new MutationObserver(() => {
        if (since === undefined || preview.matches("[aria-busy]")) return;
        const begun = since;
        since = undefined;
        requestAnimationFrame(() => setTimeout(() => window.waits.push(performance.now() - begun)));
      }).observe(preview, { attributes: true });
      new PerformanceObserver((list) => window.held.push(...list.getEntries().map((e) => e.duration))).observe({ entryTypes: ["longtask"] });
    });
    for (const [what, place, keys] of [
      ["in the middle", (text) => text.indexOf("\n|", text.length / 2) + 2, " 12A 3D - 5G (7A 5A) 3A+5D . 0E 12e 7B".repeat(3).slice(0, 100)],
      ["in the tempo, which changes all", (text) => text.indexOf("tempo: 100") + 10, ["Backspace", "1", "Backspace", "2", "Backspace", "3", "Backspace", "4", "Backspace", "0"]],
    ]) {
      await page.evaluate((at) => {
        document.querySelector("#sheet").focus();
        document.querySelector("#sheet").setSelectionRange(at, at);
        window.waits = [];
        window.held = [];
      }, place(await page.getByLabel("The sheet", { exact: true }).inputValue()));
      for (const key of keys) {
        await page.keyboard.press(key === " " ? "Space" : key);
        await page.waitForTimeout(what === "in the middle" ? 250 : 1000);
      }
      await page.waitForTimeout(1500);
      const { waits, held } = await page.evaluate(() => ({ waits: window.waits, held: window.held }));
      console.log(`${bars} bars in parts of ${inPart}, ${what}: p50 ${share(waits, 0.5).toFixed(0)} ms, p95 ${share(waits, 0.95).toFixed(0)} ms over ${waits.length} keys; ${held.length} long tasks${held.length ? `, up to ${Math.max(...held)} ms` : ""}`);
    }
  }
} finally {
  await browser.close();
  await server.close();
}
