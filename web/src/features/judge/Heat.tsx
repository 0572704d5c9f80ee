import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Case, Comparison, Heat as HeatView } from "../../api/client";
import { HeatOverlay } from "../../job/HeatOverlay";
import { heatQuery } from "../../job/heat";

interface Props {
  job: Case;
  comparison: Comparison;
}

/** Heat of both sides by minutes of load: what is read together, the curves, and what both sides come to. */
export function Heat({ job, comparison }: Props) {
  const [workload, setWorkload] = useState<string | null>(null);
  const isAsked = job.measures.some(({ id, kind }) => kind === "heat" && comparison.measures[id]);
  const { before, after } = comparison;
  const { data: heat } = useQuery({
    ...heatQuery(job.machine.id, before, after, workload),
    enabled: isAsked,
  });
  if (!heat) return null;
  const named = job.workloads.filter(({ id }) => heat.workloads.includes(id));
  return (
    <section className="mt-6" aria-labelledby="heat">
      <h2 id="heat" className="eyebrow mb-1">
        Heat, by minutes of load
      </h2>
      <p className="text-lg font-semibold">{comparison.worded.joint ?? heat.worded.sentence}</p>
      <p className="mb-2 text-soft">
        {comparison.worded.joint && `${heat.worded.sentence} `}
        {heat.worded.beneath}
      </p>
      {named.length > 1 && (
        <label className="mb-2 inline-flex items-center gap-2">
          Work
          <select
            className="field w-auto"
            value={heat.workload}
            onChange={(event) => setWorkload(event.target.value)}
          >
            {named.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
      )}
      <HeatOverlay key={`${before} ${after} ${heat.workload}`} job={job} heat={heat} />
      <ReadTogether heat={heat} />
    </section>
  );
}

/** What both sides come to, read together. */
function ReadTogether({ heat }: { heat: HeatView }) {
  return (
    <table className="mt-3 w-full tabular-nums">
      <caption className="eyebrow mb-1 text-left">Read together</caption>
      <thead className="sr-only">
        <tr>
          <th scope="col">Figure</th>
          <th scope="col">Before</th>
          <th scope="col">After</th>
          <th scope="col">Change</th>
        </tr>
      </thead>
      <tbody>
        {heat.worded.rows.map((row) => (
          <tr key={row.what} className="border-t border-line">
            <th scope="row" className="py-1.5 pr-3 text-left font-normal text-soft">
              {row.what}
            </th>
            <td className="py-1.5 pr-3 font-semibold text-before">{row.before}</td>
            <td className="py-1.5 pr-3 font-semibold text-after">{row.after}</td>
            <td className="py-1.5">{row.change}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
