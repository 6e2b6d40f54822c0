// Playing along: what is handed to the ear, with a clock that is turned by hand; that the
// sound of it is on time, measured in what the audio graph gives; and the whole way on a
// student's phone, without a connection.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { execFileSync } from "node:child_process";
import { join } from "node:path";
import * as esbuild from "esbuild";
import { Player } from "../web/frontend/js/play/player.js";
import { browse, build, phone, root, serve, settled, signIn, studentLink, visit } from "./lib.mjs";

// musicOf is music as the server sends it, of a sheet, from the command line's timeline.
function musicOf(sheet, ...flags) {
  const out = JSON.parse(execFileSync(build(), ["play", "-", "--count-in", "0", "--json", ...flags], { input: sheet, encoding: "utf8", maxBuffer: 1 << 28 }));
  const tempo = Number(sheet.match(/tempo: (\d+)/)[1]);
  const beat = 60 / tempo;
  return {
    tempo, start: tempo, passes: 3, seconds: out.seconds,
    beats: out.beats.map((b) => [b.at, b.bar, b.accent]),
    bars: out.bars.map((b) => ({ at: b.at, part: 0, name: b.part, number: b.bar, pass: b.pass, beats: 4, beat, lead: 0 })),
    voices: [{ role: "version", name: "", strikes: out.strikes.map((k) => [k.at, k.length, k.hz ?? 0, k.loud, ["picked", "hammered", "pulled", "slid", "tapped", "dead"].indexOf(k.how), k.bend ?? 0, 0, k.palm_muted ? 1 : 0]) }],
  };
}

// An ear that writes down what it would hear; its clock is turned by hand.
class Paper {
  time = 100;
  heard = [];
  now() { return this.time; }
  hear(when, s) { this.heard.push({ when, role: s.role, hz: s.hz }); }
  forget(when) { this.heard = this.heard.filter((h) => h.when < when); }
  // wait lets so many seconds pass, with a look every so often.
  wait(player, seconds, every = 0.06) {
    for (const until = this.time + seconds; this.time < until;) { this.time = Math.min(this.time + every, until); player.tick(); }
  }
  of(role) { return this.heard.filter((h) => h.role === role).map((h) => h.when); }
}

const four = "title: T\ntempo: 120\n\nA:\n| 0A 3A 5A 7A | 0A 2A 3A 5A |\n";

test("what the ear is given", () => {
  const ear = new Paper();
  let ended = 0;
  const player = new Player(musicOf(four), ear, { finished: () => { ended++; } });
  player.start();
  ear.wait(player, 1);
  const begin = ear.of("click")[0];
  assert.deepEqual(ear.of("version"), [], "it is counted in first");
  ear.wait(player, 10.2);
  // One bar of count-in at 120, then two bars again and again.
  const notes = ear.of("version");
  for (const [i, when] of notes.entries()) assert.ok(Math.abs(when - (begin + 2 + 0.5 * i)) < 1e-9, `note ${i}`);
  assert.equal(player.rounds, 2);
  assert.equal(player.place().bar, 0);

  // Half the tempo from here on: what has been heard stays, the rest is twice as far apart.
  const heard = ear.of("version").filter((w) => w < ear.time).length;
  player.faster(60);
  ear.wait(player, 6);
  const later = ear.of("version").slice(heard);
  assert.ok(later.length >= 5);
  for (let i = 1; i < later.length; i++) assert.ok(Math.abs(later[i] - later[i - 1] - 1) < 1e-9);
  assert.equal(new Set(ear.of("version").map((w) => w.toFixed(6))).size, ear.of("version").length, "nothing is heard twice");

  // One bar alone; then to the end, once.
  player.go(1, 2);
  player.faster(120);
  const from = ear.time;
  ear.wait(player, 9);
  assert.deepEqual(new Set(ear.heard.filter((h) => h.when > from + 4.2 && h.role === "version").map((h) => Math.round(h.hz))), new Set([110, 123, 131, 147]));
  player.stop();
  assert.ok(ear.of("version").every((w) => w < ear.time), "nothing is left to be heard");
  player.go(0, 2);
  player.loop = false;
  player.start();
  ear.wait(player, 7);
  assert.equal(ended, 1);
  assert.equal(player.running, false);
});

test("the tempo climbs after rounds that were clean", () => {
  const ear = new Paper();
  const music = musicOf(four);
  const player = new Player({ ...music, start: 100 }, ear);
  Object.assign(player, { every: 2, count: false });
  player.start();
  ear.wait(player, 0.2);
  const round = () => ear.wait(player, (music.seconds * 120) / player.tempo);
  round(); round();
  assert.equal(player.tempo, 105);
  round();
  player.slipped();
  round();
  assert.equal(player.tempo, 105, "a round that was not clean does not count");
  for (let i = 0; i < 30; i++) round();
  assert.equal(player.tempo, 120, "not above the goal");
});

test("a pickup is counted in with what it leaves out", () => {
  const ear = new Paper();
  const music = musicOf("title: T\ntempo: 120\n\nA:\npickup: 1\n| 0A | 3A - - - |\n");
  music.bars[0].lead = 1.5;
  const player = new Player(music, ear);
  player.start();
  ear.wait(player, 4);
  assert.equal(ear.of("click").filter((w) => w < ear.of("version")[0] - 1e-9).length, 7);
});

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

// rendered plays music into a buffer that is not heard, as the page plays it, and tells
// when something begins in it: where it is loud after silence.
async function rendered(page, music, seconds) {
  const bundle = await esbuild.build({
    stdin: { contents: 'import { Ear } from "./ear.js"; import { Player } from "./player.js"; globalThis.played = { Ear, Player };', resolveDir: join(root, "web/frontend/js/play") },
    bundle: true, write: false, format: "iife",
  });
  await page.evaluate(bundle.outputFiles[0].text);
  return page.evaluate(async ({ music, seconds }) => {
    const rate = 44100;
    const context = new OfflineAudioContext(1, rate * seconds, rate);
    const ear = new played.Ear(context);
    let now = 0;
    ear.now = () => now;
    ear.loud("click", 0);
    const player = new played.Player(music, ear);
    player.count = false;
    player.start();
    for (; now < seconds; now += 0.06) player.tick();
    const data = (await context.startRendering()).getChannelData(0);
    const onsets = [];
    let quiet = 1;
    for (let i = 0; i < data.length; i++) {
      if (Math.abs(data[i]) > 0.004) {
        if (quiet > 0.05 * rate) onsets.push(i / rate);
        quiet = 0;
      } else quiet++;
    }
    return onsets;
  }, { music, seconds });
}

test("five minutes are on time to two milliseconds", { timeout: 180000 }, async () => {
  const { page } = await visit(browser, server);
  await page.goto("/sign-in");
  const seconds = 300;
  const music = musicOf("title: T\ntempo: 97\nfeel: swing\n\nA:\nmute: palm\n| 3A' . 5A' . 7A' . 5D' . | 3A' . 3A' . 8A' . 5D' . |\n");
  const onsets = await rendered(page, music, seconds);
  const want = [];
  for (let round = 0; want.at(-1) === undefined || want.at(-1) < seconds - 1; round++) for (const [at] of music.voices[0].strikes) want.push(0.12 + round * music.seconds + at);
  const due = want.filter((w) => w < seconds - 0.5);
  assert.ok(onsets.length >= due.length, `${onsets.length} of ${due.length} are heard`);
  let worst = 0;
  for (const w of due) worst = Math.max(worst, Math.min(...onsets.map((o) => Math.abs(o - w))));
  console.log(`${due.length} onsets in ${seconds} s, the worst ${(1000 * worst).toFixed(2)} ms off`);
  assert.ok(worst < 0.002, `${worst}`);
});

test("a string sounds the pitch it is asked for", async () => {
  const { page } = await visit(browser, server);
  await page.goto("/sign-in");
  await rendered(page, musicOf(four), 1);
  const off = await page.evaluate(async () => {
    const list = [];
    for (const hz of [82.4069, 110, 196, 329.628, 659.255, 987.767]) {
      const context = new OfflineAudioContext(1, 44100, 44100);
      new played.Ear(context).hear(0, { role: "version", hz, loud: 1, how: 0 }, 0.9);
      const data = (await context.startRendering()).getChannelData(0).slice(6000, 38000);
      // The lag at which it is most like itself, near so many periods, to a part of a sample.
      const near = (44100 / hz) * 8;
      const like = (lag) => { let sum = 0; for (let i = 0; i + lag < data.length; i++) sum += data[i] * data[i + lag]; return sum / (data.length - lag); };
      let best = 0;
      for (let lag = Math.floor(near * 0.97); lag <= near * 1.03; lag++) if (!best || like(lag) > like(best)) best = lag;
      const [a, b, c] = [like(best - 1), like(best), like(best + 1)];
      const lag = best + (a - c) / (2 * (a - 2 * b + c));
      list.push(1200 * Math.log2((8 * 44100) / lag / hz));
    }
    return list;
  });
  for (const cents of off) assert.ok(Math.abs(cents) < 4, `${off.map((c) => c.toFixed(1))} cents off`);
});

test("a lesson is changed and given, and played along to without a connection", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/students");
  await page.getByRole("link", { name: "Bram", exact: true }).click();
  await page.getByRole("link", { name: "Slate Roof, two fingers of rain" }).click();
  const steps = page.locator(".steps:not(.out) .step");
  const first = await steps.first().innerText();
  const name = await steps.first().locator(".name").innerText();
  await settled(page, /lessons\/\d+\/steps/, () => page.getByRole("button", { name: "Leave out" }).click());
  assert.notEqual(await steps.first().innerText(), first);
  assert.ok((await page.locator(".steps.out").innerText()).includes(name));
  await settled(page, /step=/, () => steps.first().click());
  await settled(page, /lessons\/\d+\/steps/, () => page.getByRole("button", { name: "Later" }).click());
  const titles = () => steps.locator(".name").allInnerTexts();
  const before = await titles();
  await settled(page, /lessons\/\d+\/steps/, () => steps.nth(3).dragTo(steps.nth(1)));
  assert.deepEqual(await titles(), [before[0], before[3], before[1], before[2], ...before.slice(4)], "a step is dragged to its place");
  await settled(page, /lessons\/\d+\/steps/, () => steps.nth(1).dragTo(steps.nth(3)));
  assert.deepEqual(await titles(), before);
  await settled(page, /step=/, () => steps.first().click());
  await page.getByText("Add a step of your own").click();
  const own = page.locator(".step-change").last();
  await own.getByLabel("Name").fill("Say the strings aloud");
  await own.getByLabel("Bars, as in a sheet").fill("| 0E - 0A - | 0D - 0A - |");
  await own.getByLabel("from").fill("60");
  await own.getByLabel("to", { exact: true }).fill("60");
  await settled(page, /lessons\/\d+\/steps/, () => own.getByRole("button", { name: "Add it" }).click());
  await page.getByRole("heading", { name: "Say the strings aloud" }).waitFor();
  // For another tempo the lesson is built anew, and what was changed is still there.
  await page.getByLabel("Target tempo").fill("112");
  await settled(page, /lessons\/\d+$/, () => page.getByRole("button", { name: "Save", exact: true }).click());
  assert.ok((await page.locator(".steps.out").innerText()).includes(name));
  assert.equal(await steps.filter({ hasText: "Say the strings aloud" }).count(), 1);
  await page.getByRole("checkbox", { name: /Bram/ }).check();
  await page.getByRole("button", { name: "Assign" }).click();
  await page.waitForURL(/students/);
  assert.match(await page.locator(".at-step").first().innerText(), /Step \d+ of \d+/);

  const link = await studentLink(page, "Bram");
  const student = await visit(browser, server, { viewport: phone });
  await student.page.goto(link);
  for (let kept = false; !kept; await student.page.waitForTimeout(100)) {
    kept = await student.page.evaluate(async () => {
      const music = await (await caches.open("valleyside music")).keys();
      const pages = await (await caches.open("valleyside pages")).keys();
      return pages.length > 0 && music.length >= document.querySelector("[data-keep-offline]").dataset.keepOffline.split("\n").length;
    });
  }
  await student.context.setOffline(true);
  await student.page.reload();
  const step = student.page.locator(".practice-part[open]").first();
  await step.getByRole("button", { name: "Play", exact: true }).click();
  await step.getByRole("button", { name: "Stop", exact: true }).waitFor();
  await student.page.locator(".place.now").first().waitFor({ timeout: 20000 });
  await student.page.getByText("Round 2").waitFor({ timeout: 40000 });
  await step.getByRole("button", { name: "Stop", exact: true }).click();
  const clean = step.getByRole("button", { name: "Log it: clean" });
  await clean.click();
  await step.getByText("kept on this device").first().waitFor();
  assert.equal(await clean.isVisible(), false, "one tap is one entry");
  const minute = () => student.page.evaluate(() => Math.floor(Date.now() / 60000));
  const played = await minute();
  while ((await minute()) === played) await student.page.waitForTimeout(1000); // a minute passes before there is a connection again
  await student.context.setOffline(false);
  await student.page.getByText("Sent what was waiting.").first().waitFor();
  await student.page.locator("#logged-lately").getByText(/1 clean pass at/).first().waitFor();
  // It can be mended, and taken back.
  await student.page.getByRole("link", { name: /All that you logged/ }).click();
  const entry = student.page.locator(".logged-entry").first();
  await entry.locator("summary").click();
  await entry.getByLabel("Minutes").fill("7");
  await entry.getByRole("button", { name: "Keep it so" }).click();
  assert.match(await student.page.locator(".logged-entry").first().innerText(), /7 min/);
  await page.goto("/students");
  await page.getByRole("link", { name: "Bram", exact: true }).click();
  const row = page.getByRole("row", { name: /7 min/ }).first();
  const at = new Date(played * 60000);
  assert.match(await row.innerText(), new RegExp(`${String(at.getHours()).padStart(2, "0")}:${String(at.getMinutes()).padStart(2, "0")}`), "at the time at which it was played");
  await student.page.locator(".logged-entry summary").first().click();
  await student.page.locator(".logged-entry").first().getByRole("button", { name: "Take it back" }).click();
  assert.doesNotMatch(await student.page.locator("main").innerText(), /, 7 min/);
  assert.deepEqual([...trouble, ...student.trouble].filter((t) => !/ERR_INTERNET_DISCONNECTED/.test(t)), []);
});

test("a version is heard where it is chosen", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs/11/rungs?part=Verse&rung=two-note");
  await page.keyboard.press("Space");
  await page.locator(".place.now").first().waitFor();
  // Another note is looked at: it goes on. Another version: it stops, and is heard anew.
  await settled(page, /bar=/, () => page.keyboard.press("]"));
  const button = page.locator(".player .play").first();
  assert.equal(await button.innerText(), "Stop");
  await settled(page, /rung=one-finger/, () => page.keyboard.press("1"));
  assert.equal(await button.innerText(), "Play");
  const asked = page.waitForResponse(/music\?.*rung=one-finger/);
  await button.click();
  await asked;
  await page.locator(".place.now").first().waitFor();
  await button.click();
  assert.equal(await page.locator(".place.now").count(), 0);
  assert.deepEqual(trouble, []);
});
