/** Key, chords, sections and moments of a track on its grid. */
import type { Grid } from "../grid/grid";
import { estimateHarmony } from "../harmony/estimateHarmony";
import { estimateForm } from "../sections/estimateForm";
import type { ProfileCurves } from "../sections/barProfile";
import type { Seconds } from "../units";
import type { TrackPlan } from "./trackPlan";

export const planOf = (grid: Grid | null, curves: ProfileCurves, durationSeconds: Seconds): TrackPlan => ({
  harmony: estimateHarmony(curves.pitches, grid, durationSeconds),
  form: grid ? estimateForm(grid, curves, durationSeconds) : null,
});
