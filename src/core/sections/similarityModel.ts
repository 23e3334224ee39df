/** Fitted by `npm run fit:sections`; one entry a feature of `likenessFeatures`. Not edited by hand. */
// oxfmt-ignore
export const similarityModel = {
  weights: [0.2837, -1.7172, -2.3435, -2.0993, -1.2200, -0.9120, -0.6228, -0.9828],
  means: [0.5000, 4.6186, 0.4331, 0.3520, 0.1460, 0.0777, 2.3456, 0.2000],
  deviations: [0.5000, 8.0451, 0.7323, 0.5799, 0.2421, 0.1797, 4.5133, 0.4979],
};
