// Clicks from page to page as people do, on a processor a quarter as fast, and says how long each took until it was drawn:
// node click.mjs URL WORKSPACE ROUNDS
import { chromium } from "@playwright/test";
import { whole } from "./browser.mjs";

const [url, workspace, rounds] = process.argv.slice(2);
const home = `/w/${workspace}`;
// Where it leads, what is clicked, and what is there once it is drawn.
const pages = [
  ["overview", `nav a[href="${home}"]`, "main h1"],
  ["invitations", `nav a[href="${home}/invite"]`, "main tbody tr a"],
  ["people", `nav a[href="${home}/people"]`, "main tbody tr a"],
  ["a person", "main tbody tr a", "main h1"],
  ["the record", `nav a[href="${home}/record"]`, "main tbody tr"],
];
const browser = await chromium.launch(whole);
try {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const first = await context.newPage();
  await first.goto(`${url}/sign-in`);
  await first.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await first.getByLabel("Password").fill("a lantern at high tide");
  await first.getByRole("button", { name: "Sign in", exact: true }).click();
  await first.waitForURL(/\/w\//);
  await first.close();
  const seen = Object.fromEntries(
    ["", ", again"].flatMap((lap) => pages.map(([name]) => [name + lap, { ms: [], requests: [] }])),
  );
  for (let round = 0; round < Number(rounds); round++) {
    // A page that was loaded anew knows none of the others.
    const page = await context.newPage();
    let requests = 0;
    page.on("request", (request) => {
      if (new URL(request.url()).pathname.startsWith("/api/")) requests++;
    });
    const devtools = await context.newCDPSession(page);
    await devtools.send("Emulation.setCPUThrottlingRate", { rate: 4 });
    await page.goto(`${url}${home}/workspace`);
    await page.locator("main h1").waitFor({ timeout: 60_000 });
    await page.waitForLoadState("networkidle");
    // Whoever comes to a page looks at it for two seconds before clicking on.
    await page.waitForTimeout(2_000);
    for (const lap of ["", ", again"])
      for (const [name, click, there] of pages) {
        requests = 0;
        seen[name + lap].ms.push(await page.evaluate(clickUntilDrawn, { click, there }));
        await page.waitForLoadState("networkidle");
        seen[name + lap].requests.push(requests);
      }
    await page.close();
  }
  console.log(JSON.stringify(seen));
} catch (fault) {
  console.log(String(fault));
  process.exitCode = 1;
} finally {
  await browser.close();
}

/** Runs in the page: clicks, and waits for the frame after the one in which nothing is missing any more. */
async function clickUntilDrawn({ click, there }) {
  const frame = () => new Promise(requestAnimationFrame);
  const heading = () => document.querySelector("main h1")?.textContent;
  const before = heading();
  const link = document.querySelector(click);
  const since = performance.now();
  link.click();
  for (;;) {
    await frame();
    if (
      heading() !== undefined &&
      heading() !== before &&
      document.querySelector(there) !== null &&
      document.querySelector("main .mantine-Skeleton-root") === null
    )
      break;
    if (performance.now() - since > 30_000) throw new Error(`${click} does not get drawn`);
  }
  await frame();
  return performance.now() - since;
}
