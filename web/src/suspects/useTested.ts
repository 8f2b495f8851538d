import { useRef } from "react";
import { useAppend } from "../api/queries";
import type { Finding, JobView } from "../api/types";
import { usePreferences } from "../app/preferences";
import { requestKey } from "../fields/requestKey";

/** Writes a finding to the trail at one touch, at the reading where the job stands. */
export function useQuickEntry(job: JobView) {
  const { author } = usePreferences();
  const append = useAppend(job.id);
  const pending = useRef<{ said: string; key: string } | null>(null);
  const write = (finding: Finding) => {
    // The same again after a lost answer is the same request.
    const said = JSON.stringify([finding, job.entries.length]);
    if (pending.current?.said !== said) pending.current = { said, key: requestKey() };
    return append.mutateAsync({
      entry: { odometer_km: job.state.odometer_km, author, replaces: null, finding },
      seen: job.entries.length,
      request_key: pending.current.key,
    });
  };
  return { write, isPending: append.isPending, error: append.error };
}
