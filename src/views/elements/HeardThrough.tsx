import type { ComparedElement } from "@/core/match";
import type { ElementRecord } from "@/core/study";
import { standing } from "@/models/elements";
import { FocusRange } from "./FocusRange";

/** How an element is heard: the lens and how free it stands, or a range of the mix. */
export function HeardThrough({
  element,
  compared,
}: {
  element: ElementRecord;
  compared: ComparedElement | undefined;
}) {
  if (compared?.through.kind === "lens") {
    const { words, isFree } = standing(compared.through.freeDb);
    return <span className={`small-text ${isFree ? "soft" : "needs-attention"}`}>lens: {words}</span>;
  }
  return <FocusRange fromHz={element.fromHz} toHz={element.toHz} />;
}
