import { type ChildProcess, spawn } from "node:child_process";
import { createInterface } from "node:readline";
import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./demo";

let program: ChildProcess;
let said: AsyncIterator<string>;
const next = async () => (await said.next()).value as string;

test.beforeAll(() => {
  program = spawn("node", ["tests/provider.mjs", "nuno@harbour-museum.example"], {
    stdio: ["pipe", "pipe", "ignore"],
  });
  if (program.stdout) said = createInterface(program.stdout)[Symbol.asyncIterator]();
});
test.afterAll(() => program.kill());

test("an organisation's own sign-in is named, and its people come in by it", async ({ demo, page }) => {
  const issuer = await next();
  const call = async (path: string, body?: unknown) => {
    const answer = await fetch(`${demo.ready.url}/api/v1/workspaces/${demo.ready.workspace}${path}`, {
      method: body ? "POST" : "GET",
      headers: {
        authorization: `Bearer ${demo.ready.adminToken}`,
        "content-type": "application/json",
        "idempotency-key": path,
      },
      body: body ? JSON.stringify(body) : undefined,
    });
    expect(answer.ok, await answer.clone().text()).toBe(true);
    return answer.json();
  };
  const domain = await call("/domains", { domain: "harbour-museum.example" });
  await fetch(`${demo.ready.inbox}/dns`, {
    method: "POST",
    body: new URLSearchParams({ name: domain.recordName, text: domain.recordValue }),
  });
  await call("/domains/harbour-museum.example/check", {});
  await call("/invitations", { address: "nuno@harbour-museum.example", kind: "guest", role: "view" });

  await demo.signIn(page);
  await page.goto(demo.at("/workspace/providers"));
  await page.getByRole("button", { name: "Add a provider" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("textbox", { name: "Name" }).fill("Harbour Museum");
  await dialog.getByRole("textbox", { name: "Issuer" }).fill("http://127.0.0.1:9");
  await dialog.getByRole("textbox", { name: "Client id" }).fill("come-aboard");
  await dialog.getByLabel("Client secret").fill("a secret of the museum, long enough");
  await dialog.getByRole("combobox", { name: "Mail domains" }).click({ force: true });
  await page.getByRole("option", { name: "harbour-museum.example" }).click();
  await page.keyboard.press("Escape");
  await dialog.getByRole("button", { name: "Add it" }).click();
  await expect(dialog.getByRole("alert")).toContainText(
    "The provider did not tell who it is: Connection refused.",
  );
  await dialog.getByRole("textbox", { name: "Issuer" }).fill(issuer);
  await dialog.getByRole("button", { name: "Add it" }).click();
  const sheet = page.getByRole("region", { name: "Harbour Museum" });
  const redirect = (await sheet.locator("pre").textContent()) ?? "";
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  program.stdin?.write(`${redirect}\n`);
  expect(await next()).toBe("told");

  // Somebody else's browser now. What the provider's own pages would fetch from elsewhere is left empty.
  await page.route(
    (url) => !["localhost", "127.0.0.1"].includes(url.hostname),
    (route) => route.fulfill({ body: "" }),
  );
  await page.context().clearCookies();
  await page.goto(`${demo.ready.url}/sign-in`);
  await page.getByLabel("Mail address").fill("nuno@harbour-museum.example");
  await page.getByRole("button", { name: "Sign in by my organisation" }).click();
  await page.waitForURL(`${issuer}/interaction/**`);
  await page.locator('input[name="login"]').fill("nuno");
  await page.locator('input[name="password"]').fill("anything");
  await page.getByRole("button", { name: "Sign-in" }).click();
  await page.getByRole("button", { name: "Continue" }).click();
  await page.waitForURL(`${demo.ready.url}/places`);
  await expect(page.getByText("The Lantern Tide").first()).toBeVisible();
  await page.goto(`${demo.ready.url}/account`);
  await expect(page.getByText("Sign-in by Harbour Museum", { exact: true })).toBeVisible();
  await expect(page.getByText("nuno of the museum").first()).toBeVisible();
});
