// Every view: nothing for axe-core to find, no request leaves the machine, the
// console stays empty, and a first visit is small.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { AxeBuilder } from "@axe-core/playwright";
import { browse, phone, serve, signIn, studentLink, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

const accessible = async (page, name) => {
  const { violations } = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]).analyze();
  assert.deepEqual(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).slice(0, 3).join(" | ")}`), [], name);
};

// The teacher's views, by their addresses in the demo.
const views = ["/", "/songs", "/songs/bring", "/notation", "/songs/1", "/songs/1/saves", "/songs/1/rungs", "/songs/11/rungs?part=Gate&rung=octave&student=2&tempo=80",
  "/songs/6/chords?school=drone&capo=2&tuning=drop+D", "/songs/8/chords",
  "/desk?symbol=F%23m7b5&frets=x32010&to=drop+D&heard=435&as=A4&chords=Am+F+E7", "/lessons/1", "/lessons/2", "/lessons/1/handout", "/handouts", "/students", "/students/2", "/students/9", "/students/2/songs", "/students/8/songs", "/students/5/year", "/students?group=beginners", "/songs?tag=waltz", "/songs/8/about", "/lessons", "/skills", "/skills?skill=family+barre+chords&student=4", "/bin", "/find?q=bar", "/students/2/hour", "/students/9/hour", "/timetable", "/timetable/month", "/settings", "/nowhere"];

for (const colorScheme of ["light", "dark"]) {
  test(`every view in the ${colorScheme} theme`, async () => {
    const { page, trouble } = await visit(browser, server, { colorScheme });
    await page.goto("/sign-in");
    await accessible(page, "sign-in");
    await signIn(page);
    for (const view of views) {
      await page.goto(view);
      await accessible(page, view);
      assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${view} is not wider than the window`);
    }
    await page.goto("/songs/1");
    await page.getByLabel("The sheet").fill("title: Broken\nVerse:\n| 99A |\nkee: x");
    await page.locator(".problems .error").waitFor();
    await accessible(page, "a sheet with problems");
    await page.getByLabel("The sheet").fill("title: Whole\ntu");
    await page.getByRole("listbox").waitFor();
    await accessible(page, "offers");
    await page.getByLabel("The sheet").fill("title: Whole\nVerse:\n| 3A");
    await page.locator(".sign .neck").waitFor();
    await page.getByRole("link", { name: "Notation" }).click();
    await page.getByRole("button", { name: "Tap", exact: true }).click();
    await accessible(page, "the sign, the notation and what is tapped on");
    await page.getByRole("button", { name: "Keys" }).click();
    await page.getByRole("dialog").waitFor();
    await accessible(page, "keys");
    const link = await studentLink(page, "Saskia");
    await accessible(page, "a new link");
    const student = await visit(browser, server, { viewport: phone, colorScheme });
    await student.page.goto(link);
    await accessible(student.page, "practice");
    await student.page.goto(`${link}/log`);
    await accessible(student.page, "log");
    // The page that does not exist says so on the console, too.
    assert.deepEqual(trouble.filter((t) => !t.includes("404")), []);
    assert.deepEqual(student.trouble, []);
  });
}

test("the first visit of a new studio", async () => {
  const own = await serve("serve");
  try {
    const { page, trouble } = await visit(browser, own);
    await page.goto("/");
    assert.match(page.url(), /set-up$/);
    await accessible(page, "set-up");
    await page.getByLabel("Your name").fill("Ada");
    await page.getByLabel("Name of the studio").fill("Attic");
    await page.getByLabel("E-mail").fill("ada@attic.example");
    await page.getByLabel("Password").fill("a long password");
    await page.getByRole("button", { name: "Set up" }).click();
    for (const view of ["/", "/songs", "/students"]) {
      await page.goto(view);
      await accessible(page, `empty ${view}`);
    }
    await page.getByPlaceholder("Name of a new student").fill("Pia");
    await page.keyboard.press("Enter");
    await page.getByText("Nothing assigned yet").waitFor();
    await accessible(page, "a new student");
    assert.deepEqual(trouble, []);
  } finally {
    await own.close();
  }
});

test("a first visit is at most 150 KB", async () => {
  const { page, context } = await visit(browser, server);
  const session = await context.newCDPSession(page);
  await session.send("Network.enable");
  let bytes = 0;
  session.on("Network.loadingFinished", (e) => { bytes += e.encodedDataLength; });
  await signIn(page);
  await page.waitForLoadState("networkidle");
  console.log(`# ${(bytes / 1024).toFixed(0)} KB`);
  assert.ok(bytes > 10_000 && bytes < 150_000, `${bytes} bytes`);
});

test("the keys of a view are shown and work", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.keyboard.press("?");
  const dialog = page.getByRole("dialog", { name: "Keys of this view" });
  await dialog.waitFor();
  assert.match(await dialog.innerText(), /Songs/);
  await page.keyboard.press("Escape");
  await dialog.waitFor({ state: "hidden" });
  await page.keyboard.press("g");
  await page.keyboard.press("u");
  await page.waitForURL("**/students");
});
