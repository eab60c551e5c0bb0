import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "./demo";

test("somebody is given access to a resource, explained, switched off and seen as they see it", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.getByRole("link", { name: "Access" }).click();
  await page.getByRole("link", { name: "Refit budget" }).click();
  await page.getByRole("button", { name: "Give somebody access" }).click();
  await page.getByRole("combobox", { name: "Name or address" }).fill("benedikt");
  await page.getByRole("option", { name: /Benedikt Loom/ }).click();
  await page.getByRole("combobox", { name: "Role" }).click();
  await page.getByRole("option", { name: "edit" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByText("1 person gains something")).toBeVisible();
  await dialog.getByLabel("Tell those whose access changes by mail").check();
  await dialog.getByRole("button", { name: "Give the role edit" }).click();
  await expect(dialog).toBeHidden();
  const line = page.getByRole("listitem").filter({ hasText: "Benedikt Loom" });
  await expect(line.getByText("edit at Refit budget directly")).toBeVisible();
  await expect(line.getByText("view directly (view, adds nothing)")).toBeVisible();
  await expect
    .poll(async () => (await demo.mails("benedikt@lantern-tide.example"))[0]?.subject)
    .toContain("has changed");

  await line.getByRole("button", { name: "Change the access of Benedikt Loom" }).click();
  await dialog.getByRole("button", { name: /^Switch Benedikt Loom off here/ }).click();
  await dialog.getByRole("button", { name: "Switch Benedikt Loom off", exact: true }).click();
  await expect(dialog).toBeHidden();
  await expect(line.getByText("switched off for this resource")).toBeVisible();

  await line.getByRole("link", { name: "Benedikt Loom" }).click();
  await expect(page.getByRole("heading", { name: "What they may do, and why" })).toBeVisible();
  await page.getByRole("link", { name: "See as they do" }).click();
  await expect(page.getByRole("cell", { name: "Rigging plans" })).toBeVisible();
  await expect(page.getByRole("cell", { name: "Refit budget" })).toHaveCount(0);
});

test("a new address at a resource is invited with just that role", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/resources"));
  await page.getByRole("link", { name: "Deck bookings" }).click();
  await page.getByRole("button", { name: "Give somebody access" }).click();
  await page.getByRole("combobox", { name: "Name or address" }).fill("new.hirer@quay-hire.example");
  await expect(page.getByText("Nobody here has the address new.hirer@quay-hire.example.")).toBeVisible();
  await expect(page.getByRole("alert")).toHaveCount(0);
  await page.getByRole("button", { name: "Invite new.hirer@quay-hire.example" }).click();
  await expect(page.getByRole("dialog")).toBeHidden();
  await page.goto(demo.at("/invite?search=new.hirer"));
  await page.getByRole("link", { name: "new.hirer@quay-hire.example" }).click();
  await expect(page.getByText("view at Deck bookings")).toBeVisible();
});

test("a resource is made, put into another area and removed, with who gains and loses in sight", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/resources"));
  await page.getByRole("button", { name: "Add a resource" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Name").fill("Binnacle drawings");
  await dialog.getByRole("button", { name: "Add" }).click();
  await page.getByRole("link", { name: "Binnacle drawings" }).click();

  await page.getByRole("button", { name: "Change it …" }).click();
  await dialog.getByRole("combobox", { name: "Area" }).click();
  await page.getByRole("option", { name: "Voyages" }).click();
  await expect(dialog.getByText(/people? gains? something, .* loses? something/)).toBeVisible();
  await dialog.getByRole("button", { name: "Change", exact: true }).click();
  await expect(page.getByLabel("About it").getByText("Voyages")).toBeVisible();

  await page.getByRole("button", { name: "Remove it …" }).click();
  await expect(dialog.getByText(/^\d+ people lose something$/)).toBeVisible();
  await dialog.getByRole("button", { name: "Remove Binnacle drawings" }).click();
  await expect(page.getByRole("link", { name: "Rigging plans" })).toBeVisible();
  await expect(page.getByRole("link", { name: "Binnacle drawings" })).toHaveCount(0);
});

test("an organisation is switched off for a resource, and on again, from its own page", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/organisations"));
  await page.getByRole("link", { name: "Slow Harbour Films" }).click();
  await page.getByRole("button", { name: "Switch off for …" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("combobox", { name: "Resource" }).click();
  await page.getByRole("option", { name: "Picture library" }).click();
  await expect(dialog.getByText(/loses? something$/)).toBeVisible();
  await dialog.getByRole("button", { name: "Switch off", exact: true }).click();
  await page.getByRole("button", { name: "Switch Picture library on again" }).click();
  await expect(dialog.getByText(/gains? something$/)).toBeVisible();
  await dialog.getByRole("button", { name: "Switch on", exact: true }).click();
  await expect(dialog).toBeHidden();
  await expect(page.getByRole("button", { name: "Switch Picture library on again" })).toHaveCount(0);
});

test("a role is changed with what that changes in sight, and what it would miss", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/roles"));
  await page.getByRole("button", { name: "Make a role" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Name").fill("trustee");
  await dialog.getByLabel(/^What its holder can do/).fill("Reads the season report.");
  await dialog.getByRole("combobox", { name: "Reports" }).click();
  await page.getByRole("option", { name: "view" }).click();
  await expect(dialog.getByText("Reports needs view in Loans; the role has none there.")).toBeVisible();
  await dialog.getByRole("button", { name: "Give what is needed" }).click();
  await expect(dialog.getByText("Some areas need others")).toBeHidden();
  await expect(dialog.getByRole("combobox", { name: "Shop" })).toHaveValue("view");
  await dialog.getByRole("button", { name: "Make the role" }).click();
  await expect(page.getByRole("columnheader", { name: /trustee/ })).toBeVisible();
});

test("seats say before what remains after, and several people are paused at once", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/seats"));
  await page.getByRole("button", { name: "Pass the seat of Kit Hollis on" }).click();
  await page.getByRole("combobox", { name: "To whom" }).fill("ama@quayside-weddings.example");
  await expect(
    page.getByText("3 held, 0 reserved, 1 free of 4; 3 changes left", { exact: false }),
  ).toBeVisible();
  await page.getByRole("button", { name: "Pass it on" }).click();
  await expect(page.getByRole("button", { name: "Pass the seat of Ama Boateng on" })).toBeVisible();

  await page.goto(demo.at("/people?search=copper-and"));
  await page.getByRole("checkbox", { name: "Choose Mei-Lin Torres" }).check();
  await page.getByRole("button", { name: "Sign-in, stay, kind, roles …" }).click();
  await page.getByRole("menuitem", { name: "Pause …" }).click();
  await page.getByRole("button", { name: "Pause: 1 of 1" }).click();
  await expect(page.getByRole("cell", { name: "paused" })).toBeVisible();
});

test("the lead of an organisation invites a colleague from My places, without scripts", async ({
  demo,
  browser,
}) => {
  const context = await browser.newContext({ javaScriptEnabled: false });
  const page = await context.newPage();
  await demo.signIn(page, "beatrix@gullrock-museum.example");
  await page.goto(`${demo.ready.url}/places`);
  await page.getByRole("link", { name: "Your colleagues of Gull Rock Port Museum" }).click();
  await page.getByLabel("Their mail address").fill("somebody@elsewhere.example");
  await page.getByRole("button", { name: "Send the invitation" }).click();
  await expect(page.getByRole("alert")).toContainText("gullrock-museum.example");
  await page.getByLabel("Their mail address").fill("wim@gullrock-museum.example");
  await page.getByRole("button", { name: "Send the invitation" }).click();
  await expect(page.getByRole("status")).toContainText("wim@gullrock-museum.example is invited");
  const landing = await demo.invitationLink("wim@gullrock-museum.example");
  await page.goto(landing);
  await expect(page.getByText("See Loan paperwork.")).toBeVisible();
  await context.close();
});

test("what somebody may not do is not offered", async ({ demo, page }) => {
  const call = (path: string, data: object) =>
    page.request.post(`${demo.ready.url}/api/v1/workspaces/${demo.ready.workspace}${path}`, {
      headers: { authorization: `Bearer ${demo.ready.adminToken}` },
      data,
    });
  const role = {
    name: "purser",
    sentence: "Give out seats, and approve.",
    everywhere: "view",
    areas: [],
    duties: ["seats", "approve"],
  };
  expect((await call("/roles", role)).status()).toBe(201);
  expect((await call("/grants", { role: "purser", person: "benedikt@lantern-tide.example" })).status()).toBe(
    201,
  );

  await demo.signIn(page, "benedikt@lantern-tide.example");
  await page.goto(demo.at("/invite"));
  await expect(page.getByRole("heading", { name: "Invite", exact: true })).toBeVisible();
  await expect(page.getByRole("navigation", { name: "Inviting" }).getByRole("link")).toHaveText([
    "Invitations",
  ]);
  await expect(page.getByRole("link", { name: "Invite someone" })).toHaveCount(0);
  await page.getByRole("link", { name: "Access" }).click();
  await expect(page.getByRole("button", { name: "Add a seat pool" })).toBeVisible();
  await expect(page.getByRole("navigation", { name: "Access" }).getByRole("link")).toHaveText(["Seats"]);
  await page.goto(demo.at("/"));
  await expect(page.getByRole("heading", { name: "Who is here" })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Invitations that expire" })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Ends within 30 days" })).toHaveCount(0);
  await expect(page.getByRole("link", { name: "Invite someone" })).toHaveCount(0);
});

test("people who have a role directly are moved under a group, and back", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/access/groups"));
  await page.getByRole("link", { name: "Film night" }).click();
  await page.getByRole("button", { name: "Move people in" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("combobox", { name: "What they have directly" }).click();
  await page.getByRole("option", { name: "contribute" }).click();
  await dialog.getByRole("combobox", { name: "Where" }).click();
  await page.getByRole("option", { name: "Picture library" }).click();
  await expect(dialog.getByText("3 people: contribute at Picture library")).toBeVisible();
  expect((await new AxeBuilder({ page }).include("[role=dialog] form").analyze()).violations).toEqual([]);
  await dialog.getByRole("button", { name: "Move them" }).click();
  await expect(page.getByRole("heading", { name: "3 members" })).toBeVisible();
  await page.getByRole("button", { name: "Move people in" }).click();
  await page.getByRole("button", { name: "Undo the last move" }).click();
  await expect(page.getByRole("heading", { name: "0 members" })).toBeVisible();
});
