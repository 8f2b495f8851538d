// Writes the demonstration's counter logs. The same seeds give the same files, so run it only to change the story:
//   node demo-data/make-logs.mjs
import { writeFileSync } from "node:fs";

/** A small seeded generator: the logs must not differ from one run to the next. */
function generator(seed) {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
}

/** One drive: idle, cruise, long climbs. `rate(cylinder, load)` is the chance of a misfire in one firing. */
function drive({ seed, minutes, cylinders, rate }) {
  const random = generator(seed);
  const counters = new Array(cylinders).fill(0);
  const rows = [];
  const step = 0.5;
  for (let t = 0; t <= minutes * 60; t += step) {
    const phase = (t % 150) / 150;
    const load = phase < 0.2 ? 15 : phase < 0.55 ? 35 : phase < 0.9 ? 78 : 20;
    const base = phase < 0.2 ? 820 : phase < 0.55 ? 2150 : phase < 0.9 ? 2900 : 1400;
    const rpm = Math.round(base + (random() - 0.5) * 120);
    for (let c = 0; c < cylinders; c++) {
      const firings = ((rpm / 60) * step) / 2;
      // Misfires come in bursts: in one stretch of three many, in the others few.
      const burst = random() < 0.3 ? 2.6 : 0.3;
      const expected = firings * rate(c + 1, load) * burst;
      let count = Math.floor(expected);
      if (random() < expected - count) count += 1;
      counters[c] += Math.min(count, Math.floor(firings));
    }
    rows.push({ t, rpm, load, counters: [...counters] });
  }
  return rows;
}

function write(file, rows, { separator, decimal, end, mark, headings, wrap }) {
  const number = (value, digits) => value.toFixed(digits).replace(".", decimal);
  const lines = [headings.join(separator)];
  for (const row of rows) {
    const counters = row.counters.map((value) => (wrap ? value % wrap : value));
    lines.push([number(row.t, 1), row.rpm, number(row.load, 1), ...counters].join(separator));
  }
  writeFileSync(new URL(file, import.meta.url), (mark ? "\uFEFF" : "") + lines.join(end) + end);
}

const underLoad = (bad, size) => (cylinder, load) => (cylinder === bad ? (load > 60 ? size : size / 60) : 0.00004);
const sound = () => 0.00003;

write("w07-before-swap.csv", drive({ seed: 7, minutes: 10, cylinders: 4, rate: underLoad(3, 0.032) }), {
  separator: ",", decimal: ".", end: "\n", mark: false,
  headings: ["time s", "rpm", "load %", "misfires cyl 1", "misfires cyl 2", "misfires cyl 3", "misfires cyl 4"],
});
write("w07-after-swap.csv", drive({ seed: 71, minutes: 10, cylinders: 4, rate: underLoad(2, 0.029) }), {
  separator: ";", decimal: ",", end: "\r\n", mark: true, wrap: 256,
  headings: ["Time (s)", "Engine speed (rpm)", "Load (%)", "MF1", "MF2", "MF3", "MF4"],
});
write("w07-after-repair.csv", drive({ seed: 72, minutes: 12, cylinders: 4, rate: sound }), {
  separator: "\t", decimal: ".", end: "\n", mark: false,
  headings: ["time s", "rpm", "load %", "misfires cyl 1", "misfires cyl 2", "misfires cyl 3", "misfires cyl 4"],
});
write("m02-after-swap.csv", drive({ seed: 2, minutes: 8, cylinders: 3, rate: underLoad(1, 0.04) }), {
  separator: ";", decimal: ",", end: "\r\n", mark: false,
  headings: ["time s", "rpm", "load", "misfire_1", "misfire_2", "misfire_3"],
});
