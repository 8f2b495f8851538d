// How figures and times are written. Writing only: every figure comes reckoned from the server.

const thin = "\u202f";

export const whole = (value: number): string =>
  Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+(?!\d))/g, thin);

export const km = (value: number): string => `${whole(value)} km`;

/** A rate in percent with as many places as its size asks for. */
export function percent(value: number): string {
  if (value === 0) return "0 %";
  if (value >= 100) return "100 %";
  const places = value >= 10 ? 1 : value >= 0.1 ? 2 : 4;
  return `${value.toFixed(places)} %`;
}

/** A probability as a percentage that is never rounded to certainty. */
export function sure(probability: number): string {
  const value = probability * 100;
  if (value > 99.9) return ">\u00a099.9\u00a0%";
  if (value < 0.1) return "<\u00a00.1\u00a0%";
  return `${value.toFixed(value >= 99 || value < 1 ? 1 : 0)}\u00a0%`;
}

export const minutes = (value: number): string => (value > 0 ? `${whole(value)} min` : "");

export function moment(at: string): string {
  const date = new Date(at);
  return date.toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

export const day = (at: string): string =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" });

export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${whole(count)} ${count === 1 ? one : many}`;
