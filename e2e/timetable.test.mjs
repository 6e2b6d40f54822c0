// The timetable: a place for two, a lesson that is moved to a free place and back, one that is
// cancelled and made up, holidays, the month, the printed week, and the address for calendars.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const drawn = (page) => page.locator(".week a.lesson").evaluateAll((all) => all.map((e) => e.getAttribute("aria-label")));

test("a week is arranged", async () => {
  const { page, trouble } = await visit(browser, server);
  await page.goto("/");
  await signIn(page);
  await page.keyboard.press("g");
  await page.keyboard.press("w");
  await page.waitForURL(/\/timetable$/);
  const before = await drawn(page);
  assert.ok(before.length >= 8);

  // Moved to the next free place, and back by the notice.
  await page.locator(".week a.lesson", { hasText: "Bram" }).click();
  await page.locator(".chosen-lesson").waitFor();
  await page.locator(".free-places button").first().click();
  await page.getByText(/Moved to/).waitFor();
  assert.ok((await drawn(page)).some((l) => /Bram moved|Bram from/.test(l)));
  await page.keyboard.press("u");
  await page.getByText("Taken back: Moved to").waitFor();
  assert.deepEqual(await drawn(page), before);

  // Cancelled in time, and made up at a place that is offered.
  await page.locator(".week a.lesson", { hasText: "Bram" }).click();
  await page.getByRole("button", { name: "Cancelled in time" }).click();
  await page.locator("#owed-h").waitFor();
  await page.locator("section", { has: page.locator("#owed-h") }).getByRole("link", { name: "Bram" }).click();
  await page.locator("#place-h", { hasText: "Make it up" }).waitFor();
  assert.equal(await page.getByLabel("Who comes").inputValue(), "Bram");
  await page.getByRole("button", { name: "Put it in" }).click();
  await page.getByText(/Bram: once, on/).waitFor();
  assert.equal(await page.locator("#owed-h").count(), 0);

  // Two together, by keys; in the week after, which the arrow leads to.
  await page.goto("/timetable");
  await page.keyboard.press("ArrowRight");
  await page.waitForURL(/week=/);
  const week = await page.locator("h1").innerText();
  await page.keyboard.press("n");
  await page.keyboard.type("Teodor, Kofi");
  await page.locator("#place").getByLabel("at", { exact: true }).fill("20:30");
  await page.keyboard.press("Enter");
  await page.getByText(/Teodor and Kofi: every week/).waitFor();
  assert.ok((await drawn(page)).some((l) => /Kofi, Teodor/.test(l)), week);

  // The printed week has the drawing and no forms.
  await page.emulateMedia({ media: "print" });
  assert.ok(await page.locator(".week").isVisible());
  assert.ok(!(await page.getByRole("button", { name: "Put it in" }).isVisible()));
  await page.emulateMedia({ media: "screen" });

  await page.keyboard.press("m");
  await page.locator("table.month").waitFor();
  assert.ok((await page.locator("table.month .line").count()) > 20);

  // An address for calendars, without signing in.
  await page.goto("/timetable");
  await page.getByRole("button", { name: "Make the address" }).click();
  const address = await page.locator("#ics").innerText();
  const calendar = await (await fetch(address)).text();
  assert.match(calendar, /^BEGIN:VCALENDAR/);
  assert.match(calendar, /SUMMARY:Guitar lesson/);
  assert.doesNotMatch(calendar, /Bram/);

  // On a phone the week is a list.
  await page.setViewportSize(phone);
  await page.goto("/timetable");
  assert.ok(await page.locator(".week-list").isVisible());
  assert.ok((await page.evaluate(() => document.documentElement.scrollWidth)) <= phone.width);
  assert.deepEqual(trouble, []);
});
