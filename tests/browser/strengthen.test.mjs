import { test } from "node:test";
import assert from "node:assert/strict";
import { open, boxOnEmptyPage, Hands, signIn, settled, faults } from "./browser.mjs";

test("from “is this strong enough?” to a chosen strength on all words of a card in at most 4 actions", async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    await boxOnEmptyPage(page, "120");
    for (const words of ["with thanks", "from the hut"]) {
      await page.keyboard.press("Escape");
      await settled(page);
      await page.waitForSelector("#write");
      if (!await page.locator("#write").evaluate(g => g.open)) await page.click("#write > summary");
      await page.fill("#write [name=text]", words);
      await page.selectOption("#write [name=face]", { label: "Fraunces" });
      await page.fill("#write [name=size]", words.startsWith("with") ? "12 mm" : "10 mm");
      await page.click("#write .button.is-primary");
      await page.waitForSelector("#words");
      await settled(page);
    }
    hands.actions = 0;
    await hands.click("#slip a:has-text('Strengthen')");
    await page.waitForSelector(".width-scale");
    assert.match(await page.innerText("#card .lead"), /\d+ places? thinner than .* bears?/);
    assert.ok(await page.locator(".mark-thin").count() > 0 && await page.locator("[class^=width-] , .strength-over path").count() > 0);
    // All words are what is thin: no choosing needed; the strengths lie beside each other with their figures.
    await page.waitForFunction(() => document.querySelector("#strengths .plate") && !document.querySelector(".plate-waits"));
    const plates = await page.locator("#strengths .plate").allInnerTexts();
    assert.ok(plates.length >= 3, plates.join("|"));
    assert.match(plates[0], /Just enough[\s\S]*(none|still) thin[\s\S]*narrowest [\s\S]*edges move 0\.\d+ mm[\s\S]*cut \d+ mm, \d+ s/);
    // What comes to the same as another is said to, instead of being offered twice.
    assert.ok(plates.some(p => /apart/.test(p)));
    assert.match(await page.innerText("#strengths"), /Letters set apart\s+comes to the same as just enough/);
    assert.ok(await page.locator("#strengths .true-size").count() === plates.length);
    await hands.click("#strengths .plate >> nth=0");
    await page.waitForFunction(() => /strong enough|still|1 thin place|[0-4] thin places/.test(document.querySelector("#slip [aria-current]").innerText));
    await page.waitForSelector("#strengths .plate[aria-pressed=true]");
    console.log(`# actions to a chosen strength on all words: ${hands.actions}`);
    assert.ok(hands.actions <= 4);
    assert.ok(await page.locator(".strength-over .added").count() >= 2);
    assert.deepEqual(await faults(page), []);
    // By another size it stays a setting; undone, the words are thin again.
    await page.keyboard.press("Control+z");
    await page.waitForFunction(() => !document.querySelector(".strength-over .added"));
    assert.match(await page.innerText("#card .lead"), /thinner/);
    // The places are gone through by a key, each in the loupe.
    const total = Number((await page.innerText(".loupe-row .steps")).match(/of (\d+)/)[1]);
    await page.keyboard.press("n");
    await page.waitForFunction(n => document.querySelector(".loupe-row .steps").innerText.includes(`2 of ${n}`), total);
    assert.match(await page.getAttribute(".loupe", "aria-label"), /mm, enlarged/);
    // The slider shows on the table what would be added, and its strength lies beside the others then.
    await page.locator(".slides").focus();
    for (let i = 0; i < 8; i++) await page.keyboard.press("ArrowRight");
    await page.waitForSelector(".tint-svg path");
    await page.waitForSelector("#typed-strength .plate:has-text('where thin')");
    // Loose parts are joined: shown before, and done.
    // The card may come anew once more, with its groups closed.
    await settled(page);
    await page.click("#bridges > summary");
    // What is pointed at may be swapped in that moment; then nothing is pointed at until the pointer moves.
    for (let tries = 0; tries < 5; tries++) {
      await page.mouse.move(5, 5);
      if (!await page.locator("#bridges[open]").count()) await page.click("#bridges > summary");
      await page.hover("#bridges [value=all]");
      const seen = page.waitForFunction(() => /\d+ parts would become [1-9]\./.test(document.querySelector("#bridges .previewed").innerText), null,
        { timeout: 6000 * 2 ** tries });
      if (await seen.then(() => true, e => { if (tries === 4) throw e; })) break;
    }
    await page.click("#bridges [value=all]");
    await page.waitForFunction(() => !document.querySelector("#bridges") || Number(document.querySelector("#bridges summary .quiet").innerText) < 5);
    await page.keyboard.press("Control+z");
    await page.waitForFunction(() => Number(document.querySelector("#bridges summary .quiet")?.innerText) > 5);
    // What is not worked out can be stopped; what is there stays.
    const stage = page.url().split("?")[0];
    await page.goto(stage);
    await page.waitForSelector("#strengths .plate-waits");
    if (await page.isVisible(".stop-plates")) await page.click(".stop-plates");
    await page.waitForFunction(() => !document.querySelector("#strengths .plate-waits[hx-get]"));
    // The dockets' list tells it too.
    const number = stage.match(/dockets\/(\d+)/)[1];
    await page.goto(stage.split("/dockets")[0] + "/dockets");
    await page.waitForSelector(`article:has(a[href^='/dockets/${number}/']) .warn-text:has-text('thinner than paper bears')`);
    await page.goto(stage);
    await page.waitForFunction(() => document.querySelector("#strengths .plate") && !document.querySelector(".plate-waits"));
    // What the docket asks for changes what is thin.
    await page.click("#asked > summary");
    await page.fill("#asked [name=width]", "-1");
    await page.click("#asked .button");
    await page.waitForSelector(".notice:has-text('0.05 to 20 mm')");
    // A request that was given up is told by htmx as an error.
    assert.deepEqual(page.problems.filter(p => !/^htmx:(sendAbort|afterRequest)/.test(p)), []);
  } finally {
    await browser.close();
  }
});
