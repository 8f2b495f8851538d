import type { QueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type SweepPoint, travelQuery } from "../api/bench";
import { ApiProblem, asProblem } from "../api/problem";
import { quantityQuery } from "../api/queries";
import type { Dimension, Entry, Finding, JobView, Move, NeedShown } from "../api/types";

/** What a sheet is asked to be: the kind of entry, and what is known of it already. */
export interface SheetRequest {
  kind: Finding["kind"];
  moves?: Move[];
  part?: string;
  variant?: string;
  cylinder?: number;
  need?: NeedShown["need"];
  /** A test of the book, where it was made, and what came of it. */
  test?: string;
  target?: string;
  outcome?: string;
  /** The entry that is corrected. */
  corrects?: Entry;
  /** Asked for by the next move, or by the moves planned on the block: what they say replaces an old draft. */
  fromNext?: boolean;
  fromPlan?: boolean;
}

export interface FieldsProps<F> {
  value: F;
  change: (part: Partial<F>) => void;
  job: JobView;
  /** The server's reason for a field, by the end of its path. */
  refused: (...fields: string[]) => string | undefined;
}

/** How one kind of entry is filled in: what it starts with, its fields, and the finding that they make. */
export interface EntryForm<F extends object> {
  first: (job: JobView, request: SheetRequest) => F;
  Fields: (props: FieldsProps<F>) => ReactNode;
  finding: (value: F, read: Reader) => Promise<Finding>;
}

/** Reads what was typed, as the server understands it. */
export interface Reader {
  number: (text: string, dimension: Dimension, field: string) => Promise<number>;
  optional: (text: string, dimension: Dimension, field: string) => Promise<number | null>;
  travel: (text: string) => Promise<SweepPoint[]>;
}

export const refusal = (field: string, reason: string) =>
  new ApiProblem({ type: "refused", title: "", detail: reason, status: 422, errors: [{ field, reason }] });

export function reader(queries: QueryClient): Reader {
  const number = async (text: string, dimension: Dimension, field: string) => {
    if (text.trim() === "") throw refusal(field, "is missing");
    try {
      const read = await queries.fetchQuery(quantityQuery(text, dimension));
      if (read.value == null) throw refusal(field, "must be a number");
      return read.value;
    } catch (error) {
      const problem = asProblem(error);
      if (problem.status === 0) throw problem;
      throw refusal(field, problem.errors[0]?.reason ?? problem.message);
    }
  };
  return {
    number,
    travel: (text) => queries.fetchQuery(travelQuery(text)),
    optional: (text, dimension, field) => (text.trim() === "" ? Promise.resolve(null) : number(text, dimension, field)),
  };
}

/** The corrected entry's finding, when it is of this kind. */
export function corrected<K extends Finding["kind"]>(
  request: SheetRequest,
  kind: K,
): Extract<Finding, { kind: K }> | null {
  const finding = request.corrects?.finding;
  return finding?.kind === kind ? (finding as Extract<Finding, { kind: K }>) : null;
}
