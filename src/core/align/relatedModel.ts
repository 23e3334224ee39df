/** Fitted by `npm run fit:related`; one entry a feature of `relationFeatures`. Not edited by hand. */
// prettier-ignore
export const relatedModel = {
  weights: [] as number[],
  means: [] as number[],
  deviations: [] as number[],
};
