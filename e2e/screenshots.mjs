// Takes one picture of each main view of the demo studio into
// docs/screenshots, or into the folder that is named.
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { browse, desktop, phone, root, serve, signIn, studentLink, visit } from "./lib.mjs";

const out = process.argv[2] ?? join(root, "docs/screenshots");
const only = process.argv[3];
mkdirSync(out, { recursive: true });
const server = await serve();
const browser = await browse();
const { page } = await visit(browser, server);
const shot = (name, p = page) => !only || name.match(only) ? p.screenshot({ path: join(out, `${name}.png`) }) : undefined;
const song = async (title, then = "") => {
  await page.goto("/songs");
  await page.getByRole("link", { name: title, exact: true }).click();
  await page.waitForURL(/songs\/\d+$/);
  if (then) await page.goto(`${page.url()}/${then}`);
};

const pasted = `Ladder Street

Capo 2
Tempo: 88

Intro (x2)
e|----------------|-----------------|
B|----------------|-----------------|
G|-0---2-0-----0--|-0---2h4p2-0-----|
D|---2-----2-0----|-----------------|
A|----------------|-3-------------2-|
E|-3--------------|-----------------|

Verse:
e|--3---3---2----------|
B|--0---0-----3--0-----|
G|--0---0--------------|
D|--------0------------|
A|---------------------|
E|--3------------------|

Chorus x2
C        G        Am   (hold)
Down the ladder, rung by rung
slowly now
`;
await page.goto("/sign-in");
await signIn(page);
await shot("today");
await page.goto("/students/2/hour");
await shot("hour");
await page.goto("/timetable");
await page.locator(".week a.lesson", { hasText: "Teodor" }).click();
await page.locator(".chosen-lesson").waitFor();
await page.evaluate(() => scrollTo(0, 0));
await shot("timetable");
await page.goto("/songs");
await shot("songs");
await song("Weir Gate");
await page.locator("#sheet").evaluate((e) => {
  const at = e.value.indexOf("\n|") + 5;
  e.focus();
  e.setSelectionRange(at, at);
  e.dispatchEvent(new KeyboardEvent("keyup"));
});
await page.locator(".place.now").waitFor();
await shot("song");
await song("Long Meadow", "fit");
for (const name of ["Bram", "Kofi", "Rosalind"]) {
  const shown = page.waitForResponse(/\/fit\?/);
  await page.locator(".fit-people").getByLabel(name).check();
  await shown;
  await page.waitForFunction(() => !document.querySelector("[aria-busy]"));
}
await shot("fit");
await song("Weir Gate", "rungs?part=Verse&rung=two-note");
await shot("rungs");
await page.goto("/songs/bring");
await page.getByLabel("Paste it").fill(pasted);
await page.getByRole("button", { name: "Read it" }).click();
await page.waitForURL(/bring\/./);
await page.locator(".read-lines ol").evaluate((list) => { list.scrollTop = list.scrollHeight; });
await shot("bring");
await song("Paper Lanterns", "chords");
await shot("chords");
await page.goto("/desk?symbol=Am7&frets=x02210");
await shot("desk");
await page.goto("/students");
await shot("students");
await page.getByRole("link", { name: "Bram", exact: true }).click();
await shot("student");
await page.getByRole("link", { name: "Slate Roof, two fingers of rain" }).click();
await page.waitForURL(/lessons/);
await shot("lesson");
const step = (title) => page.locator(".steps .step", { hasText: title }).first().click();
await step("Riff, bars 3 to 4");
await page.locator("h2", { hasText: "Riff, bars 3 to 4" }).waitFor();
await page.getByLabel("Beats a minute").first().fill("80");
await page.getByRole("button", { name: "Play", exact: true }).first().click();
await page.locator(".place.now").waitFor();
await page.waitForTimeout(1500);
await page.locator(".more-play summary").first().click();
await shot("play");
await page.getByRole("button", { name: "Stop", exact: true }).first().click();
await page.goto(`${page.url().split("?")[0]}/handout`);
await page.getByRole("button", { name: "Put a code for the phone on it" }).click();
await page.locator(".code").waitFor();
await page.emulateMedia({ media: "print" });
await page.setViewportSize({ width: 794, height: 1123 });
await shot("handout");
await page.emulateMedia({ media: "screen" });
await page.setViewportSize(desktop);
await song("Night Bus Nine", "about");
await shot("about");
await page.goto("/students/8/songs");
await shot("wish");
const link = await studentLink(page, "Saskia");
const small = await visit(browser, server, { viewport: phone });
await small.page.goto(link);
await shot("practice", small.page);
await small.page.getByRole("button", { name: "Play", exact: true }).first().click();
await small.page.locator(".place.now").waitFor();
await small.page.waitForTimeout(1200);
await small.page.locator(".practice-part[open] .player").first().evaluate((e) => e.scrollIntoView());
await shot("practice-play", small.page);
await browser.close();
await server.close();
