import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import type { Case } from "../api/client";
import { formatTime } from "../lib/format";
import { reportsQuery } from "./api";

/** Every report that was handed out of a machine, to be shown again as it was. */
export function HandedOut({ job, current }: { job: Case; current?: string }) {
  const { data } = useQuery(reportsQuery(job.machine.id));
  if (!data || data.length === 0) return null;
  return (
    <section className="card">
      <h2 className="eyebrow mb-1">Handed out</h2>
      <ul>
        {data.map((line) => (
          <li key={line.id} className="border-b border-line last:border-0">
            <Link
              to={`../report?report=${line.id}`}
              aria-current={line.id === current ? "true" : undefined}
              className="flex min-h-11 flex-col justify-center py-1"
            >
              <span className="font-semibold underline">
                {line.number} · {line.title}
              </span>
              <span className="text-sm text-soft">
                {formatTime(line.made_at, job.machine.time_zone)}, {line.form} form. {line.answer}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
