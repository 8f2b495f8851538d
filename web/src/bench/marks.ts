import type { Judged } from "../api/bench";

/** Told by shape and word; colour says nothing here. */
export const MARK: Record<Judged, string> = { good: "✓", bad: "✗", "cannot-tell": "?" };
export const WORD: Record<Judged, string> = { good: "good", bad: "bad", "cannot-tell": "cannot tell" };
