import type { Measure } from "../api/client";

/** Work alone is "times as fast": power, clocks, fans and other readings are only more or less. */
export const isWork = (measure: Pick<Measure, "kind">): boolean =>
  measure.kind === "time" || measure.kind === "rate" || measure.kind === "score";
