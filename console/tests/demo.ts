import { type ChildProcess, spawn } from "node:child_process";
import { createInterface } from "node:readline";
import { test as base, expect, type Page } from "@playwright/test";

type Ready = { url: string; inbox: string; workspace: string; adminToken: string };
type Mail = { subject: string; text: string; html: string };

/** The demo, running for all scenes of a worker, and what a person at the ship's office would do with it. */
export class Demo {
  readonly ready: Ready;

  constructor(ready: Ready) {
    this.ready = ready;
  }

  /** The newest mail to an address that holds a link to an invitation. */
  async invitationLink(address: string): Promise<string> {
    const link = /https?:\/\/\S+\/i\/[A-Za-z0-9_-]{43}/;
    const found = async () =>
      (await this.mails(address)).map((mail) => mail.text.match(link)?.[0]).find(Boolean);
    await expect.poll(found).toBeTruthy();
    return (await found()) as string;
  }

  async mails(address: string): Promise<Mail[]> {
    return (await fetch(`${this.ready.inbox}/messages?to=${encodeURIComponent(address)}`)).json();
  }

  async signIn(page: Page, address = "mira@lantern-tide.example") {
    await page.goto(`${this.ready.url}/sign-in`);
    await page.getByLabel("Mail address").fill(address);
    await page.getByLabel("Password").fill("a lantern at high tide");
    await page.getByRole("button", { name: "Sign in", exact: true }).click();
    await page.waitForURL(/\/(w|places)/);
  }

  /** A page of the console. */
  at(path: string): string {
    return `${this.ready.url}/w/${this.ready.workspace}${path}`;
  }
}

export const test = base.extend<{ quiet: undefined }, { demo: Demo }>({
  demo: [
    // biome-ignore lint/correctness/noEmptyPattern: the runner reads what a fixture needs from the pattern
    async ({}, use) => {
      const program: ChildProcess = spawn("../bin/come-aboard", ["demo", "--port", "0", "--json"], {
        stdio: ["ignore", "pipe", "inherit"],
      });
      const line = await new Promise<string>((ready) => {
        if (program.stdout) createInterface(program.stdout).once("line", ready);
      });
      await use(new Demo(JSON.parse(line)));
      program.kill("SIGINT");
      await new Promise((ended) => program.once("exit", ended));
    },
    { scope: "worker", timeout: 240_000 },
  ],
  /** No page may complain: neither of broken scripts nor of the Content-Security-Policy. */
  quiet: [
    async ({ page }, use) => {
      const complaints: string[] = [];
      page.on("pageerror", (fault) => complaints.push(fault.message));
      page.on("console", (message) => {
        // A mail shown in its frame may run nothing, and the browser says so when the accessibility check tries to.
        const isExpected = /status of 4\d\d|document's frame is sandboxed/;
        if (message.type() === "error" && !isExpected.test(message.text())) complaints.push(message.text());
      });
      await use(undefined);
      expect(complaints).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };
