import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, client } from "./client";
import { ApiProblem, asProblem, outOfReach } from "./problem";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Measured = Schemas["Measured"];
export type Measurement = Schemas["Measurement"];
export type BenchResult = Schemas["BenchResult"];
export type BenchFigure = Schemas["BenchFigure"];
export type BenchChoices = Schemas["BenchChoices"];
export type MeterProfile = Schemas["MeterProfile"];
export type MeterAccuracy = Schemas["MeterAccuracy"];
export type ResistanceInput = Schemas["ResistanceInput"];
export type CylinderReading = Schemas["CylinderReading"];
export type ExpectedPin = Schemas["ExpectedPin"];
export type PinRole = Schemas["PinRole"];
export type PointKind = Schemas["PointKind"];
export type Judged = Schemas["Judged"];
export type PathPoint = Schemas["PathPoint"];
export type StoredCapture = Schemas["StoredCapture"];
export type StoredPhoto = Schemas["StoredPhoto"];
export type SimQuestion = Schemas["SimQuestion"];
export type SimAnswer = Schemas["SimAnswer"];
export type SimProbe = Schemas["SimProbe"];
export type WaveformKind = WaveformAsk["of"];
export type WaveformAsk = Schemas["WaveformAsk"];
export type WaveformResult = Schemas["WaveformResult"];
export type SweepPoint = Schemas["SweepPoint"];
export type BenchMark = Schemas["BenchMark"];
export type KeepReading = Schemas["KeepReading"];
export type PlugFace = Schemas["PlugFace"];

/** What is complete never changes. */
const FOREVER = { staleTime: Number.POSITIVE_INFINITY };

export const choicesQuery = queryOptions({
  queryKey: ["bench"],
  queryFn: () => answer(client.GET("/api/bench")),
  ...FOREVER,
});

export const judgeReading = (job: number, measured: Measured) =>
  answer(client.POST("/api/jobs/{id}/bench", { params: { path: { id: job } }, body: measured }));

/** A travel written by hand, read by the server. */
export const travelQuery = (text: string) =>
  queryOptions({
    queryKey: ["travel", text],
    queryFn: () => answer(client.POST("/api/read/travel", { body: { text } })),
    enabled: text.trim() !== "",
    retry: false,
    ...FOREVER,
  });

interface Stretch {
  channel: string;
  position?: string;
  second?: string;
  from_s?: number;
  to_s?: number;
}

/** A travel out of a recording or a capture of the scope. */
export const travelOf = (from: "recordings" | "captures", id: number, query: Stretch): Promise<SweepPoint[]> =>
  from === "recordings"
    ? answer(client.GET("/api/recordings/{id}/travel", { params: { path: { id }, query } }))
    : answer(client.GET("/api/captures/{id}/travel", { params: { path: { id }, query } }));

export const keptQuery = (vehicle: number) =>
  queryOptions({
    queryKey: ["kept", vehicle],
    queryFn: () => answer(client.GET("/api/vehicles/{id}/bench", { params: { path: { id: vehicle } } })),
  });

export function useKeepForVehicle(vehicle: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { kind: string; name: string; body: unknown }) =>
      answer(client.PUT("/api/vehicles/{id}/bench", { params: { path: { id: vehicle } }, body: body as never })),
    onSuccess: (list) => queries.setQueryData(["kept", vehicle], list),
  });
}

export const simulatedQuery = (fleetNo: string) =>
  queryOptions({
    queryKey: ["instruments", fleetNo],
    queryFn: () => answer(client.GET("/api/instruments/{fleet_no}", { params: { path: { fleet_no: fleetNo } } })),
    ...FOREVER,
  });

export const askInstrument = (fleetNo: string, question: SimQuestion): Promise<SimAnswer> =>
  answer(client.POST("/api/instruments/{fleet_no}", { params: { path: { fleet_no: fleetNo } }, body: question }));

export const capturesQuery = (job: number) =>
  queryOptions({
    queryKey: ["captures", job],
    queryFn: () => answer(client.GET("/api/jobs/{id}/captures", { params: { path: { id: job } } })),
  });

export const useCapture = (id: number) =>
  useQuery({
    queryKey: ["capture", id],
    queryFn: () => answer(client.GET("/api/captures/{id}", { params: { path: { id } } })),
    retry: (count, error) => asProblem(error).status === 0 && count < 2,
    ...FOREVER,
  });

export const useCaptureTrace = (id: number, from_s: number | null, to_s: number | null, columns: number) =>
  useQuery({
    queryKey: ["capture-trace", id, from_s, to_s, columns],
    queryFn: () =>
      answer(
        client.GET("/api/captures/{id}/trace", {
          params: { path: { id }, query: { from_s: from_s ?? undefined, to_s: to_s ?? undefined, columns } },
        }),
      ),
    placeholderData: keepPreviousData,
    ...FOREVER,
  });

export const useWaveform = (id: number, ask: WaveformAsk | null) =>
  useQuery({
    queryKey: ["waveform", id, ask],
    queryFn: () =>
      answer(client.POST("/api/captures/{id}/read", { params: { path: { id } }, body: ask as WaveformAsk })),
    enabled: ask !== null,
    retry: false,
    placeholderData: keepPreviousData,
    ...FOREVER,
  });

export function useSimulatedCapture(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (probe: SimProbe) =>
      answer(client.POST("/api/jobs/{id}/captures/simulated", { params: { path: { id: job } }, body: { probe } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["captures", job] }),
  });
}

/** Puts what a capture says on the trail; the server reads it once more. */
export function useKeepCapture(job: number, capture: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: KeepReading) =>
      answer(client.POST("/api/captures/{id}/keep", { params: { path: { id: capture } }, body })),
    onSuccess: (view) => {
      queries.setQueryData(["job", job], view);
      queries.invalidateQueries({ queryKey: ["yard"] });
    },
  });
}

export function useTakeCapture(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ file, options }: { file: File; options: unknown }): Promise<StoredCapture> => {
      const query = new URLSearchParams({ name: file.name });
      if (options) query.set("options", JSON.stringify(options));
      return sent(`/api/jobs/${job}/captures?${query}`, file);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["captures", job] }),
  });
}

export const photosQuery = (job: number) =>
  queryOptions({
    queryKey: ["photos", job],
    queryFn: () => answer(client.GET("/api/jobs/{id}/photos", { params: { path: { id: job } } })),
  });

/** Larger files are turned away before they are sent: a tablet's link is slow. */
const LARGEST_PHOTO = 15 * 1024 * 1024;

export function useTakePhoto(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ file, name }: { file: File; name: string }): Promise<StoredPhoto> => {
      if (file.size > LARGEST_PHOTO) {
        const reason = `is ${Math.round(file.size / 1048576)} MB, and 15 MB are taken: choose a smaller size on the camera`;
        throw new ApiProblem({
          type: "too-large",
          title: "Too large",
          detail: `The photograph ${reason}`,
          status: 413,
          errors: [{ field: "file", reason }],
        });
      }
      return sent(`/api/jobs/${job}/photos?${new URLSearchParams({ name })}`, file);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["photos", job] }),
  });
}

async function sent<T>(path: string, body: Blob): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { method: "POST", headers: { "content-type": "application/octet-stream" }, body });
  } catch {
    throw outOfReach();
  }
  const content = await response.json();
  if (!response.ok) throw new ApiProblem(content);
  return content;
}
