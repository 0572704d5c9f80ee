import { useRef, useState } from "react";
import { useNavigate } from "react-router";

import { call, type Case, type Doubt, type Sitting } from "../../../api/client";
import { formatList } from "../../../lib/format";
import { Button } from "../../../ui/Button";
import { Dialog } from "../../../ui/Dialog";
import { Note } from "../../../ui/Note";
import { useSave } from "../../../job/api";
import { useOnceSent } from "../../../job/unsent";
import { UnsentNote } from "../../../job/UnsentNote";
import { type Queued, stepAfter } from "../model";

interface Props {
  job: Case;
  sitting: Sitting;
  queue: Queued[];
  doubts: Doubt[];
  /** Leaves the field that is being typed into. */
  onLeave: () => void;
  /** Begins the sitting that comes next, on that build. */
  onBegin: (build: string) => void;
}

/** Closes a sitting and goes on to what comes next; where something is still asked of it, only once that was seen. */
function useDone({ job, sitting, queue, doubts, onBegin }: Props) {
  const [asking, setAsking] = useState(false);
  const navigate = useNavigate();
  const short = queue.filter(({ done, planned }) => done < planned);
  const isComplete = short.length === 0;
  const goOn = (from: Case) => {
    setAsking(false);
    if (!isComplete) return;
    const next = stepAfter(from, sitting);
    if (next.kind === "sitting") onBegin(next.build);
    else void navigate(next.to);
  };
  // Only the answer knows whether this was the last one: what is shown may be older than the last reading.
  const answer = useRef(job);
  const close = useSave(
    job.machine.id,
    async () =>
      (answer.current = await call("post", "/api/machines/{machine_id}/sittings/{sitting_id}/close", {
        machine_id: job.machine.id,
        sitting_id: sitting.id,
      })),
    () => goOn(answer.current),
  );
  const finish = () => (sitting.closed_at === null ? close.mutate(undefined) : goOn(job));
  const onDone = () => (doubts.length > 0 || !isComplete ? setAsking(true) : finish());
  // Nothing is closed before all that is typed in it is there.
  const { run, held } = useOnceSent([sitting.id], sitting.closed_at === null ? onDone : () => goOn(job));
  return { short, isComplete, close, finish, run, held, asking, setAsking };
}

/** The one button of a sitting: what comes next once all its runs are there; until then, that it is done all the same. */
export function Done(props: Props) {
  const { job, sitting, doubts, onLeave } = props;
  const { short, isComplete, close, finish, run, held, asking, setAsking } = useDone(props);
  if (sitting.closed_at !== null && !isComplete) return null;
  return (
    <>
      <Button
        id="sitting-done"
        look={isComplete ? "main" : "plain"}
        className="whitespace-normal"
        disabled={close.isPending}
        onClick={() => {
          onLeave();
          run();
        }}
      >
        {isComplete ? stepAfter(job, sitting).text : "Sitting done"}
      </Button>
      <UnsentNote job={job} unsent={held} lead="The sitting stays open: not all that was typed is saved." />
      {close.error && <Note alert>{close.error.message}</Note>}
      <Dialog title="Before this sitting is closed" open={asking} onClose={() => setAsking(false)}>
        <BeforeClosing doubts={doubts} short={short} onBack={() => setAsking(false)} onFinish={finish} />
      </Dialog>
    </>
  );
}

interface BeforeClosingProps {
  doubts: Doubt[];
  /** Workloads that have fewer runs than planned. */
  short: Queued[];
  onBack: () => void;
  onFinish: () => void;
}

/** What is doubtful or missing, said before it is too late to mend it for nothing. */
function BeforeClosing({ doubts, short, onBack, onFinish }: BeforeClosingProps) {
  const lacks = short.map(({ workload, done, planned }) => `${workload.name} has ${done} of ${planned} runs`);
  return (
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
      {lacks.length > 0 && (
        <p>
          {formatList(lacks)}. A sitting that is closed short cuts the others to as many: repeat the missing
          ones now, if you can.
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <Button look="main" autoFocus onClick={onBack}>
          Back to the sheet
        </Button>
        <Button onClick={onFinish}>
          {lacks.length === 0 ? "All is typed right: go on" : "Close it all the same"}
        </Button>
      </div>
    </div>
  );
}
