// What the browser tests share: a server of their own with the demo studio,
// and a browser.
import { spawn, execFileSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { chromium } from "playwright-core";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");
export const account = { email: "marit@millrace.example", password: "quiet-hillside" };

let binary;
export function build() {
  if (!binary) {
    binary = join(mkdtempSync(join(tmpdir(), "valleyside-")), "valleyside");
    execFileSync("go", ["build", "-o", binary, "./cmd/valleyside"], { cwd: root, stdio: "inherit" });
  }
  return binary;
}

// serve starts the server with a database of its own and waits until it says
// its address.
export async function serve(command = "demo", { db, env } = {}) {
  const dir = mkdtempSync(join(tmpdir(), "valleyside-"));
  const file = db ?? join(dir, "test.db");
  const child = spawn(build(), [command, "--addr", "127.0.0.1:0", "--db", file, "--log", "warn"], { env: { ...process.env, ...env } });
  let log = "";
  child.stderr.on("data", (d) => { log += d; });
  const url = await new Promise((resolve, reject) => {
    let out = "";
    child.stdout.on("data", (d) => {
      out += d;
      const found = out.match(/http:\/\/\S+/);
      if (found) resolve(found[0]);
    });
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}: ${log}`)));
  });
  const ended = new Promise((resolve) => child.on("exit", resolve));
  return {
    url, db: file, pid: child.pid, log: () => log,
    kill: async (signal = "SIGTERM") => { child.kill(signal); return ended; },
    close: async () => { child.kill("SIGTERM"); await ended; rmSync(dir, { recursive: true, force: true }); },
  };
}

export const desktop = { width: 1280, height: 800 };
export const phone = { width: 390, height: 844 };

export function browse() {
  return chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
      "--disable-component-update", "--disable-sync"],
  });
}

// visit opens a page that keeps account of what should not happen: messages
// on the console, errors, and requests to anywhere else.
export async function visit(browser, server, { viewport = desktop, ...options } = {}) {
  const context = await browser.newContext({ viewport, baseURL: server.url, ...options });
  const page = await context.newPage();
  const trouble = [];
  page.on("console", (m) => trouble.push(`console: ${m.text()}`));
  page.on("pageerror", (e) => trouble.push(`error: ${e.message}`));
  page.on("request", (r) => { if (!r.url().startsWith(server.url) && !r.url().startsWith("data:")) trouble.push(`request: ${r.url()}`); });
  page.on("response", (r) => { if (r.status() >= 500) trouble.push(`${r.status()}: ${r.url()}`); });
  return { page, context, trouble };
}

// settled waits until what a key or a click asks for at an address is shown.
export async function settled(page, address, does) {
  const answer = page.waitForResponse((r) => address.test(r.url()));
  await does();
  await answer;
  await page.waitForFunction(() => !document.querySelector("[aria-busy]"));
}

export async function signIn(page) {
  await page.goto("/sign-in");
  await page.getByLabel("E-mail").fill(account.email);
  await page.getByLabel("Password").fill(account.password);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.waitForURL("**/");
}

// studentLink makes a new link for a student and returns it.
export async function studentLink(page, name) {
  await page.goto("/students");
  await page.getByRole("link", { name, exact: true }).click();
  await page.getByRole("button", { name: /Make (one more|the) link/ }).click();
  return page.locator("#link").textContent();
}
