import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, test } from "./demo";

const pages = [
  "",
  "/invite",
  "/invite/new",
  "/invite/many",
  "/invite/lists",
  "/invite/links",
  "/invite/presets",
  "/invite/bounced",
  "/invite/figures",
  "/people",
  "/access/resources",
  "/access/roles",
  "/access/groups",
  "/access/organisations",
  "/access/seats",
  "/accounts",
  "/accounts/twice",
  "/endings",
  "/record",
  "/record/safety",
  "/workspace",
  "/workspace/rules",
  "/workspace/wording",
  "/workspace/domains",
  "/workspace/providers",
  "/workspace/applications",
];

test.describe.configure({ mode: "parallel" });

// In two halves, for two browsers.
const half = Math.ceil(pages.length / 2);
for (const [name, some] of [
  ["every page from the overview on", pages.slice(0, half)],
  ["every page from access on", pages.slice(half)],
] as const) {
  test(`${name} can be used by everybody, in light and in dark colours`, async ({ demo, page }) => {
    test.setTimeout(600_000);
    await page.emulateMedia({ reducedMotion: "reduce" });
    await demo.signIn(page);
    const faults = [];
    for (const path of some) {
      await page.goto(demo.at(path));
      await page.getByRole("heading", { level: 1 }).waitFor();
      await page.waitForLoadState("networkidle");
      faults.push(await faultsOf(page, path));
    }
    expect(faults.flat()).toEqual([]);
  });
}

test("what opens on a page, and every page beside the console, can be used by everybody", async ({
  demo,
  page,
}) => {
  test.setTimeout(600_000);
  await page.emulateMedia({ reducedMotion: "reduce" });
  await page.goto(`${demo.ready.url}/sign-in`);
  const faults = [await faultsOf(page, "sign-in")];
  await page.getByRole("link", { name: "Forgotten password" }).click();
  await page.getByRole("heading", { name: "Forgotten password" }).waitFor();
  faults.push(await faultsOf(page, "forgotten"));
  await demo.signIn(page);
  await page.goto(demo.at("/people?search=ines.calloway"));
  await page.getByRole("link", { name: "Dr Ines Calloway" }).click();
  await page.getByRole("heading", { name: "What they may do, and why" }).waitFor();
  faults.push(await faultsOf(page, "person"));
  await page.getByRole("button", { name: "End access" }).click();
  await page.getByText("Untouched").waitFor();
  await page.waitForTimeout(500);
  faults.push(await faultsOf(page, "end"));
  await page.goto(demo.at("/access/resources"));
  await page.getByRole("link", { name: "Register" }).click();
  await page.getByRole("button", { name: "Change the access of Hamish Orlo" }).click();
  await page.waitForTimeout(500);
  faults.push(await faultsOf(page, "resource"));
  await page.goto(demo.at("/access/roles"));
  await page.getByRole("button", { name: "Make a role" }).click();
  await page.waitForTimeout(500);
  faults.push(await faultsOf(page, "role"));
  for (const path of ["/account", "/places", "/password", "/confirm"]) {
    await page.goto(demo.ready.url + path);
    await page.getByRole("heading", { level: 1 }).waitFor();
    faults.push(await faultsOf(page, path));
  }
  await page.goto(await demo.invitationLink("casper.dunmore@saltmarsh-university.example"));
  faults.push(await faultsOf(page, "landing"));
  expect(faults.flat()).toEqual([]);
});

test("nothing needs sideways scrolling at 320 pixels", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.setViewportSize({ width: 320, height: 640 });
  for (const path of pages) {
    await page.goto(demo.at(path));
    await page.getByRole("heading", { level: 1 }).waitFor();
    const sideways = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(sideways, path).toBeLessThanOrEqual(0);
  }
  await page.goto(`${demo.ready.url}/account`);
  const sideways = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(sideways, "account").toBeLessThanOrEqual(0);
});

test("a person's page is reached and left by keyboard alone", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/people?search=ines.calloway"));
  await expect(page.getByRole("row")).toHaveCount(2);
  await page.getByRole("searchbox").focus();
  // First the box that chooses her, then her name.
  await page.keyboard.press("Tab");
  await page.keyboard.press("Tab");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Dr Ines Calloway" })).toBeVisible();
  await page.getByRole("button", { name: "End access" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toBeHidden();
});

/** What a page has against it in light colours, and what its dark colours alone have against them. */
async function faultsOf(page: Page, name: string): Promise<string[]> {
  await page.emulateMedia({ colorScheme: "light" });
  const light = await axeOf(page).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]).analyze();
  await page.emulateMedia({ colorScheme: "dark" });
  const dark = await axeOf(page).withRules(["color-contrast"]).analyze();
  return [light, dark].flatMap((found, at) =>
    found.violations.flatMap((violation) =>
      violation.nodes.map(
        (node) =>
          `${name}, ${["light", "dark"][at]}: ${violation.id} ${node.target} ${node.any[0]?.message ?? ""}`,
      ),
    ),
  );
}

function axeOf(page: Page): AxeBuilder {
  // A mail shown in its frame may run nothing, not even this check. What is found is put together on the page itself.
  return new AxeBuilder({ page }).exclude("iframe").setLegacyMode(true);
}

test("a list shows all it was given, also what is below the first screen", async ({ page, demo }) => {
  await demo.signIn(page);
  for (const list of ["people", "invitations"]) {
    // What the page before asked for is not what is looked at.
    await page.goto("about:blank");
    const answered = page.waitForResponse((answer) =>
      /^\/api\/.*\/(people|invitations)$/.test(new URL(answer.url()).pathname),
    );
    await page.goto(demo.at(list === "people" ? "/people" : "/invite"));
    const { items } = await (await answered).json();
    expect(items.length).toBeGreaterThan(14);
    await expect(page.locator("main tbody tr")).toHaveCount(items.length);
  }
});
