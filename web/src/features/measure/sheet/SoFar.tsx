import { useQuery } from "@tanstack/react-query";

import type { Case, Job, Run, Sitting, Workload } from "../../../api/client";
import { SittingDots } from "../../../charts/SittingDots";
import { formatCount } from "../../../lib/format";
import { ChartToTake } from "../../../ui/TakeAlong";
import { runsQuery } from "../../../job/api";
import { leadOf, measuresOf, planFor, swapOf } from "../../../job/model";
import { jobAtSittingQuery } from "../../../job/vocabulary";
import { bandOf, columnsOf, sidesOf, isAboveRoom } from "./dots";

const AXIS = "Higher on the page is better; the band does not matter; crossed: failed or spoiled.";

interface Props {
  job: Case;
  runs: Run[];
  sitting: Sitting;
  workload: Workload;
}

/** The readings of the leading measure, by sitting; null where there are none. */
function useSoFar({ job, runs, sitting, workload }: Props) {
  const { before, after } = sidesOf(job, sitting);
  const builds = after ? [before, after] : [before];
  const { data = [] } = useQuery(runsQuery(job.machine.id, { build: builds }));
  // Asked with the sheet, not with the first reading: an entry costs no more than its own save and what follows.
  const { data: view } = useQuery(jobAtSittingQuery(job.machine.id, sitting.id));
  const plan = planFor(job, sitting.build);
  const measure = leadOf(measuresOf(job, workload.name), plan);
  if (!measure) return null;
  // The sheet knows of a save before the others are asked for again.
  const all = [...data.filter((run) => run.sitting !== sitting.id), ...runs];
  const columns = columnsOf(job, all, sitting, workload, measure);
  const count = columns.reduce((sum, column) => sum + column.values.length, 0);
  if (count === 0) return null;
  const unit = isAboveRoom(job, all, measure) ? "K above the room" : measure.unit_display;
  const band = bandOf(columns, measure, plan.measures[measure.id]?.matters_from);
  return { measure, columns, count, unit, band, hasAfter: after !== null, view };
}

/** Each reading beside those of its build and of the other side, as soon as it is there. */
export function SoFar(props: Props) {
  const { job, sitting } = props;
  const soFar = useSoFar(props);
  if (!soFar) return null;
  const { measure, columns, count, unit, band, hasAfter, view } = soFar;
  const listed = columns.map(({ label, values }) => `${label}: ${values.join(", ")}`).join("; ");
  return (
    <section className="mt-6">
      <h2 className="eyebrow mb-1">
        {measure.name} so far{unit && `, ${unit}`}
        <span className="font-normal tracking-normal normal-case"> · higher on the page is better</span>
      </h2>
      <ChartToTake
        name={`${job.machine.name}: ${measure.name} so far, ${measure.unit_display}`}
        caption={["No verdict: single runs, sitting by sitting, as far as they were measured.", AXIS]}
      >
        <SittingDots
          columns={columns}
          band={band}
          higherIsBetter={measure.better === "higher"}
          unit=""
          width={760}
          height={210}
          label={`${count} runs of ${measure.name} in ${columns.length} sittings: ${listed}`}
        />
      </ChartToTake>
      <Strength view={view} swap={swapOf(job, sitting.build)?.id} measure={measure.id} />
      <p className="mt-1 flex flex-wrap gap-x-4 text-sm text-soft">
        <Side look="text-before" name="before" />
        {hasAfter && <Side look="text-after" name="after" />}
        {band && <span>▬ does not matter</span>}
        <span>✕ failed or spoiled</span>
      </p>
    </section>
  );
}

interface StrengthProps {
  view: Job | undefined;
  swap: string | undefined;
  measure: string;
}

/** Which change the sittings would show, as they are planned and with five a side. */
function Strength({ view, swap, measure }: StrengthProps) {
  const planView = view?.swaps.find((known) => known.swap === swap)?.plan ?? view?.plan;
  const strength = planView?.strengths.find((known) => known.measure === measure);
  if (!planView || !strength) return null;
  const worded = planView.worded[measure];
  return (
    <p className="mt-1">
      {formatCount(strength.sittings_a_side, "sitting")} a side, as planned, would show a change from{" "}
      {worded?.detectable}; 5 a side one from {worded?.with_five}.
    </p>
  );
}

function Side({ look, name }: { look: string; name: string }) {
  return (
    <span>
      <span aria-hidden className={look}>
        ●
      </span>{" "}
      {name}
    </span>
  );
}
