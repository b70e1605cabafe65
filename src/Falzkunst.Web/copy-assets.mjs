// Copies what the pages need from node_modules into wwwroot/lib. Run after `npm ci`.
import { cpSync, mkdirSync, rmSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { dirname, join } from "node:path";

const here = dirname(fileURLToPath(import.meta.url));
const lib = join(here, "wwwroot", "lib");
rmSync(lib, { recursive: true, force: true });
mkdirSync(join(lib, "fonts"), { recursive: true });
const copy = (from, to) => cpSync(join(here, "node_modules", from), join(lib, to));
copy("htmx.org/dist/htmx.min.js", "htmx.min.js");
copy("htmx-ext-sse/sse.js", "sse.js");
copy("@alpinejs/csp/dist/cdn.min.js", "alpine.min.js");
copy("bulma/css/bulma.min.css", "bulma.min.css");
for (const [family, weights] of [["fraunces", [600]], ["alegreya-sans", [400, 500, 700]]]) {
  for (const weight of weights) copy(`@fontsource/${family}/files/${family}-latin-${weight}-normal.woff2`, `fonts/${family}-${weight}.woff2`);
  copy(`@fontsource/${family}/LICENSE`, `fonts/${family}-LICENSE.txt`);
}
