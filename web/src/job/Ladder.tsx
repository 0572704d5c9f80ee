import { Link } from "react-router";

import type { Case, Swap } from "../api/client";
import { formatCount } from "../lib/format";
import { layLadder, type Rung } from "./ladder";
import { buildName, tally } from "./model";

interface Props {
  job: Case;
  before?: string | undefined;
  after?: string | undefined;
  /** Where a click on a swap leads. */
  to: (swap: Swap) => string;
}

const INDENT_PX = 14;

/** All builds in order with the swaps between them, branches set in; the two that are compared stand out. */
export function Ladder({ job, before, after, to }: Props) {
  const rungs = layLadder(job);
  return (
    <nav aria-label="Build ladder">
      <div className="mb-2 flex items-center justify-between">
        <h2 className="eyebrow">Build ladder</h2>
        <Link to="../ladder" className="flex min-h-11 items-center text-soft underline underline-offset-4">
          history
        </Link>
      </div>
      <ol>
        {rungs.map((rung) => (
          <li key={rung.build.id} style={{ marginLeft: rung.lane * INDENT_PX }}>
            {rung.swap && (
              <Step
                swap={rung.swap}
                branch={rung.parent === null ? undefined : sayBranch(rung, rungs)}
                current={rung.swap.after === after && rung.swap.before === before}
                to={to}
              />
            )}
            <BuildBox job={job} rung={rung} side={sideOf(rung.build.id, before, after)} />
            {rung.returns.map((swap) => (
              <Link key={swap.id} to={to(swap)} className="block py-2 pl-3 text-sm text-soft hover:bg-note">
                ↩ {swap.label}
              </Link>
            ))}
          </li>
        ))}
      </ol>
    </nav>
  );
}

/** Which build a branch left from, where that is not the one drawn just above. */
function sayBranch(rung: Rung, rungs: Rung[]): string | undefined {
  const index = rungs.indexOf(rung);
  return rung.parent === index - 1 ? undefined : `from ${rungs[rung.parent ?? 0]?.build.letter ?? "?"}: `;
}

function sideOf(
  build: string,
  before: string | undefined,
  after: string | undefined,
): "before" | "after" | null {
  if (build === before) return "before";
  return build === after ? "after" : null;
}

interface StepProps {
  swap: Swap;
  branch: string | undefined;
  current: boolean;
  to: (swap: Swap) => string;
}

function Step({ swap, branch, current, to }: StepProps) {
  return (
    <Link
      to={to(swap)}
      aria-current={current ? "true" : undefined}
      className="ml-4 block border-l-2 border-dotted border-edge py-2 pl-3 hover:bg-note"
    >
      <span className="block font-semibold">
        {branch && <span className="font-normal text-soft">{branch}</span>}
        {swap.label}
      </span>
      <span className="text-sm text-soft">{swap.state === "closed" ? swap.net_written : swap.state}</span>
    </Link>
  );
}

function BuildBox({ job, rung, side }: { job: Case; rung: Rung; side: "before" | "after" | null }) {
  const { build } = rung;
  const edge = { before: "border-l-4 border-l-before", after: "border-l-4 border-l-after" };
  const { sittings, runs } = tally(job, build.id);
  return (
    <div className={`rounded-lg border border-line bg-card px-3 py-2 ${side ? edge[side] : ""}`}>
      {side && (
        <span
          className={`float-right ml-1 rounded-full px-2 text-sm font-semibold text-card ${side === "before" ? "bg-before" : "bg-after"}`}
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
        {runs ? `${formatCount(runs, "run")} · ${formatCount(sittings, "sitting")}` : "not measured yet"}
        {build.id === job.fitted && " · now"}
      </span>
    </div>
  );
}
