// The whole way of a teacher, as a new user goes it: sign in, type a sheet
// with a mistake and mend it, look at the rungs, make a lesson, assign it,
// open the student's link on a phone, log practice, and see it.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const sheet = `title: Lantern Row
key: E minor
tempo: 96
order: Walk x2, Rise

Walk:
| 0E - 3E 5X - 3E 0E . |

Rise:
| Em - - - G - - - |
`;

test("from a typed riff to a student's logged practice", async () => {
  const { page, trouble } = await visit(browser, server);
  await page.goto("/");
  assert.match(page.url(), /sign-in$/);
  await signIn(page);

  // A new song, typed with a mistake; the problem stands at its line.
  await page.goto("/songs");
  await page.keyboard.press("n");
  await page.keyboard.type("Lantern Row");
  await page.keyboard.press("Enter");
  await page.waitForURL(/songs\/\d+$/);
  await page.getByLabel("The sheet").fill(sheet);
  const problem = page.locator(".problems button");
  await problem.waitFor();
  assert.match(await problem.innerText(), /Line 7, 1[0-9].*5X/s);
  assert.equal(await page.locator(".margin .error").innerText(), "▸7");

  // Pressing it puts the cursor there; mending it draws the part.
  await problem.click();
  assert.equal(await page.evaluate(() => document.activeElement.id), "sheet");
  await page.getByLabel("The sheet").fill(sheet.replace("5X", "5E"));
  await problem.waitFor({ state: "detached" });
  await page.locator(".part h2", { hasText: "Walk" }).waitFor();
  assert.match(await page.locator(".preview .tab").first().getAttribute("aria-label"), /Bar 1: 1: 0 on thick E, 2: 3 on thick E, &: 5 on thick E/);

  // What is typed survives a closed tab.
  await page.getByText("Kept as a draft").waitFor();
  const address = page.url();
  await page.goto("/songs");
  await page.getByText("unsaved typing").waitFor();
  await page.goto(address);
  assert.match(await page.getByLabel("The sheet").inputValue(), /Lantern Row/);
  await page.getByLabel("The sheet").press("Control+s");
  await page.getByText("Saved", { exact: true }).waitFor();
  assert.equal(await page.getByLabel("The sheet").inputValue(), sheet.replace("5X", "5E"));

  // The rungs, switched by keys.
  await page.getByRole("link", { name: "Rungs", exact: true }).click();
  await page.locator(".ladder .chosen").waitFor();
  const keyOf = (title) => page.locator(".ladder li", { hasText: title }).locator("kbd").innerText();
  await page.keyboard.press(await keyOf("Two notes"));
  await page.getByRole("heading", { name: /Walk: Two notes/ }).waitFor();
  assert.match(await page.locator(".reasons").innerText(), /E5/);
  await page.keyboard.press(await keyOf("One finger"));
  await page.getByRole("heading", { name: /Walk: One finger/ }).waitFor();
  await page.getByLabel("Tempo").fill("60");
  await page.getByLabel("Tempo").press("Enter");
  await page.getByText("at 60", { exact: false }).first().waitFor();
  await page.keyboard.press("Escape");

  // A lesson of it.
  await page.getByRole("button", { name: /Make a lesson/ }).click();
  await page.waitForURL(/lessons\/\d+$/);
  assert.match(await page.locator(".total").innerText(), /3 bars, 0:08 minutes/);
  await page.getByLabel("Target tempo").fill("80");
  await page.getByLabel("Target tempo").press("Enter");
  await page.getByText("at 80", { exact: false }).first().waitFor();
  await page.locator("fieldset", { hasText: "Version of Rise" }).getByLabel(/Two notes/).check();
  await page.waitForLoadState("networkidle");
  assert.ok(await page.locator("fieldset", { hasText: "Version of Rise" }).getByLabel(/Two notes/).isChecked());
  await page.getByRole("checkbox", { name: "Ilse" }).check();
  await page.getByRole("button", { name: "Assign" }).click();
  await page.getByText("Assigned Lantern Row to Ilse.").waitFor();

  // The link, once.
  await page.getByRole("button", { name: "Make the link" }).click();
  const link = await page.locator("#link").textContent();
  assert.match(link, /\/s\/[\w-]{22}$/);

  // The student on a phone.
  const student = await visit(browser, server, { viewport: phone });
  await student.page.goto(link);
  const walk = student.page.locator(".practice-song .practice-part", { hasText: "Walk" });
  if (!(await walk.getAttribute("open") !== null)) await walk.locator("summary").first().click();
  await walk.locator(".tab").first().waitFor();
  assert.ok(await student.page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), "nothing is wider than the phone");
  await walk.getByRole("button", { name: "Faster", exact: true }).click();
  await walk.getByLabel("3", { exact: true }).check();
  await walk.getByLabel("15", { exact: true }).check();
  await walk.getByLabel("How did it feel?").fill("a bit fast");
  await walk.getByRole("button", { name: "Log it" }).click();
  await walk.getByText("Logged: 3 clean passes at 50, 15 min.").waitFor();

  // A second tap is no second entry, and today moves on by itself.
  await walk.getByRole("button", { name: "Log it" }).click();
  await walk.getByText("Press once more to log it a second time").waitFor();
  assert.equal(await student.page.locator(".recent .trace-line").count(), 1);
  const first = student.page.locator("[data-today] .practice-part").first();
  if ((await first.getAttribute("open")) === null) await first.locator("summary").first().click();
  await first.getByLabel("Tempo", { exact: true }).fill("200");
  await first.getByLabel("5", { exact: true }).first().check();
  await first.getByRole("button", { name: "Log it" }).click();
  await student.page.locator("[data-today] .practice-part.done").first().waitFor();
  assert.match(await first.locator("summary").first().innerText(), /done/);

  await walk.locator("summary").first().click();

  // Without a connection an entry waits on the device, and is sent once.
  await student.context.setOffline(true);
  await walk.getByLabel("How did it feel?").fill("on the train");
  await walk.getByRole("button", { name: "Log it" }).click();
  await walk.getByText("No connection.").waitFor();
  await student.context.setOffline(false);
  await student.page.getByText("Sent what was waiting.").waitFor();
  await student.page.reload();
  assert.equal(await student.page.locator(".recent .trace-line").count(), 3);

  // The teacher sees it.
  await page.goto("/students");
  await page.getByRole("link", { name: "Ilse", exact: true }).click();
  const row = page.getByRole("row", { name: /Lantern Row, Walk/ }).last();
  assert.match(await row.innerText(), /3 clean passes at 50, 15 min/);
  assert.match(await row.innerText(), /a bit fast/);
  await page.getByText("clean at 50: show it on another day").waitFor();
  await page.locator(".chart .entry").first().waitFor();

  // Deleting can be undone by a key.
  await page.goto("/songs");
  await page.getByRole("link", { name: "Lantern Row", exact: true }).click();
  await page.getByRole("link", { name: "About", exact: true }).click();
  await page.getByRole("button", { name: "Delete Lantern Row" }).click();
  await page.getByText("Deleted Lantern Row.").waitFor();
  assert.equal(await page.getByRole("link", { name: "Lantern Row", exact: true }).count(), 0);
  await page.keyboard.press("u");
  await page.getByText("Taken back: Deleted Lantern Row").waitFor();
  await page.getByRole("link", { name: "Lantern Row", exact: true }).click();
  await page.waitForURL(/songs\/\d+$/);
  assert.match(await page.getByLabel("The sheet").inputValue(), /Lantern Row/);

  assert.deepEqual(trouble, []);
  assert.deepEqual(student.trouble.filter((t) => !t.includes("ERR_INTERNET_DISCONNECTED")), []);
});
