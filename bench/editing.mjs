// What editing costs, on a design of 500 pieces and 100,000 nodes: clicks in the browser, answers on the wire, the database, memory, lists, and 30 people at
// once.
// Starts the application with data of its own. Usage: node editing.mjs [browser|edits|pages|list|people]…  (without a name: all)
import { spawn, execFileSync } from "node:child_process";
import { readFileSync, mkdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url)), root = join(here, "..");
const data = process.env.FALZKUNST_BENCH_DATA ?? join(tmpdir(), "falz-bench");
const wanted = process.argv.slice(2), wants = name => wanted.length === 0 || wanted.includes(name);
let seed = 5;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const sleep = ms => new Promise(done => setTimeout(done, ms));
const at = (times, part) => times.slice().sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * part))];
const told = (what, times) => console.log(`${what}: median ${at(times, 0.5).toFixed(0)} ms, 95th percentile ${at(times, 0.95).toFixed(0)} ms, most `
  + `${Math.max(...times).toFixed(0)} ms (${times.length} times)`);

/** Leaves with wavy edges, each of its own shape. */
function leaves(pieces, nodes, wide) {
  let text = `<svg xmlns="http://www.w3.org/2000/svg" width="${wide}mm" height="${wide}mm" viewBox="0 0 ${wide} ${wide}">`;
  const columns = Math.ceil(Math.sqrt(pieces)), step = wide / columns;
  for (let i = 0; i < pieces; i++) {
    const x = (i % columns + 0.5) * step, y = (Math.floor(i / columns) + 0.5) * step, r = step * 0.4;
    const [waves, phase] = [5 + i % 9, random() * 6];
    const far = a => r * (0.85 + 0.15 * Math.sin(waves * a + phase)), turn = a => r * 0.15 * waves * Math.cos(waves * a + phase);
    const on = a => [x + Math.cos(a) * far(a), y + Math.sin(a) * far(a)];
    const along = a => [Math.cos(a) * turn(a) - Math.sin(a) * far(a), Math.sin(a) * turn(a) + Math.cos(a) * far(a)];
    const pair = p => `${p[0].toFixed(3)} ${p[1].toFixed(3)}`;
    let d = `M${pair(on(0))}`;
    for (let k = 1; k <= nodes; k++) {
      const a = (k - 1) * 2 * Math.PI / nodes, b = k * 2 * Math.PI / nodes, h = (b - a) / 3, [p, q, u, v] = [on(a), on(b), along(a), along(b)];
      d += `C${pair([p[0] + u[0] * h, p[1] + u[1] * h])} ${pair([q[0] - v[0] * h, q[1] - v[1] * h])} ${pair(q)}`;
    }
    text += `<path id="leaf${i}" fill="${["#2f5d46", "#b86842", "#5f7c95"][i % 3]}" d="${d}z"/>`;
  }
  return text + "</svg>";
}

// The application, as people start it.
let app = null, base = "";
async function start() {
  mkdirSync(data, { recursive: true });
  app = spawn(join(root, "start"), [],
    { env: { ...process.env, FALZKUNST_DATA: data, FALZKUNST_PORT: process.env.FALZKUNST_PORT ?? "27410" }, stdio: ["ignore", "pipe", "inherit"] });
  let said = "";
  app.stdout.on("data", d => said += d);
  for (let i = 0; i < 600 && !base; i++) {
    await sleep(200);
    base = said.match(/Falzkunst is at\s+(\S+)/)?.[1] ?? "";
  }
  if (!base) throw new Error(`It did not start: ${said}`);
}
async function stop() {
  app.kill("SIGINT");
  await new Promise(done => app.exitCode === null ? app.on("exit", done) : done());
  base = "";
}
const pidOfWeb = () => execFileSync("pgrep", ["-f", `Falzkunst.Web --urls ${base}`]).toString().trim().split("\n")[0];
const memory = () => Number(readFileSync(`/proc/${pidOfWeb()}/status`, "utf8").match(/VmRSS:\s+(\d+)/)[1]) / 1024;
const sql = text => execFileSync("psql",
  ["-h", "127.0.0.1", "-p", readFileSync(join(data, "port-db"), "utf8").trim(), "-U", "falzkunst_app", "-d", "falzkunst", "-Atc", text],
  { maxBuffer: 1 << 28, env: { ...process.env, PGPASSWORD: readFileSync(join(data, "pg.app"), "utf8").trim() } })
  .toString().trim();

/** Somebody with cookies, as the page's script asks. */
class Visitor {
  cookies = new Map();

  async ask(path, options = {}) {
    const before = performance.now();
    const answer = await fetch(base + path, {
      redirect: "manual", ...options,
      headers: { "Accept-Encoding": "br, gzip", Cookie: [...this.cookies].map(([k, v]) => `${k}=${v}`).join("; "), ...options.headers },
    });
    for (const cookie of answer.headers.getSetCookie()) {
      const [pair] = cookie.split(";"), i = pair.indexOf("=");
      this.cookies.set(pair.slice(0, i), pair.slice(i + 1));
    }
    const text = await answer.text();
    return { status: answer.status, text, ms: performance.now() - before, to: answer.headers.get("location") };
  }

  async signIn(email = "vreni@murmeltier.example") {
    const page = await this.ask("/sign-in");
    await this.ask("/sign-in", { method: "POST",
      body: new URLSearchParams({ email, password: "fernblick hut", __RequestVerificationToken: token(page.text) }) });
    return this;
  }

  async bring(name, svg) {
    const page = await this.ask("/dockets"), form = new FormData();
    form.append("__RequestVerificationToken", token(page.text));
    form.append("file", new Blob([svg]), name);
    const answer = await this.ask("/dockets", { method: "POST", body: form });
    if (!answer.to) throw new Error(`${name}: ${answer.text.match(/role="alert">([^<]+)/)?.[1] ?? answer.status}`);
    return Number(answer.to.match(/dockets\/(\d+)/)[1]);
  }

  async open(number) {
    const page = await this.ask(`/dockets/${number}/build`);
    this.at = { number, token: token(page.text), revision: page.text.match(/data-revision="([^"]+)"/)[1],
      pieces: [...page.text.matchAll(/class="piece" data-id="([^"]+)"/g)].map(m => m[1]) };
    return page;
  }

  async edit(handler, fields) {
    const { number, token, revision } = this.at;
    const body = new URLSearchParams({ ...fields, basedOn: revision, __RequestVerificationToken: token });
    const answer = await this.ask(`/dockets/${number}/build?handler=${handler}`,
      { method: "POST", body, headers: { "HX-Request": "true", "X-Part": "changes" } });
    const next = answer.text.match(/id="changes"[^>]*data-revision="([^"]+)"/)?.[1];
    if (answer.status !== 200 || !next) throw new Error(`${handler}: ${answer.status} ${answer.text.slice(0, 300)}`);
    this.at.revision = next;
    return answer;
  }
}
const token = page => page.match(/name="__RequestVerificationToken" type="hidden" value="([^"]+)"/)[1];

const operations = ["cut", "draw", "score", "perforate", "foil"];
async function someEdit(v, i) {
  const piece = v.at.pieces[Math.floor(random() * v.at.pieces.length)];
  if (i % 4 === 0) return v.edit("Outline",
    { pieces: piece, part: "all", operation: operations[Math.floor(random() * 5)] === "cut" ? "draw" : operations[Math.floor(random() * 5)] });
  if (i % 4 === 1) return v.edit("Rename", { id: piece, label: `Leaf ${i}` });
  return v.edit("Move", { ids: piece, right: (random() * 4 - 2).toFixed(3), down: (random() * 4 - 2).toFixed(3), gesture: `g${i}` });
}

try {
  rmSync(data, { recursive: true, force: true });
  await start();
  let vreni = await new Visitor().signIn();
  const large = await vreni.bring("leaves.svg", leaves(500, 200, 900));
  console.log(`docket ${large}: `
    + `${sql(`select "Pieces", length("Document") from "Revisions" where "Id" = (select "CurrentRevisionId" from "Dockets" where "Number" = ${large})`)} `
    + `(pieces, bytes of the document); `
    + `${(Number(sql(`select sum(length("Bytes")) from "Blobs"`)) / 1e6).toFixed(1)} MB of blobs`);

  if (wants("pages")) {
    const pages = [];
    for (let i = 0; i < 12; i++) pages.push((await vreni.open(large)).ms);
    told("first page of it, from the request to its last byte", pages.slice(2));
    const wire = Number(execFileSync("curl",
      ["-s", "-o", "/dev/null", "-w", "%{size_download}", "--compressed", "-H", `Cookie: ${[...vreni.cookies].map(([k, v]) => `${k}=${v}`).join("; ")}`,
      `${base}/dockets/${large}/build`]).toString());
    console.log(`on the wire: ${(wire / 1000).toFixed(0)} kB`);
  }

  if (wants("edits")) {
    await vreni.open(large);
    for (let i = 0; i < 20; i++) await someEdit(vreni, i);
    const before = memory(), bytesBefore = Number(sql(`select coalesce(sum(length("Document") + length("Edit")), 0) from "Revisions"`)),
      blobsBefore = Number(sql(`select sum(length("Bytes")) from "Blobs"`));
    const rows = Number(sql(`select count(*) from "Revisions"`));
    const times = [], sizes = [];
    for (let i = 0; i < 1000; i++) {
      const answer = await someEdit(vreni, i);
      times.push(answer.ms);
      sizes.push(answer.text.length);
    }
    const count = Number(sql(`select count(*) from "Revisions"`)) - rows;
    const grown = Number(sql(`select sum(length("Document") + length("Edit")) from "Revisions"`)) - bytesBefore
      + Number(sql(`select sum(length("Bytes")) from "Blobs"`)) - blobsBefore;
    told("an edit, asked and answered", times);
    console.log(`answers: median ${(at(sizes, 0.5) / 1000).toFixed(1)} kB, largest ${(Math.max(...sizes) / 1000).toFixed(1)} kB before compression`);
    console.log(`${count} edits: ${(grown / count / 1000).toFixed(2)} kB each in the database; memory ${before.toFixed(0)} MB before, ${memory().toFixed(0)} `
      + `MB after`);
  }

  if (wants("browser")) {
    const { chromium } = await import(join(root, "tests/browser/node_modules/playwright-core/index.mjs"));
    const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-gpu"] });
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(`${base}/sign-in`);
    await page.fill("[name=email]", "tobias@murmeltier.example");
    await page.fill("[name=password]", "fernblick hut");
    await page.click("main button");
    await page.waitForURL("**/dockets");
    await page.goto(`${base}/dockets/${large}/build`);
    await page.waitForSelector(".ruler text");
    const sizes = [];
    page.on("response", async r => {
      if (r.request().method() === "POST") sizes.push((await r.body().catch(() => "")).length);
    });
    // From the click, or the key, or letting go, until the changed picture has been painted.
    await page.evaluate(() => {
      window.marks = [];
      let begun = 0;
      for (const kind of ["pointerup", "keydown"]) window.addEventListener(kind, () => begun = performance.now(), true);
      document.addEventListener("htmx:afterRequest", () => requestAnimationFrame(() => {
        const channel = new MessageChannel();
        channel.port1.onmessage = () => window.marks.push(performance.now() - begun);
        channel.port2.postMessage(0);
      }));
    });
    const marked = async work => {
      const n = await page.evaluate(() => window.marks.length);
      await work();
      await page.waitForFunction(n => window.marks.length > n, n);
      await page.waitForTimeout(60);
      return page.evaluate(() => window.marks.at(-1));
    };
    const middle = async n => {
      const box = await page.locator(".piece .paper").nth(n).boundingBox();
      return [box.x + box.width / 2, box.y + box.height / 2];
    };
    const clicks = [], undos = [], moves = [];
    await page.mouse.click(...await middle(240));
    await page.waitForSelector(".card h1:has-text('Leaf')");
    for (let i = 0; i < 20; i++) {
      clicks.push(await marked(() => page.click(`[name=operation][value=${operations[i % 2 + 1]}] >> nth=0`)));
      undos.push(await marked(() => page.keyboard.press("Control+z")));
    }
    for (let i = 0; i < 20; i++) {
      const [x, y] = await middle(240);
      moves.push(await marked(async () => {
        await page.mouse.move(x, y);
        await page.mouse.down();
        await page.mouse.move(x + (i % 2 ? -6 : 6), y + 5, { steps: 3 });
        await page.mouse.up();
      }));
    }
    told("an operation, from click to picture", clicks);
    told("undo, from key to picture", undos);
    told("a move, from letting go to picture", moves);
    told("all of them", [...clicks, ...undos, ...moves]);
    console.log(`answers: largest ${(Math.max(...sizes) / 1000).toFixed(1)} kB`);
    // Twenty at once.
    await page.keyboard.press("Escape");
    await page.waitForSelector(".looks");
    await page.keyboard.down("Shift");
    for (let i = 0; i < 20; i++) await page.mouse.click(...await middle(200 + i));
    await page.keyboard.up("Shift");
    await page.waitForSelector(".card h1:has-text('20 pieces')");
    const [x, y] = await middle(205);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 8, y);
    await page.waitForTimeout(400);
    await page.evaluate(() => {
      window.frames_ = [];
      const tick = t => (window.frames_.push(t), requestAnimationFrame(tick));
      requestAnimationFrame(tick);
    });
    for (let i = 0; i < 120; i++) {
      await page.mouse.move(x + 8 + 100 * Math.sin(i / 12), y + 60 * Math.cos(i / 9));
      await page.waitForTimeout(8);
    }
    const gaps = await page.evaluate(() => window.frames_.slice(1).map((t, i) => t - window.frames_[i]));
    await page.mouse.up();
    console.log(`dragging 20 of 500: ${(1000 * gaps.length / gaps.reduce((a, b) => a + b)).toFixed(1)} frames a second; a frame takes `
      + `${at(gaps, 0.5).toFixed(1)} ms, the 95th percentile ${at(gaps, 0.95).toFixed(1)} ms`);
    await browser.close();
  }

  if (wants("people")) {
    const crowd = [];
    for (let i = 0; i < 30; i++) {
      const one = await new Visitor().signIn(i % 2 ? "vreni@murmeltier.example" : "tobias@murmeltier.example");
      await one.open(await one.bring(`people-${i}.svg`, leaves(60, 40, 250)));
      crowd.push(one);
    }
    const times = [], errors = [], until = performance.now() + 60_000;
    await Promise.all(crowd.map(async (one, who) => {
      for (let i = who; performance.now() < until; i++) {
        await sleep(random() * 4000);
        try {
          times.push((await someEdit(one, i)).ms);
        } catch (e) {
          errors.push(e.message);
        }
      }
    }));
    told("30 people at once, an edit", times);
    console.log(`errors: ${errors.length} ${errors[0] ?? ""}`);
  }

  if (wants("list")) {
    // Three hundred dockets, a hundred of them as large as that one: its revision under a hundred numbers.
    sql(`insert into "Dockets" ("Id", "StudioId", "Number", "Name", "Copies", "MachineId", "CreatedAt", "ChangedAt")
         select gen_random_uuid(), "StudioId", 1000 + n, 'Leaves '
           || n, 1, "MachineId", now(), now() from "Dockets", generate_series(1, 300) n where "Number" = ${large}`);
    sql(`insert into "Revisions" ("Id", "StudioId", "DocketId", "What", "ByName", "At", "Document", "Seal", "Schema", "Edit", "Kind", "Gesture", "Pieces", `
      + `"Plies", "Lines", "Pictures")
         select gen_random_uuid(), r."StudioId", d."Id", r."What", r."ByName", now(), r."Document", r."Seal", r."Schema", r."Edit", r."Kind", '', r."Pieces",
           r."Plies", r."Lines", r."Pictures"
         from "Dockets" d, lateral (select r.* from "Revisions" r where r."BaseId" is null and r."ParentId" is null and r."DocketId" =
           (select "Id" from "Dockets" where "Number" = case when d."Number" % 3 = 0 then ${large} else 41
             + d."Number" % 5 end) limit 1) r where d."Number" > 1000`);
    sql(`update "Dockets" d set "CurrentRevisionId" = r."Id", "TipRevisionId" = r."Id" from "Revisions" r where r."DocketId" = d."Id" and d."Number" > 1000`);
    sql(`insert into "BlobUses" ("DocketId", "StudioId", "Hash") select d."Id", u."StudioId", u."Hash" from "Dockets" d, "BlobUses" u where d."Number" > `
      + `1000 and u."DocketId" = (select "Id" from "Dockets" where "Number" = case when d."Number" % 3 = 0 then ${large} else 41 + d."Number" % 5 end)`);
    await stop();
    await start();
    const again = await new Visitor().signIn();
    const pages = [];
    for (let i = 0; i < 30; i++) pages.push((await again.ask(`/dockets?list=${i % 12 + 1}`)).ms);
    console.log(`the list of ${sql(`select count(*) from "Dockets"`)} dockets: ${pages[0].toFixed(0)} ms right after a start`);
    told("then", pages.slice(1));
  }
} finally {
  if (base) await stop();
}
