import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, client } from "./client";
import { ApiProblem, asProblem } from "./problem";
import type {
  CounterReading,
  Dimension,
  EngineDescription,
  JobView,
  NewEntry,
  Quantity,
  Vehicle,
  WorkshopOwn,
} from "./types";

/** Another tablet may write too: look again every so often. */
const LOOK_AGAIN_MS = 10_000;

/** While cards are being made the yard is looked at sooner. */
const SOON_MS = 1_500;

export const useYard = (from = 0) =>
  useQuery({
    queryKey: ["yard", from],
    queryFn: () => answer(client.GET("/api/yard", { params: { query: { from } } })),
    refetchInterval: (query) => (query.state.data?.refreshing ? SOON_MS : LOOK_AGAIN_MS),
    placeholderData: keepPreviousData,
  });

export const useJob = (id: number) =>
  useQuery({
    queryKey: ["job", id],
    queryFn: () => answer(client.GET("/api/jobs/{id}", { params: { path: { id } } })),
    refetchInterval: LOOK_AGAIN_MS,
    retry: (count, error) => asProblem(error).status !== 404 && count < 2,
  });

export const useVehicles = () =>
  useQuery({ queryKey: ["vehicles"], queryFn: () => answer(client.GET("/api/vehicles")) });

export function useAddVehicle() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (vehicle: Vehicle) => answer(client.POST("/api/vehicles", { body: vehicle })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["vehicles"] }),
  });
}

export function useOpenJob() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (job: { vehicle_id: number; first: NewEntry; request_key: string }) =>
      answer(client.POST("/api/jobs", { body: job })),
    onSuccess: (job) => {
      queries.setQueryData(["job", job.id], job);
      return queries.invalidateQueries({ queryKey: ["yard"] });
    },
  });
}

export function useAppend(id: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (addition: { entry: NewEntry; seen: number; request_key: string }): Promise<JobView> =>
      answer(client.POST("/api/jobs/{id}/entries", { params: { path: { id } }, body: addition })),
    onSuccess: (job) => {
      queries.setQueryData(["job", id], job);
      for (const key of ["report", "drive", "history", "depot", "search"])
        queries.invalidateQueries({ queryKey: [key] });
      return queries.invalidateQueries({ queryKey: ["yard"] });
    },
    onError: (error) => {
      // Somebody else wrote: show what, while the form stays as it is.
      if (asProblem(error).kind === "stale") queries.invalidateQueries({ queryKey: ["job", id] });
    },
  });
}

export const quantityQuery = (text: string, dimension: Dimension) =>
  queryOptions<Quantity>({
    queryKey: ["quantity", dimension, text],
    queryFn: () => answer(client.POST("/api/read/quantity", { body: { text, dimension } })),
    staleTime: Number.POSITIVE_INFINITY,
    retry: (count, error) => asProblem(error).status === 0 && count < 2,
  });

export const codesQuery = (text: string) =>
  queryOptions({
    queryKey: ["codes", text],
    queryFn: () => answer(client.POST("/api/read/codes", { body: { text } })),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: text.trim() !== "",
  });

export const engineQuery = (engine: EngineDescription | null) =>
  queryOptions({
    queryKey: ["engine", engine],
    queryFn: () => answer(client.POST("/api/reckon/engine", { body: engine as EngineDescription })),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: engine !== null,
    retry: false,
  });

export async function readCounters(file: File, cylinders: number): Promise<CounterReading> {
  let response: Response;
  try {
    response = await fetch(`/api/imports/counters?cylinders=${cylinders}`, {
      method: "POST",
      headers: { "content-type": "text/csv" },
      body: file,
    });
  } catch {
    throw new ApiProblem({
      type: "out-of-reach",
      title: "The file did not arrive",
      detail: "The file did not arrive: the server does not answer, or the file is far too large (20 MB are read).",
      status: 0,
      errors: [],
    });
  }
  const content = await response.json();
  if (!response.ok) throw new ApiProblem(content);
  return content;
}

export const bookQuery = queryOptions({
  queryKey: ["book"],
  queryFn: () => answer(client.GET("/api/knowledge")),
});

export const faultQuery = (id: string) =>
  queryOptions({
    queryKey: ["book", "fault", id],
    queryFn: () => answer(client.GET("/api/knowledge/faults/{id}", { params: { path: { id } } })),
    retry: (count, error) => asProblem(error).status === 0 && count < 2,
  });

export const testQuery = (id: string) =>
  queryOptions({
    queryKey: ["book", "test", id],
    queryFn: () => answer(client.GET("/api/knowledge/tests/{id}", { params: { path: { id } } })),
    enabled: id !== "",
    retry: (count, error) => asProblem(error).status === 0 && count < 2,
  });

/** Tests, symptoms and faults by the trade's words. */
export const foundQuery = (words: string) =>
  queryOptions({
    queryKey: ["book", "found", words],
    queryFn: () => answer(client.GET("/api/knowledge/search", { params: { query: { q: words } } })),
    enabled: words.trim() !== "",
    staleTime: Number.POSITIVE_INFINITY,
  });

export const ownQuery = queryOptions({
  queryKey: ["workshop"],
  queryFn: () => answer(client.GET("/api/workshop")),
});

/** Puts what the workshop knows beside the book; everything that is reckoned with it is fetched anew. */
export function useChangeOwn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (own: WorkshopOwn) => answer(client.PUT("/api/workshop", { body: own })),
    onSuccess: (page) => {
      queries.setQueryData(["workshop"], page);
      for (const key of ["book", "job", "yard"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
}
