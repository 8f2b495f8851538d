import type { Problem, Refusal } from "./types";

/** An error of the API: problem details, or the server out of reach. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly kind: string;
  readonly errors: Refusal[];

  constructor(problem: Problem) {
    super(problem.detail || problem.title);
    this.status = problem.status;
    this.kind = problem.type;
    this.errors = problem.errors ?? [];
  }

  /** The reason for the first refused field whose path ends with one of these. */
  reasonFor(...fields: string[]): string | undefined {
    return this.errors.find((refusal) => fields.some((field) => refusal.field.endsWith(field)))?.reason;
  }
}

export const outOfReach = () =>
  new ApiProblem({
    type: "out-of-reach",
    title: "The server does not answer",
    detail: "The server does not answer. What you typed is kept here; save again when it is back.",
    status: 0,
    errors: [],
  });

export function asProblem(error: unknown): ApiProblem {
  return error instanceof ApiProblem ? error : outOfReach();
}
