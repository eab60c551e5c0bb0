import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./demo";

test("the people of a directory are decided by keyboard, and what is decided is done", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts/connections"));
  await expect(page.getByText("3 to decide, 6 to do, 1 gone there.")).toBeVisible();
  await page.getByRole("link", { name: "Harbour authority" }).click();
  const table = page.getByRole("list", { name: "Match table" });
  const row = (name: string) => table.getByRole("listitem", { name: new RegExp(`^${name}:`) });
  await row("Ines Calloway").focus();
  await page.keyboard.press("ArrowDown");
  await expect(row("Hamish Orlo")).toBeFocused();
  await page.keyboard.press("j");
  const fate = (name: string) => page.getByRole("combobox", { name: `What is to be done with ${name}` });
  await expect(fate("Hamish Orlo")).toHaveValue("join");
  await row("J. Pike").focus();
  await page.keyboard.press("l");
  await expect(fate("J. Pike")).toHaveValue("leave out");
  // It may be two people: with whom it is joined has to be said.
  await row("Ines Calloway").focus();
  await page.keyboard.press("j");
  const dialog = page.getByRole("dialog", { name: "Join Ines Calloway with somebody here" });
  await dialog.getByLabel("Who they are here").fill("ines.calloway@saltmarsh-university.example");
  // Once it is known who that is, the field says it, and no list lies over the button.
  await expect(dialog.getByText("Dr Ines Calloway · member, Saltmarsh University")).toBeVisible();
  await dialog.getByRole("button", { name: "Join" }).click();
  await expect(row("Ines Calloway").getByText("said Mira Tollander")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  await page.getByRole("button", { name: "Do what is decided" }).click();
  await expect(page.getByText("5 profiles are joined with people who are here.")).toBeVisible();
  await expect(page.getByText("3 people are invited by mail.")).toBeVisible();
  await page.getByRole("button", { name: "Do it", exact: true }).click();
  await expect(page.getByText("0 to decide, 0 to do, 8 done", { exact: false })).toBeVisible();

  await page.getByRole("combobox", { name: "Show" }).click();
  await page.getByRole("option", { name: "gone there (1)" }).click();
  await row("Alasdair Reeve").getByRole("button", { name: "They stay" }).click();
  await expect(page.getByText("There is none like that.")).toBeVisible();
});

test("a list is added as a connection, narrowed and decided in bulk, and far fewer are not believed", async ({
  demo,
  page,
}) => {
  const list = (count: number) => ({
    name: "pilots.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(
      `id,name,address,organisation\n${Array.from({ length: count }, (_, i) => `${i},Pilot Number${i},p${i}@pilots.example,Pilots`).join("\n")}\n`,
    ),
  });
  await demo.signIn(page);
  await page.goto(demo.at("/accounts/connections"));
  await page.getByRole("button", { name: "Add a connection" }).click();
  const dialog = page.getByRole("dialog", { name: "Add a connection" });
  await dialog.getByLabel("Name", { exact: false }).first().fill("Pilots");
  const chooser = page.waitForEvent("filechooser");
  await dialog.getByLabel("The file").click();
  await (await chooser).setFiles(list(250));
  await dialog.getByRole("combobox", { name: "Those who are new" }).click();
  await page.getByRole("option", { name: "are left alone" }).click();
  expect((await new AxeBuilder({ page }).include("[role=dialog] form").analyze()).violations).toEqual([]);
  await dialog.getByRole("button", { name: "Add it" }).click();
  await expect(page.getByText("It was not read as yet", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Read again" }).click();
  await expect(page.getByRole("list", { name: "Match table" })).toBeVisible();
  await page.getByRole("searchbox").fill("p24");
  await expect(page.getByRole("list", { name: "Match table" }).getByRole("listitem")).toHaveCount(11);
  await page
    .getByRole("group", { name: "Decide for several" })
    .getByRole("button", { name: "Leave out" })
    .click();
  await expect(page.getByText("11 decided.")).toBeVisible();

  const again = page.waitForEvent("filechooser");
  await page.getByRole("button", { name: "New file" }).click();
  await (await again).setFiles(list(20));
  await expect(page.getByText("230 of 250 are not there any more", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "They have really left" }).click();
  await page.getByRole("button", { name: "They have left" }).click();
  await expect(page.getByText("are not there any more", { exact: false })).toBeHidden();
});
