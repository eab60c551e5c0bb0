import { createHash } from "node:crypto";
import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./demo";

test("who is not let go of elsewhere stays on a list until somebody stands for it", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at(""));
  await expect(
    page.getByText("Somebody left, and a connected system has not confirmed that their account is closed."),
  ).toBeVisible();
  await page.goto(demo.at("/endings"));
  const open = page.getByRole("region", { name: "Not confirmed elsewhere" });
  await expect(open.getByText("waits for Gangway locks")).toBeVisible();
  await open.getByRole("link", { name: "stuck" }).click();
  await expect(page.getByRole("heading", { name: "Departure of Olumide Strand" })).toBeVisible();
  await expect(page.getByText("It answered 400: Closed for stocktaking.")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Confirm by hand …" }).click();
  const dialog = page.getByRole("dialog", { name: "Gangway locks: the account of Olumide Strand" });
  await dialog.getByLabel("How was it made sure, and by whom?").fill("The lock was changed today.");
  await dialog
    .locator('input[type="file"]')
    .setInputFiles({ name: "letter.txt", mimeType: "text/plain", buffer: Buffer.from("It is closed.") });
  await dialog.getByRole("button", { name: "Say that it is closed" }).click();
  await expect(page.getByText("Mira Tollander: The lock was changed today.")).toBeVisible();
  await expect(page.getByRole("link", { name: "Save the receipt" })).toBeVisible();
  const [saved] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "letter.txt" }).click(),
  ]);
  expect(saved.suggestedFilename()).toBe("letter.txt");
  await page.getByRole("link", { name: "Print it" }).click();
  await expect(page.getByRole("heading", { name: "Receipt: Olumide Strand has left" })).toBeVisible();
  const digest = createHash("sha256").update("It is closed.").digest("hex");
  await expect(page.getByText(`letter.txt, SHA-256 ${digest}`)).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.emulateMedia({ media: "print" });
  await expect(page.getByRole("button", { name: "Print" })).toBeHidden();
  await page.emulateMedia({ media: "screen" });
  await page.goBack();
  await page.getByRole("button", { name: "Reinstate …" }).click();
  const back = page.getByRole("dialog", { name: "Reinstate Olumide Strand" });
  await expect(back.getByText("Their account in Gangway locks is made or switched on again.")).toBeVisible();
  await back.getByRole("button", { name: "Reinstate Olumide Strand" }).click();
  await expect(page.getByText("Olumide Strand is here again and is told by mail.")).toBeVisible();
});

test("who has what in an application outside is looked at first and carried out then", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts/connections"));
  const sheet = page.getByRole("region", { name: "Film store" });
  await sheet.getByRole("link", { name: "Access there" }).click();
  await expect(page.getByText("It holds what it ought to.")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Add a line" }).click();
  const dialog = page.getByRole("dialog", { name: "Who has what there" });
  await dialog.getByLabel("Whoever").click();
  await page.getByRole("option", { name: "is in the group" }).click();
  await dialog.getByLabel("Which").fill("Open");
  await page.getByRole("option", { name: "Open ship days" }).click();
  await expect(dialog.getByText("Kofi A. Darkwater: made")).toBeVisible();
  expect((await new AxeBuilder({ page }).include("[role=dialog] form").analyze()).violations).toEqual([]);
  await dialog.getByRole("button", { name: "Carry it out: 1 account" }).click();
  await expect(page.getByText("is in the group Open ship days")).toBeVisible();
  await expect(page.getByRole("row", { name: /Kofi A. Darkwater.*confirmed/ })).toBeVisible();
});

test("what nobody ought to have elsewhere is listed, and somebody says what becomes of it", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts/connections"));
  const sheet = page.getByRole("region", { name: "Chart table" });
  await expect(sheet.getByText("1 left over there.")).toBeVisible();
  await sheet.getByRole("link", { name: "Access there" }).click();
  const holds = page.getByRole("region", { name: "What it really holds" });
  await holds.getByRole("button", { name: "Sweep now" }).click();
  await expect(page.getByText(/0 otherwise than they ought to be, 1 left over/)).toBeVisible();
  await holds
    .getByRole("row", { name: /odo.brandt@former-crew.example/ })
    .getByRole("button", { name: "Decide …" })
    .click();
  const dialog = page.getByRole("dialog", { name: "odo.brandt@former-crew.example there" });
  expect((await new AxeBuilder({ page }).include("[role=dialog] form").analyze()).violations).toEqual([]);
  await dialog.getByRole("button", { name: "Remove it there" }).click();
  await expect(holds.getByText("Nothing is left over")).toBeVisible();
  await page.goto(demo.at("/people?search=yusra"));
  await page.getByRole("link", { name: "Yusra Halim" }).first().click();
  const elsewhere = page.getByRole("region", { name: "In connected systems" });
  await elsewhere.getByRole("button", { name: "Ask them now" }).click();
  await expect(elsewhere.getByText("as it ought to be")).toHaveCount(3);
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
});

test("who has left is erased after it was said what goes, and nothing tells who they were", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/people?state=ended"));
  await page.getByRole("link", { name: "Tomas Ebb" }).click();
  await page.getByRole("button", { name: "Erase their data …" }).click();
  const dialog = page.getByRole("dialog", { name: "Erase what tells who Tomas Ebb was" });
  await expect(dialog.getByText("1 stay here, with name, address and details")).toBeVisible();
  await expect(dialog.getByText("Their account is their own, and stays with them.")).toBeVisible();
  expect((await new AxeBuilder({ page }).include("[role=dialog] form").analyze()).violations).toEqual([]);
  await dialog.getByRole("button", { name: "Erase Tomas Ebb for good" }).click();
  await expect(page.getByRole("heading", { name: "Erased person", exact: true })).toBeVisible();
  await expect(page.getByText("Tomas")).toHaveCount(0);
});
