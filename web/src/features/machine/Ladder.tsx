import { Link } from "react-router";

import type { Case, Swap } from "../../api/client";
import { formatCount, formatMoney } from "../../lib/format";
import { buildName, tally } from "./model";

interface Props {
  job: Case;
  before?: string | undefined;
  after?: string | undefined;
  /** Where a click on a swap leads. */
  to: (swap: Swap) => string;
}

/** All builds in order with the swaps between them; the two that are compared stand out. */
export function Ladder({ job, before, after, to }: Props) {
  return (
    <nav aria-label="Build ladder">
      <h2 className="eyebrow mb-3">Build ladder</h2>
      <ol>
        {job.builds.map((build) => {
          const swap = job.swaps.find((other) => other.after === build.id);
          const side = build.id === before ? "before" : build.id === after ? "after" : null;
          const edge =
            side === "before"
              ? "border-l-4 border-l-before"
              : side === "after"
                ? "border-l-4 border-l-after"
                : "";
          const { sittings, runs } = tally(job, build.id);
          return (
            <li key={build.id}>
              {swap && (
                <Link
                  to={to(swap)}
                  aria-current={swap.after === after && swap.before === before ? "true" : undefined}
                  className="ml-4 block border-l-2 border-dotted border-edge py-2 pl-3 hover:bg-note"
                >
                  <span className="block font-semibold">{swap.label}</span>
                  <span className="text-sm text-soft">
                    net {formatMoney(swap.net_cost, job.machine.currency)}
                  </span>
                </Link>
              )}
              <div className={`rounded-lg border border-line bg-card px-3 py-2 ${edge}`}>
                {side && (
                  <span
                    className={`float-right rounded-full px-2 text-sm font-semibold text-card ${side === "before" ? "bg-before" : "bg-after"}`}
                  >
                    {side}
                  </span>
                )}
                <span
                  className={`block font-semibold ${side === "before" ? "text-before" : side === "after" ? "text-after" : ""}`}
                >
                  {buildName(build)}
                </span>
                <span className="text-sm text-soft">
                  {runs
                    ? `${formatCount(runs, "run")} · ${formatCount(sittings, "sitting")}`
                    : "not measured yet"}
                </span>
              </div>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}
