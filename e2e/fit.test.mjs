// A song that is typed goes to several students at once: each in versions for their own
// hand, with a lesson, a page and a paper. The clicks are counted.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { AxeBuilder } from "@axe-core/playwright";
import { browse, serve, signIn, visit, settled } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const sheet = `title: Tin Roof
key: G
tempo: 92
order: Verse x2, Turn

Verse:
| G - - - Cadd9 - - - | D - - - G - - - |

Turn:
| F - - - C - - - | D - - - D7 - - - |
`;

// typed makes a song, as somebody types it.
async function typed(page, text) {
  await page.goto("/songs");
  await page.getByLabel("Title of a new song").fill(text.match(/title: (.*)/)[1]);
  await page.getByRole("button", { name: "Type it" }).click();
  await page.waitForURL(/\/songs\/\d+$/);
  await page.locator("#sheet").fill(text);
  await page.keyboard.press("Control+s");
  await saved(page);
}

const saved = (page) => page.waitForFunction(() => document.querySelector(".editor [role=status]").textContent === "Saved");

// counted clicks, and counts.
function counted(page) {
  let clicks = 0;
  return {
    click: async (what) => { clicks++; await what.click(); },
    tick: async (name) => {
      clicks++;
      await settled(page, /\/fit\?/, () => page.locator(".fit-people").getByLabel(name, { exact: false }).click());
    },
    get clicks() { return clicks; },
  };
}

test("three students from a typed song to three papers in eight clicks", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await typed(page, sheet);
  const hand = counted(page);
  await hand.click(page.getByRole("link", { name: "For whom" }));
  await page.waitForURL(/\/fit$/);
  assert.match(await page.locator(".fit-none").innerText(), /Tick everybody/);
  for (const name of ["Bram", "Ilse", "Kofi"]) await hand.tick(name);
  assert.deepEqual(await page.locator(".fit-table tbody th").allInnerTexts(), ["Bram", "Ilse", "Kofi"], "in the order of the list");
  assert.deepEqual(await new AxeBuilder({ page }).analyze().then((r) => r.violations.map((v) => `${v.id}: ${v.nodes[0].html}`)), []);
  await hand.click(page.getByRole("button", { name: "Hand out to all 3" }));
  await page.waitForURL(/given=/);
  assert.match(await page.locator(".given-now").innerText(), /Tin Roof is handed out to Bram, Ilse, Kofi/);
  await hand.click(page.getByRole("link", { name: "The 3 papers" }));
  await page.waitForURL(/\/handouts\?given=/);
  assert.equal(await page.locator("table.paper").count(), 3);
  assert.ok(hand.clicks <= 8, `${hand.clicks} clicks`);
  assert.match(await page.locator("table.paper").first().innerText(), /Tin Roof, Bram/);
  await page.getByRole("button", { name: /Put a code/ }).click();
  await page.waitForURL(/\/handouts\?given=/);
  assert.equal(await page.locator("table.paper .qr").count(), 3, "each with a code of its own");
  assert.deepEqual(trouble, []);
});

test("six students with their own versions and targets in twelve clicks", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await typed(page, sheet.replace("Tin Roof", "Rain Barrel"));
  const hand = counted(page);
  await hand.click(page.getByRole("link", { name: "For whom" }));
  await page.waitForURL(/\/fit$/);
  for (const name of ["Alder", "Bram", "Ilse", "Kofi", "Saskia", "Teodor"]) await hand.tick(name);
  const rows = page.locator(".fit-table tbody");
  const versions = async () => (await rows.locator("tr:first-child").allInnerTexts()).length;
  assert.equal(await versions(), 6);
  // The teacher's word: another version and another tempo for one of them.
  const bram = rows.filter({ hasText: "Bram" });
  await settled(page, /\/fit\?/, () => bram.getByLabel("Turn for Bram").selectOption({ label: "One finger" }));
  await settled(page, /\/fit\?/, async () => { await bram.getByLabel("Target tempo for Bram").fill("70"); await page.keyboard.press("Tab"); });
  assert.match(await bram.innerText(), /What fits: /);
  await hand.click(page.getByRole("button", { name: "Hand out to all 6" }));
  await page.waitForURL(/given=/);
  await hand.click(page.getByRole("link", { name: "The 6 papers" }));
  await page.waitForURL(/\/handouts\?given=/);
  assert.equal(await page.locator("table.paper").count(), 6);
  assert.ok(hand.clicks <= 12, `${hand.clicks} clicks`);
  assert.match(await page.locator("table.paper", { hasText: "Rain Barrel, Bram" }).innerText(), /target 70/);

  // Again for one who has it: what was decided holds, and takes the place of the lesson.
  await page.getByRole("link", { name: "Back" }).click();
  await page.waitForURL(/\/fit$/);
  await hand.tick("Bram");
  assert.match(await rows.innerText(), /Has it already as “Rain Barrel, Bram”/);
  assert.equal(await rows.getByLabel("Target tempo for Bram").inputValue(), "70");
  assert.equal((await rows.getByLabel("Turn for Bram").locator("option:checked").innerText()).trim(), "One finger");
  await page.getByRole("button", { name: "Hand out to Bram" }).click();
  await page.waitForURL(/given=/);
  assert.equal(await page.locator(".fit-given li", { hasText: "Bram" }).count(), 1, "one lesson");
  assert.deepEqual(trouble, []);
});

test("a correction goes to all who have an older save in one press", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await typed(page, sheet.replace("Tin Roof", "Water Butt"));
  await page.getByRole("link", { name: "For whom" }).click();
  await page.waitForURL(/\/fit$/);
  const hand = counted(page);
  for (const name of ["Bram", "Kofi"]) await hand.tick(name);
  await page.getByRole("button", { name: "Hand out to all 2" }).click();
  await page.waitForURL(/given=/);
  await page.getByRole("link", { name: "Sheet" }).click();
  await page.waitForURL(/\/songs\/\d+$/);
  await page.locator("#sheet").fill(sheet.replace("Tin Roof", "Water Butt").replace("D7", "Dsus4"));
  await page.keyboard.press("Control+s");
  await saved(page);
  await page.getByRole("link", { name: "For whom" }).click();
  await page.waitForURL(/\/fit$/);
  assert.equal(await page.getByText("an older save").count() > 1, true);
  await page.getByRole("button", { name: /Give this save to all 2/ }).click();
  await page.waitForFunction(() => !/an older save/.test(document.querySelector(".fit-given").textContent));
  assert.match(await page.locator(".notice, [role=status]").first().innerText(), /Brought up to date: Water Butt, for 2/);
  assert.deepEqual(trouble, []);
});
