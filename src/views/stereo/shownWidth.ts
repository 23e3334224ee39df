/** How widths are drawn. */

/** Bars narrower than this are as good as mono, wider than this as wide as it gets: side to mid, dB. */
export const narrowest = -30;
export const widest = 3;
/** Bands with less of the power than this are drawn faintly and have no numbers. */
export const leastShare = 1e-4;
