import { type Case, dataPackageAddress, runFileAddress } from "../../api/client";
import { ButtonLink } from "../../ui/Button";
import { useCase } from "../../job/api";
import { fittedBuild } from "../../job/model";
import { useJob, useVocabulary } from "../../job/vocabulary";
import { RemoveMachine } from "../../job/removal/RemoveMachine";
import { AsideList, SetAside } from "../../job/removal/SetAside";
import { putMachineAside } from "./aside";
import { BuildCard } from "./BuildCard";
import { Candidates } from "./Candidates";
import { CopyJob } from "./CopyJob";
import { LimitsCard } from "./LimitsCard";
import { PlanSummary } from "./PlanSummary";
import { QuestionCard } from "./QuestionCard";
import { Workloads } from "./Workloads";

/** The job sheet: the machine as it stands, the question, what might answer it, and how it will be measured. */
export function SetupPage() {
  const job = useCase();
  const vocabulary = useVocabulary();
  const view = useJob(job.machine.id);
  const build = fittedBuild(job);
  return (
    <main className="grid lg:grid-cols-[24rem_1fr]">
      <aside className="order-last border-line p-5 lg:order-none lg:min-h-[calc(100vh-3.5rem)] lg:border-r">
        {build && <BuildCard key={build.id} job={job} build={build} vocabulary={vocabulary} />}
        <LimitsCard job={job} vocabulary={vocabulary} />
        <Acts job={job} />
      </aside>
      <div className="min-w-0 space-y-7 p-5">
        {job.machine.set_aside !== null && (
          <AsideList
            job={job}
            things={[
              {
                id: job.machine.id,
                name: job.machine.name,
                reason: job.machine.set_aside,
                save: (reason) => putMachineAside(job.machine.id, reason),
              },
            ]}
          />
        )}
        <QuestionCard job={job} />
        <Workloads job={job} />
        {job.measures.length > 0 && <PlanSummary job={job} view={view} />}
        <Candidates job={job} view={view} vocabulary={vocabulary} />
      </div>
    </main>
  );
}

/** What is done with the machine as a whole. */
function Acts({ job }: { job: Case }) {
  return (
    <div className="mt-4 flex flex-wrap gap-x-5">
      <ButtonLink look="quiet" to="../ladder">
        Ladder and history
      </ButtonLink>
      <CopyJob job={job} />
      <a
        href={runFileAddress(job.machine.id)}
        className="flex min-h-11 items-center text-soft underline underline-offset-4 hover:text-ink"
      >
        Export as a run file
      </a>
      <a
        href={dataPackageAddress(job.machine.id)}
        className="flex min-h-11 items-center text-soft underline underline-offset-4 hover:text-ink"
      >
        Export as tables (Data Package)
      </a>
      <RemoveMachine job={job} />
      {job.machine.set_aside === null && (
        <SetAside
          job={job}
          what="this machine"
          means="It stays listed, last, with all that was measured of it, and waits for nobody any more."
          save={(reason) => putMachineAside(job.machine.id, reason)}
        />
      )}
    </div>
  );
}
