import type { Page } from "@playwright/test";
import { expect, test } from "./demo";

test("a wrong password is seen under Safety, and a forgotten one is replaced by mail", async ({
  demo,
  page,
}) => {
  const oona = "oona@lantern-tide.example";
  await page.goto(`${demo.ready.url}/sign-in`);
  await page.getByLabel("Mail address").fill(oona);
  await page.getByLabel("Password").fill("not this one");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await expect(page.locator(".refusal")).toContainText("wrong");

  await page.getByRole("link", { name: "Forgotten password" }).click();
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

test("whoever has duties in two workspaces goes from one to the other without signing out", async ({
  demo,
  page,
}) => {
  await demo.signIn(page, "teodor@lantern-tide.example");
  await page.goto(demo.at("/people"));
  await page.getByRole("button", { name: "The Lantern Tide: go to another workspace" }).click();
  await page.getByRole("menuitem", { name: "Gull Rock Port Museum" }).click();
  await page.waitForURL(/\/w\/gull-rock/);
  await expect(page.getByRole("button", { name: /^Gull Rock Port Museum/ })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Overview" })).toBeVisible();
});

/** An authenticator in the browser itself, which always says yes. */
async function withAuthenticator(page: Page) {
  const browser = await page.context().newCDPSession(page);
  await browser.send("WebAuthn.enable");
  await browser.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
}

test("a passkey is added, signs in without an address, counts once and only here, and is removed", async ({
  demo,
  page,
}) => {
  await withAuthenticator(page);
  await demo.signIn(page, "teodor@lantern-tide.example");
  await page.goto(`${demo.ready.url}/account`);
  await page.getByLabel("A name for a new passkey").fill("telephone");
  await page.getByRole("button", { name: "Add a passkey" }).click();
  await expect(page.getByText("Passkey: telephone")).toBeVisible();
  await expect(page.getByText('The passkey "telephone" was added.')).toBeVisible();
  await page.goto(`${demo.ready.url}/places`);
  await page.getByRole("button", { name: "Sign out" }).click();

  const shown = page.waitForRequest("**/sessions/by-passkey");
  await page.goto(`${demo.ready.url}/sign-in?next=/account`);
  await page.getByRole("button", { name: "Sign in with a passkey" }).click();
  await page.waitForURL("**/account");
  await expect(page.getByText("You signed in, with a passkey.")).toBeVisible();
  // The same answer a second time lets nobody in.
  const post = (body: object) =>
    fetch(`${demo.ready.url}/api/v1/sessions/by-passkey`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    });
  const again = await post((await shown).postDataJSON());
  expect(again.status).toBe(401);
  expect((await again.json()).code).toBe("sign-in.passkey-wrong");

  // Nor does one that a page elsewhere got its holder to give.
  const { id, options } = await (
    await fetch(`${demo.ready.url}/api/v1/sessions/passkey-options`, { method: "POST" })
  ).json();
  await page.goto(demo.ready.inbox.replace("127.0.0.1", "localhost"));
  const credential = await page.evaluate(async (asked) => {
    const given = await navigator.credentials.get({
      publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(asked),
    });
    return (given as PublicKeyCredential).toJSON();
  }, options);
  expect((await post({ ceremony: id, credential })).status).toBe(401);

  await page.goto(`${demo.ready.url}/account`);
  await page.getByRole("button", { name: "Remove: telephone" }).click();
  await expect(page.getByText('The passkey "telephone" was removed.')).toBeVisible();
  await page.goto(`${demo.ready.url}/sign-in`);
  await page.getByRole("button", { name: "Sign in with a passkey" }).click();
  await expect(page.getByRole("alert")).toContainText("This passkey lets nobody in here");
});
