// Takes the pictures in docs/screenshots from the demo world: node shots.mjs [directory]
import { spawn } from "node:child_process";
import { mkdirSync } from "node:fs";
import { createInterface } from "node:readline";
import { chromium } from "@playwright/test";
import { windowless } from "./browser.mjs";

const into = process.argv[2] ?? "../docs/screenshots";
mkdirSync(into, { recursive: true });
const demo = spawn("../bin/come-aboard", ["demo", "--port", "0", "--json"], { stdio: ["ignore", "pipe", "inherit"] });
const [line] = await new Promise((ready) => createInterface(demo.stdout).once("line", (first) => ready([first])));
const { url, inbox, workspace, adminToken } = JSON.parse(line);
const browser = await chromium.launch(windowless);

try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const shoot = async (name) => {
    await page.waitForTimeout(700);
    await page.screenshot({ path: `${into}/${name}.png` });
  };
  const call = async (path, body) =>
    (
      await fetch(`${url}/api/v1/workspaces/${workspace}${path}`, {
        method: body ? "POST" : "GET",
        headers: { authorization: `Bearer ${adminToken}`, "content-type": "application/json" },
        body: body && JSON.stringify(body),
      })
    ).json();

  await page.goto(`${url}/w/${workspace}`);
  await page.waitForURL(/sign-in/);
  await page.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.waitForURL(/\/w\//);
  await shoot("overview");
  await page.goto(`${url}/w/${workspace}/accounts`);
  await page.getByLabel("Choose benedikt@lantern-tide.example").check();
  await page.getByText("What will be").waitFor();
  await shoot("accounts");
  await page.getByRole("link", { name: "Twice here" }).click();
  await page.getByRole("list", { name: "Pairs" }).waitFor();
  await page.getByRole("link", { name: "Make them one" }).first().click();
  await page.getByRole("heading", { name: "Side by side" }).waitFor();
  await shoot("merge");
  await page.goto(`${url}/w/${workspace}/accounts/connections`);
  await page.getByRole("link", { name: "Harbour authority" }).click();
  await page.getByRole("list", { name: "Match table" }).waitFor();
  await shoot("match-table");
  await page.goto(`${url}/w/${workspace}/accounts/connections`);
  await page
    .getByRole("region", { name: "Gangway locks" })
    .getByRole("link", { name: "Access there" })
    .click();
  await page.getByText("Told to wait").or(page.getByText("At work")).waitFor();
  await shoot("access-there");
  await page.goto(`${url}/w/${workspace}/endings`);
  await page.getByRole("link", { name: "stuck" }).first().click();
  await page.getByText("Closed for stocktaking").waitFor();
  await shoot("departure");
  await page.goto(`${url}/w/${workspace}/endings`);
  await page.getByRole("link", { name: "done" }).first().click();
  await page.getByRole("link", { name: "Print it" }).click();
  await page.getByRole("button", { name: "Print" }).waitFor();
  await shoot("receipt");
  await page.goto(`${url}/w/${workspace}`);

  await page.getByRole("link", { name: "Invite", exact: true }).click();
  await page.getByRole("link", { name: "Invite someone" }).click();
  await page.getByRole("combobox", { name: "Mail address" }).fill("pilot@harbour.example");
  await page.getByLabel("Name", { exact: true }).fill("Pia Lotse");
  await page.getByRole("combobox", { name: "Role", exact: true }).click();
  await page.getByRole("option", { name: /^view:/ }).click();
  await page.getByLabel("Message").fill("You know these waters best.\nThe berth papers are ready for you.");
  await page.frameLocator("iframe").getByText("Dear Pia Lotse").waitFor();
  await page.evaluate(() => window.scrollTo(0, 0));
  await shoot("invite-new");
  await page.getByRole("button", { name: "Send the invitation" }).click();
  await page.getByText("Mail taken by the mail server").waitFor();

  await page.goto(`${url}/w/${workspace}/invite/many`);
  const [chooser] = await Promise.all([
    page.waitForEvent("filechooser"),
    page.getByRole("button", { name: "Choose a file" }).click(),
  ]);
  await chooser.setFiles("../demo/volunteers.csv");
  await page.getByText("cannot be sent as they stand").waitFor();
  await page.getByRole("link", { name: "Show only those" }).click();
  await shoot("list");
  await page.goto(`${url}/w/${workspace}/invite/figures`);
  await page.getByText("Median time").waitFor();
  await shoot("figures");

  await page.getByRole("link", { name: "People" }).click();
  await shoot("people");
  await page.getByRole("searchbox").fill("ines.calloway");
  await page.getByRole("link", { name: "Dr Ines Calloway" }).click();
  await page.getByRole("heading", { name: "What they may do, and why" }).scrollIntoViewIfNeeded();
  await page.mouse.wheel(0, 500);
  await shoot("person");
  await page.getByRole("link", { name: "Workspace" }).first().click();
  await page.getByRole("link", { name: "Applications" }).click();
  await page.getByRole("region", { name: "Picture library" }).waitFor();
  await shoot("applications");
  await page.getByRole("link", { name: "Record" }).click();
  await page.getByRole("button", { name: "Verify the record" }).click();
  await page.getByText("The record is whole").waitFor();
  await shoot("record");
  // Another browser of hers, and a passkey.
  const other = await browser.newPage({
    userAgent: "Mozilla/5.0 (Macintosh; Intel Mac OS X 15.6; rv:145.0) Gecko/20100101 Firefox/145.0",
  });
  await other.goto(`${url}/sign-in`);
  await other.getByLabel("Mail address").fill("mira@lantern-tide.example");
  await other.getByLabel("Password").fill("a lantern at high tide");
  await other.getByRole("button", { name: "Sign in", exact: true }).click();
  await other.waitForURL(/\/w\//);
  const devices = await page.context().newCDPSession(page);
  await devices.send("WebAuthn.enable");
  await devices.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  await page.setViewportSize({ width: 1280, height: 2160 });
  await page.goto(`${url}/account`);
  await page.getByLabel("A name for a new passkey").fill("telephone");
  await page.getByRole("button", { name: "Add a passkey" }).click();
  await page.getByText("Passkey: telephone").waitFor();
  await shoot("account");

  await page.context().clearCookies();
  await page.setViewportSize({ width: 1280, height: 1480 });
  await page.goto(`${url}/sign-in?next=/account`);
  await page.getByLabel("Mail address").fill("teodor@lantern-tide.example");
  await page.getByLabel("Password").fill("a lantern at high tide");
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.getByRole("link", { name: "Read and answer" }).click();
  await shoot("claim");

  await page.setViewportSize({ width: 700, height: 800 });
  const [mail] = await (await fetch(`${inbox}/messages?to=pilot@harbour.example`)).json();
  // Not within a page of the console's, whose policy lets no styles of a mail through.
  await page.goto("about:blank");
  await page.setContent(mail.html);
  await shoot("mail");
  await page.context().clearCookies();
  await page.setViewportSize({ width: 420, height: 1480 });
  await page.goto(mail.text.match(/http\S+\/i\/\S+/)[0]);
  await shoot("landing");
  await page.getByLabel("Choose a password").fill("tide tables and tea");
  await page.getByRole("button", { name: "Accept the invitation" }).click();
  await page.setViewportSize({ width: 420, height: 560 });
  await call("/overview");
} finally {
  await browser.close();
  demo.kill("SIGINT");
}
