/** Notes of a bass line. */
import { z } from "zod";
import { decibelRange, fractionRange, secondsRange } from "../ranges";

/** How the pitch of a note moves: when, and where it lies before and after, semitones beside the note's own. */
export const bassSlideSchema = z.object({
  from: secondsRange,
  to: secondsRange,
  before: z.number().min(-24).max(24),
  after: z.number().min(-24).max(24),
});
export type BassSlide = z.infer<typeof bassSlideSchema>;

export const bassNoteSchema = z.object({
  start: secondsRange,
  end: secondsRange,
  /** MIDI note number of the fundamental. */
  midi: z.number().int().min(0).max(127),
  /** How far it lies above that, −50 … 50. */
  cents: z.number().min(-60).max(60),
  levelDb: decibelRange,
  /** How far its pitch stands out of what sounds with it. */
  sure: fractionRange,
  /** Left out where it does not slide. */
  slide: bassSlideSchema.optional(),
});
export type BassNote = z.infer<typeof bassNoteSchema>;
export const bassLineSchema = z.array(bassNoteSchema).max(20_000);
