// What goes wrong at the bench: the server is gone, somebody else wrote, a draft was left, a large photograph.
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { expect, nextMove, type Server, test, tooLow } from "./workshop";

const verdict = (page: Page) => page.getByRole("region", { name: "Verdict" });
const trail = (page: Page) => page.getByRole("region", { name: "Trail" });
const put = (page: Page) => page.getByRole("button", { name: "Put it on the trail" });

/** Goes over to another kind of measuring, and waits until it is there. */
async function kind(page: Page, name: string): Promise<void> {
  await page.getByRole("tab", { name }).click();
  await expect(page.getByRole("tab", { name })).toHaveAttribute("aria-selected", "true");
}

/** A continuity reading on M-02, ready to be kept. */
async function reading(page: Page, server: Server): Promise<void> {
  await page.goto(`${server.address}/jobs/2/bench?with=more`);
  await page.getByLabel("Between").fill("coil 2 and the block");
  await page.getByLabel("The display shows").fill("0,4");
  await expect(verdict(page).getByRole("status")).toContainText("through");
  for (const box of await page.getByRole("region", { name: "Cautions" }).getByRole("checkbox").all()) await box.check();
}

test("a server that is gone loses nothing that was read", async ({ page, server }) => {
  await reading(page, server);
  await server.stop();
  await put(page).click();
  await expect(page.getByRole("alert")).toContainText("The server does not answer");
  await expect(page.getByLabel("The display shows")).toHaveValue("0,4");
  await server.startAgain();
  await put(page).click();
  await expect(nextMove(page)).toBeVisible();
  await expect(trail(page).getByRole("listitem").first()).toContainText("Continuity, coil 2 and the block");
});

test("a reading is written once, though somebody else wrote meanwhile", async ({ page, server }) => {
  await reading(page, server);
  const note = await page.request.post(`${server.address}/api/jobs/2/entries`, {
    data: {
      seen: 5,
      request_key: "from another tablet",
      entry: { odometer_km: 6419, author: "Tam", replaces: null, finding: { kind: "note", text: "coffee" } },
    },
    headers: { origin: server.address },
  });
  expect(note.status()).toBe(201);
  await put(page).click();
  // Either the tablet had seen it already, or it is told and writes at the next touch.
  const stale = page.getByRole("alert");
  await Promise.race([stale.waitFor(), nextMove(page).waitFor()]);
  if (await stale.isVisible()) {
    await page.waitForTimeout(600);
    await put(page).click();
  }
  await expect(nextMove(page)).toBeVisible();
  const entries = trail(page).getByRole("listitem");
  await expect(entries.filter({ hasText: "Continuity" })).toHaveCount(1);
  await expect(entries.filter({ hasText: "coffee" })).toHaveCount(1);
});

test("each kind of measuring keeps its own draft, and a reading that was kept leaves none", async ({
  page,
  server,
}) => {
  await reading(page, server);
  await kind(page, "Ohm");
  await page.getByLabel("The display shows", { exact: true }).fill("1.2k");
  await kind(page, "More");
  await expect(page.getByLabel("The display shows")).toHaveValue("0,4");
  await put(page).click();
  await expect(nextMove(page)).toBeVisible();
  await page.goto(`${server.address}/jobs/2/bench?with=more`);
  await expect(page.getByLabel("The display shows")).toHaveValue("");
  await kind(page, "Ohm");
  await expect(page.getByLabel("The display shows", { exact: true })).toHaveValue("1.2k");
});

test("a photograph that is too large is turned away before it is sent", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/1/bench?with=plugs`);
  const plug = page.getByRole("listitem", { name: "Plug 1" });
  const large = join(server.folder, "large.jpg");
  writeFileSync(large, Buffer.alloc(16 * 1024 * 1024, 255));
  await plug.locator('input[type="file"]').setInputFiles(large);
  await expect(plug.getByRole("alert")).toContainText("16 MB, and 15 MB are taken");
});

test("a job or a capture that is not there says so", async ({ page, server }) => {
  for (const path of ["/jobs/99/bench", "/jobs/99/scope"]) {
    await page.goto(server.address + path);
    await expect(page.getByText(/There is no such job/i)).toBeVisible();
  }
  await page.goto(`${server.address}/captures/99`);
  await expect(page.getByText(/There is no such capture/i)).toBeVisible();
});

test("a diesel is asked for glow plugs and not for spark plugs", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/4/bench`);
  await expect(page.getByRole("tab", { name: "Plugs" })).toHaveCount(0);
  await page.getByRole("tab", { name: "Cylinders" }).click();
  await page.getByRole("button", { name: "Glow plugs" }).click();
  await page.getByLabel("Cylinder 1, draws").fill("11 A");
  await page.getByLabel("Cylinder 2, draws").fill("10,8");
  await page.getByLabel("Cylinder 3, to ground").fill("OL");
  await page.getByLabel("Cylinder 4, draws").fill("4");
  await expect(verdict(page)).toContainText("Glow plug 3 open; 4 draws 4.0 A");
});

test("what is touched at the bench and the scope is 44 px high or more", async ({ page, server }) => {
  for (const path of ["/jobs/2/bench?with=ohm", "/jobs/5/bench?with=path", "/jobs/4/bench?with=air", "/jobs/2/scope"]) {
    await page.goto(server.address + path);
    await page.getByRole("heading").first().waitFor();
    await page.waitForTimeout(400);
    const small = await tooLow(page);
    expect(small, path).toEqual([]);
  }
});
