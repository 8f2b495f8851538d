import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, client } from "./client";
import { ApiProblem } from "./problem";
import type { Imported, JobView, Layout, LogLook } from "./types";

/** A complete recording never changes. */
const FOREVER = { staleTime: Number.POSITIVE_INFINITY };

export interface Surroundings {
  ambient_kpa?: number;
  intake_c?: number;
}

export const useRecording = (id: number) =>
  useQuery({
    queryKey: ["recording", id],
    queryFn: () => answer(client.GET("/api/recordings/{id}", { params: { path: { id } } })),
    retry: 1,
  });

export const useRecordings = (job: number) =>
  useQuery({
    queryKey: ["recordings", job],
    queryFn: () => answer(client.GET("/api/jobs/{id}/recordings", { params: { path: { id: job } } })),
  });

export const useTrace = (id: number, channels: string[], from_s: number | null, to_s: number | null, columns: number) =>
  useQuery({
    queryKey: ["trace", id, channels, from_s, to_s, columns],
    queryFn: () =>
      answer(
        client.GET("/api/recordings/{id}/trace", {
          params: {
            path: { id },
            query: { channels: channels.join(","), from_s: from_s ?? undefined, to_s: to_s ?? undefined, columns },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: channels.length > 0,
    ...FOREVER,
  });

export const useMisfires = (id: number) =>
  useQuery({
    queryKey: ["misfires", id],
    queryFn: () => answer(client.GET("/api/recordings/{id}/misfires", { params: { path: { id } } })),
    ...FOREVER,
  });

export const useTrims = (id: number, given: Surroundings) =>
  useQuery({
    queryKey: ["trims", id, given],
    queryFn: () => answer(client.GET("/api/recordings/{id}/trims", { params: { path: { id }, query: given } })),
    placeholderData: keepPreviousData,
    retry: false,
    ...FOREVER,
  });

export const useBoost = (id: number, given: Surroundings) =>
  useQuery({
    queryKey: ["boost", id, given],
    queryFn: () => answer(client.GET("/api/recordings/{id}/boost", { params: { path: { id }, query: given } })),
    placeholderData: keepPreviousData,
    retry: false,
    ...FOREVER,
  });

export function useKeep(id: number, job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: {
      odometer_km: number;
      author: string;
      conditions: string;
      seen: number;
      request_key: string;
    }): Promise<JobView> => answer(client.POST("/api/recordings/{id}/keep", { params: { path: { id } }, body })),
    onSuccess: (view) => {
      queries.setQueryData(["job", job], view);
      queries.invalidateQueries({ queryKey: ["recording", id] });
      return queries.invalidateQueries({ queryKey: ["yard"] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ["job", job] }),
  });
}

export function useBringBack() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (file: File): Promise<JobView> => sent("/api/bundles", file, "application/json"),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["yard"] }),
  });
}

/** The beginning of a file is enough to understand its layout. */
const HEAD = 256 * 1024;

export const lookAtLog = (file: File): Promise<LogLook> =>
  sent("/api/imports/look", file.slice(0, HEAD), "application/octet-stream");

export function importLog(
  job: number,
  file: File,
  key: string,
  layout: Layout | null,
  ambient_kpa: number | null,
  stop: AbortSignal,
): Promise<Imported> {
  const query = new URLSearchParams({ name: file.name, key });
  if (layout) query.set("layout", JSON.stringify(layout));
  if (ambient_kpa !== null) query.set("ambient_kpa", String(ambient_kpa));
  return sent(`/api/jobs/${job}/logs?${query}`, file, "application/octet-stream", stop);
}

export const useImportProgress = (key: string, running: boolean) =>
  useQuery({
    queryKey: ["import", key],
    queryFn: () => answer(client.GET("/api/imports/{key}", { params: { path: { key } } })),
    enabled: running,
    refetchInterval: running ? 300 : false,
  });

async function sent<T>(path: string, body: Blob, type: string, stop?: AbortSignal): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { method: "POST", headers: { "content-type": type }, body, signal: stop });
  } catch {
    const stopped = stop?.aborted;
    throw new ApiProblem({
      type: stopped ? "stopped" : "out-of-reach",
      title: stopped ? "Stopped" : "The file did not arrive",
      detail: stopped
        ? "Stopped: nothing of the file was kept."
        : "The file did not arrive: the server does not answer. Choose it again when it is back.",
      status: 0,
      errors: [],
    });
  }
  const content = await response.json();
  if (!response.ok) throw new ApiProblem(content);
  return content;
}
