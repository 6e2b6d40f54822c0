// Twenty clients load every page of the demo at once, on a machine with little
// memory: none gets an error, and the server stays within it.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { browse, serve, signIn, studentLink, visit } from "./lib.mjs";

const clients = 20;
const rounds = 5;
const mostMegabytes = 80;

test("twenty clients at once", async () => {
  const server = await serve("demo", { env: { GOMEMLIMIT: "48MiB" } });
  const browser = await browse();
  try {
    const { page, context } = await visit(browser, server);
    await signIn(page);
    const link = await studentLink(page, "Saskia");
    const cookie = (await context.cookies()).map((c) => `${c.name}=${c.value}`).join("; ");
    const pages = ["/", "/songs", ...Array.from({ length: 11 }, (_, i) => `/songs/${i + 1}`), "/songs/1/rungs", "/songs/8/rungs", "/songs/11/rungs", "/songs/6/chords", "/desk?symbol=Am7",
      "/lessons/1", "/lessons/2/handout", "/students", "/timetable", "/students/2/hour", ...Array.from({ length: 9 }, (_, i) => `/students/${i + 1}`), "/settings", new URL(link).pathname];
    const times = [];
    let megabytes = 0;
    const watch = setInterval(() => { megabytes = Math.max(megabytes, resident(server.pid)); }, 20);
    await Promise.all(Array.from({ length: clients }, async (_, n) => {
      for (let i = 0; i < rounds * pages.length; i++) {
        const path = pages[(i + n) % pages.length];
        const start = performance.now();
        const response = await fetch(server.url + path, { headers: { cookie }, redirect: "manual" });
        const body = await response.text();
        times.push(performance.now() - start);
        assert.equal(response.status, 200, `${path}: ${body.slice(0, 200)}`);
        assert.match(body, /<\/html>/, path);
      }
    }));
    clearInterval(watch);
    assert.ok(megabytes > 0 && megabytes < mostMegabytes, `${megabytes.toFixed(1)} MB`);
    times.sort((a, b) => a - b);
    console.log(`# ${times.length} pages, median ${times[times.length >> 1].toFixed(1)} ms under load, ${megabytes.toFixed(1)} MB at most`);
    assert.equal(server.log(), "", "nothing to warn of");
  } finally {
    await browser.close();
    await server.close();
  }
});

const resident = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))[1]) / 1024;
