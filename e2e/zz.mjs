import { browse, desktop, phone, serve, signIn, studentLink, visit } from "./lib.mjs";
const server = await serve();
const browser = await browse();
const { page, trouble } = await visit(browser, server);
await signIn(page);
await page.goto("/students");
await page.getByRole("link", { name: "Bram", exact: true }).click();
await page.getByRole("link", { name: "Slate Roof, two fingers of rain" }).click();
await page.waitForURL(/lessons/);
for (const n of [7, 4, 10, 4]) { await page.locator(".step").nth(n).click(); await page.waitForTimeout(500); console.log(await page.locator("#step-h").innerText(), await page.locator(".step.chosen").innerText()); }
await page.getByRole("button", { name: "Play", exact: true }).first().click();
await page.waitForTimeout(10000);
console.log(await page.locator(".player .play").first().innerText(), await page.locator(".place.now").count(), await page.locator(".player .said").first().innerText());
await page.locator(".more-play summary").first().click();
await page.screenshot({ path: "/tmp/shots/play.png" });
console.log(trouble, server.log());
await browser.close(); await server.close();
