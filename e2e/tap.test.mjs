// Tapping a rhythm in: the click, the taps, and then the frets.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, visit } from "./lib.mjs";
import { fretted, marks, tappedIn } from "../web/frontend/js/tap.js";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

test("what was tapped goes where bars stand", () => {
  const put = (text) => {
    const at = text.indexOf("^");
    const plain = text.replace("^", "");
    const change = tappedIn(plain, at, "| x x |");
    const then = plain.slice(0, change.from) + change.insert + plain.slice(change.to);
    return `${then.slice(0, change.begin)}[${then.slice(change.begin, change.begin + change.length)}]${then.slice(change.begin + change.length)}`;
  };
  for (const [text, then] of [
    ["title: T\n\nV:\n| 0A^ |\n\nW:\n| 3A |", "title: T\n\nV:\n| 0A |\n[| x x |]\n\nW:\n| 3A |"],
    ["title: T\nV:\n| 0A |\n| ^", "title: T\nV:\n| 0A |\n[| x x |]"],
    ["title: T\nV:\n|^\n| 0A |", "title: T\nV:\n[| x x |]\n| 0A |"],
    ["title: T\nV:\n^", "title: T\nV:\n[| x x |]"],
    ["title: T\nV:^", "title: T\nV:\n[| x x |]"],
    ["title: T\nV:\nmute: palm^\n| 0A |", "title: T\nV:\nmute: palm\n[| x x |]\n| 0A |"],
    ["title: T^", "title: T\n\nTapped:\n[| x x |]"],
    ["ti^tle: T\n\nV:\n| 0A |\n", "title: T\n\nV:\n| 0A |\n\nTapped:\n[| x x |]"],
    ["ti^tle: T\nTapped:\n| 0A |", "title: T\nTapped:\n| 0A |\n\nTapped again:\n[| x x |]"],
    ["^", "Tapped:\n[| x x |]"],
  ]) assert.equal(put(text), then, text);
});

test("taps without a fret are found, and frets alone get the string before", () => {
  const found = (text) => marks(text).map((at) => text.slice(0, at).length);
  assert.deepEqual(found("| x - x (x x) |"), [2, 6, 9, 11]);
  assert.deepEqual(found("|x|"), [1]);
  assert.deepEqual(found("| xA C5=x355xx xv x' 12x | x3"), []);
  for (const [sign, before, then] of [
    ["7", "| 5A ", "7A"], ["12", "| 5A 3D ", "12D"], ["7", "| 5A+7D - ", "7D"], ["7A", "| 5D ", "7A"], ["7", "| ", "7"], ["", "| 5A ", ""],
    ["Am", "| 5A ", "Am"], ["7", "| h5Gb2~ . ", "7G"], ["0", "| Em7 - ", "0"], ["3", "| 2A Em7 ", "3A"],
  ]) assert.equal(fretted(sign, before), then, `${before}${sign}`);
});

// tapAt taps on a key at moments in beats from the first beat after the count-in, to the
// millisecond, however busy the machine is: what is measured is the time of the event.
const tapAt = (page, beats, tempo) => page.evaluate(async ({ beats, tempo }) => {
  const pad = document.querySelector(".pad");
  const counted = () => !/…|Start/.test(pad.textContent);
  while (!counted()) await new Promise((done) => setTimeout(done, 2));
  const begin = performance.now();
  for (const b of beats) {
    const event = new KeyboardEvent("keydown", { key: "j", bubbles: true, cancelable: true });
    Object.defineProperty(event, "timeStamp", { value: begin + (b * 60_000) / tempo });
    pad.dispatchEvent(event);
  }
}, { beats, tempo });

test("a rhythm is tapped with the click, and its frets are typed", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  await sheet.fill("title: T\ntempo: 80\n\nV:\n| 0A - - - |\n");
  await sheet.press("Control+End");
  await sheet.press("Control+b");
  const panel = page.getByRole("region", { name: "Tap a rhythm in" });
  const pad = panel.getByRole("button", { name: "Start" });
  await pad.waitFor();
  await page.waitForFunction(() => document.activeElement.matches(".pad"));
  assert.equal(await panel.getByLabel("Tempo").inputValue(), "80", "the tempo of the part");
  await page.keyboard.press("Enter");
  await tapAt(page, [0, 1, 1.5, 2, 3.5], 80);
  await page.keyboard.press("Enter");
  await panel.getByText("Five taps in one bar at 80 a minute.").waitFor();
  assert.match(await sheet.inputValue(), /^title: T\ntempo: 80\n\nV:\n\| 0A - - - \|\n\| x - {2}x x {2}x - {2}- x \|$/);
  assert.ok(await sheet.evaluate((e) => e === document.activeElement), "the frets are typed in the sheet");
  assert.match(await panel.innerText(), /Space goes to the next of 5/);
  await page.keyboard.type("7A 5 3D  ");
  assert.match(await sheet.inputValue(), /\| 7A - {2}5A 3D {2}x - {2}- x \|$/, "a space alone passes one over");
  assert.equal(await sheet.evaluate((e) => e.value.slice(e.selectionStart, e.selectionEnd)), "x");
  await page.keyboard.type("0E ");
  assert.match(await sheet.inputValue(), /\| 7A - {2}5A 3D {2}x - {2}- 0E \|$/);
  assert.match(await panel.innerText(), /Tap the next bars/);
  await page.keyboard.press("Enter");
  assert.match(await sheet.inputValue(), /0E \|\n\| $/, "Enter is Enter again");

  for (let i = 0; i < 20 && (await sheet.inputValue()) !== "title: T\ntempo: 80\n\nV:\n| 0A - - - |\n"; i++) await sheet.press("Control+z");
  assert.equal(await sheet.inputValue(), "title: T\ntempo: 80\n\nV:\n| 0A - - - |\n", "all of it can be undone");
  assert.deepEqual(trouble, []);
});

test("a rhythm is tapped at a tempo of one's own, on the pad", async () => {
  const { page, trouble } = await visit(browser, server, { viewport: phone, hasTouch: true });
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  await sheet.fill("title: T\ntime: 3/4\n\nV:\n");
  await sheet.press("Control+End");
  await page.getByRole("button", { name: "Tap", exact: true }).click();
  const panel = page.getByRole("region", { name: "Tap a rhythm in" });
  await panel.getByLabel("Click").uncheck();
  assert.match(await panel.innerText(), /the first tap is on 1/);
  await panel.getByRole("button", { name: "Start" }).click();
  await page.evaluate(async () => {
    const pad = document.querySelector(".pad");
    const begin = performance.now();
    for (const b of [0, 0.5, 1, 2, 3, 3.5, 4, 5]) {
      const event = new PointerEvent("pointerdown", { bubbles: true });
      Object.defineProperty(event, "timeStamp", { value: begin + b * 700 });
      pad.dispatchEvent(event);
      pad.click(); // as a finger does
    }
  });
  assert.match(await panel.innerText(), /8 taps/);
  await panel.getByRole("button", { name: "Done" }).click(); // there is no Enter on a phone
  await panel.getByText(/Eight taps in two bars at 8\d a minute/).waitFor();
  assert.match(await sheet.inputValue(), /V:\n\| x x {2}x - {2}x - \| x x {2}x - {2}x - \|$/);
  assert.equal(await page.evaluate(() => document.documentElement.scrollWidth), phone.width);
  assert.deepEqual(trouble, []);
});

test("who types elsewhere has left the frets", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  await sheet.fill("title: T\n\nV:\n| x x |\n");
  await sheet.press("Control+End");
  await sheet.press("Control+b");
  const panel = page.getByRole("region", { name: "Tap a rhythm in" });
  await panel.getByLabel("Click").uncheck();
  await panel.getByRole("button", { name: "Start" }).press("Enter");
  await page.waitForFunction(() => document.querySelector(".pad").textContent === "Tap");
  await tapAt(page, [0, 1, 2, 3], 100);
  await page.keyboard.press("Enter");
  await panel.getByText(/Four taps/).waitFor();
  await page.keyboard.type("7A ");
  assert.match(await sheet.inputValue(), /\n\| 7A x x x \|$/);
  await sheet.press("Control+Home");
  await sheet.press("End");
  await page.keyboard.type(" of mine and ");
  assert.match(await sheet.inputValue(), /^title: T of mine and \n/, "a space is a space above them");
  await sheet.press("Control+End");
  await sheet.press("ArrowLeft");
  await page.keyboard.type(" 5A ");
  assert.match(await sheet.inputValue(), / 5A \|\s*$/, "and below");
  assert.deepEqual(trouble, []);
});

test("nothing that goes wrong loses what is typed", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/1");
  const sheet = page.getByLabel("The sheet", { exact: true });
  const text = "title: T\n\nV:\n| 0A |";
  await sheet.fill(text);
  await sheet.press("Control+b");
  const panel = page.getByRole("region", { name: "Tap a rhythm in" });
  await panel.getByLabel("Tempo").fill("300");
  await panel.getByRole("button", { name: "Start" }).press("Enter");
  await page.keyboard.press("Enter"); // at once, without a tap
  await panel.getByText(/Nothing was tapped/).waitFor();
  assert.equal(await sheet.inputValue(), text);
  await panel.getByRole("button", { name: "Start" }).press("Enter");
  await page.keyboard.press("j");
  await page.keyboard.press("Escape");
  assert.ok(await panel.isHidden(), "Escape gives it up");
  assert.ok(await sheet.evaluate((e) => e === document.activeElement));
  assert.equal(await sheet.inputValue(), text);

  await sheet.press("Control+b");
  await panel.getByLabel("Click").uncheck();
  await panel.getByRole("button", { name: "Start" }).press("Enter");
  for (let i = 0; i < 3; i++) { await page.keyboard.press("j"); await page.waitForTimeout(500); }
  await page.context().setOffline(true);
  await page.keyboard.press("Enter");
  await panel.getByText(/No connection/).waitFor();
  await page.context().setOffline(false);
  assert.equal(await sheet.inputValue(), text);
  await panel.getByRole("button", { name: "Send it again" }).click();
  await panel.getByText(/Three taps/).waitFor();
  assert.match(await sheet.inputValue(), /^title: T\n\nV:\n\| 0A \|\n\| x [^]*\|$/);
  assert.deepEqual(trouble.filter((t) => !/ERR_INTERNET_DISCONNECTED/.test(t)), []);
});
