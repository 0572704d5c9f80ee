import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useSearchParams } from "react-router";

import type { Build, Case, Doubt, Run, Sitting, Workload } from "../../api/client";
import { useKeys } from "../../lib/keys";
import { Button, ButtonLink } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { Note } from "../../ui/Note";
import { runsQuery, useCase, useRuns } from "../../job/api";
import { sittingsOf, fittedBuild } from "../../job/model";
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

/** The sitting that is shown, and what is asked about another: the address says which, else it is the newest. */
function useChosen(job: Case) {
  const [params, setParams] = useSearchParams();
  const [asked, setAsked] = useState<Asked | null>(null);
  const arriving = useRef(false);
  const client = useQueryClient();
  const build = fittedBuild(job);
  const wanted = params.get("sitting");
  const sitting = wanted
    ? job.sittings.find((other) => other.id === wanted)
    : build && sittingsOf(job, build.id).at(-1);
  const show = (address: Record<string, string>) => setParams(address, { replace: true });
  return {
    build,
    sitting,
    workload: params.get("workload"),
    isGone: wanted !== null && !sitting,
    asked,
    setAsked,
    arriving,
    begin: (build: string) => setAsked({ kind: "new", build }),
    /** Shows the sitting that was begun or corrected, whatever the machine is now. */
    onDone: (done: string) => {
      arriving.current = asked?.kind !== "edit";
      setAsked(null);
      // One that was just begun has no runs: nothing is to be waited for.
      const { queryKey } = runsQuery(job.machine.id, { sitting: [done] });
      if (!job.sittings.some((known) => known.id === done)) client.setQueryData(queryKey, []);
      setParams({ sitting: done });
    },
    choose: (sitting: string, workload: string) => {
      arriving.current = true;
      show({ sitting, workload });
    },
    /** Stays with a sitting though another begins. */
    stay: (sitting: string, workload: string) => wanted ?? show({ sitting, workload }),
    leave: () => show({}),
  };
}

type Chosen = ReturnType<typeof useChosen>;

/** The bench: one sitting at a time, its queue of workloads, the next reading, and the conditions it holds. */
export function MeasurePage() {
  const job = useCase();
  const chosen = useChosen(job);
  const { build, sitting } = chosen;
  const runs = useRuns(job.machine.id, ofSitting(sitting));
  const workload = chooseWorkload(job, runs, chosen.workload);
  const toMeasure = build ? buildToMeasure(job, build.id) : "";
  useKeys({ n: () => chosen.begin(toMeasure) });
  if (!build || !workload) return <NothingToMeasure job={job} hasBuild={Boolean(build)} />;
  if (chosen.isGone) return <NoSuchSitting />;
  if (!sitting) return <FirstSitting job={job} build={build} toMeasure={toMeasure} onDone={chosen.onDone} />;
  return <Bench {...{ job, chosen, sitting, runs, workload, toMeasure }} />;
}

interface BenchProps {
  job: Case;
  chosen: Chosen;
  sitting: Sitting;
  runs: Run[];
  workload: Workload;
  toMeasure: string;
}

function Bench({ job, chosen, sitting, runs, workload, toMeasure }: BenchProps) {
  const doubts = useDoubts(job, sitting);
  const queue = useQueue(job, runs, sitting);
  const live = useLive(job);
  const [typedOver, setTypedOver] = useState<string | null>(null);
  const choose = (id: string) => chosen.choose(sitting.id, id);
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
          {...{ job, runs, sitting, workload, queue, doubts }}
          arrivingRef={chosen.arriving}
          onChoose={choose}
          onBegin={chosen.begin}
          onTyping={() => chosen.stay(sitting.id, workload.id)}
        />
      )}
      <SittingAside {...{ job, sitting, runs, toMeasure }} onAsk={chosen.setAsked} onGone={chosen.leave} />
      <AskedSitting
        {...{ job, sitting, doubts }}
        asked={chosen.asked}
        onClose={() => chosen.setAsked(null)}
        onDone={chosen.onDone}
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
