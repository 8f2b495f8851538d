import { useCallback, useRef } from "react";
import type { Trace } from "../api/types";
import { Lane, type LaneHandle } from "./Lane";
import type { Range } from "./useRange";

interface Props {
  trace: Trace;
  /** Label and unit of each channel. */
  named: Map<string, { label: string; unit: string }>;
  range: Range;
  marks?: { time_s: number; label: string }[];
  /** Bounds of a lane's height, and what stands above and below all of them. */
  least: number;
  most: number;
  besides: number;
}

/** As many columns as the screen can show. */
export const columnsOfScreen = (): number => Math.min(1600, Math.max(300, Math.round(window.innerWidth - 280)));

const NO_MARKS: { time_s: number; label: string }[] = [];

/** Channels under each other with one cursor for all. */
export function Lanes({ trace, named, range, marks = NO_MARKS, least, most, besides }: Props) {
  const lanes = useRef(new Map<string, LaneHandle>());
  // One cursor for all lanes: moved without a render, or it would not keep up with the hand.
  const follow = useCallback((seconds: number | null) => {
    for (const lane of lanes.current.values()) lane.cursor(seconds);
  }, []);
  return trace.channels.map((thinned, index, all) => {
    const channel = named.get(thinned.channel);
    if (!channel) return null;
    return (
      <Lane
        key={thinned.channel}
        ref={(handle) => {
          if (handle) lanes.current.set(thinned.channel, handle);
          else lanes.current.delete(thinned.channel);
        }}
        channel={channel}
        time={trace.time_s}
        thinned={thinned}
        from={range.from}
        to={range.to}
        marks={marks}
        height={Math.max(least, Math.min(most, (window.innerHeight - besides) / Math.max(1, all.length)))}
        times={index === all.length - 1}
        onCursor={follow}
        onZoom={range.zoom}
      />
    );
  });
}
