/** A repeatable source of chance: the same seed gives the same song on every machine. */
export interface Chance {
  /** Uniform in [0, 1). */
  next(): number;
  /** Uniform in [low, high). */
  between(low: number, high: number): number;
  /** Whole number in [low, high]. */
  whole(low: number, high: number): number;
  /** One of the choices. */
  pick<T>(choices: readonly T[]): T;
  /** Normal distribution with mean 0. */
  spread(deviation: number): number;
}

/** Mulberry32 generator (public domain). */
export function chance(seed: number): Chance {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    next,
    between: (low, high) => low + (high - low) * next(),
    whole: (low, high) => low + Math.floor((high - low + 1) * next()),
    pick: (choices) => choices[Math.floor(next() * choices.length)]!,
    spread: (deviation) => deviation * Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next()),
  };
}
