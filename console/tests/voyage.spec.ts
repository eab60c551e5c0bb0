import { expect, test } from "./demo";

const password = "tide tables and tea";

test("somebody is invited in the console, comes aboard without scripts, is seen and let go", async ({
  demo,
  page,
  browser,
}) => {
  const address = "pilot@harbour.example";
  await demo.signIn(page);
  await page.getByRole("link", { name: "Invite someone" }).click();
  await page.getByRole("combobox", { name: "Mail address" }).fill(address);
  await page.getByLabel("Name", { exact: true }).fill("Pia Lotse");
  await page.getByRole("combobox", { name: "Role", exact: true }).click();
  await page.getByRole("option", { name: /^view:/ }).click();
  await page.getByLabel("partner").check();
  await page.getByLabel("Last day").fill("2030-01-31");
  await page.getByLabel("Message").fill("Bring charts.");
  const mail = page.frameLocator('iframe[title="The mail, formatted"]');
  await expect(mail.getByText("Dear Pia Lotse,")).toBeVisible();
  await expect(mail.getByText("Your access ends after 31 January 2030.")).toBeVisible();
  await page.getByRole("button", { name: "Send the invitation" }).click();
  await expect(page.getByRole("heading", { name: "Pia Lotse" })).toBeVisible();
  await expect(page.getByText("Mail taken by the mail server")).toBeVisible();

  const visitor = await browser.newContext({
    javaScriptEnabled: false,
    viewport: { width: 360, height: 740 },
  });
  const landing = await visitor.newPage();
  await landing.goto(await demo.invitationLink(address));
  await expect(landing.getByText("31 January 2030, inclusive")).toBeVisible();
  await expect(landing.getByText("Bring charts.")).toBeVisible();
  const sideways = await landing.evaluate(() => document.documentElement.scrollWidth > window.innerWidth);
  expect(sideways).toBe(false);
  await landing.getByLabel("Choose a password").fill("short");
  await landing
    .getByLabel("Choose a password")
    .evaluate((input: HTMLInputElement) => input.removeAttribute("minlength"));
  await landing.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(landing.getByRole("alert")).toContainText("shorter than 10");
  await landing.getByLabel("Choose a password").fill(password);
  await landing.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(landing.getByRole("heading", { name: "My places" })).toBeVisible();
  await expect(landing.getByText("31 January 2030, inclusive")).toBeVisible();

  await expect(page.getByText("Came aboard").or(page.getByText("Invitation accepted"))).toBeVisible();
  await page.getByRole("link", { name: "see the person" }).click();
  await expect(page.getByText("Came aboard")).toBeVisible();
  await page.getByRole("button", { name: "End access" }).click();
  await expect(page.getByText("The role view in the whole workspace")).toBeVisible();
  await expect(page.getByText("1 open sign-in is closed.")).toBeVisible();
  await page.getByRole("button", { name: "End the access of Pia Lotse now" }).click();
  await expect(page.getByText("Access ended")).toBeVisible();
  await landing.reload();
  await expect(landing.getByRole("heading", { name: "Sign in", exact: true })).toBeVisible();
  await visitor.close();

  await page.getByRole("link", { name: "Record" }).click();
  await page.getByRole("button", { name: "Verify the record" }).click();
  await expect(page.getByText("The record is whole.")).toBeVisible();
});

test("somebody invited already or here is pointed to instead of being invited again", async ({
  demo,
  page,
}) => {
  await demo.signIn(page);
  await page.goto(demo.at("/invite/new"));
  await page.getByRole("combobox", { name: "Mail address" }).fill("zadie@slow-harbour-films.example");
  await page.getByRole("link", { name: "Open that invitation to resend or revoke it" }).click();
  await page.getByRole("button", { name: "Resend with a new link" }).click();
  await expect(page.getByText("Sent again with a new link")).toBeVisible();
  await page.getByRole("button", { name: "Revoke" }).click();
  await expect(page.getByText("Invitation taken back")).toBeVisible();

  await page.goto(demo.at("/invite/new"));
  await page.getByRole("combobox", { name: "Mail address" }).fill("oona@lantern-tide.example");
  await expect(page.getByRole("button", { name: "Send the invitation" })).toBeDisabled();
  // Said below, while somebody is still typing above.
  await expect(page.getByRole("link", { name: "Open their page" })).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Mail address" })).toBeInViewport();
  await page.getByRole("link", { name: "Open their page" }).click();
  await expect(page.getByRole("heading", { name: "Oona Fairweather" })).toBeVisible();
});

test("a forwarded invitation asks the stranger's account for a code", async ({ demo, page, browser }) => {
  const address = "joaquim@ferro-sound.example";
  await demo.signIn(page, "greta@halyard-ropeworks.example");
  await page.goto(await demo.invitationLink(address));
  await expect(page.getByRole("heading", { name: "Accept as Greta Halyard" })).toBeVisible();
  await page.getByRole("button", { name: `Send a code to ${address}` }).click();
  await expect(page.getByText(`A code is on its way to ${address}.`)).toBeVisible();
  await page.getByLabel("Code").fill("00000000");
  await page.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(page.getByRole("alert")).toContainText("wrong");
  // Greta is in this workspace already, so even the right code does not make her a second person here.
  const code = (await demo.mails(address))
    .map((mail) => mail.text.match(/\b\d{8}\b/)?.[0])
    .find(Boolean) as string;
  await page.getByLabel("Code").fill(code);
  await page.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(page.getByRole("alert")).toContainText("already a member");

  // Nor does it stop the one who was meant from saying no.
  const owner = await browser.newPage();
  await owner.goto(await demo.invitationLink(address));
  await owner.getByLabel("Do not invite me again").check();
  await owner.getByRole("button", { name: "Decline" }).click();
  await expect(owner.getByRole("heading", { name: "Declined" })).toBeVisible();
  await owner.close();
});

test("lists are filtered and searched by their address, which works as a deep link", async ({
  demo,
  page,
}) => {
  await page.goto(demo.at("/invite?state=bounced"));
  await page.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await expect(page).toHaveURL(/invite\?state=bounced/);
  await expect(page.getByRole("link", { name: "Matthias Kell" })).toBeVisible();
  await expect(page.getByRole("row")).toHaveCount(3);
  await page.goto(demo.at("/people?kind=partner&search=copper-and"));
  await expect(page.getByRole("row")).toHaveCount(2);
  await page.getByRole("searchbox").fill("nobody at all");
  await expect(page.getByText("Nobody fits.")).toBeVisible();
  // Somebody quick opens a page before the search has begun, and stays there.
  await page.goto(demo.at("/people"));
  const link = page.getByRole("link", { name: "Rosalind Keel" });
  await link.waitFor();
  await page.getByRole("searchbox").fill("rosalind");
  await link.click();
  await page.waitForTimeout(400);
  await expect(page.getByRole("heading", { name: "Rosalind Keel" })).toBeVisible();
});
