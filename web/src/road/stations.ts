import type { Mark, Road } from "../api/types";

/** A place on the road where something happened: all marks of one reading, or a run of readings alike. */
export interface Station {
  km: number;
  upTo: number;
  marks: Mark[];
}

/** Divides the marks into stations. Notices that follow each other with nothing between them are one station. */
export function stations(road: Road): Station[] {
  const found: Station[] = [];
  for (const mark of [...road.marks].sort((a, b) => a.km - b.km)) {
    const last = found.at(-1);
    const onlyFaults = (list: Mark[]) => list.every((one) => one.kind === "fault");
    if (last && last.upTo === mark.km) last.marks.push(mark);
    else if (last && mark.kind === "fault" && onlyFaults(last.marks)) {
      last.marks.push(mark);
      last.upTo = mark.km;
    } else found.push({ km: mark.km, upTo: mark.km, marks: [mark] });
  }
  return found;
}

/** What stands at a station, each line once. */
export function lines(station: Station): string[] {
  const faults = station.marks.filter((mark) => mark.kind === "fault");
  const rest = station.marks.filter((mark) => mark.kind !== "fault").map((mark) => mark.label);
  const first = faults.length > 1 ? [`noticed ${faults.length} times`] : faults.map((mark) => mark.label);
  return [...first, ...rest];
}
