// What the browser loads, made of its sources: one script for each that a template names, with all that it needs, and one
// style sheet with what is used of Bootstrap. With "tests", the tests of the browser's half.
import { readdirSync, readFileSync, rmSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";
import { compile } from "sass";

const root = fileURLToPath(new URL("..", import.meta.url));
const built = `${root}build`;
const site = `${built}/site`;
const files = (folder, ending) => readdirSync(`${root}${folder}`, { recursive: true }).filter((name) => name.endsWith(ending)).map((name) => `${root}${folder}/${name}`);

// Bootstrap's own sources, which call what newer compilers warn of.
const sass = {
  name: "sass",
  setup(made) {
    made.onResolve({ filter: /\.scss$/ }, ({ path, resolveDir }) => ({ path: `${resolveDir}/${path}`, namespace: "sass" }));
    made.onLoad({ filter: /.*/, namespace: "sass" }, ({ path }) => ({
      contents: compile(path, { loadPaths: [`${root}node_modules`], quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] }).css,
      loader: "css",
    }));
  },
};

const common = { bundle: true, minify: true, target: "es2022", logLevel: "warning" };
const named = new Set(files("tinfork/web", ".html").flatMap((page) => [...readFileSync(page, "utf8").matchAll(/'js\/([\w/]+)\.js'/g)].map(([, name]) => name)));

if (process.argv.includes("tests")) {
  rmSync(`${built}/tests`, { recursive: true, force: true });
  await build({ ...common, minify: false, platform: "node", format: "esm", entryPoints: files("tests/js", ".test.mjs"), outdir: `${built}/tests`, outExtension: { ".js": ".mjs" } });
} else {
  rmSync(site, { recursive: true, force: true });
  await Promise.all([
    build({ ...common, format: "iife", entryPoints: [...named].map((name) => `${root}tinfork/web/browser/${name}.ts`), outdir: `${site}/js`, outbase: `${root}tinfork/web/browser` }),
    build({ ...common, entryPoints: [`${root}tinfork/web/styles/site.css`], outdir: `${site}/css`, assetNames: "fonts/[name]-[hash]", loader: { ".woff2": "file", ".woff": "file" }, plugins: [sass] }),
  ]);
}
