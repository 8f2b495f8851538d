import { queryOptions } from "@tanstack/react-query";
import { answer, client } from "./client";
import type { components } from "./schema";

export type Report = components["schemas"]["Report"];
export type Reader = components["schemas"]["Reader"];
export type Block = components["schemas"]["Block"];

export const reportQuery = (job: number, reader: Reader) =>
  queryOptions({
    queryKey: ["report", job, reader],
    queryFn: () => answer(client.GET("/api/jobs/{id}/report", { params: { path: { id: job }, query: { reader } } })),
    retry: 1,
  });
