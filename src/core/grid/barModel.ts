export const barModel = { weights: [] as number[], means: [] as number[], deviations: [] as number[] };
