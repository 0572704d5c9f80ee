import type { Rung } from "../../job/ladder";
import { lanePath } from "./model";

export const ROW_PX = 92;
const LANE_PX = 22;
const LEFT_PX = 14;

/** The lanes of the ladder beside its rows: a dot a build, a line a swap. */
export function LaneGraph({ rungs, fitted }: { rungs: Rung[]; fitted: string | null }) {
  const lanes = 1 + Math.max(0, ...rungs.map((rung) => rung.lane));
  const place = (index: number): [number, number] => [
    LEFT_PX + LANE_PX * (rungs[index]?.lane ?? 0),
    ROW_PX * (index + 0.5),
  ];
  return (
    <svg
      width={LEFT_PX * 2 + LANE_PX * (lanes - 1)}
      height={ROW_PX * rungs.length}
      className="shrink-0"
      role="img"
      aria-label={rungs
        .map((rung) =>
          rung.parent === null
            ? `${rung.build.letter} is the first build`
            : `${rung.build.letter} comes from ${rungs[rung.parent]?.build.letter ?? "?"}`,
        )
        .join("; ")}
    >
      {rungs.map((rung, index) =>
        rung.parent === null ? null : (
          <path
            key={`line ${rung.build.id}`}
            d={lanePath(place(rung.parent), place(index), ROW_PX)}
            fill="none"
            stroke="var(--edge)"
            strokeWidth={2}
            strokeDasharray={rung.swap?.state === "closed" ? undefined : "3 4"}
          />
        ),
      )}
      {rungs.map((rung, index) => {
        const [x, y] = place(index);
        const now = rung.build.id === fitted;
        return (
          <circle
            key={rung.build.id}
            cx={x}
            cy={y}
            r={now ? 7 : 5}
            fill={rung.build.sealed ? "var(--ink)" : "var(--paper)"}
            stroke={now ? "var(--color-eye)" : "var(--ink)"}
            strokeWidth={now ? 3 : 2}
          />
        );
      })}
    </svg>
  );
}
