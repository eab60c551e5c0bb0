import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./demo";

test("a domain is added, shown by the name server, and proved", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/workspace/domains"));
  await page.getByRole("button", { name: "Add a domain" }).click();
  await page.getByRole("textbox", { name: "Domain" }).fill("harbour.example");
  await page.getByRole("button", { name: "Add it" }).click();
  const sheet = page.getByRole("region", { name: "harbour.example" });
  await expect(sheet.getByText("The record is not seen yet.", { exact: false })).toBeVisible();
  const record = (await sheet.locator("pre").textContent()) ?? "";
  const [, name, text] = record.match(/^(\S+)\. IN TXT "(.+)"$/) ?? [];
  expect(
    (
      await fetch(`${demo.ready.inbox}/dns`, {
        method: "POST",
        body: new URLSearchParams({ name: name ?? "", text: text ?? "" }),
      })
    ).ok,
  ).toBe(true);
  await sheet.getByRole("button", { name: "Look now" }).click();
  await expect(sheet.getByText("Proved since", { exact: false })).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
});

test("the holder of an account is asked, sees the question in their account, and declines", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts"));
  await page.getByLabel("Choose nomi@lantern-tide.example").check();
  await page.getByLabel("Why, as the holder reads it").fill("You leave the ship in spring.");
  await expect(page.getByText("Its holder is asked", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Ask them" }).click();
  const row = page.getByRole("row", { name: /nomi@lantern-tide.example/ });
  await expect(row.getByText("asked")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  await page.context().clearCookies();
  await demo.signIn(page, "nomi@lantern-tide.example");
  await page.goto(`${demo.ready.url}/account`);
  await page.getByRole("link", { name: "Read and answer" }).click();
  await expect(page.getByText("Why: You leave the ship in spring.")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Decline" }).click();
  await expect(page.getByText("You declined. Nothing has changed.")).toBeVisible();

  await page.context().clearCookies();
  await demo.signIn(page);
  await page.goto(demo.at("/accounts"));
  await expect(row.getByText("declined")).toBeVisible();
});

test("a held account is paused and let be used again, and what follows is said before", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts"));
  const row = page.getByRole("row", { name: /rafael@lantern-tide.example/ });
  const take = async (step: string) => {
    await page.getByLabel("Choose rafael@lantern-tide.example").check();
    await page.getByRole("combobox", { name: /With rafael/ }).click();
    await page.getByRole("option", { name: step }).click();
  };
  await take("Close the account for good");
  await expect(page.getByText("has not ended", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Leave it" }).click();
  await take("Pause the account");
  await expect(page.getByText("Nobody signs in with it", { exact: false })).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Pause the account" }).click();
  await expect(row.getByText("paused")).toBeVisible();
  await take("Let it be used again");
  await page.getByRole("button", { name: "Let it be used again" }).click();
  await expect(row.getByText("paused")).toBeHidden();
});

test("an account is made outright, and its sheet saved", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts"));
  await page.getByRole("button", { name: "Make an account" }).click();
  await page.getByLabel("Address").fill("wilma@lantern-tide.example");
  await page.getByLabel("Name").fill("Wilma Deck");
  await page.getByLabel("Hand the set-up link over on a printed sheet").check();
  await page.getByRole("button", { name: "Make it" }).click();
  const [sheet] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Save the sheet" }).click(),
  ]);
  expect(sheet.suggestedFilename()).toBe("account-wilma-deck.html");
  await page.goto(demo.at("/accounts"));
  await expect(
    page.getByRole("row", { name: /wilma@lantern-tide.example/ }).getByText("taken"),
  ).toBeVisible();
});

test("a name is proposed on a person's page, and accepted by whose account it is", async ({ demo, page }) => {
  // Somebody whom no other scene looks up by name.
  await demo.signIn(page);
  await page.goto(demo.at("/people?search=jonah"));
  await page.getByRole("link", { name: "Jonah Pike" }).click();
  await page.getByRole("button", { name: "Name or address" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("textbox", { name: "New name" }).fill("Jonah T. Pike");
  await dialog.getByRole("textbox", { name: "Why" }).fill("As it stands on the crew list.");
  expect(
    (await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]).analyze())
      .violations,
  ).toEqual([]);
  await dialog.getByRole("button", { name: "Correct or propose it" }).click();
  await expect(page.getByText("A mail asks", { exact: false })).toBeVisible();

  await page.context().clearCookies();
  await demo.signIn(page, "jonah.pike@volunteers.example");
  await page.goto(`${demo.ready.url}/account`);
  await expect(page.getByText("As it stands on the crew list.")).toBeVisible();
  expect(
    (await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]).analyze())
      .violations,
  ).toEqual([]);
  await page.getByRole("button", { name: "Accept" }).click();
  await expect(page.getByText("Proposed to you")).toBeHidden();
  await expect(page.getByText("Jonah T. Pike").first()).toBeVisible();
});

test("two accounts are laid side by side, made one, and parted again", async ({ demo, page }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/accounts/twice"));
  await page.getByRole("listitem", { name: /Kofi/ }).getByRole("link", { name: "Make them one" }).click();
  await expect(page.getByRole("heading", { name: "Side by side" })).toBeVisible();
  await expect(page.getByText("Proposed: kofi@lantern-tide.example, staff here.")).toBeVisible();
  await expect(page.getByText("What neither could do before")).toBeVisible();
  await expect(page.getByText("manage at Deck bookings: edit is left")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  // Somebody else may stay, and other values be taken.
  await page.getByRole("radio", { name: /^Kofi A. Darkwater/ }).check();
  await expect(page.getByRole("heading", { name: /comes over from kofi@/ })).toBeVisible();
  await page.getByRole("radio", { name: /^Kofi Darkwater/ }).check();
  await page.getByRole("button", { name: "take this: the name of k.darkwater@lantern-tide.example" }).click();
  await expect(page.getByText("chosen")).toBeVisible();
  await page.getByRole("button", { name: "take this: the name of kofi@lantern-tide.example" }).click();
  await page.getByRole("checkbox", { name: "In the group Open ship days." }).check();
  await expect(page.getByText("What is lost")).toBeHidden();
  await page.getByRole("button", { name: "Make them one" }).click();
  await expect(page.getByRole("heading", { name: "Kofi Darkwater" })).toBeVisible();
  await expect(page.getByText("k.darkwater@lantern-tide.example", { exact: true })).toBeVisible();

  await page.goto(demo.at("/accounts/twice"));
  await page.getByRole("combobox", { name: "Show" }).click();
  await page.getByRole("option", { name: "made one" }).click();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Part again" }).click();
  await expect(page.getByText("They are two again.")).toBeVisible();
  await expect(page.getByText(/parted again/)).toBeVisible();
  // They are found anew, like anybody who comes.
  await expect(async () => {
    await page.goto(demo.at(""));
    await expect(page.getByText("5 pairs of people may be one person each.")).toBeVisible({ timeout: 2_000 });
  }).toPass({ timeout: 60_000 });
});

test("who is here twice is worked through by keyboard, and what was said is taken back", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at(""));
  await expect(page.getByText("5 pairs of people may be one person each.")).toBeVisible();
  await page.goto(demo.at("/accounts"));
  await page.getByRole("link", { name: "Twice here" }).click();
  const pairs = page.getByRole("list", { name: "Pairs" }).locator(":scope > li");
  await expect(pairs).toHaveCount(5);
  const second = (await pairs.nth(1).getAttribute("aria-label")) ?? "";
  await pairs.nth(0).focus();
  await page.keyboard.press("ArrowDown");
  await expect(pairs.nth(1)).toBeFocused();
  await page.keyboard.press("t");
  await expect(pairs).toHaveCount(4);
  await expect(page.getByText("They are not brought up again.")).toBeVisible();
  await expect(pairs.nth(1)).toBeFocused();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Take back" }).click();
  await expect(pairs).toHaveCount(5);
  await expect(page.getByLabel(second)).toBeVisible();

  // A letter that is written into a field says nothing.
  const last = pairs.nth(3);
  await last.getByLabel("Why they are two, for the record").pressSequentially("two sisters");
  await expect(pairs).toHaveCount(5);
  await last.getByRole("button", { name: "They are two people" }).click();
  await expect(pairs).toHaveCount(4);
  await page.getByRole("combobox", { name: "Show" }).click();
  await page.getByRole("option", { name: "said to be two, or one on purpose" }).click();
  await expect(page.getByText("two sisters", { exact: false })).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Take back" }).click();
  await expect(page.getByText("Of nobody was it said that they are two people.")).toBeVisible();
});
