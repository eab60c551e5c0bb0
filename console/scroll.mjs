// Scrolls through everybody who has access to a resource, and counts what every frame shows:
// node scroll.mjs URL WORKSPACE RESOURCE
import { chromium } from "@playwright/test";
import { whole } from "./browser.mjs";

const [url, workspace, resource] = process.argv.slice(2);
const browser = await chromium.launch(whole);
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/sign-in`);
  await page.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.waitForURL(/\/w\//);
  const started = Date.now();
  await page.goto(`${url}/w/${workspace}/access/resources/${resource}`);
  await page.locator(".long-list-row a").first().waitFor({ timeout: 60_000 });
  const opened = Date.now() - started;
  const list = page.locator(".long-list");
  await list.scrollIntoViewIfNeeded();
  await list.hover();
  await page.evaluate(watchFrames);
  // Turning the wheel: 200 px every 50 ms, which is about 60 people a second.
  for (let turn = 0; turn < 300; turn++) {
    await page.mouse.wheel(0, 200);
    await page.waitForTimeout(50);
  }
  const wheel = await page.evaluate(() => window.stopWatching());
  // Dragging to a far place: how long until the people there are named.
  const jumps = [];
  for (let n = 1; n <= 20; n++) {
    jumps.push(
      await list.evaluate(async (box, part) => {
        const since = performance.now();
        box.scrollTop = box.scrollHeight * part;
        for (;;) {
          await new Promise(requestAnimationFrame);
          const frame = window.look(box);
          if (frame.covered && frame.unnamed === 0) return performance.now() - since;
        }
      }, (n * 0.37) % 1),
    );
  }
  jumps.sort((a, b) => a - b);
  const drawn = await page.locator(".long-list-row").count();
  console.log(JSON.stringify({ opened, ...wheel, jump: jumps[18], drawn }));
} finally {
  await browser.close();
}

/** Runs in the page: looks at the list in every frame, until told to stop. */
function watchFrames() {
  window.look = (box) => {
    const { top, bottom } = box.getBoundingClientRect();
    const rows = [...box.querySelectorAll(".long-list-row")].map((row) => ({
      at: row.getBoundingClientRect(),
      isNamed: row.querySelector("a") !== null,
    }));
    const inSight = rows.filter(({ at }) => at.bottom > top && at.top < bottom);
    const [first, last] = [inSight[0]?.at, inSight[inSight.length - 1]?.at];
    return {
      covered: inSight.length > 0 && first.top <= top + 1 && last.bottom >= bottom - 1,
      unnamed: inSight.filter((row) => !row.isNamed).length,
    };
  };
  const box = document.querySelector(".long-list");
  const seen = { frames: 0, blank: 0, unnamed: 0, slowest: 0 };
  let goesOn = true;
  let before = performance.now();
  const next = (now) => {
    const frame = window.look(box);
    seen.frames++;
    if (!frame.covered) seen.blank++;
    if (frame.unnamed > 0) seen.unnamed++;
    seen.slowest = Math.max(seen.slowest, now - before);
    before = now;
    if (goesOn) requestAnimationFrame(next);
  };
  requestAnimationFrame(next);
  window.stopWatching = () => {
    goesOn = false;
    return { ...seen, scrolled: box.scrollTop };
  };
}
