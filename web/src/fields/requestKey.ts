/**
 * A name for one request, different every time: the same request sent twice is then written once. Made of random
 * bytes, which a tablet on the workshop's network has too; ready-made identifiers need an encrypted connection.
 */
export function requestKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}
