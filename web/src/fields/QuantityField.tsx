import TextField, { type TextFieldProps } from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { asProblem } from "../api/problem";
import { quantityQuery } from "../api/queries";
import type { Dimension } from "../api/types";
import { FIGURES } from "../app/theme";
import { useSettled } from "./useSettled";

interface Props extends Omit<TextFieldProps, "onChange" | "value"> {
  value: string;
  onValue: (text: string) => void;
  dimension: Dimension;
  /** What the server said of this field when it refused the entry. */
  refused?: string;
}

/** A number as people write it. What was understood stands beneath, in the unit that counts. */
export function QuantityField({ value, onValue, dimension, refused, helperText, ...rest }: Props) {
  const text = useSettled(value);
  const understood = useQuery({ ...quantityQuery(text, dimension), enabled: text.trim() !== "" });
  const wrong =
    text.trim() !== "" && understood.isError
      ? (asProblem(understood.error).errors[0]?.reason ?? "not read yet")
      : undefined;
  const shown = text.trim() !== "" && understood.data ? `= ${understood.data.shown}` : undefined;
  return (
    <TextField
      {...rest}
      value={value}
      onChange={(event) => onValue(event.target.value)}
      error={Boolean(refused ?? wrong)}
      helperText={refused ?? wrong ?? shown ?? helperText ?? " "}
      slotProps={{
        htmlInput: { autoComplete: "off", inputMode: "text", style: { fontFamily: FIGURES, fontSize: "1.1rem" } },
      }}
    />
  );
}
