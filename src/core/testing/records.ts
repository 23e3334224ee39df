/** Records of made-up tracks and elements. */
import { noCorrections, type ElementRecord, type TrackRecord } from "../study";

export const done = { state: "done", message: "Done", done: 1, refusal: null } as const;

export function file(hash: string, durationSeconds: number): TrackRecord["file"] {
  return {
    hash,
    bytes: 4_000_000,
    format: "wav",
    durationSeconds,
    sampleRate: 44100,
    channels: 2,
    warnings: [],
    tags: {},
  };
}

export function track(number: number, fileName: string, seconds: number): TrackRecord {
  return {
    id: `track${number}`,
    role: number === 0 ? "reference" : "version",
    number,
    fileName,
    note: number === 2 ? "louder drums" : "",
    addedAt: Date.UTC(2026, 10, 2 + number, 9, 30),
    file: file(`hash${number}`, seconds),
    job: done,
    corrections: noCorrections,
    coverage: null,
    starred: false,
    place: null,
    stems: [],
  };
}

export const element = (id: string, name: string, fromHz: number, toHz: number): ElementRecord => ({
  id,
  name,
  lens: null,
  fromHz,
  toHz,
  state: "in work",
  note: "",
  weight: 0.5,
  target: null,
  hidden: false,
});
