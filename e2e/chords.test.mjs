// The chords of a song and the chord desk: another school, a voicing chosen
// here and everywhere, a shape tapped and named, listening, another key.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, serve, signIn, visit, settled as waitFor } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const settled = (page, does) => waitFor(page, /chords|desk/, does);

test("a voicing is chosen for a chord, here and everywhere", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/6");
  await page.getByRole("link", { name: "Chords" }).click();
  await page.locator(".slots").first().waitFor();
  assert.match(await page.locator(".form-part", { hasText: "Close" }).innerText(), /Fm6\s+4m6\s+borrowed/);
  await page.keyboard.press("c");
  await settled(page, () => page.keyboard.press("o"));
  assert.match(await page.locator(".slots a").first().innerText(), /x32010/, "an open C");

  await page.keyboard.press("c");
  await settled(page, () => page.keyboard.press("f"));
  const chosen = await page.locator(".cards code").nth(1).innerText();
  await settled(page, () => page.keyboard.press("2"));
  assert.match(await page.locator(".slots a").first().innerText(), new RegExp(`${chosen}[^]*chosen`));
  await page.keyboard.press("e");
  await settled(page, () => page.keyboard.press("1"));
  const everywhere = await page.locator(".cards code").first().innerText();
  const slots = await page.locator(".slots a").allInnerTexts();
  const ofC = slots.filter((s) => /^C\s/.test(s));
  assert.ok(ofC.length >= 4);
  for (const s of ofC) assert.ok(s.includes(everywhere), s);
  await page.reload();
  assert.match(await page.locator(".slots a").first().innerText(), /chosen/, "what is chosen stays");
  await settled(page, () => page.getByRole("button", { name: "and everywhere" }).click());
  assert.doesNotMatch((await page.locator(".slots").allInnerTexts()).join(), /chosen/);

  await page.getByRole("button", { name: "As chosen" }).click();
  await page.locator("[data-listen]").last().click();
  await page.getByLabel("to", { exact: true }).fill("D major");
  await page.getByRole("button", { name: "Move the frets" }).click();
  await page.waitForURL(/songs\/6$/);
  assert.match(await page.getByLabel("The sheet").inputValue(), /key: D major[^]*D -  - -  F#m7/);
  await page.getByRole("button", { name: "Undo" }).click();
  await page.waitForLoadState("networkidle");
  assert.match(await page.getByLabel("The sheet").inputValue(), /key: C major/);
  assert.deepEqual(trouble, []);
});

test("what is chosen for one student holds for them alone", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  const f = () => page.locator(".slots a", { hasText: /^\s*F\s/ }).first();
  await page.goto("/songs/9/chords?student=5");
  assert.match(await page.locator(".form-part").first().innerText(), /as Saskia plays it, as written[^]*Easier for this hand/);
  assert.match(await f().innerText(), /133211/, "she has the song as it is written");
  await settled(page, () => f().click());
  await settled(page, () => page.getByRole("button", { name: "Everywhere" }).first().click());
  const shape = await page.locator(".cards .taken code").first().innerText();
  assert.match(await f().innerText(), new RegExp(shape));
  await settled(page, () => page.getByLabel("a choice holds for").selectOption("all"));
  assert.doesNotMatch(await f().innerText(), /chosen/, "nobody else has it so");
  await page.goto("/songs/9/chords?student=5");
  assert.match(await f().innerText(), new RegExp(`${shape}[^]*chosen`), "it stays");
  const easier = page.locator(".form-part").first().locator(".easings button").first();
  await settled(page, () => easier.click());
  assert.match(await page.locator(".form-part").first().innerText(), /as chosen/, "she has easier chords there now");
  assert.match(await f().innerText(), new RegExp(shape), "with the one that was chosen");
  await page.goto("/songs/9/chords");
  assert.doesNotMatch(await f().innerText(), new RegExp(`${shape}[^]*chosen`));
  assert.deepEqual(trouble, []);
});

test("the desk names what is tapped and answers what is typed", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.keyboard.press("g");
  await page.keyboard.press("d");
  await page.waitForURL(/desk/);
  await page.keyboard.press("n");
  await page.keyboard.type("Eb7#9");
  await settled(page, () => page.keyboard.press("Enter"));
  assert.match(await page.locator(".version-head").first().innerText(), /Eb 1, G 3, Bb 5, Db b7, F# #9/);
  assert.ok(await page.locator(".cards .neck").count() >= 3);
  for (const name of ["D string, fret 2", "A string, fret 0", "G string, fret 2", "B string, fret 1", "e string, fret 0"]) {
    await settled(page, () => page.locator(".tap a", { hasText: new RegExp(`^${name}$`) }).click({ force: true }));
  }
  assert.match(await page.locator(".names li").first().innerText(), /^Am/);
  await page.getByRole("button", { name: "Listen to the tapped shape" }).click();
  await page.getByLabel("chord", { exact: true }).fill("Cq");
  await settled(page, () => page.getByLabel("chord", { exact: true }).press("Enter"));
  assert.match(await page.getByRole("alert").innerText(), /"q" at character 2 is not understood/);
  await page.getByLabel("progression").fill("Am F C G");
  await settled(page, () => page.getByLabel("progression").press("Enter"));
  assert.equal(await page.locator(".cards .card-chord").count(), 4);
  assert.match(await page.getByRole("heading", { name: "Together" }).locator("..").innerText(), /likely/);
  assert.deepEqual(trouble, []);
});
