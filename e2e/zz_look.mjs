import { browse, desktop, phone, serve, signIn, visit } from "./lib.mjs";
const server = await serve(process.argv[4] ?? "demo"); const browser = await browse();
const jobs = JSON.parse(process.argv[2]);
const size = process.argv[3] === "phone" ? { width: 390, height: 844 } : desktop;
const { page, trouble } = await visit(browser, server, { viewport: size });
if (process.argv[4] !== "serve") await signIn(page);
for (const [path, name, act, full] of jobs) {
  if (path) await page.goto(path);
  await page.waitForLoadState("networkidle");
  if (act) await (new Function("page", `return (async()=>{${act}})()`))(page);
  await page.screenshot({ path: `/tmp/shots/${name}.png`, fullPage: !!full });
}
console.log(trouble); await browser.close(); await server.close();
