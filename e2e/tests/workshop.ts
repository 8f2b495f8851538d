// The real application for each test: the built binary, a fresh data folder, the demonstration depot.
import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { test as base, expect, type Locator, type Page } from "@playwright/test";

const root = fileURLToPath(new URL("../../", import.meta.url));
const binary = process.env.GRITTY_EMBER ?? join(root, "target/debug/gritty-ember");
export const demo = (file: string) => join(root, "demo-data", file);

export class Server {
  readonly folder = mkdtempSync(join(tmpdir(), "gritty-ember-"));
  private process: ChildProcess | undefined;
  address = "";

  async start(listen = "127.0.0.1:0"): Promise<void> {
    const child = spawn(binary, ["serve", "--data", this.folder, "--listen", listen, "--demo"]);
    this.process = child;
    this.address = await new Promise((resolve, reject) => {
      let text = "";
      child.stdout.on("data", (chunk) => {
        text += chunk;
        const found = text.match(/http:\/\/\S+/);
        if (found) resolve(found[0]);
      });
      child.on("exit", (code) => reject(new Error(`the server ended with ${code}: ${text}`)));
    });
  }

  async stop(): Promise<void> {
    const child = this.process;
    if (!child || child.exitCode !== null) return;
    const ended = new Promise((resolve) => child.on("exit", resolve));
    child.kill("SIGKILL");
    await ended;
  }

  /** Starts again on the same folder and the same port. */
  async startAgain(): Promise<void> {
    await this.start(this.address.replace("http://", ""));
  }

  remove() {
    rmSync(this.folder, { recursive: true, force: true });
  }
}

export const test = base.extend<{ server: Server }>({
  // biome-ignore lint/correctness/noEmptyPattern: the framework reads the names from this pattern.
  server: async ({}, use) => {
    const server = new Server();
    await server.start();
    await use(server);
    await server.stop();
    server.remove();
  },
  page: async ({ page, server }, use) => {
    const complaints: string[] = [];
    // What the content policy blocks, or what breaks, would otherwise pass unseen.
    page.on("console", (message) => {
      if (message.type() === "error" && !message.text().includes("Failed to load resource"))
        complaints.push(message.text());
    });
    page.on("pageerror", (error) => complaints.push(error.message));
    page.on("request", (request) => {
      if (!request.url().startsWith(server.address) && !/^(data|blob):/.test(request.url()))
        complaints.push(`a request left for ${request.url()}`);
    });
    await page.addInitScript(() => {
      if (!localStorage.getItem("gritty-ember.preferences"))
        localStorage.setItem("gritty-ember.preferences", JSON.stringify({ theme: "bay", author: "Ines", keys: true }));
    });
    await page.goto(server.address);
    await use(page);
    expect(complaints).toEqual([]);
  },
});

export { expect };

export const sheet = (page: Page): Locator => page.getByRole("dialog");

export const nextMove = (page: Page): Locator => page.getByRole("region", { name: "Next move" });

/** Ticks the cautions that have to be ticked, and writes the entry. */
export async function write(page: Page): Promise<void> {
  const open = sheet(page);
  for (const box of await open.getByRole("region", { name: "Cautions" }).getByRole("checkbox").all()) await box.check();
  await open.getByRole("button", { name: "Write it down" }).click();
  await expect(open).toBeHidden();
}

/** Chooses a file in the open sheet and waits until it is understood. */
export async function importFile(page: Page, file: string): Promise<void> {
  await sheet(page).locator('input[type="file"]').setInputFiles(demo(file));
  await expect(sheet(page).getByRole("region", { name: "What was understood of the file" })).toContainText(file);
}

export async function openJob(page: Page, fleetNo: string): Promise<void> {
  await page.getByRole("link", { name: new RegExp(fleetNo) }).click();
  await expect(nextMove(page)).toBeVisible();
}
