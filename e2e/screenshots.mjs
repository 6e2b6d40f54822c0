// Takes one picture of each main view of the demo studio into
// docs/screenshots, or into the folder that is named.
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { browse, desktop, phone, root, serve, signIn, studentLink, visit } from "./lib.mjs";

const out = process.argv[2] ?? join(root, "docs/screenshots");
const only = process.argv[3];
mkdirSync(out, { recursive: true });
const server = await serve();
const browser = await browse();
const { page } = await visit(browser, server);
const shot = (name, p = page) => !only || name.match(only) ? p.screenshot({ path: join(out, `${name}.png`) }) : undefined;
const song = async (title, then = "") => {
  await page.goto("/songs");
  await page.getByRole("link", { name: title, exact: true }).click();
  await page.waitForURL(/songs\/\d+$/);
  if (then) await page.goto(`${page.url()}/${then}`);
};

await page.goto("/sign-in");
await shot("sign-in");
await signIn(page);
await shot("today");
await page.goto("/songs");
await shot("songs");
await song("Weir Gate");
await shot("song");
await song("Weir Gate", "rungs?part=Verse&rung=two-note");
await shot("rungs");
await page.goto("/students");
await shot("students");
await page.getByRole("link", { name: "Bram", exact: true }).click();
await shot("student");
await page.getByRole("link", { name: "Slate Roof, two fingers of rain" }).click();
await shot("lesson");
await page.goto(`${page.url()}/handout`);
await page.emulateMedia({ media: "print" });
await page.setViewportSize({ width: 794, height: 1123 });
await shot("handout");
await page.emulateMedia({ media: "screen" });
await page.setViewportSize(desktop);
await page.goto("/settings");
await shot("settings");
const link = await studentLink(page, "Saskia");
const small = await visit(browser, server, { viewport: phone });
await small.page.goto(link);
await shot("practice", small.page);
const dark = await visit(browser, server, { colorScheme: "dark" });
await signIn(dark.page);
await dark.page.goto("/songs");
await dark.page.getByRole("link", { name: "Slate Roof", exact: true }).click();
await dark.page.waitForURL(/songs\/\d+$/);
await dark.page.goto(`${dark.page.url()}/rungs?part=Rain&rung=three-note`);
await shot("rungs-dark", dark.page);
await browser.close();
await server.close();
