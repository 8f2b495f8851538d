import { useCallback, useState } from "react";

export interface Range {
  /** What was asked for; nothing for all of it. */
  asked: [number, number] | null;
  from: number;
  to: number;
  span: number;
  zoom: (a: number, b: number) => void;
  shift: (share: number) => void;
  scale: (factor: number) => void;
  all: () => void;
}

/** The stretch of time that is looked at, never shorter than `shortest` seconds. */
export function useRange(span: number, shortest: number): Range {
  const [asked, setAsked] = useState<[number, number] | null>(null);
  const [from, to] = asked ?? [0, span];
  const zoom = useCallback(
    (a: number, b: number) => {
      const low = Math.max(0, Math.min(a, b));
      const high = Math.min(span, Math.max(a, b));
      if (high - low > shortest) setAsked([low, high]);
    },
    [span, shortest],
  );
  const around = (low: number, width: number): [number, number] => {
    const begin = Math.min(Math.max(0, low), span - width);
    return [begin, begin + width];
  };
  return {
    asked,
    from,
    to,
    span,
    zoom,
    shift: (share) => setAsked(around(from + share * (to - from), to - from)),
    scale: (factor) => {
      const width = Math.max(shortest, Math.min(span, (to - from) * factor));
      setAsked(width >= span ? null : around((from + to - width) / 2, width));
    },
    all: () => setAsked(null),
  };
}
