// Typing a sheet: what the keys do in it, and what those hear who do not see it.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, serve, signIn, visit } from "./lib.mjs";
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
  await sheet.press("Control+z");
  await sheet.press("Control+z");
  assert.match(await sheet.inputValue(), /\| 5A 3A \|\n\| $/, "what Enter did can be undone");

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
