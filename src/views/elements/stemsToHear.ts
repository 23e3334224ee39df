/** Stems that are heard in place of what the lens lifts out. */
import { offsetOf, type ElementRecord, type TrackRecord } from "@/core/study";
import type { StemsAlone } from "@/listening/engine/muting";
import type { Side } from "@/listening/engine/timeline";

/** The stems of an element, on the sides that have some that lie where they belong. */
export function stemsToHear(
  { id, name }: Pick<ElementRecord, "id" | "name">,
  reference: TrackRecord | null,
  version: TrackRecord | null,
): Partial<Record<Side, StemsAlone>> {
  const of = (track: TrackRecord | null): StemsAlone | undefined =>
    track?.stems.some((stem) => stem.elementId === id && offsetOf(stem) !== null)
      ? { trackId: track.id, elementId: id, name }
      : undefined;
  const [ours, theirs] = [of(reference), of(version)];
  return { ...(ours && { reference: ours }), ...(theirs && { version: theirs }) };
}
