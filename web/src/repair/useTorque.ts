import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, client } from "../api/client";
import { asProblem } from "../api/problem";
import { reader } from "../entry/form";
import { useSettled } from "../fields/useSettled";
import { asTorque, type TorqueText } from "./stages";

/** What the typed stages and wrench come to, or why they cannot be. */
export function useTorque(text: TorqueText) {
  const queries = useQueryClient();
  const settled = useSettled(JSON.stringify(text), 300);
  const result = useQuery({
    queryKey: ["torque-typed", settled],
    queryFn: async () => {
      const typed: TorqueText = JSON.parse(settled);
      const read = reader(queries);
      const range =
        typed.low.trim() === "" && typed.high.trim() === ""
          ? undefined
          : {
              low_nm: await read.number(typed.low, "torque", "low"),
              high_nm: await read.number(typed.high, "torque", "high"),
            };
      const input = asTorque(typed, range);
      if (!input) return null;
      return { input, result: await answer(client.POST("/api/reckon/torque", { body: input })) };
    },
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return { ...(result.data ?? {}), problem: result.error ? asProblem(result.error) : null, waiting: result.isFetching };
}
