import createClient from "openapi-fetch";
import { ApiProblem, outOfReach } from "./problem";
import type { paths } from "./schema";
import type { Problem } from "./types";

export const client = createClient<paths>({ baseUrl: "" });

/** The data of an answer, or its problem as an error. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result: { data?: T; error?: unknown; response: Response };
  try {
    result = await call;
  } catch {
    throw outOfReach();
  }
  if (result.data !== undefined) return result.data;
  const problem = result.error;
  if (problem && typeof problem === "object" && "title" in problem) throw new ApiProblem(problem as Problem);
  throw new ApiProblem({
    type: "unreadable",
    title: "The server's answer cannot be read",
    detail: `The server answered ${result.response.status} and nothing that can be read.`,
    status: result.response.status,
    errors: [],
  });
}
