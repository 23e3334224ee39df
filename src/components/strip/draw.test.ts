/** What is drawn of two waveforms, by what a canvas is asked for. */
import { samplesPerBlock } from "@/core/audio/overview";
import { rulerHeight } from "@/components/timeline/ruler";
import { drawStrip, type Half, type StripPicture } from "./draw";

const height = 100 + rulerHeight;
const middle = rulerHeight + 50;
const reach = 47;
/** As many samples a second as give a hundred blocks. */
const sampleRate = 100 * samplesPerBlock;

interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
  ink: string;
}

/** A canvas that keeps what is filled. */
function canvas() {
  const rects: Rect[] = [];
  let strokes = 0;
  const context = {
    fillStyle: "",
    clearRect: () => {},
    fillRect(x: number, y: number, width: number, tall: number) {
      rects.push({ x, y, width, height: tall, ink: this.fillStyle });
    },
    save: () => {},
    restore: () => {},
    beginPath: () => {},
    moveTo: () => {},
    lineTo: () => {},
    stroke: () => void strokes++,
  };
  return { context: context as unknown as CanvasRenderingContext2D, rects, strokes: () => strokes };
}

/** Peaks and effective levels of blocks, 0–255. */
const overview = (seconds: number, at: (second: number) => readonly [peak: number, rms: number]) =>
  Uint8Array.from({ length: 2 * 100 * seconds }, (_, i) => at(Math.floor(i / 2) / 100)[i % 2 ? 1 : 0]);
const half = (own: Partial<Half> = {}): Half => ({
  overview: overview(10, () => [255, 100]),
  sampleRate,
  seconds: 10,
  ink: "ink",
  tint: "tint",
  parts: [{ from: 0, to: 10, ownFrom: 0, ownTo: 10 }],
  ...own,
});
function drawn(own: Partial<StripPicture>) {
  const kept = canvas();
  drawStrip(kept.context, {
    width: 300,
    height,
    from: 0,
    to: 10,
    reference: null,
    version: null,
    lineInk: "line",
    ...own,
  });
  const of = (ink: string) => kept.rects.filter((rect) => rect.ink === ink);
  return { of, strokes: kept.strokes };
}

describe("the strip", () => {
  it("is a line in the middle where there is nothing yet", () => {
    const { of, strokes } = drawn({});
    expect(of("line")).toEqual([{ x: 0, y: middle - 0.5, width: 300, height: 1, ink: "line" }]);
    expect(of("tint")).toEqual([]);
    expect(strokes()).toBe(0);
    expect(drawn({ reference: half({ overview: null }) }).of("tint")).toEqual([]);
  });

  it("has the reference above the line and the version below, hatched", () => {
    const above = drawn({ reference: half() });
    expect(above.of("tint")).toHaveLength(100);
    for (const rect of above.of("tint"))
      expect(rect).toMatchObject({ y: middle - reach, height: reach, width: 2 });
    expect(above.strokes()).toBe(0);
    const below = drawn({ version: half() });
    for (const rect of below.of("tint")) expect(rect).toMatchObject({ y: middle, height: reach });
    expect(below.strokes()).toBe(1);
  });

  it("draws quiet parts taller than they are, and effective levels within peaks", () => {
    const { of } = drawn({ reference: half({ overview: overview(10, () => [51, 25]) }) });
    expect(of("tint")[0]!.height).toBeCloseTo(0.2 ** 0.6 * reach, 6);
    expect(of("ink")[0]!.height).toBeCloseTo((25 / 255) ** 0.6 * reach, 1);
    expect(of("ink")[0]!.height).toBeLessThan(of("tint")[0]!.height);
  });

  it("takes the highest peak of what a column stands for, and its mean effective level", () => {
    // One block of each column of 0.1 s is loud.
    const spiky = overview(10, (second) => (Math.round(100 * second) % 10 === 5 ? [255, 200] : [10, 0]));
    const { of } = drawn({ reference: half({ overview: spiky }) });
    for (const rect of of("tint")) expect(rect.height).toBeCloseTo(reach, 6);
    // Root of a tenth of the square.
    expect(of("ink")[10]!.height).toBeCloseTo((200 / Math.sqrt(10) / 255) ** 0.6 * reach, 1);
  });

  it("shows the seconds asked for", () => {
    const fades = overview(10, (second) => [second < 5 ? 255 : 0, 0]);
    const late = drawn({ reference: half({ overview: fades }), from: 5, to: 6 }).of("tint");
    expect(late.every((rect) => rect.height === 0.5)).toBe(true);
    const across = drawn({ reference: half({ overview: fades }), from: 4, to: 6 }).of("tint");
    expect(across.filter((rect) => rect.height > 40)).toHaveLength(50);
  });

  it("draws a version where it answers the reference, at the speed at which it does", () => {
    // Seconds 2 to 4 of the line are seconds 1 to 5 of the file: twice as fast.
    const parts = [{ from: 2, to: 4, ownFrom: 1, ownTo: 5 }];
    const own = overview(10, (second) => [second >= 3 ? 255 : 20, 0]);
    const rects = drawn({ version: half({ overview: own, parts }) }).of("tint");
    expect(rects.map(({ x }) => x)).toEqual(Array.from({ length: 20 }, (_, i) => 60 + 3 * i));
    expect(rects.filter((rect) => rect.height === reach)).toHaveLength(10);
    expect(rects[0]!.height).toBeLessThan(reach / 2);
  });

  it("has nothing beyond the end of a file", () => {
    const short = half({ overview: overview(3, () => [255, 100]) });
    const rects = drawn({ reference: short }).of("tint");
    expect(rects).toHaveLength(30);
  });

  it("is crisp however far it is zoomed in: a column is never empty", () => {
    const { of } = drawn({ reference: half(), from: 2, to: 2.05 });
    expect(of("tint")).toHaveLength(100);
    expect(of("tint").every((rect) => rect.height === reach)).toBe(true);
  });
});
