// A Monday from the first look at Today to the printed week, and the week of a student who is
// offline in the middle of it; then finding, putting away and taking back.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browse, phone, serve, signIn, studentLink, visit } from "./lib.mjs";

let server, browser;
before(async () => { server = await serve(); browser = await browse(); });
after(async () => { await browser?.close(); await server?.close(); });

test("a Monday", async () => {
  const { page, trouble } = await visit(browser, server);
  await page.goto("/");
  await signIn(page);
  const link = await studentLink(page, "Bram");
  await page.goto("/");

  // Two lessons with notes, from one to the next by keys.
  await page.getByRole("link", { name: "Lesson with Odalys" }).click();
  for (const [name, note] of [["Odalys", "The tune by heart."], ["Bram", "Riff from bar 3, slower."]]) {
    await page.locator("h1", { hasText: name }).waitFor();
    await page.keyboard.press("1");
    await page.locator(".hour-items > li.done").first().waitFor();
    if (name === "Bram") {
      await page.keyboard.press("w");
      await page.getByText("Chosen: they come first").waitFor();
    }
    await page.keyboard.press("n");
    await page.keyboard.type(note);
    await page.getByRole("button", { name: "Note it" }).click();
    await page.locator("#announce", { hasText: "Noted" }).waitFor();
    await page.locator("h1").click();
    if (name === "Odalys") await page.keyboard.press("x");
  }

  // One is moved.
  await page.goto("/timetable");
  await page.locator(".week a.lesson", { hasText: "Saskia" }).first().click();
  await page.locator(".free-places button").first().click();
  await page.getByText(/Moved to .*Saskia/).waitFor();

  // A wish is answered with the way to it.
  await page.goto("/");
  await page.locator(".news", { hasText: "Corner Lamp Shuffle" }).getByRole("link", { name: "Teodor" }).click();
  await page.getByText("The way to").waitFor();
  assert.ok((await page.locator(".wish .series > li").count()) > 1);
  await page.getByPlaceholder("a word to Teodor").fill("in spring");
  await page.getByRole("button", { name: "Answer" }).click();
  await page.getByText("Answered the wish of Teodor").waitFor();

  // A series, and the next song of it is handed out.
  await page.keyboard.press("s");
  await page.getByRole("link", { name: "power chords", exact: true }).click();
  await page.getByText("In the order in which Teodor learns them").waitFor();
  const song = page.locator(".series .name", { hasText: "Night Bus Nine" });
  await song.click();
  await page.locator(".fit-table").waitFor();
  await page.getByRole("button", { name: /Hand .*out|Give/ }).first().click();
  await page.getByText("is handed out to Teodor").waitFor();
  await page.keyboard.press("u");
  await page.getByText("Taken back: Handed out: Night Bus Nine").waitFor();

  // The week, printed.
  await page.goto("/timetable");
  await page.emulateMedia({ media: "print" });
  assert.ok(await page.locator(".week").isVisible());
  assert.ok(!(await page.locator(".notice").isVisible()));
  await page.emulateMedia({ media: "screen" });

  // Bram's week: what was chosen comes first; a day on the train; what waited arrives.
  const student = await visit(browser, server, { viewport: phone });
  await student.page.goto(link);
  assert.match(await student.page.locator("[data-today]").innerText(), /chosen by your teacher/);
  const log = async (word) => {
    const part = student.page.locator("details[open]").first();
    await part.getByLabel("How did it feel?").fill(word);
    await part.getByRole("button", { name: "Log it" }).click();
    return part;
  };
  await log("on Monday");
  await student.page.getByText("Logged").first().waitFor();
  await student.page.waitForTimeout(1100); // nobody logs twice in a second
  await student.page.goto(link);
  await student.context.setOffline(true);
  await (await log("on the train")).getByText("kept on this device").waitFor();
  await student.context.setOffline(false);
  await student.page.getByText("Sent what was waiting.").first().waitFor();
  await student.page.getByLabel("What you want to ask or say").fill("Weir Gate");
  await student.page.getByRole("button", { name: "I wish for this song" }).click();
  await student.page.getByText("You wish for the song “Weir Gate”").waitFor();

  // And the teacher sees all of it.
  await page.goto("/students/2");
  for (const word of ["on Monday", "on the train"]) assert.equal(await page.getByRole("cell", { name: word }).count(), 1);
  await page.getByRole("link", { name: /Songs that fit, 1 wish/ }).click();
  await page.locator(".wish", { hasText: "Weir Gate" }).waitFor();
  assert.deepEqual(trouble, []);
  assert.deepEqual(student.trouble.filter((t) => !t.includes("ERR_INTERNET_DISCONNECTED")), []);
});

test("anything is found by one key", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  for (const open of ["/", "Control+k"]) {
    await page.goto("/songs/3");
    await page.locator("h1").click();
    await page.keyboard.press(open);
    await page.keyboard.type("trains");
    await page.locator("#finder .finds", { hasText: "Odalys" }).waitFor();
    await page.keyboard.press("Enter");
    await page.waitForURL(/\/students\/1$/);
  }
  await page.keyboard.press("/");
  await page.keyboard.type("barre");
  await page.locator("#finder .finds", { hasText: "barre chords" }).first().waitFor();
  const links = await page.locator("#finder-found a").count();
  assert.ok(links > 2);
  for (let i = 0; i < links; i++) await page.keyboard.press("ArrowDown");
  assert.equal(await page.evaluate(() => document.activeElement.tagName), "A");
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("Escape");
  assert.ok(!(await page.locator("#finder").isVisible()));
  await page.keyboard.press("/");
  await page.locator("#finder-q").fill("zzzz");
  await page.getByText("Nothing has “zzzz” in it").waitFor();
  await page.locator("#finder-q").fill("");
  await page.waitForFunction(() => !document.getElementById("finder-found").children.length);
  assert.deepEqual(trouble, []);
});

test("lists are told apart, things put away, deleted and brought back", async () => {
  const { page, trouble } = await visit(browser, server);
  await signIn(page);
  await page.goto("/songs");
  const names = () => page.locator(".ledger .name").allInnerTexts();
  const all = await names();
  await page.getByLabel("Tag").selectOption("waltz");
  await page.waitForURL(/tag=waltz/);
  assert.equal(new URL(page.url()).search, "?tag=waltz", "what is not chosen stays out of the address");
  assert.deepEqual(await names(), ["Copper Kettle", "Willow Post"]);
  await page.getByLabel("Order").selectOption("grade");
  await page.waitForURL(/order=grade/);
  assert.deepEqual(await names(), ["Willow Post", "Copper Kettle"]);
  await page.getByRole("link", { name: "all songs" }).click();
  assert.deepEqual(await names(), all);

  await page.getByRole("link", { name: "Weir Gate" }).click();
  await page.keyboard.press("Escape");
  await page.getByRole("link", { name: "About", exact: true }).click();
  await page.getByLabel("Tags").fill("first year, spring");
  await page.getByLabel("Tags").press("Enter");
  await page.getByText("Tags of Weir Gate: first year, spring.").waitFor();
  await page.getByRole("button", { name: "Put away" }).click();
  await page.getByText("Put Weir Gate away.").waitFor();
  await page.goto("/songs");
  assert.ok(!(await names()).includes("Weir Gate"));
  await page.getByLabel("put away (1)").check();
  await page.waitForURL(/archived=1/);
  assert.deepEqual(await names(), ["Weir Gate"]);

  await page.goto("/students/9");
  await page.getByRole("button", { name: "Delete Ilse" }).click();
  await page.getByText("Deleted Ilse").waitFor();
  await page.goto("/bin");
  await page.getByRole("button", { name: "Bring back Ilse" }).click();
  await page.locator("h1", { hasText: "Ilse" }).waitFor();
  await page.goto("/bin");
  await page.getByRole("button", { name: /Take back.*Put Weir Gate away/ }).click();
  await page.locator(".notice", { hasText: "Taken back: Put Weir Gate away" }).waitFor();
  await page.goto("/songs");
  assert.deepEqual(await names(), all);

  // An entry is mended, another one written down for a day that is over.
  await page.goto("/students/5");
  await page.locator(".mend summary").first().click();
  await page.locator(".mend[open]").getByLabel("clean").fill("6");
  await page.locator(".mend[open]").getByRole("button", { name: "Save" }).click();
  await page.getByText("Mended an entry of Saskia: 6 clean passes").waitFor();
  await page.keyboard.press("a");
  await page.locator(".log-for").getByLabel("at", { exact: true }).fill("71");
  await page.locator(".log-for").getByRole("button", { name: "Log it" }).click();
  await page.getByText("Logged for Saskia").waitFor();
  await page.keyboard.press("y");
  await page.waitForURL(/year$/);
  assert.match(await page.locator("main").innerText(), /learnt Verse of Weir Gate, first chords/);
  assert.deepEqual(trouble, []);
});
