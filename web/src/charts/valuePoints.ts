import type { Reckoning } from "../api/client";
import type { ValuePoint } from "./ValueChart";

type Options = Reckoning["settings"][number]["options"];

/** The ways to spend money that a picture draws: those with a cost and a gain; doing nothing is no point of it. */
export const valuePoints = (options: Options): ValuePoint[] =>
  options.flatMap(({ id, kind, label, point, verdict, is_expected: isExpected, provisional }) =>
    point && kind !== "nothing"
      ? [
          {
            id: id ?? label,
            label,
            cost: point.cost,
            costLow: point.cost_low,
            costHigh: point.cost_high,
            gain: point.gain,
            low: point.low,
            high: point.high,
            verdict: verdict ?? "untested",
            isExpected,
            isProvisional: provisional,
          },
        ]
      : [],
  );
