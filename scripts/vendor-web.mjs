// Fetches the front-end packages Ivelt ships, at the versions below, and lays
// the files it uses into web/static/vendor, web/testdata and demo. Run by
// `make vendor-web`; needs node and npm.
import { execFileSync } from "node:child_process";
import { createRequire } from "node:module";
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const packages = {
  "bootstrap": "5.3.8",
  "bootstrap-icons": "1.13.1",
  "htmx.org": "2.0.8",
  "@fontsource-variable/hanken-grotesk": "5.2.8",
  "@fontsource-variable/spline-sans-mono": "5.2.8",
  "axe-core": "4.11.0",
  "svgpath": "2.6.0", // used here only
};

const files = [
  ["bootstrap/dist/css/bootstrap-reboot.min.css", "web/static/vendor/bootstrap-reboot.min.css"],
  ["bootstrap/dist/css/bootstrap-utilities.min.css", "web/static/vendor/bootstrap-utilities.min.css"],
  ["bootstrap/dist/css/bootstrap-reboot.rtl.min.css", "web/static/vendor/bootstrap-reboot.rtl.min.css"],
  ["bootstrap/dist/css/bootstrap-utilities.rtl.min.css", "web/static/vendor/bootstrap-utilities.rtl.min.css"],
  ["htmx.org/dist/htmx.min.js", "web/static/vendor/htmx.min.js"],
  ["@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2", "web/static/vendor/hanken-grotesk.woff2"],
  ["@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-wght-normal.woff2", "web/static/vendor/spline-sans-mono.woff2"],
  ["@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-ext-wght-normal.woff2", "web/static/vendor/hanken-grotesk-ext.woff2"],
  ["@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-ext-wght-normal.woff2", "web/static/vendor/spline-sans-mono-ext.woff2"],
  ["axe-core/axe.min.js", "web/testdata/axe.min.js"],
];

const work = mkdtempSync(join(tmpdir(), "vendor-web-"));
try {
  const wanted = Object.entries(packages).map(([name, version]) => `${name}@${version}`);
  execFileSync("npm", ["install", "--no-audit", "--no-fund", "--ignore-scripts", "--prefix", work, ...wanted], { stdio: "inherit" });
  const modules = join(work, "node_modules");
  const svgpath = createRequire(join(modules, "x.js"))("svgpath");
  mkdirSync("web/static/vendor", { recursive: true });
  mkdirSync("web/testdata", { recursive: true });
  for (const [from, to] of files) cpSync(join(modules, from), to);

  // What is shipped goes with its licence.
  mkdirSync("web/static/vendor/licences", { recursive: true });
  for (const name of Object.keys(packages).filter((name) => name !== "svgpath" && name !== "axe-core")) {
    const licence = readdirSync(join(modules, name)).find((file) => /^licen[sc]e/i.test(file));
    cpSync(join(modules, name, licence), `web/static/vendor/licences/${name.split("/").pop()}.txt`);
  }

  const about = Object.keys(packages).filter((name) => name !== "svgpath").map((name) => {
    const p = JSON.parse(readFileSync(join(modules, name, "package.json")));
    return `${name} ${p.version}, ${p.license}`;
  });
  writeFileSync("web/static/vendor/VERSIONS.txt", about.join("\n") + "\n");

  const glyphs = new Set(readFileSync("demo/icons.csv", "utf8").trim().split("\n").slice(1).map((row) => row.split(",")[2]));
  glyphs.delete("");
  const rows = [...glyphs].sort().map((name) => {
    const svg = readFileSync(join(modules, "bootstrap-icons/icons", name + ".svg"), "utf8");
    // Curves instead of arcs: the pack's pictures are drawn by a simple rasteriser.
    const plain = svg.replace(/ d="([^"]*)"/g, (_, d) => ` d="${svgpath(d).unshort().unarc().abs().round(3)}"`);
    const inner = plain.replace(/^[^]*?<svg[^>]*>/, "").replace(/<\/svg>\s*$/, "").replace(/\s*\n\s*/g, "");
    return `${name}\t${inner}`;
  });
  writeFileSync("demo/glyphs.tsv", rows.join("\n") + "\n");
} finally {
  rmSync(work, { recursive: true, force: true });
}
