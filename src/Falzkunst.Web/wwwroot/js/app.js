// Everything works without scripts; with them it gets quicker and has keys. Alpine keeps the small state of a view, htmx swaps the docket's parts.
import "./page.js";
import "./keys.js";
import "./seeing.js";
import "./tint.js";
import "./shelf.js";
import "./places.js";
import "./picking.js";
import "./sheet.js";
import "./running.js";
import "./table/corners.js";
import "./table/grid.js";
import table from "./table/table.js";
import { pile } from "./pile.js";
import { find } from "./find.js";
import { tracing, pictureTools } from "./tracing.js";
import { drop } from "./bringing.js";
import { looks, history } from "./lighting.js";

document.addEventListener("alpine:init", () => {
  for (const [name, part] of Object.entries({ table, pile, find, tracing, pictureTools, drop, looks, history })) window.Alpine.data(name, part);
});

// Alpine comes last, when its parts are known.
const alpine = document.createElement("script");
alpine.src = new URL("../lib/alpine.min.js", import.meta.url).href;
document.head.append(alpine);
