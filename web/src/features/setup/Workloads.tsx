import { Fragment, useState } from "react";

import type { Case, PartRole, Workload } from "../../api/client";
import { TableToTake } from "../../ui/TakeAlong";
import { Button } from "../../ui/Button";
import { isOffered, measuresOf } from "../../job/model";
import { type Aside, AsideList } from "../../job/removal/SetAside";
import { putMeasureAside, putWorkloadAside } from "./aside";
import { emptyWorkload, workloadDraft, type WorkloadDraft } from "./model";
import { writeParameters } from "./parameters";
import { WorkloadForm } from "./WorkloadForm";

const COLUMNS: readonly (readonly [string, readonly PartRole[]])[] = [
  ["processor", ["processor"]],
  ["memory", ["memory"]],
  ["drive", ["drive", "adapter"]],
  ["graphics", ["graphics"]],
  ["cooling", ["cooler", "thermal paste"]],
];

/** The jobs that the machine repeats, what is read off them, and which parts they load. */
export function Workloads({ job }: { job: Case }) {
  const [editing, setEditing] = useState<WorkloadDraft | null>(
    job.measures.length === 0 ? emptyWorkload() : null,
  );
  const offered = job.workloads.filter(isOffered);
  return (
    <section>
      <h2 className="eyebrow mb-2">Tasks: what it does all day</h2>
      {offered.length > 0 && (
        <TableToTake name={`${job.machine.name}, tasks`}>
          <table className="w-full">
            <thead className="text-left text-soft">
              <tr className="border-b border-line">
                <th className="py-1 font-medium">Task</th>
                <th className="px-2 font-medium">read off it</th>
                {COLUMNS.map(([name]) => (
                  <th key={name} className="hidden px-1 text-center font-medium sm:table-cell">
                    {name}
                  </th>
                ))}
                <th>
                  <span className="sr-only">Edit</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {offered.map((workload) => (
                <WorkloadRow key={workload.id} job={job} workload={workload} onEdit={setEditing} />
              ))}
            </tbody>
          </table>
        </TableToTake>
      )}
      <AsideList job={job} things={[...workloadsAside(job), ...measuresAside(job)]} />
      {editing ? (
        <WorkloadForm key={editing.id} job={job} initial={editing} onDone={() => setEditing(null)} />
      ) : (
        <Button look="quiet" onClick={() => setEditing(emptyWorkload())}>
          + a task
        </Button>
      )}
    </section>
  );
}

interface RowProps {
  job: Case;
  workload: Workload;
  onEdit: (draft: WorkloadDraft) => void;
}

function WorkloadRow({ job, workload, onEdit }: RowProps) {
  const mark = job.machine.decimal_mark;
  const measures = measuresOf(job, workload.name);
  return (
    <tr className="border-b border-line">
      <th scope="row" className="py-1 pr-2 text-left font-normal">
        <span className="font-semibold">{workload.name}</span>
        {workload.target && <span className="text-soft"> on {workload.target}</span>}
        {workload.card && <span className="block text-sm text-soft">{workload.card}</span>}
        {Object.keys(workload.parameters).length > 0 && (
          <span className="block text-sm text-soft">
            always: {writeParameters(workload.parameters, mark)}
          </span>
        )}
      </th>
      <td className="px-2 wrap-anywhere">
        {!measures.some(isOffered) && <span className="text-soft">nothing more</span>}
        {measures.filter(isOffered).map((measure, index) => (
          <Fragment key={measure.id}>
            {index > 0 && ", "}
            <span className={measure.part_of ? "text-soft" : ""}>{measure.name}</span>
          </Fragment>
        ))}
      </td>
      {COLUMNS.map(([name, roles]) => {
        const on = roles.some((role) => workload.loads.includes(role));
        return (
          <td key={name} className="hidden px-1 text-center sm:table-cell">
            <span aria-hidden className={on ? "" : "text-edge"}>
              {on ? "●" : "○"}
            </span>
            <span className="sr-only">{on ? `loads the ${name}` : "no"}</span>
          </td>
        );
      })}
      <td className="text-right">
        <Button
          look="quiet"
          aria-label={`Edit ${workload.name}`}
          onClick={() => onEdit(workloadDraft(workload, measures, mark))}
        >
          Edit
        </Button>
      </td>
    </tr>
  );
}

const workloadsAside = ({ machine, workloads }: Case): Aside[] =>
  workloads.flatMap(({ id, name, set_aside }) =>
    set_aside === null
      ? []
      : [{ id, name, reason: set_aside, save: (reason) => putWorkloadAside(machine.id, id, reason) }],
  );

/** Of the workloads that are offered: a measure goes with its workload. */
const measuresAside = (job: Case): Aside[] =>
  job.workloads.filter(isOffered).flatMap((workload) =>
    measuresOf(job, workload.name).flatMap(({ id, name, set_aside }): Aside[] =>
      set_aside === null
        ? []
        : [
            {
              id,
              name: `${workload.name}, ${name}`,
              reason: set_aside,
              save: (reason) => putMeasureAside(job.machine.id, workload.id, id, reason),
            },
          ],
    ),
  );
