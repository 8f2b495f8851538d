import TextField from "@mui/material/TextField";
import type { Dimension } from "../api/types";
import { QuantityField } from "../fields/QuantityField";

type Texts<F> = { [K in keyof F]: F[K] extends string ? K : never }[keyof F] & string;

/**
 * Fields for the texts of a form, by their name: `quantity` for what is read as a number with its unit, `words` for what
 * is kept as it is written. Each shows the server's reason for its own field; without a field there can be none.
 */
export function fieldsOf<F extends object>(
  value: F,
  change: (part: Partial<F>) => void,
  refused: (...fields: string[]) => string | undefined,
) {
  const reason = (field: string) => (field ? refused(field) : undefined);
  const put = (name: Texts<F>, text: string) => change({ [name]: text } as Partial<F>);
  return {
    quantity: (name: Texts<F>, label: string, dimension: Dimension, field: string, helper?: string) => (
      <QuantityField
        key={name}
        label={label}
        dimension={dimension}
        value={value[name] as string}
        onValue={(text) => put(name, text)}
        refused={reason(field)}
        helperText={helper}
      />
    ),
    words: (name: Texts<F>, label: string, field: string, placeholder?: string, helper = " ") => (
      <TextField
        key={name}
        label={label}
        placeholder={placeholder}
        value={value[name] as string}
        onChange={(event) => put(name, event.target.value)}
        error={Boolean(reason(field))}
        helperText={reason(field) ?? helper}
      />
    ),
  };
}
