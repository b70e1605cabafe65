import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, base, painted } from "./browser.mjs";

// FALZKUNST_SEED asks for another row of changes, FALZKUNST_STEPS for a longer one.
let seed = Number(process.env.FALZKUNST_SEED ?? 11);
const steps = Number(process.env.FALZKUNST_STEPS ?? 40);
const random = n => Math.floor((seed = (seed * 48271) % 2147483647) / 2147483647 * n);
const one = list => list[random(list.length)];

/** What is on the page, and what the same address shows when it is asked for afresh: table, card, slip, findings and tools. */
const both = page => page.evaluate(async () => {
  const fresh = new DOMParser().parseFromString(await (await fetch(location.href)).text(), "text/html");
  const tidy = part => {
    const copy = part.cloneNode(true);
    for (const e of copy.querySelectorAll("[name=__RequestVerificationToken], [name=basedOn], .measured, .notice")) e.remove();
    // The bodies of these groups are fetched when they are opened.
    for (const id of ["add-base", "add-shape", "fold", "write", "fill", "shelf-group", "history"])
      for (const e of copy.querySelectorAll(`details[id=${id}] > :not(summary)`)) e.remove();
    for (const e of copy.querySelectorAll("*")) {
      for (const name of ["style", "open", "aria-expanded", "novalidate", "hidden"]) e.removeAttribute(name);
      // What is pointed at, and what is under way, is only the browser's.
      e.classList.remove("lit", "is-away");
      if (e.getAttribute("class") === "") e.removeAttribute("class");
    }
    return copy.innerHTML.replace(/\s+/g, " ").replace(/> </g, "><").trim();
  };
  const parts = [".all-plies", ".loose", ".places", "#card", "#slip", "#findings", "#tools"];
  const differ = parts.filter(p => tidy(document.querySelector(p)) !== tidy(fresh.querySelector(p)));
  const first = differ[0] && [tidy(document.querySelector(differ[0])), tidy(fresh.querySelector(differ[0]))];
  const at = first ? [...first[0]].findIndex((c, i) => c !== first[1][i]) : -1;
  return { differ, say: first ? first.map(t => t.slice(Math.max(0, at - 120), at + 160))
    : [], home: document.querySelector(".table-svg").dataset.home, freshHome: fresh.querySelector(".table-svg").dataset.home };
});

const send = (page, handler, fields) => page.evaluate(([handler, fields]) => new Promise(done => {
  document.addEventListener("htmx:afterRequest", () => setTimeout(done), { once: true });
  const address = new URL(location.href);
  address.searchParams.set("handler", handler);
  const token = document.querySelector("#tools [name=__RequestVerificationToken]").value;
  window.htmx.ajax("POST", address.pathname + address.search, { source: "#docket", values: { ...fields, basedOn: "", __RequestVerificationToken: token } });
}), [handler, fields]);

test("whatever is changed, the page that took over the changes is the page that is asked for afresh", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    const circles = [...Array(8).keys()]
      .map(i => `<circle cx="${20 + i * 14}" cy="${20 + i % 3 * 20}" r="8" fill="${one(["#2f5d46", "#b86842", "#5f7c95"])}"/>`);
    const body = `<rect width="148" height="105" fill="#f4ead2"/><path d="M74 0V105" stroke="#00f" fill="none"/>${circles.join("")}`
      + `<path d="M5 90C40 70 60 99 90 88" stroke="#c0c" fill="none"/><path d="M160 20L190 60" stroke="#0a0" fill="none"/>`;
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="105mm" viewBox="0 0 200 105">${body}</svg>`;
    await page.setInputFiles("input[type=file]", { name: "any.svg", mimeType: "image/svg+xml", buffer: Buffer.from(svg) });
    await page.waitForURL("**/bring-in");
    const root = page.url().replace("/bring-in", "");
    for (let i = 0; i < steps; i++) {
      if (i % 10 === 0) {
        await page.goto(`${root}/${i % 20 ? "bring-in" : "build"}${one(["", "?view=apart"])}`);
        await page.waitForSelector(".ruler text");
      }
      const ids = (letter, of) => page.$$eval(of, (all, letter) => all.map(e => e.dataset.id ?? e.dataset.ply).filter(id => id?.startsWith(letter)), letter);
      const [pieces, lines, plies] = [await ids("p", ".piece"), await ids("l", ".line"), await ids("y", ".ply")];
      const some = [...new Set([one(pieces), one(pieces)])].filter(Boolean).join(",");
      const operation = one(["cut", "score", "perforate", "draw", "foil", "deboss", "print", "rest"]);
      const build = page.url().includes("/build");
      // What is chosen may be gone with the change.
      if (random(3) === 0 && pieces.length) {
        const before = page.url(), card = page.waitForResponse(r => r.request().headers()["x-part"] === "card").then(r => r.finished());
        card.catch(() => "nothing was asked");
        await page.$eval(`.piece[data-id=${one(pieces)}] .choose`, a => a.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true })));
        // What is chosen already asks for nothing.
        if (page.url() !== before) await card;
        await painted(page);
      }
      const [handler, fields] = one([
        ["Move", { ids: some, right: String(random(40) - 20), down: String(random(30) - 15), gesture: one(["a", "b"]) }],
        ["LeaveOut", { ids: one([one(pieces), one(lines)]) ?? "" }], ["Undo", {}], ["Undo", {}], ["Redo", {}],
        ["Look", { look: await page.$eval(".looks [name=look]", i => i.value).catch(() => ""), operation }],
        ...build ? [
          ["Outline", { pieces: some, part: one(["outer", "holes", "all"]), operation }], ["Line", { line: one(lines) ?? "", operation }],
            ["Ply", { pieces: some, ply: one(plies) }],
          ["MovePly", { ply: one(plies), to: String(random(plies.length)) }], ["Rename", { id: one(pieces) ?? "", label: `Named ${i}` }],
            ["Face", { line: one(lines) ?? "", face: "Inner" }],
          ["FoldSide", { line: one(lines) ?? "", side: "Mountain" }],
          ["Shape", { maker: "star", width: "20", where: "page", at: "middle", as: one(["piece", "thing"]) }],
            ["Treat", { ids: some, how: one(["outset", "round", "backing"]), by: "1" }], ["Front", { pieces: some, front: one(["true", "false"]) }],
          ["Foam", { ply: one(plies), foam: "1" }], ["Write", { text: "hut", face: "EMS Tech|400" }],
        ] : [["PutBack", { part: await page.$eval("[name=part]", i => i.value).catch(() => "") }]],
      ]);
      const view = await page.getAttribute(".table-svg", "viewBox");
      await send(page, handler, fields);
      const found = await both(page);
      assert.deepEqual(found.differ, [], `step ${i}, ${handler} ${JSON.stringify(fields)}: ${found.say.join("\n  <>  ")}`);
      assert.equal(found.home, found.freshHome);
      assert.equal(await page.getAttribute(".table-svg", "viewBox"), view, `step ${i}, ${handler}: the view jumped`);
    }
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
