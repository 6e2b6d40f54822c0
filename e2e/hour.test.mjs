// A lesson hour: planned, ticked off by keys, logged, with what is taken home, and the words that
// student and teacher say to each other.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

test("two lessons are given by keys, and the student sees what was chosen", async () => {
  const { page, trouble } = await visit(browser, server);
  await page.goto("/");
  await signIn(page);
  await page.getByRole("link", { name: "Lesson with Bram" }).click();
  await page.waitForURL(/\/students\/2\/hour$/);
  assert.match(await page.locator(".last-time").innerText(), /Rain is there/);
  const items = page.locator(".hour-items > li");
  const count = await items.count();
  assert.ok(count >= 5);

  // Ticked off by its number, and back.
  await page.keyboard.press("1");
  await page.locator(".hour-items > li.done").first().waitFor();
  await page.keyboard.press("1");
  await page.locator(".hour-items > li.done").first().waitFor({ state: "detached" });
  await page.keyboard.press("1");
  await page.locator(".hour-items > li.done").first().waitFor();

  // What was heard is logged, and ticks off what it was.
  const heard = items.nth(1);
  await heard.getByLabel("clean").fill("3");
  await heard.getByLabel("clean").press("Enter");
  await heard.getByText(/3 clean passes at/).waitFor();
  assert.equal(await items.count(), count, "the plan stays while it is taught");
  assert.equal(await page.locator(".hour-items > li.done").count(), 2);

  // Another length, the three for next week, two lines.
  await page.getByRole("button", { name: "60 min" }).click();
  await page.locator(".lengths [aria-pressed]", { hasText: "60" }).waitFor();
  await page.locator("h1").click();
  await page.keyboard.press("w");
  await page.getByText("Chosen: they come first").waitFor();
  const chosen = await page.locator(".home-steps input:checked").count();
  assert.equal(chosen, 3);
  await page.keyboard.press("n");
  await page.keyboard.type("Rain with the record.");
  await page.getByRole("button", { name: "Note it" }).click();
  await page.locator("#announce", { hasText: "Noted" }).waitFor();
  await page.reload();
  assert.equal(await page.getByLabel("What was done").inputValue(), "Rain with the record.");

  // The phone has the three, and asks something.
  await page.goto("/students/2");
  await page.getByPlaceholder("phone, paper").fill("phone");
  await page.getByRole("button", { name: /Make .*link/ }).click();
  const link = await page.locator("#link").innerText();
  const student = await visit(browser, server, { viewport: phone });
  await student.page.goto(link);
  assert.match(await student.page.locator("[data-today]").innerText(), /chosen by your teacher/);
  await student.page.getByLabel("What you want to ask or say").fill("is the record in E?");
  await student.page.getByRole("button", { name: "Send" }).click();
  await student.page.locator("#words", { hasText: "is the record in E?" }).waitFor();

  // The teacher sees it today, and answers beside the next lesson.
  await page.goto("/");
  await page.locator(".news", { hasText: "is the record in E?" }).getByRole("link").click();
  await page.getByLabel("Your answer").fill("in E flat");
  await page.getByLabel("Your answer").press("Enter");
  await page.getByLabel("Your answer").waitFor({ state: "detached" });
  await student.page.reload();
  await student.page.locator("#words", { hasText: "in E flat" }).waitFor();

  // And the one who comes next.
  await page.keyboard.press("Escape");
  await page.locator("h1").click();
  await page.goto("/students/2/hour");
  await page.keyboard.press("x");
  await page.waitForURL(/\/students\/5\/hour$/);
  assert.deepEqual(trouble, []);
  assert.deepEqual(student.trouble, []);
});
