// The rungs of a part by keys: another version, another hand, a note looked at,
// an alternative taken, a pin set and let go, two versions compared.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { AxeBuilder } from "@axe-core/playwright";
import { browse, serve, signIn, visit, settled as waitFor } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const tab = (page) => page.locator(".tabs > .tab").first().getAttribute("aria-label");

const settled = (page, does) => waitFor(page, /rungs/, does);

test("the ladder follows the hand and the tempo", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/8/rungs?part=Hail");
  const grade = () => page.locator(".ladder .chosen .figure").innerText();
  await settled(page, () => page.keyboard.press("1"));
  const before = await grade();
  await settled(page, () => page.getByLabel("for", { exact: false }).first().selectOption({ label: "Bram" }));
  assert.match(await page.locator(".reasons").innerText(), /Left out, to keep within 4\.0 strokes a second/);
  await settled(page, () => page.getByLabel("Rhythm").selectOption("full"));
  assert.notEqual(await grade(), before, "the whole rhythm is hard for this hand");
  assert.doesNotMatch(await page.locator(".reasons").innerText(), /left out/i);
  await settled(page, () => page.getByLabel("Rhythm").selectOption("thin"));

  await page.locator("body").click({ position: { x: 5, y: 5 } });
  await page.keyboard.press("t");
  await page.keyboard.type("60");
  await settled(page, () => page.keyboard.press("Enter"));
  assert.match(await page.locator(".version-head").innerText(), /at 60/);
  await page.locator("body").click({ position: { x: 5, y: 5 } });
  await page.keyboard.press("h");
  await page.getByLabel("reach").fill("45");
  await settled(page, () => page.getByLabel("reach").press("Enter"));
  assert.match(await page.locator(".hand summary").innerText(), /changed here/);
  await settled(page, () => page.getByLabel("for", { exact: false }).first().selectOption({ label: "Kofi" }));
  assert.equal(await page.getByLabel("reach").inputValue(), "126", "another student brings their own hand");
  assert.deepEqual(trouble, []);
});

test("a note is looked at, an alternative taken, a pin set and let go", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/11/rungs?part=Opening&rung=one-finger&bar=1&at=0");
  assert.match(await page.locator(".at h3").first().innerText(), /Bar 1, on 1: E3/);
  assert.match(await page.locator(".neck").getAttribute("aria-label"), /index on fret 7 of the A string/);
  await settled(page, () => page.keyboard.press("ArrowRight"));
  assert.match(await page.locator(".at h3").first().innerText(), /Bar 1, on the & of 2: D3/);
  await settled(page, () => page.keyboard.press("]"));
  assert.match(await page.locator(".at h3").first().innerText(), /Bar 2, on 1/);
  await settled(page, () => page.locator(".event").first().click());
  assert.match(await page.locator(".at h3").first().innerText(), /Bar 1, on 1/);

  const places = await page.locator(".alternatives code").first().innerText();
  await page.keyboard.press("a");
  await settled(page, () => page.keyboard.press("1"));
  for (const place of places.split(" ")) assert.ok((await tab(page)).includes(place.replace(/(\d+)(\w)/, (_, fret, string) => `${fret} on ${{ E: "thick ", e: "thin " }[string] ?? ""}${string}`)), place);
  assert.match(await page.locator(".held").innerText(), /shape/);
  assert.match(await page.locator(".ladder .chosen").innerText(), /4 pins/);
  await settled(page, () => page.getByRole("button", { name: "let all go" }).click());
  assert.equal(await page.locator(".held").count(), 0);

  await settled(page, () => page.keyboard.press("s"));
  assert.match(await page.locator(".held").innerText(), /bar 1: string A/);
  await page.reload();
  assert.match(await page.locator(".held").innerText(), /bar 1: string A/, "a pin stays");
  await settled(page, () => page.keyboard.press("x"));
  assert.equal(await page.locator(".held").count(), 0);

  const last = page.locator(".ladder li").last();
  await settled(page, () => last.getByText("put beside").click());
  assert.equal(await page.locator(".tabs .under .tab").count(), await page.locator(".tabs > .tab").count());
  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(violations.map((v) => `${v.id}: ${v.nodes[0].html}`), []);
  await settled(page, () => page.getByText("take away").click());
  assert.equal(await page.locator(".tabs .under").count(), 0);
  assert.deepEqual(trouble, []);
});
