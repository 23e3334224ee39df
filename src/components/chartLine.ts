/** How every line of a chart is drawn: without dots, and at once. */
export const plainLine = { dot: false, isAnimationActive: false } as const;
