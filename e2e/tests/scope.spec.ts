// Captures of the scope: taken from a file or with the simulated scope, read, and put on the trail.
import type { Page } from "@playwright/test";
import { demo, expect, nextMove, type Server, test } from "./workshop";

const verdict = (page: Page) => page.getByRole("region", { name: "Verdict" });
const figures = (page: Page) => page.getByRole("table", { name: "Figures of the capture" });

async function take(
  page: Page,
  server: Server,
  job: number,
  file: Parameters<ReturnType<Page["locator"]>["setInputFiles"]>[0],
) {
  await page.goto(`${server.address}/jobs/${job}/scope`);
  await page.locator('input[type="file"]').setInputFiles(file);
}

async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).click();
  await page.getByRole("option", { name: option, exact: true }).click();
}

/** The middle of all, as the table shows it. */
const middle = async (page: Page, name: string): Promise<number> => {
  const cell = figures(page)
    .getByRole("row", { name: new RegExp(`^${name}`) })
    .getByRole("cell")
    .first();
  return Number.parseFloat((await cell.textContent()) ?? "");
};

test("a recorded coil current shows its dwell and, with the voltage at the coil, its inductance", async ({
  page,
  server,
}) => {
  await take(page, server, 2, demo("m02-coil-current.csv"));
  await expect(verdict(page)).toContainText("The cylinders are alike");
  expect(await middle(page, "Dwell")).toBeCloseTo(2.6, 1);
  // Nothing is made up: without the voltage there is no inductance.
  await expect(verdict(page)).toContainText("Without the voltage at the coil");
  await expect(figures(page)).not.toContainText("Inductance");
  await page.getByLabel("At the coil while it charges").fill("13,8 V");
  await expect(figures(page)).toContainText("Inductance");
  expect(Math.abs((await middle(page, "Inductance")) - 4.2)).toBeLessThan(0.17);
  expect(Math.abs((await middle(page, "Resistance of the path")) - 0.72)).toBeLessThan(0.15);
  await expect(figures(page).getByRole("columnheader")).toHaveCount(5);
  await expect(
    page.getByRole("img", { name: /One event of each laid over the others: cylinder 1; cylinder 2; cylinder 3/ }),
  ).toBeVisible();
  for (const box of await page.getByRole("region", { name: "Cautions" }).getByRole("checkbox").all()) await box.check();
  await page.getByLabel("Scope and probe").fill("clamp of 100 mV an ampere");
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(nextMove(page)).toBeVisible();
  const entry = page.getByRole("region", { name: "Trail" }).getByRole("listitem").first();
  await expect(entry).toContainText("Capture m02-coil-current.csv: ✓ good");
  await expect(entry).toContainText("clamp of 100 mV an ampere");
  await entry.getByRole("link", { name: /^Open capture/ }).click();
  await expect(page.getByText(/entry \d+ of the trail/)).toBeVisible();
});

test("a needle stays in sight from afar, and a closer look shows its course", async ({ page, server }) => {
  await take(page, server, 2, demo("m02-coil-current.csv"));
  const lane = page.getByRole("img", { name: /coil current over time/ });
  await expect(lane).toBeVisible();
  const status = page.getByText(/ to .* s/).first();
  await expect(status).toContainText("0.0000 to 0.2500 s");
  const before = await lane.getAttribute("aria-label");
  await page.getByRole("button", { name: "Closer" }).click();
  await page.getByRole("button", { name: "Closer" }).click();
  await expect(status).toContainText("0.0938 to 0.1563 s");
  // The peaks are of one height, so the lane's ends hardly change while it is looked at more closely.
  const most = (text: string | null) => Number(/to (-?[\d.]+)/.exec(text ?? "")?.[1]);
  await expect.poll(async () => Math.abs(most(await lane.getAttribute("aria-label")) - most(before))).toBeLessThan(0.4);
  await page.getByRole("button", { name: "All of it" }).click();
  await expect(status).toContainText("0.0000 to 0.2500 s");
});

test("each probe of the simulated scope is read for what it shows", async ({ page, server }) => {
  for (const [probe, shows, says] of [
    ["Ignition voltage", "ignition voltage", /burn time 1\.3\d ms/],
    ["Injector", "current of an injector", /Pulse 4\.\d+ ms/],
    ["Motor drive", "drive of a motor", /follows its drive/],
    ["Cranking current", "current of the starter", /Cranking speed 200/],
    ["Crank and cam", "crank and cam", /58 teeth and 2 missing/],
  ] as const) {
    await page.goto(`${server.address}/jobs/1/scope`);
    await page.getByRole("button", { name: probe }).click();
    await expect(page.getByLabel("It shows the")).toContainText(shows);
    await expect(verdict(page)).toContainText(says);
  }
  await page.goto(`${server.address}/jobs/1/scope`);
  await expect(page.getByRole("region", { name: "Captures of this job" }).getByRole("link")).toHaveCount(5);
});

test("a cam is judged by the edges of a sound engine", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/1/scope`);
  await page.getByRole("button", { name: "Crank and cam" }).click();
  await expect(verdict(page)).toContainText("Without a reference the cam's place is shown and not judged");
  const edges = page.getByLabel("Cam edges of a sound engine, °");
  await edges.fill("40 110 250 290 430 560");
  await expect(verdict(page)).toContainText("The cam stands within");
  await edges.fill("54 124 264 304 444 574");
  await expect(verdict(page)).toContainText(/The cam stands 13\.\d crank degrees early/);
  await edges.fill("40 early");
  await expect(verdict(page)).toContainText("no number");
  await expect(edges).toHaveAttribute("aria-invalid", "true");
});

const file = (name: string, text: string) => ({ name, mimeType: "text/csv", buffer: Buffer.from(text) });

test("a table without a time asks for its rate, and is taken with it", async ({ page, server }) => {
  const rows = Array.from({ length: 400 }, (_, n) => `${n % 40 < 20 ? 0 : 5},${n}`).join("\n");
  await take(page, server, 2, file("scope.csv", `motor,position\n${rows}\n`));
  await expect(page.getByRole("alert")).toContainText("rate_hz");
  await page.getByLabel("Samples a second, where the file has no time").fill("50k");
  await page.getByRole("button", { name: "Try scope.csv again" }).click();
  await expect(page.getByText(/400 samples, 50.?000 a second/)).toBeVisible();
});

test("what is no capture is refused with its reason, and a clipped one proves nothing good", async ({
  page,
  server,
}) => {
  for (const [text, reason] of [
    ["a note and no capture\n", "no capture"],
    ["time (s),v\n0,1\n1,2\n0.5,3\n", "backwards"],
    ["time (fathoms),v\n0,1\n1,2\n", "fathoms is not known"],
  ] as const) {
    await take(page, server, 2, file("x.csv", text));
    await expect(page.getByRole("alert")).toContainText(reason);
  }
  const clipped = Array.from({ length: 20_000 }, (_, n) => {
    const since = (n * 2e-5) % 0.02;
    const ampere = since > 0.005 && since < 0.0076 ? Math.min(4, 20 * (1 - Math.exp(-(since - 0.005) / 0.006))) : 0;
    return `${(n * 2e-5).toFixed(5)},${ampere.toFixed(3)}`;
  });
  await take(page, server, 2, file("clipped.csv", `time (s),coil current (A)\n${clipped.join("\n")}\n`));
  await expect(verdict(page)).toContainText("Clipped: choose a larger range");
  await expect(verdict(page).getByRole("status")).toContainText("cannot tell");
});

test("a question that does not fit is said at its field", async ({ page, server }) => {
  await take(page, server, 2, demo("m02-coil-current.csv"));
  await expect(verdict(page)).toContainText("alike");
  await choose(page, "It shows the", "current of the starter");
  await expect(verdict(page)).toContainText(/Cranking speed|sync/);
  await choose(page, "Pulse once in two turns", "none");
  await expect(verdict(page)).toContainText("a sync channel is needed");
  await choose(page, "It shows the", "crank and cam");
  await expect(verdict(page)).toContainText("no wheel with a gap");
});

/** A WAV of 16 bits with so many channels, from samples between -1 and 1. */
function wav(rate: number, channels: number[][]): Buffer {
  const length = channels[0]?.length ?? 0;
  const data = Buffer.alloc(length * channels.length * 2);
  for (let at = 0; at < length; at++)
    for (const [index, samples] of channels.entries())
      data.writeInt16LE(Math.round((samples[at] ?? 0) * 32767), (at * channels.length + index) * 2);
  const head = Buffer.alloc(44);
  head.write("RIFF", 0);
  head.writeUInt32LE(36 + data.length, 4);
  head.write("WAVEfmt ", 8);
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20);
  head.writeUInt16LE(channels.length, 22);
  head.writeUInt32LE(rate, 24);
  head.writeUInt32LE(rate * channels.length * 2, 28);
  head.writeUInt16LE(channels.length * 2, 32);
  head.writeUInt16LE(16, 34);
  head.write("data", 36);
  head.writeUInt32LE(data.length, 40);
  return Buffer.concat([head, data]);
}

test("a WAV through a clamp counts in amperes, a channel for each cylinder, and the odd coil is named", async ({
  page,
  server,
}) => {
  const rate = 48_000;
  const coil = (milliHenry: number) =>
    Array.from({ length: rate }, (_, n) => {
      const since = (n / rate) % 0.04;
      return since > 0.01 && since < 0.0126 ? (20 * (1 - Math.exp((-(since - 0.01) * 700) / milliHenry))) / 100 : 0;
    });
  await page.goto(`${server.address}/jobs/2/scope`);
  for (const [index, name] of ["channel 1", "channel 2", "channel 3"].entries()) {
    await page.getByRole("button", { name: /A channel stands for something else/ }).click();
    await page.getByLabel("Channel", { exact: true }).nth(index).fill(name);
    await page.getByLabel("one unit is", { exact: true }).nth(index).fill("100");
    await page.getByLabel("of", { exact: true }).nth(index).fill("A");
  }
  await page.locator('input[type="file"]').setInputFiles({
    name: "coils.wav",
    mimeType: "audio/wav",
    buffer: wav(rate, [coil(4.2), coil(2.6), coil(4.2)]),
  });
  await expect(verdict(page)).toContainText("Odd one out: cylinder 2");
  // 20 A through 4.2 mH and 0.7 ohm for 2.6 ms.
  const peak = 20 * (1 - Math.exp((-2.6 * 0.7) / 4.2));
  const row = figures(page).getByRole("row", { name: /^Peak current/ });
  const shown = Number.parseFloat((await row.getByRole("cell").nth(1).textContent()) ?? "");
  expect(Math.abs(shown / peak - 1)).toBeLessThan(0.05);
  await expect(row).toContainText("✗");
  await expect(page.getByRole("img", { name: /cylinder 2, the odd one/ })).toBeVisible();
});
