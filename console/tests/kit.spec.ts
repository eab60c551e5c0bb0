import { expect, test } from "./demo";

test("a form says beside the field what is wrong with it, takes a day as it is written, and tells that it is kept", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/organisations"));
  await page.getByRole("button", { name: "Add an organisation" }).click();
  const dialog = page.getByRole("dialog");
  const name = dialog.getByRole("textbox", { name: "Name", exact: true });
  await name.fill("saltmarsh UNIVERSITY");
  const ends = dialog.getByRole("textbox", { name: "The agreement ends on" });
  for (const [written, shown] of [
    ["2031-02-28", "28 Feb 2031"],
    ["1.3.2031", "1 Mar 2031"],
    ["2 Mar 2031", "2 Mar 2031"],
  ] as const) {
    await ends.fill(written);
    await ends.blur();
    await expect(ends).toHaveValue(shown);
  }
  await dialog.getByRole("button", { name: "Add", exact: true }).click();
  await expect(name).toHaveAttribute("aria-invalid", "true");
  await expect(dialog.getByRole("alert")).toContainText("Take another name");
  await name.fill("Sextant Society");
  await dialog.getByRole("button", { name: "Add", exact: true }).click();
  await expect(page.getByText("The organisation is kept.")).toBeVisible();
  await expect(dialog).toBeHidden();

  // What the end of the agreement changes is in sight before it is changed.
  await page.getByRole("link", { name: "Sextant Society" }).click();
  await expect(page.getByText(/\(2 Mar/)).toBeVisible();
});

test("a number is a whole one that can be sent, and one that has to be there comes back when it is left out", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/seats"));
  await page.getByRole("button", { name: "Add a seat pool" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("textbox", { name: "Name", exact: true }).fill("Sextants");
  const seats = dialog.getByLabel("Seats");
  await seats.clear();
  await seats.press("Enter");
  await expect(dialog).toBeVisible();
  await expect(dialog.getByRole("alert")).toHaveCount(0);
  await seats.blur();
  await expect(seats).toHaveValue("1");
  await seats.clear();
  await seats.pressSequentially("-7.5x99999999");
  await expect(seats).toHaveValue("759999");
  await dialog.getByLabel("Changes a year for each seat").fill("3");
  await dialog.getByLabel("Changes a year for each seat").clear();
  await dialog.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("The seat pool is kept.")).toBeVisible();
  await expect(page.getByText("0 held, 0 reserved, 759,999 free of 759,999")).toBeVisible();

  // The old number is not put before the first digit of the new one.
  await page.goto(demo.at("/workspace/rules"));
  const days = page.getByLabel("Days to answer, unless told otherwise");
  await days.clear();
  await days.pressSequentially("21");
  await expect(days).toHaveValue("21");
});

test("what somebody else changed meanwhile is not overwritten", async ({ demo, page, browser }) => {
  await demo.signIn(page);
  const other = await (await browser.newContext()).newPage();
  await demo.signIn(other);
  const open = async (on: typeof page) => {
    await on.goto(demo.at("/access/seats"));
    await on.getByRole("region").first().getByRole("button", { name: "Change …" }).click();
    return on.getByRole("dialog");
  };
  const mine = await open(page);
  const theirs = await open(other);
  await theirs.getByRole("textbox", { name: "About it" }).fill("Changed by somebody else.");
  await theirs.getByRole("button", { name: "Save" }).click();
  await expect(other.getByText("The seat pool is kept.")).toBeVisible();
  await mine.getByRole("textbox", { name: "About it" }).fill("Changed without looking.");
  await mine.getByRole("button", { name: "Save" }).click();
  await expect(mine.getByRole("alert")).toContainText("Somebody else changed this meanwhile.");
  await page.reload();
  await expect(page.getByText("Changed by somebody else.")).toBeVisible();
  await other.context().close();
});

test("an area says what it needs, a preset what it gives, and both are removed again", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/resources"));
  await page.getByRole("button", { name: "Add an area" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("textbox", { name: "Name" }).fill("Rigging loft");
  await dialog.getByRole("combobox", { name: "Needs something in" }).click();
  await page.getByRole("option", { name: "Ship", exact: true }).click();
  await dialog.getByRole("combobox", { name: "Needs in Ship at least" }).click();
  await page.getByRole("option", { name: "edit", exact: true }).click();
  await dialog.getByRole("button", { name: "Add", exact: true }).click();
  const area = page.getByRole("region", { name: "Rigging loft" });
  await expect(area).toContainText("needs edit in Ship");
  await expect(area).toContainText("There is no resource in this area yet.");
  await area.getByRole("button", { name: "Change the area Rigging loft" }).click();
  await dialog.getByRole("button", { name: "Needs nothing in Ship" }).click();
  await dialog.getByRole("button", { name: "Change", exact: true }).click();
  await expect(area).not.toContainText("needs edit");
  await area.getByRole("button", { name: "Change the area Rigging loft" }).click();
  await dialog.getByRole("button", { name: "Remove the area" }).click();
  await expect(area).toBeHidden();

  await page.goto(demo.at("/invite/presets"));
  await page.getByRole("button", { name: "Save a preset" }).click();
  await dialog.getByRole("textbox", { name: "Name" }).fill("Night watch");
  await dialog.getByRole("combobox", { name: "Role", exact: true }).click();
  await page.getByRole("option", { name: /^view:/ }).click();
  await dialog.getByLabel("Days of the stay").fill("9");
  await dialog.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("row", { name: /Night watch/ })).toContainText("9 days");
  await page.getByRole("button", { name: "Remove Night watch" }).click();
  await expect(page.getByRole("row", { name: /Night watch/ })).toBeHidden();
});

test("whoever holds few duties sees the pages that open to them and no others", async ({ demo, page }) => {
  await demo.signIn(page, "rafael@lantern-tide.example");
  await page.goto(demo.at(""));
  const steps = page.getByRole("navigation", { name: "Steps of the work" });
  await expect(steps.getByRole("link", { name: "My places" })).toBeVisible();
  await expect(steps.getByRole("link", { name: "Workspace" })).toBeHidden();
  await expect(steps.getByRole("link", { name: "Record" })).toBeHidden();
  // A page that does not open says so, and the service was asked, and has noted it, once.
  const asked: string[] = [];
  page.on("request", (request) => {
    if (new URL(request.url()).pathname.endsWith("/api/v1/workspaces/lantern-tide/record"))
      asked.push(request.url());
  });
  await page.goto(demo.at("/record"));
  await expect(page.getByRole("alert").first()).toBeVisible();
  // Whoever would ask again does so with the page that is drawn now.
  await page.waitForTimeout(500);
  expect(asked).toHaveLength(1);
});
