import type { Case, Comparison } from "../../api/client";
import { TrendChart } from "../../charts/TrendChart";
import { ChartToTake } from "../../ui/TakeAlong";
import { pointsOf } from "./traits";

interface Props {
  job: Case;
  comparison: Comparison;
}

/** Whether the gain follows what the jobs are frozen to; nothing where they share no number. */
export function Traits({ job, comparison }: Props) {
  if (comparison.trends.length === 0) return null;
  return (
    <section aria-labelledby="traits" className="mt-6">
      <h2 id="traits" className="eyebrow mb-2">
        Does the gain follow the work?
      </h2>
      <div className="grid gap-4 sm:grid-cols-2">
        {comparison.trends.map((trend, index) => {
          const worded = comparison.worded.trends[index];
          return (
            <figure key={trend.trait} className="min-w-0">
              <ChartToTake
                name={`${job.machine.name}: gain, %, against ${trend.trait}`}
                caption={[worded?.says, worded?.doubt, comparison.worded.bundle]}
              >
                <TrendChart
                  points={pointsOf(trend, comparison, job.measures)}
                  trait={trend.trait}
                  width={320}
                  height={180}
                  label={`Gain against ${trend.trait}. ${worded?.points ?? ""}`}
                />
              </ChartToTake>
              <figcaption>
                {worded?.says} <span className="text-soft">{worded?.doubt}</span>
              </figcaption>
            </figure>
          );
        })}
      </div>
    </section>
  );
}
