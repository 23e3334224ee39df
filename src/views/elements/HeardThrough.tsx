import type { ComparedElement } from "@/core/match";
import type { ElementRecord, HeardElements } from "@/core/study";
import { heardBriefly, standing } from "@/models/elements";
import { FocusRange } from "./FocusRange";

/** How an element is heard: its stems, the lens and how free it stands, or a range of the mix; before there is a version, what of it is in the reference. */
export function HeardThrough({
  element,
  compared,
  heard,
}: {
  element: ElementRecord;
  compared: ComparedElement | undefined;
  /** What is heard of the reference; null where that is not known. */
  heard: HeardElements | null;
}) {
  if (compared?.through.kind === "lens") {
    const { words, isFree } = standing(compared.through.freeDb);
    return <span className={`small-text ${isFree ? "soft" : "needs-attention"}`}>lens: {words}</span>;
  }
  if (compared?.through.kind === "stems") return <span className="small-text soft">stems of both</span>;
  if (!compared && heard && element.lens)
    return <span className="small-text soft">{heardBriefly(heard, element.lens)}</span>;
  return <FocusRange fromHz={element.fromHz} toHz={element.toHz} />;
}
