import { useState } from "react";
import { useNavigate } from "react-router";

import { type Case, closeSitting, type Doubt, type Sitting } from "../../api/client";
import { formatList } from "../../lib/format";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { type Queued, stepAfter } from "./model";

interface Props {
  job: Case;
  sitting: Sitting;
  queue: Queued[];
  doubts: Doubt[];
  /** Begins the sitting that comes next, on that build. */
  onBegin: (build: string) => void;
}

/** The one button of a sitting: what comes next once all its runs are there; until then, that it is done all the same. */
export function Done({ job, sitting, queue, doubts, onBegin }: Props) {
  const [asking, setAsking] = useState(false);
  const navigate = useNavigate();
  const step = stepAfter(job, sitting);
  const short = queue.filter(({ done, planned }) => done < planned);
  const isComplete = short.length === 0;
  const goOn = () => {
    setAsking(false);
    if (!isComplete) return;
    if (step.kind === "sitting") onBegin(step.build);
    else void navigate(step.to);
  };
  const close = useSave(job.machine.id, () => closeSitting(job.machine.id, sitting.id), goOn);
  // To begin another sitting closes this one: nothing is closed for a form that may still be left.
  const finish = () =>
    (isComplete && step.kind === "sitting") || sitting.closed_at !== null ? goOn() : close.mutate(undefined);
  const onDone = () => (doubts.length > 0 || !isComplete ? setAsking(true) : finish());
  if (sitting.closed_at !== null && !isComplete) return null;
  return (
    <>
      <Button
        id="sitting-done"
        look={isComplete ? "main" : "plain"}
        className="whitespace-normal"
        disabled={close.isPending}
        onClick={sitting.closed_at === null ? onDone : goOn}
      >
        {isComplete ? step.text : "Sitting done"}
      </Button>
      {close.error && <Note alert>{close.error.message}</Note>}
      <Dialog title="Before this sitting is closed" open={asking} onClose={() => setAsking(false)}>
        <div className="space-y-4">
          {doubts.length > 0 && (
            <section>
              <p className="font-semibold">Typed right?</p>
              <ul className="list-disc pl-5">
                {doubts.map(({ run, measure, message }) => (
                  <li key={run + measure}>{message}</li>
                ))}
              </ul>
              <p className="text-soft">Until it is closed, a correction is free.</p>
            </section>
          )}
          {!isComplete && (
            <p>
              {formatList(
                short.map(({ workload, done, planned }) => `${workload.name} has ${done} of ${planned} runs`),
              )}
              . A sitting that is closed short cuts the others to as many: repeat the missing ones now, if you
              can.
            </p>
          )}
          <div className="flex flex-wrap gap-2">
            <Button look="main" autoFocus onClick={() => setAsking(false)}>
              Back to the sheet
            </Button>
            <Button onClick={finish}>
              {isComplete ? "All is typed right: go on" : "Close it all the same"}
            </Button>
          </div>
        </div>
      </Dialog>
    </>
  );
}
