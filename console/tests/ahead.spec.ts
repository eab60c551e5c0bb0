import { expect, test } from "./demo";

test("what people go to first is there before they go, and nothing of it shows until then", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.setViewportSize({ width: 1280, height: 500 });
  // Whoever is first among the people is read last.
  const last = page.waitForResponse(/\/people\/[^/]+\/access$/);
  await page.goto(demo.at("/workspace"));
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Workspace");
  const scrolled = () =>
    page.evaluate(() => {
      scrollTo(0, 150);
      return scrollY;
    });
  await expect.poll(scrolled).toBe(150);
  const stands = () => page.evaluate(() => [history.length, scrollY, document.body.children.length]);
  const before = await stands();
  await last;
  await page.waitForLoadState("networkidle");
  // It is drawn once it has been read.
  await page.waitForTimeout(1_000);
  await expect(page).toHaveTitle(/^Workspace/);
  expect(page.url()).toBe(demo.at("/workspace"));
  expect(await stands()).toEqual(before);

  // From now on the service answers nothing.
  await page.route("**/*", () => {});
  const steps = page.getByRole("navigation", { name: "Steps of the work" });
  await steps.getByRole("link", { name: "Overview" }).click();
  await expect(page.getByRole("heading", { name: "Who is here" })).toBeVisible();
  await steps.getByRole("link", { name: "Invite" }).click();
  await expect(page.locator("tbody tr").first()).toBeVisible();
  await steps.getByRole("link", { name: "Record" }).click();
  await expect(page.locator("tbody tr").first()).toBeVisible();
  await steps.getByRole("link", { name: "People" }).click();
  await page.locator("tbody tr a").first().click();
  await expect(page.getByRole("heading", { name: "What they may do, and why" })).toBeVisible();
  await expect(page.getByText(/· through /).first()).toBeVisible();
  await expect(page.locator(".mantine-Skeleton-root")).toHaveCount(0);
});
