import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, client } from "./client";
import type { JobView, LinkRequest, LinkStatus } from "./types";

/** While something runs, the link is looked at this often; else seldom. */
const RUNNING_MS = 250;
const IDLE_MS = 1500;

const key = (job: number) => ["link", job];

const runs = (status: LinkStatus | undefined) =>
  status && (status.activity.doing !== "nothing" || (status.recording && !status.recording.ended));

export const useLink = (job: number) =>
  useQuery({
    queryKey: key(job),
    queryFn: () => answer(client.GET("/api/jobs/{id}/link", { params: { path: { id: job } } })),
    refetchInterval: (query) => (runs(query.state.data) ? RUNNING_MS : IDLE_MS),
  });

export const useAdapters = () =>
  useQuery({
    queryKey: ["adapters"],
    queryFn: () => answer(client.GET("/api/adapters")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export function useConnect(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (address: string) =>
      answer(client.POST("/api/jobs/{id}/link", { params: { path: { id: job } }, body: { address } })),
    onSettled: () => queries.invalidateQueries({ queryKey: key(job) }),
  });
}

export function usePart(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => answer(client.DELETE("/api/jobs/{id}/link", { params: { path: { id: job } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: key(job) }),
  });
}

export function useAskLink(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (request: LinkRequest) =>
      answer(client.POST("/api/jobs/{id}/link/requests", { params: { path: { id: job } }, body: request })),
    onSettled: () => queries.invalidateQueries({ queryKey: key(job) }),
  });
}

export function useSaveScan(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: {
      number: number;
      odometer_km: number;
      author: string;
      seen: number;
      request_key: string;
    }): Promise<JobView> => answer(client.POST("/api/jobs/{id}/link/scan", { params: { path: { id: job } }, body })),
    onSuccess: (view) => queries.setQueryData(["job", job], view),
    onSettled: () => {
      queries.invalidateQueries({ queryKey: key(job) });
      queries.invalidateQueries({ queryKey: ["job", job] });
    },
  });
}
