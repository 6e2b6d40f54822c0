// Builds what the browser gets into web/static. With --check it builds into
// memory and fails where web/static differs, so that the committed files are
// always those of the sources.
import { readFile, writeFile, mkdir, readdir, rm } from "node:fs/promises";
import { dirname, join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import * as esbuild from "esbuild";
import { PurgeCSS } from "purgecss";
import * as sass from "sass";

const here = dirname(fileURLToPath(import.meta.url));
const root = join(here, "../..");
const out = join(root, "web/static");
const modules = join(root, "node_modules");

const icons = ["check", "circle-alert", "circle-dashed", "clock", "download", "ear", "flag", "footprints", "keyboard", "log-out", "printer", "search", "trash-2"];
const fonts = {
  "text-400.woff2": "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2",
  "text-700.woff2": "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff2",
  "mono-400.woff2": "@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff2",
};

async function build() {
  const files = new Map();
  const styles = (name) => sass.compile(join(here, name), { style: "compressed", charset: false, loadPaths: [modules], quietDeps: true }).css;
  const css = await used(styles("bulma.scss")) + styles("app.scss");
  files.set("app.css", (await esbuild.transform(css, { loader: "css", minify: true })).code);
  for (const name of ["app.js", "student.js", "worker.js"]) { // the teacher's pages, the student's own, and what keeps that
    const js = await esbuild.build({
      entryPoints: [join(here, "js", name)], bundle: true, minify: true, format: "iife", target: "es2022",
      write: false, nodePaths: [modules], legalComments: "none",
    });
    files.set(name, js.outputFiles[0].text);
  }
  for (const [name, from] of Object.entries(fonts)) files.set(`fonts/${name}`, await readFile(join(modules, from)));
  for (const name of icons) {
    const svg = await readFile(join(modules, "lucide-static/icons", `${name}.svg`), "utf8");
    files.set(`icons/${name}.svg`, svg.replace(/<!--.*?-->/gs, "").replace(/\s+/g, " ")
      .replace("<svg ", '<svg aria-hidden="true" ').replace(/class="[^"]*"/, 'class="icon"').trim());
  }
  files.set("icon.svg", await readFile(join(here, "icon.svg")));
  return files;
}

// used is of some styles what a page could use: whose names stand in a template, a script
// or a drawing.
async function used(css) {
  const pages = [];
  for (const dir of ["web/templates", "web/frontend/js", "web/draw"]) {
    for (const entry of await readdir(join(root, dir), { recursive: true, withFileTypes: true })) {
      if (entry.isFile()) pages.push({ raw: await readFile(join(entry.parentPath, entry.name), "utf8"), extension: "html" });
    }
  }
  const [{ css: kept }] = await new PurgeCSS().purge({ content: pages, css: [{ raw: css }], keyframes: true });
  return kept;
}

async function present(dir) {
  const entries = await readdir(dir, { recursive: true, withFileTypes: true });
  return entries.filter((e) => e.isFile()).map((e) => relative(out, join(e.parentPath, e.name)));
}

const files = await build();
if (process.argv.includes("--check")) {
  const wrong = (await present(out)).filter((name) => !files.has(name));
  for (const [name, body] of files) {
    const there = await readFile(join(out, name)).catch(() => null);
    if (!there?.equals(Buffer.from(body))) wrong.push(name);
  }
  if (wrong.length) {
    console.error(`web/static is not what web/frontend builds: ${wrong.join(", ")}. Run: npm run build`);
    process.exit(1);
  }
  console.log(`web/static is up to date (${files.size} files)`);
} else {
  await rm(out, { recursive: true, force: true });
  for (const [name, body] of files) {
    await mkdir(dirname(join(out, name)), { recursive: true });
    await writeFile(join(out, name), body);
  }
}
