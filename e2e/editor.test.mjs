// Typing a sheet: what the keys do in it, and what those hear who do not see it.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, serve, signIn, visit } from "./lib.mjs";
import { finds, placed } from "../web/frontend/js/notation.js";
import { entered } from "../web/frontend/js/typing.js";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

test("Enter at the end of a line of bars begins the next, and takes a bare one away", () => {
  const press = (text) => {
    const at = text.indexOf("^");
    const plain = text.replace("^", "");
    const change = entered(plain, at);
    return change ? `${plain.slice(0, change.from)}${change.insert}^${plain.slice(change.to)}` : undefined;
  };
  for (const [before, then] of [
    ["V:\n| 0A - |^", "V:\n| 0A - |\n| ^"],
    ["V:\n| 0A - | x3^\nW:", "V:\n| 0A - | x3\n| ^\nW:"],
    ["V:\n     | 0A |\nlead | 3A |^", "V:\n     | 0A |\nlead | 3A |\nlead | ^"],
    ["V:\n     | 0A |^\nlead | 3A |", "V:\n     | 0A |\n     | ^\nlead | 3A |"],
    ["V:\nwords | one / two |^", "V:\nwords | one / two |\nwords | ^"],
    ["V:\n| [2/4] 0E 3E |  ^", "V:\n| [2/4] 0E 3E |  \n| ^"],
    ["V:\n| 0A |\n| ^", "V:\n| 0A |\n^"],
    ["V:\n| 0A |\n|^", "V:\n| 0A |\n^"],
    ["V:\nlead | ^\n", "V:\n^\n"],
    ["V:\n| 0A |^ x3", undefined], // not at the end of its line
    ["V:\n| 0A - ^", undefined], // the bar is not finished
    ["title: T^", undefined],
    ["V:^", undefined],
    ["# | a | b |^", undefined],
    ["V:\nlike: W\n4 | 0A |^", undefined], // it replaces bar 4, the next line another
    ["^", undefined],
    ["\n^", undefined],
  ]) assert.equal(press(before), then, before);
});

test("the keys of a typist, in the sheet itself", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  await sheet.fill("title: T\n\nV:\n| 0A 3A |");
  await sheet.press("End");
  await sheet.press("Enter");
  await page.keyboard.type("5A 3A |");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");
  await page.keyboard.type("W:");
  assert.equal(await sheet.inputValue(), "title: T\n\nV:\n| 0A 3A |\n| 5A 3A |\nW:");
  // Whether two keys that are typed are undone at once is the browser's to say.
  for (let i = 0; i < 4 && !/\n\| $/.test(await sheet.inputValue()); i++) await sheet.press("Control+z");
  assert.match(await sheet.inputValue(), /\| 5A 3A \|\n\| $/, "what Enter did can be undone");

  await sheet.fill("title: T\n\nV:\n| 0A 3A |");
  await sheet.press("End");
  await sheet.press("Enter");
  await page.keyboard.type("Second verse:");
  await page.keyboard.press("Enter");
  await page.keyboard.type("| C G |");
  await page.keyboard.press("Enter");
  assert.equal(await sheet.inputValue(), "title: T\n\nV:\n| 0A 3A |\nSecond verse:\n| C G |\n| ", "a part's name where Enter began a line of bars");
  await page.getByRole("heading", { name: "Second verse" }).waitFor();
  assert.equal(await page.locator("[data-problems]").getAttribute("data-problems"), "[]", "and what it began at the end is no mistake");

  await sheet.fill("title: T\n\nV:\n| 0A 3A |\n| 5A 3A |\n| ");

  await sheet.press("End");
  await page.keyboard.type("A3 5A |");
  const heard = page.locator("#announce");
  await page.waitForFunction(() => /Line 6: "A3" has the string before the fret. write 3A/.test(document.querySelector("#announce").textContent));
  await sheet.fill("title: T\n\nV:\n| 0A 3A |");
  await page.waitForFunction(() => /No problems any more/.test(document.querySelector("#announce").textContent));
  assert.equal(await heard.getAttribute("aria-live"), "polite");

  await sheet.press("Control+/");
  const keys = page.getByRole("dialog", { name: "Keys of this view" });
  assert.ok(await keys.isVisible(), "the list opens while one types");
  await page.keyboard.press("Escape");
  assert.equal(await sheet.evaluate((e) => e === document.activeElement), true, "and gives the sheet back");
  await sheet.press("End");
  await page.keyboard.type("?");
  assert.match(await sheet.inputValue(), /\?$/, "a question mark is typed as any sign");
  await sheet.fill("title: T\n\nV:\n| 0A 3A |");
  assert.deepEqual(trouble, []);
});

test("a song that is typed key by key is what was typed", async () => {
  const song = "title: Lantern Hill\nby: Nell Arbour\nkey: E minor\ntime: 4/4\ntempo: 92\ntuning: drop D\norder: Verse x2, Chorus\n\nVerse:\nmute: palm\n| 0E - 3A 5A  2D - (5A 3A) . |\n| 0E - 3A 5A  7A - 5A -      | x2\nlead | 7B - - - - - - -  |\nwords | Light / on the | hill |\n\nChorus:\n| Em - - - | C5=x355xx - Em v |\n| % | Em - NC . |";
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  for (const delay of [0, 12]) {
    await sheet.fill("");
    let before = "";
    for (const line of song.split("\n")) {
      await page.keyboard.type(line, { delay });
      await page.keyboard.press("Enter");
      // Where Enter has begun a line of bars that is to be none, a second one takes it away.
      const begun = /^(lead |words )?\| $/.exec((await sheet.inputValue()).slice(before.length + line.length + 1));
      before += `${line}\n`;
      const next = song.slice(before.length).split("\n")[0];
      if (begun && !(next.startsWith("|") && begun[0] === "| ")) await page.keyboard.press("Enter");
    }
    assert.equal((await sheet.inputValue()).trimEnd(), song, `${delay} ms`);
  }
  await sheet.fill("title: T\n\nV:\n| 0A 3A |");
  assert.deepEqual(trouble, []);
});

test("examples of the notation go where such lines stand", () => {
  const put = (text, example, place) => {
    const at = text.indexOf("^");
    const plain = text.replace("^", "");
    const change = placed(plain, at, example, place);
    const then = plain.slice(0, change.from) + change.insert + plain.slice(change.to);
    return `${then.slice(0, change.begin)}[${then.slice(change.begin, change.begin + change.length)}]${then.slice(change.begin + change.length)}`;
  };
  for (const [text, example, place, then] of [
    ["| 0A ^ |", "7A", "bar", "| 0A [7A] |"],
    ["| 0A^ |", "7A", "bar", "| 0A [7A] |"],
    ["| 1^0A+9D |", "7A", "bar", "| 10A+9D [7A] |"],
    ["| 0A |^", "7A", "bar", "| 0A | [7A]"],
    ["| ^0A |", "7A", "bar", "| [7A] 0A |"],
    ["| (^3A) |", "7A", "bar", "| ([7A] 3A) |"],
    ["^", "7A", "bar", "[7A]"],
    ["V:\n| 0^A |\n| 3A |", "| 5A |", "part", "V:\n| 0A |\n[| 5A |]\n| 3A |"],
    ["V:\n^\nW:", "| 5A |", "part", "V:\n[| 5A |]\nW:"],
    ["^", "Chorus:", "part", "[Chorus:]"],
    ["title: T\n\nV:\n| 0A^ |", "capo: 2", "song", "title: T\n[capo: 2]\n\nV:\n| 0A |"],
    ["title: T\ncapo: 1\n\nV:\n| 0A^ |", "capo: 2", "song", "title: T\n[capo: 1]\n\nV:\n| 0A |"],
    ["title: T\n\nV:\nkey: C major\n| 0A^ |", "key: A minor", "song", "title: T\n[key: A minor]\n\nV:\nkey: C major\n| 0A |"],
    ["^", "key: A minor", "song", "[key: A minor]"],
    ["title: T^", "key: A minor", "song", "title: T\n[key: A minor]"],
  ]) assert.equal(put(text, example, place), then, `${text} + ${example}`);
});

test("what is looked for is found by what it is called", () => {
  const bend = "a bend 7Gb2 bent by two semitones whole tone";
  for (const asked of ["", "bend", "how do I write a bend?", "BENDS", "bending", "whole tone bend", "b2"]) assert.ok(finds(bend, asked), asked);
  for (const asked of ["slide", "bend slide", "?"]) assert.ok(!finds(bend, asked), asked);
});

test("the notation beside the sheet, and as a page", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  await sheet.fill("title: T\n\nV:\n| 0A |");
  await sheet.evaluate((e) => e.setSelectionRange(17, 17)); // behind 0A
  await sheet.press("Control+i");
  const panel = page.getByRole("region", { name: "Notation" });
  await page.keyboard.type("how do I write a bend");
  const shown = () => panel.getByRole("button", { name: /^Put in/ }).evaluateAll((all) => all.filter((b) => b.checkVisibility()).map((b) => b.dataset.example));
  assert.deepEqual(await shown(), ["7Gb2", "7Gb2 r7G"]);
  await panel.getByRole("button", { name: "Put in a bend: 7Gb2" }).click();
  assert.equal(await sheet.inputValue(), "title: T\n\nV:\n| 0A 7Gb2 |");
  await page.keyboard.type("9Gb2");
  assert.equal(await sheet.inputValue(), "title: T\n\nV:\n| 0A 9Gb2 |", "what was put in is what one types over");
  for (let i = 0; i < 8 && (await sheet.inputValue()) !== "title: T\n\nV:\n| 0A |"; i++) await sheet.press("Control+z");
  assert.equal(await sheet.inputValue(), "title: T\n\nV:\n| 0A |", "all of it can be undone");

  const asked = page.getByLabel("What do you want to write?");
  await asked.fill("capo");
  await panel.getByRole("button", { name: /Put in a capo/ }).click();
  assert.equal(await sheet.inputValue(), "title: T\ncapo: 2\n\nV:\n| 0A |");
  await asked.fill("zither");
  assert.ok(await panel.getByText("Nothing is called that").isVisible());
  await asked.press("Escape");
  assert.ok(await panel.isHidden());
  assert.ok(await sheet.evaluate((e) => e === document.activeElement));

  await page.goto("/notation");
  assert.ok(await page.getByText("how late the second of two eighths is").isVisible());
  assert.equal(await page.getByRole("button", { name: /^Put in/ }).count(), 0);
  assert.deepEqual(trouble, []);
});
