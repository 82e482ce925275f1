/** The outcome of something that can fail in a way the caller must handle: errors are values here. */
export type Result<T, E> = { ok: true; value: T } | { ok: false; error: E };

/** Wraps a success. */
export const ok = <T>(value: T): { ok: true; value: T } => ({ ok: true, value });

/** Wraps a failure. */
export const fail = <E>(error: E): { ok: false; error: E } => ({ ok: false, error });
