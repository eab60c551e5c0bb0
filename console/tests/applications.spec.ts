import { type ChildProcess, spawn } from "node:child_process";
import { createInterface } from "node:readline";
import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./demo";

let program: ChildProcess;
let said: AsyncIterator<string>;
const next = async () => (await said.next()).value as string;

test.beforeAll(() => {
  program = spawn("node", ["tests/relying.mjs"], { stdio: ["pipe", "pipe", "inherit"] });
  if (program.stdout) said = createInterface(program.stdout)[Symbol.asyncIterator]();
});
test.afterAll(() => program.kill());

test("an application is registered, people sign in to it from here, and it is told when they sign out", async ({
  demo,
  page,
}) => {
  const origin = await next();
  await demo.signIn(page);
  await page.goto(demo.at("/workspace/applications"));
  await page.getByRole("button", { name: "Register an application" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("textbox", { name: "Name" }).fill("Ship's log");
  const back = dialog.getByRole("combobox", { name: "People come back to" });
  await back.fill(`${origin}/back`);
  await back.press("Enter");
  await dialog.getByRole("textbox", { name: "Told of sign-outs at" }).fill("no address");
  await dialog.getByRole("button", { name: "Register it" }).click();
  await expect(dialog).toContainText("is not an address people can be sent to");
  await dialog.getByRole("textbox", { name: "Told of sign-outs at" }).fill(`${origin}/signed-out`);
  await dialog.getByRole("combobox", { name: "It is the resource" }).fill("Rigging");
  await page.getByRole("option", { name: "Rigging plans" }).click();
  await dialog.getByRole("combobox", { name: "Duties it may ask for" }).click({ force: true });
  await page.getByRole("option", { name: "people" }).click();
  await page.keyboard.press("Escape");
  await dialog.getByRole("combobox", { name: "Acts by itself for" }).fill("mira@lantern-tide.example");
  await page.keyboard.press("Escape");
  await dialog.getByRole("button", { name: "Register it" }).click();
  const shown = page.getByRole("alert", { name: "The secret of Ship's log" });
  await expect(dialog).toBeHidden();
  await expect(shown.locator("code")).toHaveCount(2);
  const [clientId, secret] = await shown.locator("code").allTextContents();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await expect(page.getByRole("region", { name: "Ship's log" })).toContainText(
    "Nobody is signed in to it now.",
  );
  program.stdin?.write(
    `${JSON.stringify({ issuer: `${demo.ready.url}/`, clientId, secret, people: `${demo.ready.url}/api/v1/workspaces/${demo.ready.workspace}/people` })}\n`,
  );
  expect(await next()).toBe("told");

  // Whoever is not signed in signs in here first, and is taken on by themselves.
  await page.context().clearCookies();
  await page.goto(origin);
  await page.getByRole("link", { name: "Sign in" }).click();
  await page.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await expect(page.locator("main")).toHaveText(
    "Signed in: Mira Tollander (mira@lantern-tide.example), manage",
  );
  await page.goto(`${origin}/renewed`);
  await expect(page.locator("main")).toHaveText("Renewed: Mira Tollander");
  await page.goto(`${origin}/by-itself`);
  await expect(page.locator("main")).toHaveText("By itself, with people: 200");
  await page.goto(demo.at("/workspace/applications"));
  await expect(page.getByRole("region", { name: "Ship's log" })).toContainText("One sign-in to it stands.");

  await page.goto(`${demo.ready.url}/places`);
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(async () => {
    await page.goto(origin);
    await expect(page.locator("main")).toContainText("Signed out from there.", { timeout: 500 });
  }).toPass();
});

test("a device is let in with the code that it shows", async ({ demo, page }) => {
  const begun = await (
    await fetch(`${demo.ready.url}/oauth/device`, {
      method: "POST",
      body: new URLSearchParams({ client_id: "aboard", scope: "as_me offline_access" }),
      headers: { "user-agent": "aboard/test (bridge; Linux)" },
    })
  ).json();
  await page.goto(`${demo.ready.url}/device`);
  await page.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.getByLabel("The code that the device shows").fill("BCDF-GHJK");
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.getByRole("alert")).toContainText("No device waits with this code");
  await page.getByLabel("The code that the device shows").fill(begun.user_code.toLowerCase());
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.getByText("aboard/test (bridge; Linux)")).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole("button", { name: "Allow", exact: true }).click();
  await expect(page.getByRole("heading", { name: "The device is signed in" })).toBeVisible();
  await page.reload();
  const tokens = await (
    await fetch(`${demo.ready.url}/oauth/token`, {
      method: "POST",
      body: new URLSearchParams({
        grant_type: "urn:ietf:params:oauth:grant-type:device_code",
        device_code: begun.device_code,
        client_id: "aboard",
      }),
    })
  ).json();
  expect(tokens.access_token).toBeTruthy();
});
