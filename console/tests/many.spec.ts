import { readFileSync } from "node:fs";
import { expect, test } from "./demo";

test("a file of a thousand with forty bad rows is dropped, mended, sent and followed", async ({
  demo,
  page,
}) => {
  test.setTimeout(120_000);
  await demo.signIn(page);
  await page.goto(demo.at("/invite"));
  await page.getByRole("link", { name: "Invite many" }).click();
  const place = page.getByRole("region", { name: "Drop a file here" });
  const file = readFileSync("../demo/volunteers.csv", "utf8");
  const dropped = await page.evaluateHandle((text) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([text], "volunteers.csv", { type: "text/csv" }));
    return transfer;
  }, file);
  await place.dispatchEvent("drop", { dataTransfer: dropped });

  // Every entry has its verdict before anything is sent, and the counts add up.
  const chips = page.getByRole("navigation", { name: "Entries by verdict" });
  await expect(page.getByText("32 entries cannot be sent as they stand.")).toBeVisible();
  await expect(chips).toContainText(/1,000\s*all/);
  await expect(chips).toContainText(/960\s*●?\s*ready/);
  await expect(page.getByText("Shoe size")).toBeVisible();
  await page.getByRole("link", { name: "Show only those" }).click();

  // A day, a kind and an address are put right where they stand.
  await page.getByLabel("Right until for entry 75").fill("2030-05-01");
  await page.getByRole("button", { name: "Mend entry 75" }).click();
  await expect(page.getByRole("button", { name: "Mend entry 75" })).toBeHidden();
  await expect(page.getByLabel("Right address for entry 116")).toHaveValue(
    "fenno.lotse@copper-quay-museum.example",
  );
  await page.getByLabel("Right address for entry 116").fill("fenno.lotse.new@copper-quay-museum.example");
  await page.getByRole("button", { name: "Mend entry 116" }).click();
  await page.getByRole("combobox", { name: "Right kind for entry 160" }).click();
  await page.getByRole("option", { name: "partner" }).click();
  await page.getByRole("button", { name: "Mend entry 160" }).click();
  await expect(page.getByText("29 entries cannot be sent as they stand.")).toBeVisible();

  await page.getByRole("button", { name: "Send the 963 that can be sent" }).click();
  await expect(chips).toContainText(/963\s*.?\s*sent/, { timeout: 30_000 });
  await expect(chips).toContainText(/29\s*▽?\s*wrong/);

  // As people answer, the list shows it.
  const fenno = "fenno.lotse.new@copper-quay-museum.example";
  const visitor = await page.context().browser()?.newPage();
  if (!visitor) throw new Error("There is no browser.");
  await visitor.goto(await demo.invitationLink(fenno));
  await visitor.getByLabel("Choose a password").fill("tide tables and tea");
  await visitor.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(visitor.getByRole("heading", { name: "My places" })).toBeVisible();
  await visitor.close();
  await page.getByRole("link", { name: "See the 963 invitations of this list" }).click();
  await page.getByRole("searchbox").fill("lotse.new");
  await expect(page.getByRole("row", { name: /fenno.lotse.new@/ })).toContainText("accepted");

  // Steps for all that match say first what they would do.
  await page.getByRole("searchbox").fill("hafenfreunde");
  await expect(page).toHaveURL(/hafenfreunde/);
  await expect(page.getByRole("row")).toHaveCount(51);
  await page.getByLabel("Choose all shown").check();
  await page.getByRole("button", { name: "Choose all that match" }).click();
  await page
    .getByRole("region", { name: "Steps for what is chosen" })
    .getByRole("button", { name: "Revoke" })
    .click();
  await expect(page.getByText(/1\d\d would be taken back/)).toBeVisible();
  await page.getByRole("button", { name: /^Revoke 1\d\d$/ }).click();
  await expect(page.getByRole("status").filter({ hasText: "done" })).toBeVisible();
});

test("pasted addresses, a preset, a join link and an approval", async ({ demo, page, browser }) => {
  await demo.signIn(page);
  await page.goto(demo.at("/invite/many"));
  await page.getByRole("tab", { name: "Pasted" }).click();
  await page
    .getByLabel("Addresses")
    .fill('Calloway, Nina <nina@pier.example>; "Ole" <ole@pier.example>\nnonsense');
  // What they get is said for all of them, and what is wrong with it is said before there is a list.
  const look = page.getByRole("button", { name: "Look at every entry" });
  await expect(page.getByText("Choose first what they all get: a preset, a role or a group.")).toBeVisible();
  await expect(look).toBeDisabled();
  await page.getByRole("combobox", { name: "Role", exact: true }).click();
  await page.getByRole("option", { name: /^view:/ }).click();
  await page.getByRole("textbox", { name: "Message" }).fill("look at https://elsewhere.example/x");
  await look.click();
  await expect(page.getByRole("alert")).toContainText("The message holds a link");
  await page.getByRole("textbox", { name: "Message" }).fill("");
  await look.click();
  await expect(page.getByRole("row", { name: /Nina Calloway/ })).toContainText("ready");
  await expect(page.getByRole("row", { name: /nonsense/ })).toContainText("wrong");

  // A role that a file leaves out is chosen where it is missing; what is no part of an entry is mended in the file.
  await page.goto(demo.at("/invite/many"));
  const csv =
    "Address,Role,Message\nsigrid@pier.example,,\nodd@pier.example,view,https://elsewhere.example/x\ntwo@@pier.example,,\n";
  await page
    .locator("input[type=file]")
    .setInputFiles({ name: "few.csv", mimeType: "text/csv", buffer: Buffer.from(csv) });
  await page.getByRole("combobox", { name: "Right role for entry 1" }).click();
  await page.getByRole("option", { name: "contribute", exact: true }).click();
  await page.getByRole("button", { name: "Mend entry 1" }).click();
  await expect(page.getByRole("row", { name: /sigrid/ })).toContainText("ready");
  // Of two faults the second is asked for when the first is mended, with nothing of that left in it.
  await page.getByLabel("Right address for entry 3").fill("two@pier.example");
  await page.getByRole("button", { name: "Mend entry 3" }).click();
  await expect(page.getByRole("combobox", { name: "Right role for entry 3" })).toHaveValue("");
  await expect(page.getByRole("button", { name: "Mend entry 3" })).toBeDisabled();
  const odd = page.getByRole("row", { name: /odd@/ });
  await expect(odd).toContainText("Mend it in the file, and hand that in again.");
  await expect(odd.getByRole("button")).toHaveCount(0);

  await page.goto(demo.at("/invite/links"));
  await page.getByRole("button", { name: "Make a join link" }).click();
  await page.getByLabel("What it is for").fill("Open ship evening");
  await page.getByLabel("Each waits for approval").check();
  await page.getByRole("button", { name: "Make the link" }).click();
  await expect(page.getByText("The link gives nothing.")).toBeVisible();
  await page.getByRole("combobox", { name: "Role", exact: true }).click();
  await page.getByRole("option", { name: /^view:/ }).click();
  await page.getByRole("button", { name: "Make the link" }).click();
  await expect(page.getByRole("img", { name: /QR code/ })).toBeVisible();
  const link = (await page.locator("code").textContent()) ?? "";
  const visitor = await browser.newContext({
    javaScriptEnabled: false,
    viewport: { width: 360, height: 740 },
  });
  const landing = await visitor.newPage();
  await landing.goto(link);
  await landing.getByLabel("Your name").fill("Quirin Nock");
  await landing.getByLabel("Your mail address").fill("quirin@pier.example");
  await landing.getByRole("button", { name: "Send me my link" }).click();
  await expect(landing.getByRole("heading", { name: "Look into your mailbox" })).toBeVisible();
  await landing.goto(await demo.invitationLink("quirin@pier.example"));
  await expect(landing.getByText("takes effect when somebody there has approved it")).toBeVisible();
  await landing.getByLabel("Choose a password").fill("tide tables and tea");
  await landing.getByRole("button", { name: "Accept the invitation" }).click();
  await expect(landing.getByRole("heading", { name: "Your answer is kept" })).toBeVisible();
  await page.goto(demo.at("/invite?state=waiting"));
  await page.getByRole("link", { name: "Quirin Nock" }).click();
  await page.getByRole("button", { name: "Approve" }).click();
  await expect(page.getByRole("link", { name: "see the person" })).toBeVisible();
  await landing.goto(`${demo.ready.url}/places`);
  await expect(landing.getByRole("heading", { name: "The Lantern Tide" })).toBeVisible();

  // In German the page is German from its heading to its last button.
  await landing.context().clearCookies();
  await landing.goto(await demo.invitationLink("henrike.moor@hafenfreunde.example"));
  await expect(landing.getByRole("heading", { name: "Mira Tollander lädt Sie an Bord ein" })).toBeVisible();
  await expect(landing.getByRole("button", { name: "Einladung annehmen" })).toBeVisible();
  await expect(landing.locator("html")).toHaveAttribute("lang", "de");
  await visitor.close();
});
