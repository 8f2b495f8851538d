import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { answer, client } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type SearchIn = Schemas["SearchIn"];
export type JobSummary = Schemas["JobSummary"];
export type Share = Schemas["Share"];

export const searchQuery = (words: string, within: SearchIn) =>
  queryOptions({
    queryKey: ["search", within, words],
    queryFn: () => answer(client.GET("/api/search", { params: { query: { words, within } } })),
    enabled: words.trim() !== "",
    placeholderData: keepPreviousData,
    retry: false,
  });

export const depotQuery = queryOptions({
  queryKey: ["depot"],
  queryFn: () => answer(client.GET("/api/depot")),
});

export const historyQuery = (vehicle: number) =>
  queryOptions({
    queryKey: ["history", vehicle],
    queryFn: () => answer(client.GET("/api/vehicles/{id}/history", { params: { path: { id: vehicle } } })),
    retry: 1,
  });
