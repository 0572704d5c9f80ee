import { Suspense, useState } from "react";

import type { Case, Measure, Sitting, TraceIn, Workload } from "../../../api/client";
import { Dialog } from "../../../ui/Dialog";
import { ChoiceField } from "../../../ui/Field";
import { Waiting } from "../../../ui/Note";
import { type Row, rowName } from "../../../job/rows";
import { ByHand } from "./ByHand";
import { SensorLog } from "./SensorLog";

const WAYS = [
  ["typed", "read by hand, at moments of the run"],
  ["log", "a sensor log of another program (CSV)"],
] as const;

export type Place = Pick<TraceIn, "sitting" | "workload" | "position" | "warm_up" | "started_at">;

export interface OverTimeProps {
  job: Case;
  sitting: Sitting;
  workload: Workload;
  measures: Measure[];
  row: Row;
  /** The run's id, also of one that is not recorded yet. */
  run: string;
  onClose: () => void;
  /** The trace is kept: the run gets what is read off it. */
  onKept: () => void;
}

/** What sensors told during one run: typed as it goes on, or from a log that another program wrote. */
export function OverTime(props: OverTimeProps) {
  const [way, setWay] = useState<(typeof WAYS)[number][0]>("typed");
  const { sitting, workload, row, onClose } = props;
  const place: Place = {
    sitting: sitting.id,
    workload: workload.id,
    position: row.warmUp ?? row.position,
    warm_up: row.warmUp !== null,
    started_at: row.run?.started_at ?? new Date().toISOString(),
  };
  return (
    <Dialog
      title={`${workload.name}, ${rowName(row).toLowerCase()}: over time`}
      open
      isWide
      onClose={onClose}
    >
      <div className="space-y-4">
        <div className="sm:w-96">
          <ChoiceField label="Readings come from" value={way} choices={WAYS} onChange={setWay} />
        </div>
        <Suspense fallback={<Waiting error={null} />}>
          {way === "typed" ? <ByHand {...props} place={place} /> : <SensorLog {...props} place={place} />}
        </Suspense>
      </div>
    </Dialog>
  );
}
