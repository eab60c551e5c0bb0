import { expect, test } from "./demo";

test("a wrong password is seen under Safety, and a forgotten one is replaced by mail", async ({
  demo,
  page,
}) => {
  const oona = "oona@lantern-tide.example";
  await page.goto(`${demo.ready.url}/sign-in`);
  await page.getByLabel("Mail address").fill(oona);
  await page.getByLabel("Password").fill("not this one");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toContainText("wrong");

  await page.getByRole("link", { name: "Forgotten password?" }).click();
  await page.getByLabel("Mail address of the account").fill(oona);
  await page.getByRole("button", { name: "Send me a link" }).click();
  await expect(page.getByText("If there is an account at that address")).toBeVisible();
  const link = /https?:\/\/\S+\/new-password\/[A-Za-z0-9_-]{43}/;
  const found = async () => (await demo.mails(oona)).map((mail) => mail.text.match(link)?.[0]).find(Boolean);
  await expect.poll(found).toBeTruthy();
  await page.goto((await found()) as string);
  await page.getByLabel("New password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Keep the new password" }).click();
  await page.waitForURL(/places/);
  await page.goto((await found()) as string);
  await expect(page.getByRole("alert")).toContainText("used already");

  await page.goto(`${demo.ready.url}/places`);
  await page.getByRole("button", { name: "Sign out" }).click();
  await demo.signIn(page);
  await page.goto(demo.at("/record/safety"));
  await expect(
    page.getByRole("row", { name: /sign-in failed .*oona@lantern-tide.example/ }).first(),
  ).toBeVisible();
});

test("a link that was handed over asks for a code before it lets anybody in", async ({ demo, page }) => {
  const pilot = "pilot@quay-hire.example";
  const invitations = `${demo.ready.url}/api/v1/workspaces/${demo.ready.workspace}/invitations`;
  const headers = { Authorization: `Bearer ${demo.ready.adminToken}` };
  const sent = await page.request.post(invitations, {
    headers,
    data: { address: pilot, kind: "guest", role: "view" },
  });
  const made = await page.request.post(`${invitations}/${(await sent.json()).id}/link`, { headers });
  await page.goto((await made.json()).link);
  await expect(page.getByText("Mira Tollander handed you this link")).toBeVisible();
  await page.getByRole("button", { name: "Send a code to this address" }).click();
  await expect(page.getByText(`A code is on its way to ${pilot}`)).toBeVisible();
  const code = async () =>
    (await demo.mails(pilot)).map((mail) => mail.text.match(/^\s*(\d{8})\s*$/m)?.[1]).find(Boolean);
  await expect.poll(code).toBeTruthy();
  await page.getByLabel("Code", { exact: true }).fill((await code()) as string);
  await page.getByLabel("Your name").fill("The Pilot");
  await page.getByLabel("Choose a password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Accept the invitation" }).click();
  await page.waitForURL(/places/);
});
