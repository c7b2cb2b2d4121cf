// Copy the fonts, styles and scripts that ship with the application out of node_modules.
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";

const target = "tinfork/static/vendor";
const files = {
  "htmx.js": "htmx.org/dist/htmx.min.js",
  "alpine-csp.js": "@alpinejs/csp/dist/cdn.min.js",
  "bootstrap.css": "bootstrap/dist/css/bootstrap.min.css",
  "LICENSES/htmx.txt": "htmx.org/LICENSE",
  "LICENSES/bootstrap.txt": "bootstrap/LICENSE",
  "LICENSES/noto-sans.txt": "@fontsource-variable/noto-sans/LICENSE",
};
const fonts = ["noto-sans-latin", "noto-sans-latin-ext", "noto-sans-greek", "noto-sans-mono-latin"].map((name) => {
  const family = name.replace(/-(latin|greek).*/, "");
  return [`${name}.woff2`, `@fontsource-variable/${family}/files/${name}-wght-normal.woff2`];
});

rmSync(target, { recursive: true, force: true });
mkdirSync(`${target}/LICENSES`, { recursive: true });
mkdirSync(`${target}/fonts`, { recursive: true });
for (const [name, source] of Object.entries(files)) cpSync(`node_modules/${source}`, `${target}/${name}`);
for (const [name, source] of fonts) cpSync(`node_modules/${source}`, `${target}/fonts/${name}`);
// Maps are not shipped: the lines that ask for them would be broken links.
for (const name of ["bootstrap.css"]) {
  const text = readFileSync(`${target}/${name}`, "utf8");
  writeFileSync(`${target}/${name}`, text.replace(/\n?\/[/*]# sourceMappingURL=.*(\*\/)?\s*$/, "\n"));
}
