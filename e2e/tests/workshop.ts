// The real application for each test: the built binary, a fresh data folder, the demonstration depot.
import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { test as base, expect, type Locator, type Page } from "@playwright/test";

const root = fileURLToPath(new URL("../../", import.meta.url));
export const binary = process.env.GRITTY_EMBER ?? join(root, "target/debug/gritty-ember");
export const demo = (file: string) => join(root, "demo-data", file);

/** Seconds that a simulated car lives in one of ours: a drive of minutes takes a test some seconds. */
const SIM_RATE = 25;

export class Server {
  readonly folder = mkdtempSync(join(tmpdir(), "gritty-ember-"));
  private process: ChildProcess | undefined;
  address = "";

  async start(listen = "127.0.0.1:0"): Promise<void> {
    const child = spawn(binary, [
      "serve",
      "--data",
      this.folder,
      "--listen",
      listen,
      "--demo",
      "--sim-rate",
      String(SIM_RATE),
    ]);
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

interface SimulatedCar {
  address: string;
  stop: () => void;
}

/** Puts a simulated car with its faults on a port of its own. */
type Simulate = (...more: string[]) => Promise<SimulatedCar>;

export const test = base.extend<{ server: Server; simulate: Simulate }>({
  // biome-ignore lint/correctness/noEmptyPattern: the framework reads the names from this pattern.
  simulate: async ({}, use) => {
    const cars: SimulatedCar[] = [];
    await use(async (...more) => {
      const child = spawn(binary, ["sim", "--rate", String(SIM_RATE), ...more]);
      const address = await new Promise<string>((resolve, reject) => {
        child.stdout.on("data", (chunk) => {
          const found = String(chunk).match(/answers at (\S+)/);
          if (found?.[1]) resolve(found[1]);
        });
        child.stderr.on("data", (chunk) => reject(new Error(String(chunk))));
      });
      const car = { address, stop: () => child.kill("SIGKILL") };
      cars.push(car);
      return car;
    });
    for (const car of cars) car.stop();
  },
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
  // The newest stands first; a vehicle with two jobs is opened at its first.
  await page
    .getByRole("link", { name: new RegExp(fleetNo) })
    .last()
    .click();
  await expect(nextMove(page)).toBeVisible();
}

/** Reads a log into a recording of the job that is open, and opens it. */
export async function importLog(page: Page, file: string): Promise<void> {
  await page.keyboard.press("f");
  await page.locator('input[type="file"]').setInputFiles(file);
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.getByRole("tablist", { name: "Evidence" })).toBeVisible();
}

/** What on the page is to be touched and is lower than 44 px. */
export const tooLow = (page: Page) =>
  page
    .locator("main button, main a[role=button]")
    .evaluateAll((all) =>
      all
        .map((one) => ({ text: one.textContent, height: one.getBoundingClientRect().height }))
        .filter((one) => one.height > 0 && one.height < 44),
    );
