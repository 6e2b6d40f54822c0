// What stands beside the sheet while one types: the preview, of which only what changed
// travels, the sign under the cursor, and what a word may become.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

// open opens a song and types a sheet.
async function open(text, options) {
  const seen = await visit(browser, server, options);
  await signIn(seen.page);
  await seen.page.goto("/songs/1");
  const sheet = seen.page.getByLabel("The sheet", { exact: true });
  await sheet.fill(text);
  await quiet(seen.page);
  return { ...seen, sheet };
}

// quiet waits until all that was asked for is drawn.
const quiet = (page) => page.waitForFunction(() => !document.querySelector(".preview[aria-busy]") && !document.querySelector(".line.due"));

// cursor puts the cursor behind some text.
async function cursor(page, sheet, after) {
  await sheet.evaluate((e, after) => {
    const at = e.value.indexOf(after) + after.length;
    e.focus();
    e.setSelectionRange(at, at);
    e.dispatchEvent(new KeyboardEvent("keyup"));
  }, after);
  await quiet(page);
}

// drawn is a preview as it looks, whatever it was made of; anew is what the server draws
// for somebody who has nothing of it.
const drawn = (page) => page.evaluate(() => {
  const all = document.querySelector(".preview").cloneNode(true);
  for (const e of all.querySelectorAll(".now, .here")) e.classList.remove("now", "here");
  return all.innerHTML.replace(/ class=""/g, "").replace(/\s+/g, " ").replaceAll("> <", "><").trim();
});
const anew = (page) => page.evaluate(async () => {
  const body = new URLSearchParams({ sheet: document.querySelector("#sheet").value, has: "" });
  const answer = await fetch("/songs/preview", { method: "POST", body, headers: { "X-CSRF-Token": document.querySelector('meta[name="csrf"]').content, "X-Fragment": "1" } });
  const all = document.createElement("section");
  all.innerHTML = await answer.text();
  return all.innerHTML.replace(/ class=""/g, "").replace(/\s+/g, " ").replaceAll("> <", "><").trim();
});

test("whatever is typed, what is put together is what would be drawn anew", async () => {
  const bars = (from, n) => Array.from({ length: n }, (_, i) => `| ${(from + i) % 12}A ${(from + 2 * i) % 10}D ${i % 8}G - |`).join("\n");
  const start = `title: T\nkey: E minor\nA:\n${bars(0, 20)}\n\nB:\n${bars(3, 6)}\nlead | 7B - - - |\n\nC:\nnote: softly\n| Am7 - F - | % |\n`;
  const { page, trouble, sheet } = await open(start);
  assert.equal(await drawn(page), await anew(page));
  const edits = [
    (t) => t.replace("| 0A 0D 0G - |", "| 0A 0D 12G+14B - |"), // one bar
    (t) => t.replace("key: E minor", "key: E minor\ntempo: 140"), // every part
    (t) => t.replace("\nA:", "\n# a remark\n\nA:"), // they only stand elsewhere
    (t) => t.replace("B:\n", "Bridge:\n"), // a part by another name
    (t) => t.replace("C:\n", "C:\nmute: palm\n"),
    (t) => t.replace("| Am7", "| 99Z Am7"), // a mistake
    (t) => t.replace("99Z ", ""),
    (t) => { const [head, a, ...rest] = t.split(/\n(?=A:|Bridge:|C:)/); return [head, ...rest, a].join("\n"); }, // another order
    (t) => t.replace(/Bridge:[^]*?\n\n/, ""), // a part less
    (t) => `${t}\nconstructor:\n| 0A |\n\n__proto__:\n| 3A |\n`,
    (t) => t.replace("| 3A |", "| 5A |"),
    () => "title: T\n",
    () => "",
    () => start,
    (t) => `${t}\nA:\n| 0A |\n`, // a second part of the name
    (t) => t.replace("| % |", "| % | x3"),
    (t) => `${t}\nD & <b>"E"</b>:\n| 0A |\n`,
  ];
  for (const edit of edits) {
    const text = edit(await sheet.inputValue());
    await sheet.fill(text);
    await quiet(page);
    assert.equal(await drawn(page), await anew(page), `${edit}`);
  }
  // Keys that come faster than their answers end with what was typed last.
  await sheet.fill(start);
  await cursor(page, sheet, "| 0A 0D 0G -");
  await page.keyboard.type(" 5B (7A 9A) 3D . x", { delay: 4 });
  await quiet(page);
  assert.equal(await drawn(page), await anew(page));
  await sheet.fill("title: T\n\nV:\n| 0A |");
  assert.deepEqual(trouble, []);
});

test("what has not changed stays the same element", async () => {
  const { page, sheet } = await open("title: T\nA:\n| 0A 3A |\nB:\n| 5A 7A |\n");
  await page.evaluate(() => { for (const e of document.querySelectorAll(".preview svg, .preview article")) e.mine = true; });
  await sheet.fill("title: T\nA:\n| 0A 3A |\nB:\n| 5A 8A |\n");
  await quiet(page);
  const kept = await page.evaluate(() => [...document.querySelectorAll(".preview article")].map((e) => [e.mine ?? false, e.querySelector("svg").mine ?? false]));
  assert.deepEqual(kept, [[true, true], [true, false]]);
});

test("an answer that leaves out too much is asked for once more", async () => {
  const { page, sheet } = await open("title: T\nA:\n| 0A 3A |\n");
  let asked = 0;
  await page.route("**/songs/preview", async (route) => {
    asked++;
    const body = new URLSearchParams(route.request().postData());
    if (asked > 1) return route.continue();
    // As from a server of another version: a line that is not here.
    const answer = await route.fetch({ postData: body.toString() });
    await route.fulfill({ response: answer, body: (await answer.text()).replace(/(<div class="line" data-drawn=")[^"]+">[^]*?<\/div>/, '$1somebody-elses"></div>') });
  });
  await sheet.fill("title: T\nA:\n| 0A 5A |\n");
  await quiet(page);
  assert.equal(asked, 2);
  assert.equal(await drawn(page), await anew(page));
});

test("the preview goes where the cursor goes, and the cursor where it is pressed", async () => {
  const part = (name) => `${name}:\n${"| 0A 3A 5A 7A | 0D 3D 5D 7D | 0G 2G 4G 5G | 0B 1B 3B 5B |\n".repeat(3)}`;
  const { page, trouble, sheet } = await open(`title: T\n${part("A")}\n${part("B")}\n${part("C")}lead | 7e - - - | % | % | % |\n`);
  const seen = () => page.evaluate(() => {
    const marked = [...document.querySelectorAll(".preview .place.now")];
    const window = document.querySelector(".preview").getBoundingClientRect();
    return marked.map((e) => {
      const box = e.getBoundingClientRect();
      return { part: e.closest("[data-part]").dataset.part, bar: e.dataset.bar, inside: box.top >= window.top - 1 && box.bottom <= window.bottom + 40 };
    });
  });
  await cursor(page, sheet, "C:\n| 0A 3A 5A 7A | 0D");
  assert.deepEqual(await seen(), [{ part: "C", bar: "2", inside: true }]);
  await cursor(page, sheet, "A:\n| 0A");
  assert.deepEqual(await seen(), [{ part: "A", bar: "1", inside: true }]);
  await page.keyboard.type("!");
  await quiet(page);
  assert.deepEqual(await seen(), [{ part: "A", bar: "1", inside: true }], "also when it was drawn anew");
  await cursor(page, sheet, "lead | 7e");
  assert.equal((await seen())[0].bar, "9", "the bar beside which it runs");
  await cursor(page, sheet, "title");
  assert.deepEqual(await seen(), []);

  await page.locator('.preview [data-part="B"] .place[data-bar="6"]').click();
  await quiet(page);
  const there = () => sheet.evaluate((e) => e.value.slice(e.value.lastIndexOf("B:", e.selectionStart), e.selectionStart));
  assert.equal(await there(), "B:\n| 0A 3A 5A 7A | 0D 3D 5D 7D | 0G 2G 4G 5G | 0B 1B 3B 5B |\n| 0A 3A 5A 7A |");
  await cursor(page, sheet, "title: T");
  await page.keyboard.press("Enter");
  await page.keyboard.type("by: somebody");
  await quiet(page);
  await page.locator('.preview [data-part="B"] .place[data-bar="6"]').click();
  assert.match(await there(), /0B 1B 3B 5B \|\n\| 0A 3A 5A 7A \|$/, "also where it only stands elsewhere");
  assert.deepEqual(trouble, []);
});

test("the sign under the cursor is told and shown", async () => {
  const { page, trouble, sheet } = await open("title: T\ntuning: drop D\n\nA:\n| 0E 3A - h5A | Am7 . |\n");
  const sign = page.getByRole("region", { name: "The sign under the cursor" });
  await cursor(page, sheet, "0E 3A");
  assert.match(await sign.innerText(), /Fret 3 on the A string, a C, on 2, for two beats\.\s+Bar 1 of A/);
  assert.match(await sign.getByRole("img").getAttribute("aria-label"), /A/);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await quiet(page);
  assert.match(await sign.innerText(), /It goes on: fret 3 on the A string/);
  await cursor(page, sheet, "drop");
  assert.match(await sign.innerText(), /D A D G B E/);
  assert.equal(await sign.getByRole("img").count(), 0);
  await cursor(page, sheet, "| 0E 3A - h5A | Am7 .");
  assert.match(await sign.innerText(), /Silence, on 3/);
  assert.deepEqual(trouble, []);
});

test("a word is completed by Tab, and Tab leaves the sheet where there is nothing to complete", async () => {
  const { page, trouble, sheet } = await open("title: T\n\nVerse:\n| Am7 - C5=x355xx - |\n");
  const list = page.getByRole("listbox", { name: "What this may become" });
  const offered = () => list.getByRole("option").locator("code").allInnerTexts();
  await cursor(page, sheet, "title: T");
  await page.keyboard.type("\ntu");
  await list.waitFor();
  assert.deepEqual(await offered(), ["tuning: "]);
  await page.keyboard.press("Tab");
  await list.getByText("drop D").waitFor();
  await page.keyboard.type("d");
  await list.getByText("standard").waitFor({ state: "detached" });
  assert.deepEqual(await offered(), ["drop D", "drop C", "DADGAD"]);
  await page.keyboard.press("ArrowDown");
  assert.equal(await list.getByRole("option", { selected: true }).locator("code").innerText(), "drop C");
  assert.equal(await sheet.getAttribute("aria-activedescendant"), "offer-1");
  await page.keyboard.press("Enter");
  assert.match(await sheet.inputValue(), /^title: T\ntuning: drop C\n\nVerse:/, "Enter takes what an arrow has chosen");
  await quiet(page);
  assert.ok(await list.isHidden());

  await page.keyboard.press("Enter");
  await page.keyboard.type("key: A");
  await list.getByText("A minor").waitFor();
  await page.keyboard.press("Enter");
  await quiet(page);
  assert.match(await sheet.inputValue(), /key: A\n\nVerse|key: A\n\n\nVerse/, "Enter alone ends the line");
  await sheet.press("Control+z");

  await sheet.fill("title: T\n\nVerse:\n| Am7 - C5=x355xx - |\n");
  await cursor(page, sheet, "x355xx - |");
  await page.keyboard.type(" C");
  await list.getByText("C5=x355xx").waitFor();
  await page.waitForFunction(() => /Tab writes C5=x355xx/.test(document.querySelector("#announce").textContent));
  await page.keyboard.press("Escape");
  assert.ok(await list.isHidden());
  await page.keyboard.type("5");
  await list.getByText("C5=x355xx").waitFor();
  await list.getByText("C5=x355xx").click();
  assert.match(await sheet.inputValue(), /x355xx - \| C5=x355xx/);
  await sheet.press("Control+z");
  assert.match(await sheet.inputValue(), /x355xx - \| C5?\n/, "what was taken can be undone");
  await sheet.press("ArrowLeft");
  await quiet(page);
  assert.ok(await list.isHidden(), "who goes elsewhere is offered nothing");

  // Who is quicker than the answer gets what the list still says, and never half of it.
  await page.route("**/songs/preview", async (route) => {
    const grown = new URLSearchParams(route.request().postData()).get("sheet").includes("tun");
    if (grown) await new Promise((done) => setTimeout(done, 400));
    await route.continue();
  });
  await sheet.fill("title: T\n");
  await sheet.press("Control+End");
  await page.keyboard.type("tu");
  await list.waitFor();
  await page.keyboard.type("n");
  await page.keyboard.press("Tab");
  assert.equal(await sheet.inputValue(), "title: T\ntuning: ");
  await quiet(page);
  await page.unroute("**/songs/preview");

  // The list stands below its word, inside the sheet.
  await sheet.fill(`title: T\nkey: E minor\n\nVerse:\n${"| Am7 - C - |\n".repeat(40)}`);
  await sheet.press("Control+End");
  await page.keyboard.type("| A");
  await list.waitFor();
  const [at, paper] = [await list.boundingBox(), await page.locator(".paper").boundingBox()];
  assert.ok(at.y >= paper.y && at.y + at.height <= paper.y + paper.height, "above the word where there is no room below it");
  await page.keyboard.press("Tab");
  await quiet(page);
  assert.match(await sheet.inputValue(), /\| Am7$/);
  await page.keyboard.press("Tab");
  assert.notEqual(await page.evaluate(() => document.activeElement.id), "sheet");
  assert.deepEqual(trouble, []);
});

test("a preview that does not come is asked for again, with all that was typed meanwhile", async () => {
  const { page, sheet } = await open("title: T\nA:\n| 0A 3A |\n");
  let asked = 0;
  await page.route("**/songs/preview", async (route) => {
    asked++;
    if (asked > 1) return route.continue();
    await new Promise((done) => setTimeout(done, 300));
    return route.abort();
  });
  await cursor(page, sheet, "0A 3A");
  await page.keyboard.type(" 5A 7A");
  await page.waitForFunction(() => /The preview stands still/.test(document.querySelector(".editor [role=status]").textContent) || document.querySelector(".preview").textContent.includes("7"));
  await page.waitForFunction(() => [...document.querySelectorAll(".preview .fret")].some((e) => e.textContent === "7"));
  await quiet(page);
  assert.equal(await drawn(page), await anew(page));
});

test("in a narrow window all of it is there", async () => {
  const { page, trouble, sheet } = await open("title: T\n\nVerse:\n| Am7 - C - |\n", { viewport: phone });
  await cursor(page, sheet, "| Am7");
  const sign = page.getByRole("region", { name: "The sign under the cursor" });
  const box = await sign.boundingBox();
  assert.ok(box.x >= 0 && box.x + box.width <= phone.width);
  assert.ok(await sign.evaluate((e) => e.scrollWidth <= e.clientWidth + 1 && e.scrollHeight <= e.clientHeight + 1), "nothing of it is cut off");
  await sheet.press("Control+End");
  await page.keyboard.type("| A");
  const list = page.getByRole("listbox", { name: "What this may become" });
  await list.waitFor();
  const at = await list.boundingBox();
  assert.ok(at.x >= 0 && at.x + at.width <= phone.width);
  assert.equal(await page.evaluate(() => document.documentElement.scrollWidth), phone.width);
  assert.deepEqual(trouble, []);
});
