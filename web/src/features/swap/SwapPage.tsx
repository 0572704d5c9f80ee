import type { ReactNode } from "react";
import { useSearchParams } from "react-router";

import type { Case } from "../../api/client";
import { ButtonLink } from "../../ui/Button";
import { useCase } from "../../job/api";
import { Ladder } from "../../job/Ladder";
import { currentSwap, nextStep, stateOf, fittedBuild, today } from "../../job/model";
import { useJob, useVocabulary } from "../../job/vocabulary";
import { Bench } from "./Bench";
import { canSwap } from "./model";
import { NewSwap } from "./NewSwap";
import { RecordedSwap } from "./RecordedSwap";

/** The bench while the case is open: what comes out, what goes in, what is to be thought of, what it costs. */
export function SwapPage() {
  const job = useCase();
  const vocabulary = useVocabulary();
  const view = useJob(job.machine.id);
  const [params] = useSearchParams();
  const asked = params.get("swap");
  const build = fittedBuild(job);
  if (!build || (!build.sealed && job.swaps.length === 0)) return <NoBaseline job={job} />;
  const wanted = job.swaps.find((swap) => swap.id === asked) ?? currentSwap(job);
  const swap = wanted ?? (canSwap(job) ? undefined : job.swaps.at(-1));
  const swapView = view.swaps.find((known) => known.swap === swap?.id);
  if (!swap || !swapView)
    return (
      <Beside job={job} before={build.id} after={undefined} isAsked={asked !== null}>
        <NewSwap job={job} fitted={build} lacks={view.lacks} vocabulary={vocabulary} />
      </Beside>
    );
  if (swap.state !== "closed")
    return (
      <main className="p-5">
        <Bench key={swap.id} job={job} swap={swap} view={swapView} vocabulary={vocabulary} />
      </main>
    );
  return (
    <Beside job={job} before={swap.before} after={swap.after} isAsked={asked !== null}>
      <RecordedSwap key={swap.id} job={job} swap={swap} view={swapView} />
    </Beside>
  );
}

interface BesideProps {
  job: Case;
  before: string;
  after: string | undefined;
  /** Whether the address asks for a swap. */
  isAsked: boolean;
  children: ReactNode;
}

/** A swap beside the ladder of all. */
function Beside({ job, before, after, isAsked, children }: BesideProps) {
  return (
    <div className="grid lg:grid-cols-[13rem_1fr]">
      <aside className="order-last border-line p-4 lg:order-none lg:min-h-[calc(100vh-3.5rem)] lg:border-r">
        <Ladder job={job} before={before} after={after} to={(other) => `?swap=${other.id}`} />
        {isAsked && canSwap(job) && (
          <ButtonLink look="quiet" to="?">
            Plan the next swap
          </ButtonLink>
        )}
      </aside>
      <main className="min-w-0 p-5">{children}</main>
    </div>
  );
}

function NoBaseline({ job }: { job: Case }) {
  const next = nextStep(stateOf(job, today()));
  return (
    <main className="p-6">
      <h1 className="lead mb-1">Measure first: without a before-side no gain can be shown.</h1>
      <p className="mb-4 text-soft">Once the old part is out, what it could do can’t be measured any more.</p>
      <ButtonLink look="main" to={`../${next.station}`}>
        {next.text}
      </ButtonLink>
    </main>
  );
}
