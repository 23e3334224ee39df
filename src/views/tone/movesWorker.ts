/** Fits equaliser moves away from the page's own thread: that takes a tenth of a second and more. */
import { suggestedMoves } from "@/models/equaliser";
import type { MovesAnswer, MovesQuestion } from "./useSuggestedMoves";

onmessage = ({ data: { id, spectra, sampleRate } }: MessageEvent<MovesQuestion>) => {
  const answer: MovesAnswer = { id, moves: suggestedMoves(spectra, sampleRate) };
  postMessage(answer);
};
