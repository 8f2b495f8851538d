/**
 * The one scale for likelihood: metal that warms, from dull dark red to pale yellow-white. Its lightness rises all
 * the way, so it reads in grey and to colour-blind eyes too. Heat means "likely", never "bad".
 */
const STOPS: [number, [number, number, number]][] = [
  [0, [58, 34, 29]],
  [0.15, [104, 34, 20]],
  [0.4, [168, 58, 20]],
  [0.65, [222, 112, 30]],
  [0.85, [248, 176, 72]],
  [1, [255, 240, 200]],
];

function between(likelihood: number): [number, number, number] {
  const p = Math.min(1, Math.max(0, likelihood));
  for (let i = 1; i < STOPS.length; i++) {
    const upper = STOPS[i];
    const lower = STOPS[i - 1];
    if (upper && lower && p <= upper[0]) {
      const t = (p - lower[0]) / (upper[0] - lower[0]);
      return [0, 1, 2].map((c) => Math.round((lower[1][c] ?? 0) + t * ((upper[1][c] ?? 0) - (lower[1][c] ?? 0)))) as [
        number,
        number,
        number,
      ];
    }
  }
  return [255, 240, 200];
}

export const heat = (likelihood: number): string => `rgb(${between(likelihood).join(" ")})`;

/** Ink that can be read on a heated surface. */
export const inkOnHeat = (likelihood: number): string => (likelihood > 0.55 ? "#1a0f08" : "#fff3e2");
