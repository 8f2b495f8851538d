// Readings at the bench, in the depot's stories: judged while they are typed, put on the trail, weighed.
import type { Page } from "@playwright/test";
import { expect, nextMove, type Server, test } from "./workshop";

const verdict = (page: Page) => page.getByRole("region", { name: "Verdict" });
const word = (page: Page) => verdict(page).getByRole("status");

/** Opens one kind of measuring on a job of the depot. */
const at = (page: Page, server: Server, job: number, kind: string) =>
  page.goto(`${server.address}/jobs/${job}/bench?with=${kind}`);

async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByLabel(label, { exact: true }).click();
  await page.getByRole("option", { name: option, exact: typeof option === "string" }).click();
}

async function fill(page: Page, fields: Record<string, string>): Promise<void> {
  for (const [label, text] of Object.entries(fields)) await page.getByLabel(label, { exact: true }).fill(text);
}

/** Ticks what has to be ticked and writes the reading. */
async function keep(page: Page): Promise<void> {
  const boxes = page.getByRole("region", { name: "Cautions" }).getByRole("checkbox");
  for (const box of await boxes.all()) await box.check();
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(nextMove(page)).toBeVisible();
}

const trail = (page: Page) => page.getByRole("region", { name: "Trail" });

/** The fourth engine of the depot's demonstration: H-01 has job 7. */
const H01 = 7;
const W03 = 5;
const W15 = 4;

test("four plug leads without a figure are compared with each other, and the odd one goes on the trail", async ({
  page,
  server,
}) => {
  await at(page, server, H01, "ohm");
  await choose(page, "Part", "Plug lead");
  await choose(page, "Cylinder", "3");
  await choose(page, "The dial counts in", "k");
  await page.getByRole("button", { name: "By its sisters" }).click();
  await page.getByRole("button", { name: "Simulated leads" }).click();
  await page.getByRole("button", { name: "Simulated meter", exact: true }).click();
  await page.getByRole("button", { name: "Read the sisters with the simulated meter" }).click();
  await expect(word(page)).toContainText("odd one out");
  await expect(verdict(page)).toContainText("a clue and not yet a verdict");
  await expect(verdict(page).getByRole("list", { name: "Figures" }).getByRole("listitem")).toHaveCount(4);
  // The first lead is like the others.
  await choose(page, "Cylinder", "1");
  await page.getByRole("button", { name: "Simulated meter", exact: true }).click();
  await page.getByRole("button", { name: "Read the sisters with the simulated meter" }).click();
  await expect(word(page)).toContainText("pass");
  await choose(page, "Cylinder", "3");
  await page.getByRole("button", { name: "Simulated meter", exact: true }).click();
  await page.getByRole("button", { name: "Read the sisters with the simulated meter" }).click();
  await expect(word(page)).toContainText("odd one out");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Plug lead, cylinder 3");
  await expect(trail(page).getByRole("listitem").first()).toContainText("odd one out");
});

test("a warm coil is judged with its leads and the meter's error: once it passes, once this meter cannot tell", async ({
  page,
  server,
}) => {
  await at(page, server, H01, "ohm");
  await choose(page, "Part", "Coil, primary winding");
  await choose(page, "Cylinder", "one for all");
  await fill(page, {
    "The display shows": "1,96",
    "Leads held together": "0.21",
    "The part is at": "58",
    From: "1.4",
    To: "1.7",
    "given for": "20",
  });
  // Without the meter's doubt nothing is judged.
  await expect(verdict(page)).toContainText("which meter?");
  await choose(page, "Meter", "another meter");
  await fill(page, { "± % of reading": "0.8", "± digits": "3", "One digit is": "0.01" });
  await expect(word(page)).toContainText("pass");
  await expect(verdict(page)).toContainText("measured 1.750 ohm ± 0.056 ohm");
  await expect(verdict(page)).toContainText("A pass at rest does not clear a part that fails warm");
  // The same display on a poorer meter.
  await choose(page, "Meter", "Pocket meter, no data sheet");
  await expect(word(page)).toContainText("cannot tell");
  await expect(verdict(page)).toContainText("It would help:");
  await expect(verdict(page)).toContainText("ramp of its current");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("cannot tell");
});

test("a meter is kept for the workshop under its name, and used again on another job", async ({ page, server }) => {
  await at(page, server, H01, "ohm");
  await fill(page, { "± % of reading": "0.5", "± digits": "2", "One digit is": "0.01", "Name on it": "blue one" });
  await page.getByRole("button", { name: "Keep this meter for the workshop" }).click();
  await expect(page.getByRole("button", { name: "Forget this meter" })).toBeVisible();
  await at(page, server, 2, "ohm");
  await choose(page, "Meter", "blue one");
  await expect(page.getByText("± 0.5 % ± 2 digits of 0.01")).toBeVisible();
  await page.getByRole("button", { name: "Forget this meter" }).click();
  await page.getByLabel("Meter", { exact: true }).click();
  await expect(page.getByRole("option", { name: "blue one" })).toHaveCount(0);
});

test("what cannot be is said at its field, and nothing typed is lost", async ({ page, server }) => {
  await at(page, server, H01, "ohm");
  await fill(page, { "± % of reading": "0.5", "± digits": "2", "One digit is": "0.01" });
  const display = page.getByLabel("The display shows", { exact: true });
  for (const [shown, reason] of [
    ["12V", "another quantity"],
    ["-", "no number"],
  ] as const) {
    await fill(page, { From: "1", To: "2", "The part is at": "20", "The display shows": shown });
    await expect(verdict(page)).toContainText(reason);
    await expect(display).toHaveAttribute("aria-invalid", "true");
  }
  await fill(page, { "The display shows": "1,5", "The part is at": "640" });
  await expect(verdict(page)).toContainText("no part of an engine is at 640");
  await fill(page, { "The part is at": "40", "Leads held together": "4" });
  await expect(verdict(page)).toContainText("measure them again");
  await fill(page, { "Leads held together": "0.2", From: "3", To: "1" });
  await expect(verdict(page)).toContainText("lies above high");
  await fill(page, { From: "1", To: "3", "Its range ends at": "1" });
  await expect(verdict(page)).toContainText("cannot show this");
  // A reload loses nothing.
  await page.reload();
  await expect(display).toHaveValue("1,5");
  await expect(page.getByLabel("Leads held together")).toHaveValue("0.2");
  await fill(page, { "Its range ends at": "2k", "The display shows": "OL" });
  await expect(word(page)).toContainText("open");
});

test("a crank sensor is followed along its circuit to the bad joint", async ({ page, server }) => {
  await at(page, server, W03, "path");
  await choose(page, "Described before", "Crank sensor");
  const path = page.getByRole("list", { name: "The path from feed to ground" });
  const measure = page.getByRole("button", { name: "Simulated meter at the next point" });
  // The first reading halves the path; every further one halves what is left of it.
  for (let reading = 1; reading <= 5; reading++) {
    await measure.click();
    await expect(path.locator("input").locator("xpath=self::*[@value != '']")).toHaveCount(reading);
    if ((await word(page).textContent())?.includes("found")) break;
    await page.waitForTimeout(700);
    if ((await word(page).textContent())?.includes("found")) break;
  }
  await expect(word(page)).toContainText("found");
  await expect(verdict(page)).toContainText("between joint under the battery tray and sensor plug, feed pin");
  const bad = path.getByRole("listitem").filter({ hasText: /^sensor plug, feed pin/ });
  await expect(bad).toContainText("of the suspicion");
  // The pump's relay hangs on the same feed, before the joint: its loss is another fault.
  await page.getByRole("button", { name: "lost too" }).click();
  await expect(verdict(page)).toContainText("does not explain fuel pump relay");
  await page.getByRole("button", { name: "works", exact: true }).click();
  await page.getByRole("button", { name: "Details of joint under the battery tray" }).click();
  await page.getByRole("checkbox", { name: "wire pierced here" }).check();
  await expect(verdict(page)).toContainText(
    "To put right afterwards: seal the pierced wire at joint under the battery tray",
  );
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Crank sensor: the path: ✗ found");
  const open = page.getByRole("region", { name: "To put right" });
  await expect(open).toContainText("seal the pierced wire");
  await open.getByRole("button", { name: /^Done/ }).click();
  await expect(open).toBeHidden();
  await expect(trail(page).getByRole("listitem").first()).toContainText("Put right");
});

test("a vane actuator holds its vacuum and is set by its position signal", async ({ page, server }) => {
  await at(page, server, W15, "vacuum");
  await page.getByRole("button", { name: "Simulated hand pump" }).click();
  await expect(word(page)).toContainText("good");
  await keep(page);
  await at(page, server, W15, "vacuum");
  await page.getByRole("button", { name: "Rod and windows" }).click();
  await fill(page, { "Window at rest, from": "0.95", "At full travel, from": "3.4", "Vacuum applied": "430 mmHg" });
  await page.getByLabel("to", { exact: true }).first().fill("1.1");
  await page.getByLabel("to", { exact: true }).nth(1).fill("3.6");
  await expect(page.getByText("= 57.33 kPa")).toBeVisible();
  const measure = page.getByRole("button", { name: "Simulated meter at the last setting" });
  await measure.click();
  await expect(word(page)).toContainText("one setting");
  await page.getByRole("button", { name: "The rod was turned" }).click();
  await fill(page, { "Turned to": "0.5" });
  await measure.click();
  // Its length belongs to what is measured before it is moved.
  await expect(verdict(page)).toContainText("before it is moved");
  await fill(page, { "Rod as it was found": "112.4" });
  await expect(word(page)).toContainText("turn it");
  const next =
    (await verdict(page)
      .getByText(/^Next: /)
      .textContent()) ?? "";
  const turns = Number(/([+-][\d.]+) turns/.exec(next)?.[1]);
  expect(turns).toBeGreaterThan(0.2);
  await page.getByRole("button", { name: "The rod was turned" }).click();
  await page
    .getByLabel("Turned to")
    .last()
    .fill(String(0.5 + turns));
  await measure.click();
  await expect(word(page)).toContainText("inside");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Rod of the actuator");
});

test("pins show what they are, and a crossed pair is named", async ({ page, server }) => {
  await at(page, server, W03, "pins");
  await choose(page, "Described before", "crank sensor plug");
  const plug = page.getByRole("group", { name: /Connector with 3 pins, seen from the pins/ });
  await page.getByRole("button", { name: "Simulated meter" }).click();
  await expect(word(page)).toContainText("bad");
  await expect(verdict(page)).toContainText("unclear, battery feed expected");
  await expect(plug.getByRole("button", { name: /^Pin 1, 8.9 V/ })).toBeVisible();
  // From the side of the wires the picture is its mirror image; the numbers stay with their pins.
  const left = async (pin: number) =>
    (await page.getByRole("button", { name: new RegExp(`^Pin ${pin},`) }).boundingBox())?.x ?? 0;
  expect(await left(1)).toBeLessThan(await left(3));
  await choose(page, "Seen from", "the wires");
  expect(await left(1)).toBeGreaterThan(await left(3));
  // Feed and ground exchanged.
  await page.getByRole("button", { name: /^Pin 1,/ }).click();
  await fill(page, { "Key on": "0.01", "To the body, key off": "0.3" });
  await page.getByRole("button", { name: /^Pin 3,/ }).click();
  await fill(page, { "Key on": "12.4", "To the body, key off": "" });
  await expect(word(page)).toContainText("reversed");
  await expect(verdict(page)).toContainText("do not switch on again");
});

test("a connector is described once and kept with its vehicle", async ({ page, server }) => {
  await at(page, server, 2, "pins");
  await fill(page, { Connector: "coil 2 plug", Pins: "4", Rows: "2" });
  await page.getByRole("button", { name: "Pin 4" }).click();
  await choose(page, "It should be", "battery feed");
  await page.getByRole("button", { name: "Keep with the vehicle" }).click();
  await expect(page.getByRole("button", { name: "Kept with the vehicle" })).toBeVisible();
  await page.evaluate(() => localStorage.removeItem("gritty-ember.draft.job-2.bench.pins"));
  await at(page, server, 2, "pins");
  await choose(page, "Described before", "coil 2 plug");
  await expect(page.getByRole("group", { name: /Connector with 4 pins/ })).toBeVisible();
  await page.getByRole("button", { name: /^Pin 4/ }).click();
  await expect(page.getByLabel("It should be")).toContainText("battery feed");
});

test("plugs are compared face by face, with a gap and a photograph", async ({ page, server }) => {
  await at(page, server, 1, "plugs");
  for (const [cylinder, face] of [
    [1, "Normal"],
    [2, "Normal"],
    [3, "Wet"],
    [4, "Normal"],
  ] as const) {
    await page.getByRole("button", { name: `Face of plug ${cylinder}: not chosen` }).click();
    await page.getByRole("menuitem", { name: face }).click();
  }
  await expect(verdict(page)).toContainText("Plug 3 wet");
  await fill(page, { "Gap of plug 2": "1,3", "Gap should be from": "0.7 mm" });
  await page.getByLabel("to", { exact: true }).fill("0.9");
  await expect(verdict(page)).toContainText("2 gap 1.30 mm, too wide");
  const png = Buffer.from(
    "iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAFklEQVR4nGP8z8DAwMDAxMDAwMDAAAANHQEDasKb6QAAAABJRU5ErkJggg==",
    "base64",
  );
  const photo = page.getByRole("listitem", { name: "Plug 3" });
  await photo.locator('input[type="file"]').setInputFiles({ name: "wet.png", mimeType: "image/png", buffer: png });
  await photo.getByRole("button", { name: /^Open plug 3/ }).click();
  await expect(page.getByRole("dialog").getByRole("img")).toBeVisible();
  await page.getByRole("button", { name: "Close" }).click();
  // With a second one, both are laid side by side.
  await expect(page.getByRole("button", { name: "Compare the photographs" })).toHaveCount(0);
  const first = page.getByRole("listitem", { name: "Plug 1" });
  await first.locator('input[type="file"]').setInputFiles({ name: "dry.png", mimeType: "image/png", buffer: png });
  await page.getByRole("button", { name: "Compare the photographs" }).click();
  await expect(page.getByRole("dialog").getByRole("img")).toHaveCount(2);
  await page.getByRole("dialog").getByRole("button", { name: "Close" }).click();
  // What is no photograph is refused there, and the rest stays.
  await photo
    .locator('input[type="file"]')
    .setInputFiles({ name: "note.png", mimeType: "image/png", buffer: Buffer.from("no picture") });
  await expect(photo.getByRole("alert")).toContainText("JPEG, PNG or WebP");
  await expect(word(page)).toContainText("bad");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Plug 2 gap 1.30 mm, too wide; 3 wet");
});

test("compression, dry and with oil, and a lone spark at key-off", async ({ page, server }) => {
  await at(page, server, 1, "cylinders");
  await page.getByRole("button", { name: "Simulated gauge" }).click();
  await expect(word(page)).toContainText("good");
  await fill(page, { "Cylinder 2, dry": "7,6 bar", "Cylinder 2, with oil": "10 bar" });
  await expect(verdict(page)).toContainText("32 % more with oil: rings");
  await page.getByRole("button", { name: "Leak-down" }).click();
  await fill(page, { "Cylinder 2, lost, %": "62 %" });
  await page.getByLabel("Heard").nth(1).click();
  await page.getByRole("option", { name: "in the crankcase" }).click();
  await expect(verdict(page)).toContainText("heard in the crankcase: rings");
  await page.getByRole("button", { name: "Spark", exact: true }).click();
  await page.getByRole("group", { name: "Spark at key-off" }).getByRole("button", { name: "none" }).click();
  await expect(verdict(page)).toContainText("its own case");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Spark at key-off");
});

test("a travel written by hand shows its drop-out, one out of a recording its course", async ({ page, server }) => {
  await at(page, server, 3, "sweep");
  const lines = Array.from({ length: 21 }, (_, n) => (n <= 10 ? n : 20 - n) * 10).map(
    (x, n) => `${x} ${(n === 6 ? 0.3 : 0.5 + 0.04 * x).toFixed(2).replace(".", ",")}`,
  );
  const text = page.getByLabel(/^One line for each place/);
  await text.fill(`${lines.join("\n")}\nlow`);
  await expect(page.getByText(/line 22/).first()).toBeVisible();
  await text.fill(lines.join("\n"));
  await expect(verdict(page)).toContainText("drops out by 65 % of the travel at point 7");
  await expect(page.getByRole("img", { name: /Point 7 drops out/ })).toBeVisible();
  await page.getByRole("button", { name: "Out of a recording" }).click();
  await page.getByLabel("Out of", { exact: true }).click();
  await page.getByRole("option").first().click();
  await choose(page, "Value", "load");
  await fill(page, { From: "10", To: "60" });
  await page.getByRole("button", { name: "Take this stretch" }).click();
  await expect(page.getByText(/points out of/)).toBeVisible();
  await expect(verdict(page)).toContainText("Sweep, throttle");
});

test("smoke is looked for hose by hose, and the usual suspects are walked at a touch", async ({ page, server }) => {
  await at(page, server, W15, "air");
  const hoses = page.getByRole("list", { name: "The way of the air" });
  await page.getByRole("button", { name: "no smoke" }).click();
  await expect(verdict(page)).toContainText("not looked at");
  await hoses.getByRole("button", { name: /^hot charge hose/ }).click();
  await page.getByRole("button", { name: "smoke comes out" }).click();
  await expect(word(page)).toContainText("leaks");
  await expect(hoses.getByRole("button", { name: "hot charge hose: leaks" })).toBeVisible();
  const walk = page.getByRole("region", { name: "Walk along the charge side" });
  await walk.getByRole("button", { name: "nothing seen" }).click();
  await expect(walk).toContainText("1. Joints and hoses – nothing seen");
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Smoke comes out at hot charge hose");
  await expect(trail(page).getByRole("listitem").nth(1)).toContainText("nothing seen");
});

test("voltages, a loss under load, a current, a diode and timing marks each get their verdict", async ({
  page,
  server,
}) => {
  await at(page, server, H01, "volts");
  await choose(page, "Circuit", "Classic ignition");
  await fill(page, { "Key on": "0.1", Cranking: "9.9", "Battery, cranking": "10.2" });
  await expect(word(page)).toContainText("bad");
  await page.getByRole("button", { name: "Voltage lost under load" }).click();
  await fill(page, { "Lost along it": "430 mV", "while there flow": "8 A", "At most": "0.2" });
  await expect(verdict(page)).toContainText("54 mohm");
  await page.getByRole("button", { name: "Current" }).click();
  await fill(page, { "Of what": "coil", Flows: "3,4", "At least": "3", "At most": "4.5" });
  await expect(word(page)).toContainText("good");
  await at(page, server, H01, "more");
  await fill(page, { Between: "coil 15 and fuse 3", "The display shows": "OL" });
  await expect(word(page)).toContainText("open");
  await page.getByRole("button", { name: "Diode" }).click();
  await fill(page, { Which: "across the relay", "Red lead away from the ring": "0.58", "Red lead on the ring": "OL" });
  await expect(word(page)).toContainText("good");
  await page.getByRole("button", { name: "no", exact: true }).click();
  await expect(verdict(page)).toContainText("sits the wrong way round");
  await page.getByRole("button", { name: "Timing marks" }).click();
  await fill(page, { "Stands off by, teeth": "+1" });
  await expect(verdict(page)).toContainText("cam stands 1.0 teeth late, 18 crank degrees");
});

test("a new part is measured before it is fitted, from the keyboard alone", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/2`);
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("b");
  const display = page.getByLabel("The display shows", { exact: true });
  await display.focus();
  await page.keyboard.type("OL");
  for (const [label, text] of [
    ["The part is at", "20"],
    ["± % of reading", "0.5"],
    ["± digits", "2"],
    ["One digit is", "0.01"],
    ["From", "0.6"],
    ["To", "0.9"],
  ] as const) {
    await page.getByLabel(label, { exact: true }).focus();
    await page.keyboard.type(text);
  }
  await page.getByLabel("The part is", { exact: true }).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(verdict(page)).toContainText("Do not fit it.");
  await expect(verdict(page)).not.toContainText("weighs among the suspects");
  await page.getByRole("button", { name: "Put it on the trail" }).focus();
  await page.keyboard.press("Enter");
  await expect(trail(page).getByRole("listitem").first()).toContainText("the new part, before fitting");
});

test("a measurement is corrected around its figures, and withdrawn for them", async ({ page, server }) => {
  await at(page, server, 1, "cylinders");
  await page.goto(`${server.address}/jobs/2/bench?with=cylinders`);
  await page.getByRole("button", { name: "Spark", exact: true }).click();
  await page.getByRole("group", { name: "Spark at cylinder 2" }).getByRole("button", { name: "none" }).click();
  await expect(word(page)).toContainText("bad");
  await keep(page);
  const entry = trail(page).getByRole("listitem").first();
  await entry.getByRole("button", { name: /^Correct entry/ }).click();
  const sheet = page.getByRole("dialog");
  await expect(sheet).toContainText("A wrong figure is withdrawn");
  await sheet.getByLabel("Conditions").fill("wet with mist");
  await sheet.getByRole("button", { name: "Write it down" }).click();
  await expect(trail(page).getByRole("listitem").first()).toContainText("wet with mist");
});

test("a known-good part through the loom proves part and wiring, or parts them", async ({ page, server }) => {
  await at(page, server, 3, "ohm");
  await choose(page, "Part", "Injector winding");
  await choose(page, "Cylinder", "4");
  await choose(page, "Measured", "a known-good part through the loom");
  await choose(page, "Meter", "Workshop meter, no data sheet");
  await fill(page, { From: "11", To: "17", "The part is at": "20", "Both, from the unit's end": "14,2" });
  await expect(verdict(page)).toContainText("part and wiring are proven in one reading");
  await fill(page, { "Both, from the unit's end": "90" });
  await expect(verdict(page)).toContainText("now the part alone, at its own pins");
  await fill(page, { "The part alone": "14.1" });
  await expect(verdict(page)).toContainText("the fault lies in the loom or its plugs");
  await fill(page, { "The loom alone": "OL" });
  await expect(verdict(page).getByRole("list", { name: "Figures" }).getByRole("listitem")).toHaveCount(3);
  await keep(page);
  await expect(trail(page).getByRole("listitem").first()).toContainText("Injector winding through the loom");
});

test("a single value needs its tolerance, and a figure may be given at two temperatures", async ({ page, server }) => {
  await at(page, server, W03, "ohm");
  await choose(page, "Part", "Crank sensor");
  await choose(page, "Meter", "Workshop meter, no data sheet");
  await page.getByRole("button", { name: "one value ± %" }).click();
  await fill(page, { "The display shows": "1,31k", "The part is at": "60", Value: "1.2k" });
  await expect(verdict(page)).toContainText("it needs its tolerance");
  await fill(page, { "± %": "15" });
  await expect(word(page)).toContainText("pass");
  await page.getByRole("button", { name: "from … to" }).click();
  await page.getByRole("button", { name: "At two temperatures" }).click();
  await fill(page, { From: "1.1k", To: "1.25k", "and from": "1.35k", to: "1.55k" });
  await page.getByLabel("given for", { exact: true }).first().fill("20");
  await page.getByLabel("given for", { exact: true }).nth(1).fill("90");
  // Between the two, and not from the lowest to the highest: at 60 °C it is 1.243 to 1.421 kohm.
  await expect(word(page)).toContainText("pass");
  await fill(page, { "The display shows": "1,17k" });
  await expect(word(page)).toContainText("fail");
  await expect(verdict(page)).toContainText("at 60 °C");
});

test("what was measured and what is still to be put right stand on the owner's report", async ({ page, server }) => {
  await at(page, server, W03, "path");
  for (const [point, volt] of [
    ["joint under the battery tray", "12.4"],
    ["sensor plug, feed pin", "8.9"],
  ] as const)
    await page.getByLabel(`At ${point}`, { exact: true }).fill(volt);
  await page.getByRole("button", { name: "Details of sensor plug, feed pin" }).click();
  await page.getByRole("checkbox", { name: "wire pierced here" }).check();
  await expect(word(page)).toContainText("found");
  await keep(page);
  await page.keyboard.press("o");
  const report = page.getByRole("article");
  await expect(report).toContainText("The fault lies between joint under the battery tray and sensor plug, feed pin");
  await expect(report).toContainText("Still to be put right: seal the pierced wire at sensor plug, feed pin");
  await page.goBack();
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("k");
  await expect(page.getByRole("heading", { name: "W-03: scope" })).toBeVisible();
});

test("a path that nobody has touched says where to measure first and cannot be kept", async ({ page, server }) => {
  await at(page, server, 3, "path");
  await expect(verdict(page)).toContainText("Next: measure at");
  await expect(page.getByRole("button", { name: "Put it on the trail" })).toBeDisabled();
  await page.getByRole("button", { name: "Details of main relay" }).click();
  await page.getByRole("button", { name: "seen bad" }).click();
  await expect(word(page)).toContainText("lost on the way");
  await expect(page.getByRole("button", { name: "Put it on the trail" })).toBeEnabled();
});
