/** Fitted by `npm run fit:sections`; one entry a feature of `likenessFeatures`. Not edited by hand. */
// prettier-ignore
export const likenessModel = {
  weights: [0.2083, -1.7326, -2.3853, -2.0948, -1.0465, -0.7550, -0.6402, -1.0489],
  means: [0.5000, 4.6186, 0.4331, 0.3520, 0.1460, 0.0777, 2.3456, 0.2000],
  deviations: [0.5000, 8.0451, 0.7323, 0.5799, 0.2421, 0.1797, 4.5133, 0.4979],
};
