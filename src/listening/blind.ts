/** The arithmetic of a blind test. */

/** Flips of one test. */
export const blindRounds = 10;

/**
 * Chance that someone who only guesses is right at least this often (binomial distribution with
 * even odds).
 */
export function chanceOfGuessing(right: number, rounds: number): number {
  let ways = 1;
  let sum = 0;
  for (let k = 0; k <= rounds; k++) {
    if (k > 0) ways = (ways * (rounds - k + 1)) / k;
    if (k >= right) sum += ways;
  }
  return sum / 2 ** rounds;
}

/** What a score says, in a sentence. A chance under 5 % counts as heard: common practice, no source. */
export function verdict(right: number, rounds: number): string {
  const percent = 100 * chanceOfGuessing(right, rounds);
  const chance = `Guessing gets that far in ${percent < 1 ? percent.toFixed(1) : Math.round(percent)} % of tests`;
  if (percent < 5) return `You hear the difference. ${chance}.`;
  if (right <= rounds / 2) return `You cannot tell them apart here. ${chance}.`;
  return `Perhaps, perhaps not. ${chance}; try again or on a shorter loop.`;
}
