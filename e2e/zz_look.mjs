import { browse, desktop, phone, serve, signIn, visit } from "./lib.mjs";
const server = await serve(); const browser = await browse();
const { page, trouble } = await visit(browser, server);
await signIn(page);
await page.goto("/songs/new").catch(()=>{});
await page.goto("/songs");
const jobs = JSON.parse(process.argv[2]);
for (const [title, path, name, act, full] of jobs) {
  await page.goto("/songs"); await page.getByRole("link", { name: title, exact: true }).click(); await page.waitForURL(/songs\/\d+$/);
  await page.goto(`${page.url()}/${path}`);
  if (act) await (new Function("page", `return (async()=>{${act}})()`))(page);
  await page.screenshot({ path: `/tmp/shots/${name}.png`, fullPage: !!full });
}
console.log(trouble); await browser.close(); await server.close();
