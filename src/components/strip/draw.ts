import { samplesPerBlock } from "@/core/audio/overview";
import { rulerHeight } from "@/components/timeline/ruler";

/** One side of the mirror line. */
export interface Half {
  overview: Uint8Array | null;
  sampleRate: number;
  seconds: number;
  ink: string;
  tint: string;
  /** Which seconds of the file lie where on the line. */
  parts: readonly Placed[];
}

/** A stretch of a file on the line of the reference. */
export interface Placed {
  /** On the line. */
  from: number;
  to: number;
  /** In the file. */
  ownFrom: number;
  ownTo: number;
}

export interface StripPicture {
  width: number;
  height: number;
  /** Seconds at the left and right edge. */
  from: number;
  to: number;
  reference: Half | null;
  version: Half | null;
  lineInk: string;
}

/** Amplitudes are drawn to this power: quiet parts stay visible beside limited loud ones. */
const heightExponent = 0.6;

/** Draws one half: peaks in the tint, effective level in the ink; the recreation hatched. */
function drawHalf(context: CanvasRenderingContext2D, picture: StripPicture, half: Half, up: boolean): void {
  const { width, height, from, to } = picture;
  const { overview, sampleRate } = half;
  if (!overview) return;
  const middle = rulerHeight + (height - rulerHeight) / 2;
  const reach = (height - rulerHeight) / 2 - 3;
  const blocksPerSecond = sampleRate / samplesPerBlock;
  const blocks = overview.length / 2;
  // Columns of 3 px with a gap, so that the picture stays crisp at any zoom.
  const column = 3;
  for (let x = 0; x < width; x += column) {
    const middleTime = from + ((to - from) * (x + column / 2)) / width;
    const part = half.parts.find((p) => middleTime >= p.from && middleTime < p.to);
    if (!part) continue;
    const rate = (part.ownTo - part.ownFrom) / (part.to - part.from);
    const ownAt = (time: number) => part.ownFrom + (time - part.from) * rate;
    const first = Math.max(0, Math.floor(ownAt(from + ((to - from) * x) / width) * blocksPerSecond));
    const last = Math.max(
      first + 1,
      Math.floor(ownAt(from + ((to - from) * (x + column)) / width) * blocksPerSecond),
    );
    if (first >= blocks) continue;
    let peak = 0;
    let energy = 0;
    const end = Math.min(blocks, last);
    for (let block = Math.max(0, first); block < end; block++) {
      peak = Math.max(peak, overview[2 * block]!);
      energy += overview[2 * block + 1]! ** 2;
    }
    const rms = Math.sqrt(energy / Math.max(1, end - Math.max(0, first)));
    const bar = (value: number, ink: string, inset: number) => {
      const tall = Math.max(0.5, (value / 255) ** heightExponent * reach);
      context.fillStyle = ink;
      context.fillRect(x, up ? middle - tall : middle, column - inset, tall);
    };
    bar(peak, half.tint, 1);
    bar(rms, half.ink, 1);
  }
  if (!up) hatch(context, picture, middle);
}

/** Fine slanted lines of the ground colour over the lower half: told apart by more than colour. */
function hatch(context: CanvasRenderingContext2D, { width, height }: StripPicture, middle: number): void {
  context.save();
  context.globalCompositeOperation = "destination-out";
  context.strokeStyle = "rgba(0,0,0,0.55)";
  context.lineWidth = 1;
  context.beginPath();
  const depth = height - middle;
  for (let x = -depth; x < width; x += 6) {
    context.moveTo(x, height);
    context.lineTo(x + depth, middle + 1);
  }
  context.stroke();
  context.restore();
}

/** Draws both waveforms on the mirror line. The context is in CSS pixels. */
export function drawStrip(context: CanvasRenderingContext2D, picture: StripPicture): void {
  const { width, height } = picture;
  context.clearRect(0, 0, width, height);
  const middle = rulerHeight + (height - rulerHeight) / 2;
  if (picture.version) drawHalf(context, picture, picture.version, false);
  if (picture.reference) drawHalf(context, picture, picture.reference, true);
  context.fillStyle = picture.lineInk;
  context.fillRect(0, Math.round(middle) - 0.5, width, 1);
}
