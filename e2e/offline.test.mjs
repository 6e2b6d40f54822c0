// A dropped connection loses nothing: what a student logs waits on the phone,
// what a teacher types waits in the browser, and both arrive later, once.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, studentLink, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

test("practice that is logged without a connection", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  const link = await studentLink(page, "Kofi");
  const student = await visit(browser, server, { viewport: phone });
  await student.page.goto(link);
  const part = student.page.locator("details[open]");
  await student.context.setOffline(true);
  await part.getByLabel("Tempo").fill("71");
  await part.getByLabel("How did it feel?").fill("in the tunnel");
  await part.getByRole("button", { name: "Log it" }).click();
  await part.getByText("kept on this device").waitFor();
  await part.getByLabel("Tempo").fill("72");
  await part.getByRole("button", { name: "Log it" }).click();
  await part.getByText("kept on this device").waitFor();
  await student.context.setOffline(false);
  await student.page.getByText("Sent what was waiting.").first().waitFor();
  await student.page.reload();
  assert.match(await student.page.locator(".recent").innerText(), /at 72, [^]*at 71, /);
  await student.page.reload();
  await page.goto("/students");
  await page.getByRole("link", { name: "Kofi", exact: true }).click();
  assert.equal(await page.getByText("in the tunnel").count(), 1, "logged once");
});

test("practice waits for an answer that is one", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  const link = await studentLink(page, "Yuna");
  // What a worker lets through is not always seen by route.
  const student = await visit(browser, server, { viewport: phone, serviceWorkers: "block" });
  await student.page.goto(link);
  const part = student.page.locator("details[open]");
  const answers = [
    { status: 403, contentType: "application/json", body: '{"error":"This was sent from another page."}' },
    { status: 502, contentType: "text/html", body: "<h1>Bad gateway</h1>" },
    { status: 500, contentType: "application/json", body: '{"error":"Something went wrong here."}' },
    { status: 200, contentType: "text/html", body: "<h1>Welcome to the station, please sign in</h1>" },
    { status: 200, contentType: "application/json", body: '{"id":"somebody else"}' },
    undefined, // none comes at all
  ];
  let answer;
  await student.page.route("**/entries", (route) => answer && route.fulfill(answer));
  for (const i of answers.keys()) {
    answer = answers[i];
    await part.getByLabel("Tempo").fill(String(61 + i));
    await part.getByRole("button", { name: "Log it" }).click();
    await part.getByText("kept on this device").waitFor();
    await student.page.reload();
    await student.page.getByText(i ? `${i + 1} entries wait` : "One entry waits").waitFor();
    await student.page.waitForTimeout(1000); // nobody logs twice in a second, and order is kept by the second
  }
  await student.page.unroute("**/entries");
  // A new link, an open page: what waits is the student's, not the link's.
  await student.page.evaluate(() => window.dispatchEvent(new Event("online")));
  await student.page.getByText("Sent what was waiting.").waitFor();
  await student.page.reload();
  assert.match(await student.page.locator(".recent").innerText(), /at 66, [^]*at 65, [^]*at 64, [^]*at 63, [^]*at 62, /);
  assert.equal(await student.page.evaluate(() => Object.keys(localStorage).filter((k) => k.includes("waiting")).length), 0);

  // What is refused for good is shown, and put away by hand.
  await part.locator("[name=assignment]").evaluate((input) => { input.value = "999"; });
  await part.getByLabel("How did it feel?").fill("from a lesson that is gone");
  await part.getByRole("button", { name: "Log it" }).click();
  await student.page.getByText("Not taken: This lesson is not there any more.").waitFor();
  await student.page.reload();
  assert.match(await student.page.locator(".refusal").innerText(), /from a lesson that is gone/);
  await student.page.getByRole("button", { name: "Put it away" }).click();
  assert.equal(await student.page.locator(".refusal").count(), 0);
});

test("a sheet that is typed without a connection", async () => {
  const { page, context } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/3");
  const sheet = page.getByLabel("The sheet");
  const before = await sheet.inputValue();
  await context.setOffline(true);
  await sheet.fill(`${before}\n# typed in the tunnel\n`);
  await page.getByText("What you typed is kept in this browser.").waitFor();
  await sheet.press("Control+s");
  await page.getByText("It is not saved, but kept in this browser.").waitFor();
  await context.setOffline(false);
  await page.reload();
  assert.match(await sheet.inputValue(), /typed in the tunnel/);
  await page.getByText(/Kept as a draft|Typed and not saved yet/).waitFor();
  await sheet.press("Control+s");
  await page.getByText("Saved", { exact: true }).waitFor();
  const again = await visit(browser, server);
  await signIn(again.page);
  await again.page.goto("/songs/3");
  assert.match(await again.page.getByLabel("The sheet").inputValue(), /typed in the tunnel/);
  await again.page.goto("/songs/3/saves");
  assert.match(await again.page.locator(".saves").innerText(), /2[^]*1/);
});

test("what is typed and thrown away does not come back", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/4");
  const sheet = page.getByLabel("The sheet");
  const before = await sheet.inputValue();
  await sheet.fill(`${before}\n# a thought\n`);
  await page.getByText("Kept as a draft, not saved yet").waitFor();
  await page.reload();
  assert.match(await sheet.inputValue(), /a thought/);
  await sheet.fill(`${before}\n# another thought\n`);
  await page.getByRole("button", { name: "Go back to the save" }).click();
  await page.getByText("Go back to the save").waitFor({ state: "detached" });
  assert.equal(await sheet.inputValue(), before);
  await page.reload();
  assert.equal(await sheet.inputValue(), before);
});

test("two tabs do not overwrite one another", async () => {
  const one = await visit(browser, server);
  await signIn(one.page);
  await one.page.goto("/songs/5");
  const two = await one.context.newPage();
  await two.goto("/songs/5");
  const first = one.page.getByLabel("The sheet"), second = two.getByLabel("The sheet");
  const before = await first.inputValue();
  await first.fill(`${before}\n# from the first tab\n`);
  await first.press("Control+s");
  await one.page.getByText("Saved", { exact: true }).waitFor();
  await second.fill(`${before}\n# from the second tab\n`);
  await second.press("Control+s");
  await two.getByText("This song was saved somewhere else meanwhile").waitFor();
  assert.match(await two.getByLabel("The other text").inputValue(), /from the first tab/);
  assert.match(await second.inputValue(), /from the second tab/);
  await two.getByRole("button", { name: "Take the other text" }).click();
  await two.waitForFunction(() => document.getElementById("sheet").value.includes("from the first tab"));
  await two.goto("/songs/5/saves");
  assert.match(await two.locator(".typed").textContent(), /from the second tab/, "and mine can be brought back");
  await two.goto("/songs/5");
  assert.match(await second.inputValue(), /from the first tab/);
});

test("a text that one browser kept is not put over a newer save", async () => {
  const here = await visit(browser, server);
  await signIn(here.page);
  await here.page.goto("/songs/6");
  const sheet = here.page.getByLabel("The sheet");
  const before = await sheet.inputValue();
  await here.context.setOffline(true);
  await sheet.fill(`${before}\n# in the tunnel\n`);
  await here.page.getByText("What you typed is kept in this browser.").waitFor();
  const elsewhere = await visit(browser, server);
  await signIn(elsewhere.page);
  await elsewhere.page.goto("/songs/6");
  await elsewhere.page.getByLabel("The sheet").fill(`${before}\n# at the desk\n`);
  await elsewhere.page.getByLabel("The sheet").press("Control+s");
  await elsewhere.page.getByText("Saved", { exact: true }).waitFor();
  await here.context.setOffline(false);
  await here.page.reload();
  await here.page.getByText("In this browser there is another text").waitFor();
  assert.match(await sheet.inputValue(), /at the desk/, "the newer save is what is shown");
  assert.match(await here.page.getByLabel("The other text").inputValue(), /in the tunnel/);
  await here.page.getByRole("button", { name: "Take the other text" }).click();
  assert.match(await sheet.inputValue(), /in the tunnel/);
  await here.page.getByText("Kept as a draft, not saved yet").waitFor();
});
