// Every view by keyboard alone, in a wide window, on a phone, and enlarged four
// times: everything that can be used is reached, in the order in which it stands,
// has a name, shows that it has the focus, is large enough to hit, and nothing is
// wider than the window.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, serve, signIn, studentLink, visit, settled as waitFor } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

// walk goes through a page with Tab and lists what is wrong with what it reaches.
async function walk(page, view) {
  const expected = await page.evaluate(() => {
    const all = [...document.querySelectorAll("a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex]")]
      .filter((e) => e.tabIndex >= 0 && !e.disabled && e.checkVisibility({ visibilityProperty: true }) && !e.closest("[popover]:not(:popover-open), dialog:not([open])"))
      .filter((e) => e.type !== "radio" || e.checked || ![...(e.form?.elements ?? [])].some((o) => o.name === e.name && o.checked));
    all.forEach((e, i) => { e.dataset.walk = i; });
    return all.length;
  });
  const seen = [];
  const wrong = [];
  await page.keyboard.press("Shift"); // so that the focus is that of a keyboard
  await page.evaluate(() => document.querySelector("[data-walk='0']").focus());
  for (let i = 0; i < expected + 40; i++) {
    if (i) await page.keyboard.press("Tab");
    const at = await page.evaluate(() => {
      const e = document.activeElement;
      if (!e || e === document.body) return null;
      const box = (e.type === "radio" || e.type === "checkbox" ? e.closest("label") ?? e : e).getBoundingClientRect();
      const shown = e.matches(".parts input, .rung-choice input, .chips input") ? e.nextElementSibling : e.matches(".paper textarea") ? e.closest(".paper") : e.querySelector?.(".hit") ?? e;
      const style = getComputedStyle(shown);
      const name = e.getAttribute("aria-label") || (e.labels?.length ? [...e.labels].map((l) => l.textContent).join(" ") : "") || e.textContent || e.title || e.placeholder || "";
      const inText = e.tagName === "A" && e.closest("p, li, td, h1, h2, .hint") && style.display === "inline";
      return { walk: e.dataset.walk, tag: e.tagName, what: (e.outerHTML.match(/^<[^>]*>/)?.[0] ?? "").slice(0, 140), name: name.trim(),
        outline: (style.outlineStyle !== "none" && parseFloat(style.outlineWidth) >= 2) || (style.stroke !== "none" && parseFloat(style.strokeWidth) >= 2), width: box.width, height: box.height, inText,
        covered: box.bottom < 0 || box.top > innerHeight };
    });
    if (!at || (seen.length && at.walk === seen[0])) break;
    if (at.walk === undefined) continue; // a region that scrolls, of which a view of papers has many
    seen.push(at.walk);
    if (!at.name) wrong.push(`no name: ${at.what}`);
    if (!at.outline) wrong.push(`no visible focus: ${at.what}`);
    if (!at.inText && (at.width < 23.5 || at.height < 23.5)) wrong.push(`${Math.round(at.width)} x ${Math.round(at.height)}: ${at.what}`);
    if (at.covered) wrong.push(`out of sight: ${at.what}`);
  }
  const order = seen.map(Number);
  for (let i = 1; i < order.length; i++) if (order[i] < order[i - 1]) wrong.push(`out of order: ${order[i - 1]} then ${order[i]}`);
  if (new Set(seen).size < expected) wrong.push(`${expected - new Set(seen).size} of ${expected} not reached`);
  const width = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  if (width > 1) wrong.push(`${width} px wider than the window`);
  return { reached: seen.length, wrong: wrong.map((w) => `${view}: ${w}`) };
}

for (const [name, viewport, scale] of [["a wide window", { width: 1280, height: 800 }, 1], ["a phone", { width: 320, height: 640 }, 1], ["four times enlarged", { width: 320, height: 256 }, 4]]) {
  test(`every view by keyboard alone: ${name}`, async () => {
    const { page } = await visit(browser, server, { viewport, deviceScaleFactor: scale });
    const found = [];
    for (const view of ["/sign-in", "/recover"]) {
      await page.goto(view);
      found.push(await walk(page, view));
    }
    await signIn(page);
    const link = await studentLink(page, "Saskia");
    for (const view of ["/", "/songs", "/songs/bring", "/notation", "/songs/11", "/songs/11/rungs?part=Opening&rung=one-finger", "/songs/6/chords", "/songs/11/saves", "/lessons/1", "/lessons/2", "/lessons/1/handout", "/handouts",
      "/students", "/students/1", "/students/8/songs", "/students/5", "/students/5/year", "/students?group=beginners", "/songs/8/about", "/lessons", "/skills?skill=family+barre+chords&student=4", "/bin", "/find?q=bar", "/students/2/hour", "/timetable", "/timetable/month", "/desk?symbol=Am7&frets=x02210", "/settings", "/settings/codes", link, `${link}/log`]) {
      await page.goto(view);
      await page.waitForLoadState("networkidle");
      found.push(await walk(page, view.replace(/[\w-]{22}/, "…")));
    }
    assert.deepEqual(found.flatMap((f) => f.wrong), []);
    const count = found.reduce((sum, f) => sum + f.reached, 0);
    assert.ok(count > 200, `${count} things reached`);
  });
}

test("keys pressed by themselves can be turned off, and leave fields alone", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs");
  await page.keyboard.press("?");
  await page.getByLabel("Keys that are pressed by themselves").uncheck();
  await page.getByRole("button", { name: "Close" }).click();
  await page.locator("h1").click();
  await page.keyboard.press("n");
  assert.notEqual(await page.evaluate(() => document.activeElement.id), "new-title");
  await page.evaluate(() => localStorage.clear());
  await page.keyboard.press("n");
  assert.equal(await page.evaluate(() => document.activeElement.id), "new-title");
  await page.keyboard.type("gs");
  assert.equal(await page.locator("#new-title").inputValue(), "gs");
});

test("focus stays, what changed is said, and Back walks through what was chosen", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/11/rungs?part=Opening&rung=one-finger");
  const settled = (does) => waitFor(page, /rungs/, does);
  const rung = page.locator(".ladder a.rung", { hasText: "Two notes" });
  await rung.focus();
  await settled(() => page.keyboard.press("Enter"));
  assert.match(await page.evaluate(() => document.activeElement.textContent), /Two notes/);
  await page.locator("#announce", { hasText: /Opening: Two notes, grade/ }).waitFor({ state: "attached" });
  await settled(() => page.locator(".parts label", { hasText: "Verse" }).first().click());
  await settled(() => page.locator("body").click({ position: { x: 5, y: 5 } }).then(() => page.keyboard.press("]")));
  await settled(() => page.goBack());
  assert.match(await page.locator(".version-head h2").textContent(), /Opening: Two notes/, "past the notes, to the part before");
  await settled(() => page.goBack());
  assert.match(await page.locator(".version-head h2").textContent(), /Opening: One finger/);
  await settled(() => page.goForward());
  assert.match(await page.locator(".version-head h2").textContent(), /Opening: Two notes/);
});

test("a lesson is saved as it is changed, without a new page", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  await page.goto("/lessons/1");
  await page.evaluate(() => { window.same = true; });
  await page.locator(".rung-choice").first().locator("input:checked").focus();
  for (let i = 0; i < 2; i++) {
    await waitFor(page, /lessons\/1$/, () => page.keyboard.press("ArrowRight"));
  }
  await page.locator("#announce", { hasText: /^Saved$/ }).waitFor({ state: "attached" });
  assert.ok(await page.evaluate(() => window.same && document.activeElement.type === "radio" && document.activeElement.checked));
  const value = await page.evaluate(() => document.activeElement.value);
  await page.reload();
  assert.equal(await page.locator(".rung-choice").first().locator("input:checked").inputValue(), value);
});

test("forms keep what is typed over a lost connection, an ended session and a reload", async () => {
  const { page, context } = await visit(browser, server);
  await signIn(page);
  await page.goto("/students/2");
  const about = page.getByLabel("About", { exact: true });
  await about.fill("two years in, and a new amp");
  await page.reload();
  assert.equal(await about.inputValue(), "two years in, and a new amp", "a reload");
  await page.getByText("What you typed here is not sent yet.").waitFor();
  await context.setOffline(true);
  await page.getByRole("button", { name: "Save", exact: true }).first().click().catch(() => {});
  await page.waitForTimeout(500);
  await context.setOffline(false);
  await page.goto("/students/2");
  assert.equal(await about.inputValue(), "two years in, and a new amp", "a lost connection");
  const cookies = await context.cookies();
  await context.clearCookies({ name: "valleyside" });
  await page.getByRole("button", { name: "Save", exact: true }).first().click();
  await page.getByText("You are not signed in any more").waitFor();
  await context.addCookies(cookies);
  await page.goto("/students/2");
  assert.equal(await about.inputValue(), "two years in, and a new amp", "an ended session");
  await page.getByRole("button", { name: "Save", exact: true }).first().click();
  await page.getByText("Saved Bram.").waitFor();
  assert.equal(await page.getByText("What you typed here is not sent yet.").count(), 0);
  await page.goto("/students/2");
  assert.equal(await page.getByText("What you typed here is not sent yet.").count(), 0, "sent, and forgotten");
  assert.equal(await about.inputValue(), "two years in, and a new amp");
});
