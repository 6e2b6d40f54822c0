// Songs come in by paste and by drop, are shown before anything is changed, and go out; the
// timetable is read by a calendar that others wrote.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { readFileSync } from "node:fs";
import ICAL from "ical.js";
import { AxeBuilder } from "@axe-core/playwright";
import { parse } from "musicxml-io";
import { browse, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const accessible = async (page, name) => {
  const { violations } = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]).analyze();
  assert.deepEqual(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).slice(0, 3).join(" | ")}`), [], name);
};

const tab = "Harbour Stairs\n\nIntro\ne|----------------|\nB|----------------|\nG|----------------|\nD|-0-2-3-2-0------|\nA|-----------3-0--|\nE|----------------|\n";

test("tab that is pasted where the title is written", async () => {
  const { page, context, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs");
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.evaluate((text) => navigator.clipboard.writeText(text), tab);
  await page.getByLabel("Title of a new song").focus();
  await page.keyboard.press("Control+V");
  await page.waitForURL(/songs\/bring\/./);
  assert.match(await page.getByLabel("The sheet that becomes of it").inputValue(), /\| 0D 2D {2}3D 2D {2}0D 3A {2}0A - \|/);
  assert.ok(await page.getByRole("region", { name: "Preview" }).locator("svg").count() > 0, "it is drawn");
  await accessible(page, "what was brought");
  await page.getByLabel("The sheet that becomes of it").fill("title: Harbour Stairs\n\nIntro:\n| 0D 2D 3D 5D |\n");
  await page.keyboard.press("Control+S");
  await page.waitForURL(/songs\/\d+$/);
  assert.match(await page.getByLabel("The sheet", { exact: true }).inputValue(), /\| 0D 2D 3D 5D \|/);
  await page.getByRole("button", { name: "Undo" }).click();
  await page.waitForURL(/songs$/);
  assert.equal(await page.getByRole("link", { name: "Harbour Stairs" }).count(), 0);
  assert.deepEqual(trouble, []);
});

test("a file that is dropped, and its tracks", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/10");
  assert.equal(await page.locator("h1").textContent(), "Two Lamps");
  await page.getByText("Take with you").click();
  await accessible(page, "take with you");
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "MIDI", exact: true }).click()]);
  assert.equal(download.suggestedFilename(), "Two Lamps.mid");
  const file = [...readFileSync(await download.path())];
  await page.keyboard.press("Escape");
  assert.equal(await page.getByRole("link", { name: "MIDI", exact: true }).isVisible(), false, "Escape closes it");

  await page.goto("/songs");
  const transfer = await page.evaluateHandle((bytes) => {
    const list = new DataTransfer();
    list.items.add(new File([new Uint8Array(bytes)], "lamps.mid", { type: "audio/midi" }));
    return list;
  }, file);
  await page.dispatchEvent("main", "dragover", { dataTransfer: transfer });
  await page.dispatchEvent("main", "drop", { dataTransfer: transfer });
  await page.waitForURL(/songs\/bring\/./);
  await accessible(page, "tracks");
  assert.doesNotMatch(await page.getByLabel("The sheet that becomes of it").inputValue(), /^lead +\|/m);
  await page.getByLabel("lead as another player").check();
  await page.waitForURL(/beside=1/);
  assert.match(await page.getByLabel("The sheet that becomes of it").inputValue(), /^lead +\|/m);
  assert.equal(await page.getByRole("link", { name: "Two Lamps" }).count(), 0, "nothing is changed yet");
  assert.deepEqual(trouble, []);
});

test("what cannot be read says so, and keeps what was pasted", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/bring");
  await accessible(page, "bring");
  await page.getByLabel("Paste it").fill("Dear all,\nno lesson on Friday.");
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByRole("alert").waitFor();
  assert.match(await page.getByRole("alert").textContent(), /neither a sheet, nor tab/);
  assert.match(await page.getByLabel("Paste it").inputValue(), /no lesson on Friday/);
});

test("versions and lessons go out as others read them", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/11/rungs?part=Opening&rung=one-finger");
  await page.getByText("Take with you").click();
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "MusicXML" }).click()]);
  const score = parse(readFileSync(await download.path(), "utf8"));
  const fingers = score.parts[0].measures.flatMap((m) => m.entries).flatMap((e) => e.notations ?? []).filter((n) => n.technical === "fingering");
  assert.ok(fingers.length > 0 && fingers.every((f) => f.text === "1"), "one finger");
});

test("a calendar that others wrote reads the timetable", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  const text = await page.evaluate(async () => (await fetch("/settings/timetable.ics")).text());
  const students = (await page.evaluate(async () => (await fetch("/settings/students.csv")).text())).trim().split("\r\n").slice(1).map((l) => l.split(",")).filter((c) => c[1]);
  const events = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents("vevent").map((e) => new ICAL.Event(e));
  assert.equal(events.length, students.length);
  const days = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
  for (const [name, day, time] of students) {
    const event = events.find((e) => e.summary === name);
    assert.ok(event.isRecurring(), name);
    const next = event.iterator();
    const first = next.next(), second = next.next();
    assert.equal(days[first.dayOfWeek() - 1], day, name);
    assert.equal(`${String(first.hour).padStart(2, "0")}:${String(first.minute).padStart(2, "0")}`, time, name);
    assert.equal(second.subtractDate(first).weeks, 1, name);
  }
});

test("the data of a studio, and taking it in", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/settings");
  await page.getByLabel(/A studio or a student as it was taken along/).setInputFiles({ name: "new.csv", mimeType: "text/csv", buffer: Buffer.from("name,lesson day\nZora,Monday\n") });
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByRole("heading", { name: "This would be added" }).waitFor();
  await accessible(page, "take in");
  await page.getByRole("button", { name: "Take it in" }).click();
  await page.waitForURL(/students$/);
  assert.equal(await page.getByRole("link", { name: "Zora", exact: true }).count(), 1);
  assert.deepEqual(trouble, []);
});
