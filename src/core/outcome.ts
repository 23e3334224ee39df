/**
 * Errors as values: a code for programs, one plain sentence for people and, where there is one,
 * what to do about it. Thrown exceptions are kept for bugs.
 */
export interface Refusal {
  /** Stable identifier, for example `not-audio`. */
  code: RefusalCode;
  /** One plain sentence that says what is wrong. */
  sentence: string;
  /** What the person can do about it. */
  remedy?: string;
}

export type RefusalCode =
  | "not-audio"
  | "unsupported-format"
  | "needs-ffmpeg"
  | "no-samples"
  | "too-short"
  | "too-long"
  | "too-large"
  | "damaged"
  | "not-found"
  | "not-allowed"
  | "bad-request"
  | "already-here"
  | "cancelled"
  | "cut-off-upload"
  /** A file that another program is still writing, or has left unfinished. */
  | "unfinished"
  /** The data folder cannot be used. */
  | "storage"
  /** A bug: it was logged. */
  | "internal";

export type Outcome<T> = { ok: true; value: T } | { ok: false; refusal: Refusal };

export const success = <T>(value: T): Outcome<T> => ({ ok: true, value });

export const refuse = (
  code: RefusalCode,
  sentence: string,
  remedy?: string,
): { ok: false; refusal: Refusal } => ({
  ok: false,
  refusal: remedy === undefined ? { code, sentence } : { code, sentence, remedy },
});

/** A refusal as one text. */
export const sentenceOf = ({ sentence, remedy }: Refusal): string =>
  remedy ? `${sentence} ${remedy}` : sentence;
