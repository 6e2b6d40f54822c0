// Handouts as they are printed: what stands on the paper, on which size, and that no
// stave is cut by the edge of a page.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { inflateSync } from "node:zlib";
import { browse, serve, signIn, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

// read takes a PDF apart as far as it is needed: its pages with their boxes, and of each
// what is written on it and which lines are drawn, with their places from the top, in
// points.
function read(pdf) {
  const text = pdf.toString("latin1");
  const objects = new Map();
  for (const m of text.matchAll(/(\d+) 0 obj\b([^]*?)\bendobj/g)) objects.set(m[1], m[2]);
  const stream = (id) => {
    const body = objects.get(id);
    const at = text.indexOf(body);
    const begin = at + body.indexOf("stream") + (body.startsWith("\r\n", body.indexOf("stream") + 6) ? 8 : 7);
    const raw = pdf.subarray(begin, at + body.lastIndexOf("endstream"));
    return body.includes("/FlateDecode") ? inflateSync(raw, { finishFlush: 2 }).toString("latin1") : raw.toString("latin1");
  };
  // Which characters the codes of a font stand for.
  const fonts = new Map();
  const fontOf = (id) => {
    if (fonts.has(id)) return fonts.get(id);
    const map = new Map();
    map.digits = 4; // of one code
    const to = objects.get(id)?.match(/\/ToUnicode (\d+) 0 R/);
    if (to) {
      const cmap = stream(to[1]);
      map.digits = cmap.match(/begincodespacerange\s*<(\w+)>/)?.[1].length ?? 4;
      const chars = (hex) => hex.match(/.{4}/g).map((h) => String.fromCharCode(parseInt(h, 16))).join("");
      for (const block of cmap.matchAll(/beginbfchar([^]*?)endbfchar/g)) for (const [, from, is] of block[1].matchAll(/<(\w+)>\s*<(\w+)>/g)) map.set(parseInt(from, 16), chars(is));
      for (const block of cmap.matchAll(/beginbfrange([^]*?)endbfrange/g)) for (const [, from, until, is] of block[1].matchAll(/<(\w+)>\s*<(\w+)>\s*<(\w+)>/g)) {
        for (let c = parseInt(from, 16), n = 0; c <= parseInt(until, 16); c++, n++) map.set(c, String.fromCharCode(parseInt(is, 16) + n));
      }
    }
    fonts.set(id, map);
    return map;
  };
  const pages = [];
  for (const body of objects.values()) {
    if (!/\/Type\s*\/Page\b/.test(body)) continue;
    const [, , , width, height] = body.match(/\/MediaBox\s*\[(\S+) (\S+) (\S+) ([^\]]+)\]/).map(Number);
    const resources = body.includes("/Font") ? body : objects.get(body.match(/\/Resources (\d+) 0 R/)?.[1]) ?? body;
    const names = new Map([...resources.matchAll(/\/(F\d+) (\d+) 0 R/g)].map(([, name, id]) => [name, id]));
    let words = "";
    let font = Object.assign(new Map(), { digits: 4 });
    const content = stream(body.match(/\/Contents (\d+) 0 R/)[1]);
    for (const m of content.matchAll(/\/(F\d+) [\d.]+ Tf|<([0-9A-Fa-f]+)>\s*Tj|\[((?:<[0-9A-Fa-f]*>|[^\]])*)\]\s*TJ|\bET\b/g)) {
      if (m[1]) font = fontOf(names.get(m[1]));
      else if (m[2] || m[3]) for (const hex of (m[2] ? [m[2]] : [...m[3].matchAll(/<([0-9A-Fa-f]+)>/g)].map((h) => h[1]))) words += (hex.match(new RegExp(`.{${font.digits}}`, "g")) ?? []).map((h) => font.get(parseInt(h, 16)) ?? "").join("");
      else words += " ";
    }
    pages.push({ width: Math.round(width), height: Math.round(height), words: words.replace(/\s+/g, " ") });
  }
  return pages;
}

for (const [paper, width, height] of [["a4", 595, 842], ["letter", 612, 792]]) {
  test(`what stands on ${paper}`, async () => {
    const { page, trouble } = await visit(browser, server);
    await signIn(page);
    await page.goto("/settings");
    await page.locator("[name=paper]").selectOption(paper);
    await page.getByRole("button", { name: "Save", exact: true }).first().click();
    await page.goto("/handouts");
    await page.getByRole("button", { name: "Put a code for the phone on it" }).click();
    await page.locator(".code .qr").first().waitFor();
    const papers = await page.locator("table.paper").count();
    assert.ok(papers >= 3, "all who come today");
    const pages = read(await page.pdf({ preferCSSPageSize: true }));
    assert.ok(pages.length >= papers);
    assert.ok(pages.length <= 2 * papers, `two pages each at most: ${pages.length} for ${papers}`);
    for (const [i, p] of pages.entries()) {
      assert.deepEqual([p.width, p.height], [width, height]);
      assert.match(p.words, /Millrace Guitar Room/, `page ${i + 1} has its running head`);
    }
    const all = pages.map((p) => p.words).join("\n");
    for (const what of [/for Odalys/, /Tuning drop D/, /capo 3/, /What to do each day/, /((Mon|Tue|Wed|Thu|Fri|Sat|Sun) ){7}/, /Riff ×2 → Rain/, /your page/, /Stop at pain/, /Rain on the palm/, /: For the (pace|shape|shift|off-beat)/]) assert.match(all, what);
    assert.match(pages[0].words, new RegExp(`1 / ${pages.length}`), "numbered");

    await page.goto("/handouts");
    assert.equal(await page.locator(".code").count(), 0, "a code is shown once");
    assert.deepEqual(trouble, []);
  });
}

test("no stave is cut by the edge of a page", async () => {
  const { page } = await visit(browser, server);
  await signIn(page);
  const bars = Array.from({ length: 160 }, (_, i) => `| ${i % 9 + 1}A - ${(i * 7) % 10 + 1}D - ${(i * 3) % 8 + 1}E - 0A - `);
  const sheet = `title: Long Wall\ntempo: 90\n\nWall:\n${Array.from({ length: 40 }, (_, k) => `${bars.slice(4 * k, 4 * k + 4).join("")}|`).join("\n")}\n`;
  await page.goto("/songs");
  await page.getByLabel("Title of a new song").fill("Long Wall");
  await page.getByRole("button", { name: "Type it" }).click();
  await page.waitForURL(/songs\/\d+$/);
  await page.getByLabel("The sheet").fill(sheet);
  await page.getByLabel("The sheet").press("Control+s");
  await page.getByText("Saved", { exact: true }).waitFor();
  await page.goto(`${page.url()}/rungs`);
  await page.getByRole("button", { name: /Make a lesson/ }).click();
  await page.waitForURL(/lessons\/\d+/);
  await page.goto(`${page.url().split("?")[0]}/handout`);
  await page.emulateMedia({ media: "print" });
  const staves = await page.locator(".handout-part .tab").count();
  assert.ok(staves >= 30);
  const pages = read(await page.pdf({ preferCSSPageSize: true }));
  assert.ok(pages.length >= 4);
  // Every stave begins with the names of its strings; a page that begins or ends in the
  // middle of one has not all six of them.
  for (const [i, p] of pages.entries()) {
    const names = p.words.match(/E A D G B e/g)?.length ?? 0;
    const halves = (p.words.match(/\bE A\b/g)?.length ?? 0) - names;
    assert.equal(halves, 0, `page ${i + 1}: ${p.words.slice(0, 200)}`);
  }
  const whole = pages.reduce((n, p) => n + (p.words.match(/E A D G B e/g)?.length ?? 0), 0);
  assert.equal(whole, staves);
});
