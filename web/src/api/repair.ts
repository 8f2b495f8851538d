import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { usePreferences } from "../app/preferences";
import { reader } from "../entry/form";
import { requestKey } from "../fields/requestKey";
import { answer, client } from "./client";
import { useAppend } from "./queries";
import type { components } from "./schema";
import type { Finding, JobView } from "./types";

type Schemas = components["schemas"];
export type TorqueInput = Schemas["TorqueInput"];
export type TorqueResult = Schemas["TorqueResult"];
export type DecideInput = Schemas["DecideInput"];
export type DecideResult = Schemas["DecideResult"];
export type Offer = Schemas["Offer"];
export type CodingInput = Schemas["CodingInput"];
export type CodedNumber = Schemas["CodedNumber"];
export type OffItem = Schemas["OffItem"];
export type OffShown = Schemas["OffShown"];
export type DriveShown = Schemas["DriveShown"];
export type RelearnStep = Schemas["RelearnStep"];

const FOREVER = { staleTime: Number.POSITIVE_INFINITY, retry: false };

export const repairChoicesQuery = queryOptions({
  queryKey: ["repair-choices"],
  queryFn: () => answer(client.GET("/api/repairs/choices")),
});

export const decideQuery = (input: DecideInput | null) =>
  queryOptions({
    queryKey: ["decide", input],
    queryFn: () => answer(client.POST("/api/reckon/decide", { body: input as DecideInput })),
    enabled: input !== null,
    placeholderData: keepPreviousData,
    ...FOREVER,
  });

export const codingQuery = (input: CodingInput | null) =>
  queryOptions({
    queryKey: ["coding", input],
    queryFn: () => answer(client.POST("/api/reckon/coding", { body: input as CodingInput })),
    enabled: input !== null,
    placeholderData: keepPreviousData,
    ...FOREVER,
  });

export const driveQuery = (job: number) =>
  queryOptions({
    queryKey: ["drive", job],
    queryFn: () => answer(client.GET("/api/jobs/{id}/drive", { params: { path: { id: job } } })),
    // The car moves from cell to cell while it is driven.
    refetchInterval: 2_000,
  });

/** Puts a finding on the trail, signed and at a reading of the odometer as it was typed. */
export function useWrite(job: JobView) {
  const queries = useQueryClient();
  const append = useAppend(job.id);
  const { author } = usePreferences();
  return useMutation({
    mutationFn: async ({ finding, odometer, key }: { finding: Finding; odometer: string; key?: string }) => {
      const odometer_km = await reader(queries).number(odometer, "distance", "odometer_km");
      return append.mutateAsync({
        entry: { odometer_km, author, replaces: null, finding },
        seen: job.entries.length,
        request_key: key ?? requestKey(),
      });
    },
  });
}
