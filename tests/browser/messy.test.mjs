import { test } from "node:test";
import assert from "node:assert/strict";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { open, Hands, signIn, settled, painted, base } from "./browser.mjs";

const folder = join(dirname(fileURLToPath(import.meta.url)), "..", "cases", "messy");

/** What a design holds, as somebody would say it: pieces, holes, and lines by what is done. */
function holds(design) {
  const there = list => (list ?? []).filter(x => !x.leftOut);
  const pieces = there(design.pieces);
  const lines = [...pieces.flatMap(p => there(p.lines)), ...there(design.loose)];
  const count = {};
  for (const l of lines) count[l.operation] = (count[l.operation] ?? 0) + 1;
  return { pieces: pieces.length, holes: pieces.reduce((n, p) => n + p.edges.length - 1, 0), loose: there(design.loose).length, ...count };
}

// What a person does after dropping the file, until all is right; most files need nothing, or one answer.
const files = [
  { name: "lump", wanted: { pieces: 1, holes: 1, loose: 0, score: 1 }, does: [] },
  { name: "legend", wanted: { pieces: 1, holes: 0, loose: 0, score: 1, draw: 5 }, does: [] },
  { name: "panels", wanted: { pieces: 1, holes: 0, loose: 0, score: 1 }, does: ["button.plate:has-text('Panels of one base')"] },
  { name: "own-colour", wanted: { pieces: 1, holes: 0, loose: 0, draw: 1 }, does: ["button.plate:has-text('Drawn')"] },
  { name: "white-page", wanted: { pieces: 2, holes: 0, loose: 0 }, does: ["button.plate:has-text('Only the page')"] },
  { name: "no-size", wanted: { pieces: 1, holes: 0, loose: 0, score: 1 }, does: [".sizes button:has-text('72 to the inch')"] },
  { name: "loose-sides", wanted: { pieces: 2, holes: 0, loose: 0 }, does: ["button:has-text('Join them to a piece')"] },
  { name: "wave", wanted: { pieces: 1, holes: 0, loose: 0, draw: 1 }, does: ["button.plate:has-text('Drawn')"] },
  { name: "printed", wanted: { pieces: 1, holes: 0, loose: 0, score: 1, print: 1 }, does: [".piece[data-name='Copper'] .paper",
      "button:has-text('only printed')"] },
  { name: "wrong-order", wanted: { pieces: 2, holes: 0, loose: 0 }, below: "Slate blue",
    does: [".piece[data-name='Slate blue'] .paper@20,20", "Shift .piece[data-name='Copper'] .paper@150,90", "button:has-text('Swap which lies below')"] },
];

test("ten messy files come in right after two actions in the middle, and four at most", async () => {
  const { browser, page } = await open();
  const counts = [];
  try {
    await signIn(new Hands(page));
    for (const { name, wanted, does, below } of files) {
      const hands = new Hands(page);
      await page.goto(base + "/dockets");
      // Dropping the file.
      hands.actions++;
      await page.setInputFiles("input[type=file]", join(folder, `${name}.svg`));
      await page.waitForURL("**/bring-in**");
      await page.waitForSelector(".table-svg");
      const docket = page.url().match(/dockets\/(\d+)/)[1];
      const before = holds(await design(page, docket));
      for (const what of does) await act(page, hands, what).catch(e => assert.fail(`${name}, ${what}: ${e.message}`));
      await settled(page);
      const after = await design(page, docket);
      assert.deepEqual(sorted(holds(after)), sorted(wanted), name);
      if (below) assert.equal(after.pieces.find(p => p.ply === after.plies[0].id).label, below);
      counts.push(hands.actions);
      if (does.length) {
        // Each of it can be undone.
        await page.keyboard.press("Control+z");
        await page.waitForFunction(() => document.querySelector("[data-key=redo]:not(:disabled)"));
        assert.deepEqual(sorted(holds(await design(page, docket))), sorted(before), `${name}, undone`);
      }

      await away(page, name);
    }

    console.log(`actions from dropping to all right: ${counts.join(", ")}`);
    const inOrder = [...counts].sort((a, b) => a - b);
    assert.ok(inOrder[4] <= 2 && inOrder[5] <= 2 && inOrder[9] <= 4, counts.join(", "));
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("what would be cut is seen alone, with its count; why, where one points; a hole is chosen and is paper again", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page));
    await page.goto(base + "/dockets");
    await page.setInputFiles("input[type=file]", join(folder, "lump.svg"));
    await page.waitForSelector("#work a:has-text('cut')");
    assert.match(await page.textContent("#work a:has-text('cut')"), /cut\s*2/);
    await page.click("#work a:has-text('cut')");
    await page.waitForSelector(".table-svg[data-only=cut]");
    await page.waitForSelector(".ruler text");
    await settled(page);
    await painted(page);
    assert.equal(await page.$eval(".line .op-score", e => getComputedStyle(e).opacity), "0.1");
    const [x, y] = await page.$eval(".ring .hit", ring => {
      const on = ring.getPointAtLength(1).matrixTransform(ring.getScreenCTM());
      return [on.x, on.y];
    });
    await page.mouse.move(x, y);
    await page.waitForSelector(".why:has-text('a closed outline inside a piece')");
    await page.mouse.click(x, y);
    await page.waitForSelector(".card h2:has-text('1 hole')");
    await page.click("button:has-text('no hole: paper again')");
    await page.waitForFunction(() => /cut\s*1/.test(document.querySelector("#work a[aria-current]").textContent));
    await page.waitForFunction(() => !document.querySelector(".ring"));
    await away(page, "lump");
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

/** The list stays as other tests know it. */
async function away(page, name) {
  await page.goto(base + "/dockets");
  await page.click(`[aria-label='Delete ${name[0].toUpperCase()}${name.slice(1).replace("-", " ")}']`);
  await page.waitForSelector(".say:has-text('is deleted')");
}

const sorted = o => Object.fromEntries(Object.entries(o).sort(([a], [b]) => a.localeCompare(b)));

const design = async (page, docket) => (await page.request.get(`${base}/dockets/${docket}/design.falz.json`)).json().then(f => f.design ?? f);

/** Clicks something and waits for what it does; "Shift …" holds the key, "…@x,y" clicks there in it. */
async function act(page, hands, what) {
  const [, shift, selector, x, y] = what.match(/^(Shift )?(.*?)(?:@(\d+),(\d+))?$/);
  hands.actions++;
  const click = () => page.click(selector, { modifiers: shift ? ["Shift"] : [], position: x ? { x: +x, y: +y } : undefined });
  if (selector.includes("button")) await Promise.all([page.waitForResponse(r => r.request().method() === "POST"), click()]);
  else {
    await click();
    await page.waitForSelector(`#what-is-it input[name=ids]${shift ? "[value*=',']" : ""}`, { state: "attached" });
  }
}
