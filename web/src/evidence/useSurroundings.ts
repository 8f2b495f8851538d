import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { quantityQuery } from "../api/queries";
import type { Surroundings } from "../api/recordings";
import { useSettled } from "../fields/useSettled";
import type { Typed } from "./Surroundings";

/** What was typed of the surroundings, and what of it is understood. */
export function useSurroundings(): [Typed, (value: Typed) => void, Surroundings] {
  const [typed, setTyped] = useState<Typed>({ ambient: "", intake: "" });
  const settled = useSettled(typed.ambient);
  const ambient = useQuery({ ...quantityQuery(settled, "pressure"), enabled: settled.trim() !== "" });
  const intake = typed.intake.trim() === "" ? Number.NaN : Number(typed.intake.replace(",", "."));
  return [
    typed,
    setTyped,
    {
      ...(settled.trim() !== "" && ambient.data?.value != null ? { ambient_kpa: ambient.data.value } : {}),
      ...(Number.isFinite(intake) ? { intake_c: intake } : {}),
    },
  ];
}
