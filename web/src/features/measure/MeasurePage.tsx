import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useSearchParams } from "react-router";

import type { Build, Case, Doubt, Run, Sitting } from "../../api/client";
import { useKeys } from "../../lib/keys";
import { Button, ButtonLink } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { Note } from "../../ui/Note";
import { runsQuery, useCase, useRuns } from "../../job/api";
import { sittingsOf, standingBuild } from "../../job/model";
import { RemoveSitting } from "../../job/removal/RemoveSitting";
import { ShownDeparts } from "../../job/ShownDeparts";
import { AgentHint } from "./sitting/AgentHint";
import { Closed, Conditions, Reminders, SittingList } from "./sheet/Aside";
import { useDoubts } from "./sheet/Doubts";
import { Edits } from "./sheet/Edits";
import { Live, useLive } from "./sitting/Live";
import { buildToMeasure, chooseWorkload, stepAfter } from "./model";
import { Queue } from "./sitting/Queue";
import { SittingForm } from "./sitting/SittingForm";
import { SittingSheet } from "./sheet/SittingSheet";
import { useQueue } from "./sitting/useQueue";

/** What is asked in a dialog: a new sitting on a build, or the conditions of this one. */
type Asked = { kind: "new"; build: string } | { kind: "edit" };

/** The bench: one sitting at a time, its queue of workloads, the next reading, and the conditions it holds. */
export function MeasurePage() {
  const job = useCase();
  const [params, setParams] = useSearchParams();
  const [asked, setAsked] = useState<Asked | null>(null);
  const live = useLive(job);
  const [typedOver, setTypedOver] = useState<string | null>(null);
  const arriving = useRef(false);
  const build = standingBuild(job);
  const wanted = params.get("sitting");
  const sitting = wanted
    ? job.sittings.find((other) => other.id === wanted)
    : build && sittingsOf(job, build.id).at(-1);
  const client = useQueryClient();
  const runs = useRuns(job.machine.id, ofSitting(sitting));
  const doubts = useDoubts(job, sitting);
  const workload = chooseWorkload(job, runs, params.get("workload"));
  const queue = useQueue(job, runs, sitting);
  const begin = (build: string) => setAsked({ kind: "new", build });
  const toMeasure = build ? buildToMeasure(job, build.id) : "";
  useKeys({ n: () => begin(toMeasure) });
  if (!build || !workload) return <NothingToMeasure job={job} hasBuild={Boolean(build)} />;
  if (wanted && !sitting) return <NoSuchSitting />;
  // The sheet stays with the sitting that was begun or corrected, whatever the machine is now.
  const onDone = (done: string) => {
    arriving.current = asked?.kind !== "edit";
    setAsked(null);
    // One that was just begun has no runs: nothing is to be waited for.
    const { queryKey } = runsQuery(job.machine.id, { sitting: [done] });
    if (!job.sittings.some((known) => known.id === done)) client.setQueryData(queryKey, []);
    setParams({ sitting: done });
  };
  if (!sitting) return <FirstSitting job={job} build={build} toMeasure={toMeasure} onDone={onDone} />;
  const choose = (id: string) => {
    arriving.current = true;
    setParams({ sitting: sitting.id, workload: id }, { replace: true });
  };
  const stay = () =>
    params.get("sitting") ?? setParams({ sitting: sitting.id, workload: workload.id }, { replace: true });
  return (
    <main className="grid xl:grid-cols-[15rem_1fr_20rem]">
      <div className="border-line p-4 xl:border-r">
        <Queue job={job} sitting={sitting} queue={queue} current={workload} onChoose={choose} />
      </div>
      {live && live.sitting === sitting.id && live.run !== typedOver ? (
        <Live job={job} live={live} onType={() => setTypedOver(live.run)} />
      ) : (
        <SittingSheet
          key={`${sitting.id} ${workload.id}`}
          job={job}
          runs={runs}
          sitting={sitting}
          workload={workload}
          queue={queue}
          doubts={doubts}
          arrivingRef={arriving}
          onChoose={choose}
          onBegin={begin}
          onTyping={stay}
        />
      )}
      <SittingAside
        job={job}
        sitting={sitting}
        runs={runs}
        toMeasure={toMeasure}
        onAsk={setAsked}
        onGone={() => setParams({}, { replace: true })}
      />
      <AskedSitting
        job={job}
        sitting={sitting}
        asked={asked}
        doubts={doubts}
        onClose={() => setAsked(null)}
        onDone={onDone}
      />
    </main>
  );
}

interface FirstProps {
  job: Case;
  build: Build;
  /** The build that is to be measured first. */
  toMeasure: string;
  onDone: (sitting: string) => void;
}

function FirstSitting({ job, build, toMeasure, onDone }: FirstProps) {
  const first = job.builds.find((known) => known.id === toMeasure) ?? build;
  return (
    <main className="grid xl:grid-cols-[1fr_21rem]">
      <section className="p-5">
        <h1 className="lead mb-1">Build {first.letter} is not measured yet: begin its first sitting.</h1>
        <p className="mb-5 text-soft">
          {first !== build && `The plan takes turns: set the machine to ${first.letter} first. `}A sitting is
          one unbroken stretch at the bench. A restart or a new day begins another.
        </p>
        <div className="max-w-2xl">
          <SittingForm job={job} sitting={null} build={first.id} onDone={onDone} />
        </div>
      </section>
      <aside className="space-y-5 border-line bg-card p-5 xl:min-h-[calc(100vh-3.5rem)] xl:border-l">
        <ShownDeparts job={job} />
        <Reminders job={job} build={build.id} />
        <AgentHint job={job} />
      </aside>
    </main>
  );
}

interface AsideProps {
  job: Case;
  sitting: Sitting;
  runs: Run[];
  toMeasure: string;
  onAsk: (asked: Asked) => void;
  onGone: () => void;
}

/** What holds for a sitting, and what may come after it. */
function SittingAside({ job, sitting, runs, toMeasure, onAsk, onGone }: AsideProps) {
  const step = stepAfter(job, sitting);
  return (
    <aside className="space-y-5 border-line bg-card p-4 xl:min-h-[calc(100vh-3.5rem)] xl:border-l">
      <ShownDeparts job={job} />
      <Reminders job={job} build={sitting.build} />
      <Closed job={job} sitting={sitting} />
      <Conditions job={job} sitting={sitting} onEdit={() => onAsk({ kind: "edit" })} />
      <div className="grid gap-2">
        {sitting.closed_at !== null && step.kind === "station" && (
          <ButtonLink look="main" to={step.to}>
            {step.text}
          </ButtonLink>
        )}
        <Button
          onClick={() => onAsk({ kind: "new", build: step.kind === "sitting" ? step.build : toMeasure })}
        >
          Begin {step.kind === "station" ? "another" : "the next"} sitting{" "}
          <kbd className="font-sans text-sm opacity-75">N</kbd>
        </Button>
      </div>
      {runs.length === 0 && <RemoveSitting job={job} sitting={sitting} onDone={onGone} />}
      <Edits job={job} sitting={sitting} runs={runs} />
      <SittingList job={job} current={sitting} />
      <AgentHint job={job} />
    </aside>
  );
}

interface AskedProps {
  job: Case;
  sitting: Sitting;
  asked: Asked | null;
  doubts: Doubt[];
  onClose: () => void;
  onDone: (sitting: string) => void;
}

/** The dialog of a new sitting, or of the conditions of this one. */
function AskedSitting({ job, sitting, asked, doubts, onClose, onDone }: AskedProps) {
  return (
    <Dialog
      title={asked?.kind === "edit" ? "Conditions of this sitting" : "A new sitting"}
      open={asked !== null}
      onClose={onClose}
    >
      {asked?.kind === "new" && doubts.length > 0 && (
        <div className="mb-4">
          <Note>
            <b className="font-semibold">To begin anew closes the sitting before. Typed right?</b>
            <ul className="list-disc pl-5">
              {doubts.map(({ run, measure, message }) => (
                <li key={run + measure}>{message}</li>
              ))}
            </ul>
          </Note>
        </div>
      )}
      <SittingForm
        job={job}
        sitting={asked?.kind === "edit" ? sitting : null}
        build={asked?.kind === "new" ? asked.build : sitting.build}
        onDone={onDone}
      />
    </Dialog>
  );
}

function NothingToMeasure({ job, hasBuild }: { job: Case; hasBuild: boolean }) {
  return (
    <main className="p-6">
      <h1 className="lead mb-4">
        {hasBuild
          ? "Nothing to measure yet: say first what the machine does all day."
          : "This machine has no parts yet: describe it first."}
      </h1>
      <ButtonLink look="main" to="../setup">
        Go to Set up
      </ButtonLink>
      {hasBuild && (
        <div className="mt-8 max-w-xl">
          <p className="mb-4">Or let the agent bring work along that shows the change.</p>
          <AgentHint job={job} />
        </div>
      )}
    </main>
  );
}

/** Never another sitting in its place: what is typed would go there. */
function NoSuchSitting() {
  return (
    <main className="p-6">
      <h1 className="lead mb-4">That sitting is not among those of this machine, or is still being saved.</h1>
      <ButtonLink look="main" to="../measure">
        Go to the newest sitting
      </ButtonLink>
    </main>
  );
}

const ofSitting = (sitting: Sitting | undefined) => (sitting ? { sitting: [sitting.id] } : {});
